//! Mistakes that designers make with tokens, each shown with a text.

use rustc_hash::FxHashMap;

use super::automaton::survey;
use super::{Lexer, Origin, Token};
use crate::definition::{Definition, Holds, Part, Pattern, TokenRule};
use crate::diagnostic::{Diagnostic, codes, quote};
use crate::lexing::KindId;
use crate::source::{SourceText, Span};

/// What is probably not meant in the tokens of a definition: warnings, and notes.
pub fn mistakes(definition: &Definition, lexer: &Lexer) -> Vec<Diagnostic> {
    let mut search = Search {
        definition,
        lexer,
        found: Vec::new(),
    };
    if definition.tokens.is_empty() {
        return Vec::new();
    }
    search.overlaps();
    search.swallowed_signs();
    search.swallowed_literals();
    search.split_words();
    search.half_brackets();
    search.found
}

struct Search<'a> {
    definition: &'a Definition,
    lexer: &'a Lexer,
    found: Vec<Diagnostic>,
}

impl Search<'_> {
    fn add(&mut self, diagnostic: Diagnostic, span: Span) -> &mut Diagnostic {
        self.found
            .push(diagnostic.at(&self.definition.source, span));
        let last = self.found.len() - 1;
        &mut self.found[last]
    }

    /// The kinds of the tokens of a text; nothing if it cannot be tokenized.
    fn kinds(&self, text: &str) -> Option<Vec<KindId>> {
        let outcome = self.lexer.all_ordinary(&SourceText::new("witness", text));
        if outcome.has_errors() {
            return None;
        }
        let tokens = outcome.value?;
        let mut all: Vec<Token> = tokens.tokens;
        all.extend(tokens.ignored);
        all.sort_by_key(|token| token.span.start);
        all.retain(|token| token.span.start < token.span.end);
        Some(all.into_iter().map(|token| token.kind).collect())
    }

    /// Patterns that are never recognised, and patterns that tie, in each group.
    fn overlaps(&mut self) {
        let mut groups: Vec<Option<&str>> = Vec::new();
        for rule in &self.definition.tokens {
            let group = rule.group.as_ref().map(|group| group.text.as_str());
            if !groups.contains(&group) {
                groups.push(group);
                self.overlaps_in(group);
            }
        }
    }

    fn overlaps_in(&mut self, group: Option<&str>) {
        let rules = &self.definition.tokens;
        let is_in = |rule: &TokenRule| rule.group.as_ref().map(|g| g.text.as_str()) == group;
        let patterns: Vec<(u16, Pattern)> = rules
            .iter()
            .enumerate()
            .filter(|(_, rule)| !rule.piece && is_in(rule))
            .map(|(index, rule)| (index as u16, Pattern::clone(&rule.pattern)))
            .collect();
        let Some(survey) = survey(&patterns) else {
            return;
        };
        let mut wins = vec![false; rules.len()];
        // For each pair, the first text that both match, and whether either wins it.
        let mut ties: FxHashMap<(u16, u16), String> = FxHashMap::default();
        for state in &survey {
            if let Some(first) = state.accepts.first() {
                wins[*first as usize] = true;
                for other in &state.accepts[1..] {
                    ties.entry((*first, *other))
                        .or_insert_with(|| state.text.clone());
                }
            }
        }
        let mut ties: Vec<((u16, u16), String)> = ties.into_iter().collect();
        ties.sort();
        for ((winner, loser), text) in ties {
            let (winner, loser) = (&rules[winner as usize], &rules[loser as usize]);
            let never = !wins[rules
                .iter()
                .position(|r| r.name.text == loser.name.text)
                .unwrap_or_default()];
            let names = (quote(&winner.name.text), quote(&loser.name.text));
            if never {
                let message = format!("{} is never recognised", names.1);
                if self.found.iter().any(|d| d.message == message) {
                    continue;
                }
                self.add(
                    Diagnostic::warning(codes::CHECK_TOKENS, message)
                        .why(format!(
                            "every text it matches, such as {}, is {} first",
                            quote(&text),
                            names.0
                        ))
                        .remedy("move it up, or make the two patterns different"),
                    loser.name.span,
                );
            } else if !is_fixed(&winner.pattern) {
                self.add(
                    Diagnostic::note(
                        codes::CHECK_TOKENS,
                        format!("{} and {} match the same text", names.0, names.1),
                    )
                    .why(format!(
                        "{}, for example, is {}, which stands first",
                        quote(&text),
                        names.0
                    )),
                    loser.name.span,
                );
            }
        }
    }

    /// Numbers that take the sign before them, so that `1-2` is two numbers.
    fn swallowed_signs(&mut self) {
        for rule in &self.definition.tokens {
            if !matches!(rule.holds, Some(Holds::Integer | Holds::Number)) {
                continue;
            }
            let Some(kind) = self.lexer.kind_of(&rule.name.text, false) else {
                continue;
            };
            for text in ["1-2", "1+2"] {
                // Where the sign stands for nothing by itself, it can only be a number's.
                let has_forms = !self.definition.forms.is_empty();
                if has_forms && self.lexer.kind_of(&text[1..2], true).is_none() {
                    continue;
                }
                let Some(kinds) = self.kinds(text) else {
                    continue;
                };
                if kinds.len() == 2 && kinds[1] == kind {
                    self.add(
                        Diagnostic::warning(
                            codes::CHECK_TOKENS,
                            format!("{} swallows the sign before it", quote(&rule.name.text)),
                        )
                        .why(format!("{} is two numbers, one after the other", quote(text)))
                        .remedy("leave the sign out of the pattern, and make it a form: `\"-\" value:Expr`"),
                        rule.name.span,
                    );
                    break;
                }
            }
        }
    }

    /// Literals that a longer pattern takes away wherever something follows them.
    fn swallowed_literals(&mut self) {
        for kind in self
            .lexer
            .kinds()
            .iter()
            .filter(|k| k.origin == Origin::Literal)
        {
            let Some(own) = self.lexer.kind_of(&kind.name, true) else {
                continue;
            };
            let taken_by = |follow: char| {
                let kinds = self.kinds(&format!("{}{follow}", kind.name))?;
                kinds.first().copied().filter(|first| *first != own)
            };
            let mut follows = (' '..='~').map(taken_by);
            let Some(Some(taker)) = follows.next() else {
                continue;
            };
            if follows.all(|by| by.is_some()) {
                let span = self.literal_span(&kind.name);
                let taker = quote(&self.lexer.kind(taker).name);
                self.add(
                    Diagnostic::warning(
                        codes::CHECK_TOKENS,
                        format!("hardly any program can reach {}", quote(&kind.name)),
                    )
                    .why(format!(
                        "with anything after it on the line, such as in {}, it is {taker}",
                        quote(&format!("{} 1", kind.name))
                    ))
                    .remedy(format!(
                        "choose another sign, or make {taker} start differently"
                    )),
                    span,
                );
            }
        }
    }

    /// Words that come apart when letters follow them.
    fn split_words(&mut self) {
        let words: Vec<String> = self
            .lexer
            .kinds()
            .iter()
            .filter(|k| k.origin == Origin::Literal && k.name.chars().all(char::is_alphabetic))
            .map(|k| k.name.clone())
            .collect();
        for word in words.iter().filter(|w| w.len() > 1) {
            let text = format!("{word}x");
            let Some(kinds) = self.kinds(&text) else {
                continue;
            };
            if kinds.len() > 1 && Some(kinds[0]) == self.lexer.kind_of(word, true) {
                let span = self.literal_span(word);
                let parts: Vec<String> = kinds
                    .iter()
                    .map(|kind| quote(&self.lexer.kind(*kind).name))
                    .collect();
                self.add(
                    Diagnostic::note(
                        codes::CHECK_TOKENS,
                        format!("{} is read as {}", quote(&text), parts.join(" and ")),
                    )
                    .why("no pattern matches the whole of it"),
                    span,
                );
                return;
            }
        }
    }

    /// Brackets of which one belongs to a token and the other to none.
    fn half_brackets(&mut self) {
        for (open, close) in super::BRACKETS {
            let can_start = |text: &str| text.chars().all(|c| self.lexer.can_start(c));
            let (there, lacking) = match (can_start(open), can_start(close)) {
                (true, false) => (open, close),
                (false, true) => (close, open),
                _ => continue,
            };
            // A token of its own may have both in it.
            if self.lexer.kind_of(there, true).is_none() {
                continue;
            }
            let (there, lacking) = (quote(there), quote(lacking));
            let span = self.literal_span(there.trim_matches('`'));
            self.add(
                Diagnostic::warning(
                    codes::CHECK_TOKENS,
                    format!("{there} is a token, and no token starts with {lacking}"),
                )
                .remedy(format!(
                    "write {lacking} in the form that {there} belongs to"
                )),
                span,
            );
        }
    }

    /// Where a literal is first written.
    fn literal_span(&self, text: &str) -> Span {
        self.definition
            .forms
            .iter()
            .filter_map(|form| form.written.as_ref())
            .find_map(|part| literal_in(part, text))
            .unwrap_or(self.definition.name.span)
    }
}

/// Whether a pattern is one fixed text, such as a keyword before the pattern of names.
fn is_fixed(pattern: &Pattern) -> bool {
    match pattern {
        Pattern::Literal(_) | Pattern::Nested(..) => true,
        Pattern::Class(set) => set.ranges().iter().map(|(a, b)| b - a + 1).sum::<u32>() == 1,
        Pattern::Sequence(parts) | Pattern::Choice(parts) => parts.iter().all(is_fixed),
        Pattern::Except(part, _) => is_fixed(part),
        Pattern::Optional(_) | Pattern::Star(_) | Pattern::Plus(_) => false,
    }
}

fn literal_in(part: &Part, text: &str) -> Option<Span> {
    match part {
        Part::Literal(name) | Part::Soft(name) => (name.text == text).then_some(name.span),
        Part::Sequence(parts) | Part::Choice(parts) => {
            parts.iter().find_map(|inner| literal_in(inner, text))
        }
        Part::Optional(inner) => literal_in(inner, text),
        Part::Repeat(repeat) => literal_in(&repeat.part, text)
            .or_else(|| repeat.by.as_ref().and_then(|by| literal_in(by, text))),
        Part::Field(..) | Part::Unnamed(_) | Part::Tight(_) => None,
    }
}
