//! Syntax errors in the language's own words.

use super::Parser;
use super::expected::{Frame, Inquiry, Wanted};
use super::grammar::{Role, Symbol};
use super::stacks::Entry;
use crate::diagnostic::{Diagnostic, codes, humanise, nearest, one_of, quote};
use crate::lexing::{BRACKETS, Token, Tokens};

/// At most this many things are listed as expected.
const MOST_LISTED: usize = 7;

/// What cannot stand at `index`, with what could and what was being read.
pub(super) fn unexpected(
    parser: &Parser,
    tokens: &Tokens,
    index: usize,
    stacks: &[Vec<Entry>],
    inquiry: &Inquiry<'_>,
) -> Diagnostic {
    let mut wanted: Vec<Wanted> = stacks.iter().flat_map(|s| inquiry.wanted(s)).collect();
    wanted.sort();
    wanted.dedup();
    let report = Report {
        parser,
        tokens,
        index,
    };
    let frames = stacks.first().map_or_else(Vec::new, |s| inquiry.frames(s));
    let unchained = report.unchained(inquiry, stacks);
    report.diagnostic(&wanted, &frames, unchained)
}

struct Report<'a> {
    parser: &'a Parser,
    tokens: &'a Tokens,
    index: usize,
}

impl Report<'_> {
    fn token(&self) -> Token {
        self.tokens.tokens[self.index]
    }

    fn diagnostic(
        &self,
        wanted: &[Wanted],
        frames: &[Frame],
        unchained: Option<String>,
    ) -> Diagnostic {
        let source = &self.tokens.source;
        let token = self.token();
        let expected = one_of(&self.listed(wanted));
        // What layout adds at the end is no text: the text has ended.
        let ends = self.parser.only_layout_from(self.tokens, self.index);
        let mut diagnostic = if ends {
            Diagnostic::error(
                codes::SYNTAX_UNFINISHED,
                format!("the text ends where {expected} is expected"),
            )
        } else {
            Diagnostic::error(
                codes::SYNTAX_UNEXPECTED,
                format!("found {} where {expected} is expected", self.found(token)),
            )
            .with_detail("found", self.found(token))
        }
        .with_detail("expected", expected)
        .at(source, token.span)
        .label(if ends {
            "more is needed here"
        } else {
            "this cannot stand here"
        });
        if let Some(words) = unchained {
            diagnostic = diagnostic
                .why(words)
                .remedy("put brackets around one of them");
        }
        if let Some(frame) = frames.iter().find(|frame| self.leads_with_literal(frame)) {
            diagnostic = self.context(diagnostic, frame);
        }
        if let Some(frame) = frames.iter().find_map(|frame| self.unclosed(frame, wanted)) {
            let (open, close, token) = frame;
            let span = self.tokens.tokens[token as usize].span;
            let line = source.position(span.start).line;
            diagnostic = diagnostic.remedy(format!(
                "close the {} of line {line} with {}",
                quote(open),
                quote(close)
            ));
            if !diagnostic.related.iter().any(|r| r.place.span == span) {
                diagnostic = diagnostic.related(source, span, "opened here");
            }
        }
        diagnostic.did_you_mean(self.misspelt(wanted).as_deref())
    }

    /// The token as messages have it: `then`, name `boat`.
    fn found(&self, token: Token) -> String {
        let kind = self.parser.lexer_kind(token.kind);
        if kind.is_layout() {
            return kind.wording.clone();
        }
        let text = quote(self.tokens.source.slice(token.span));
        if kind.is_literal() {
            return text;
        }
        let wording = kind.wording.as_str();
        let bare = wording
            .strip_prefix("a ")
            .or_else(|| wording.strip_prefix("an "))
            .unwrap_or(wording);
        format!("{bare} {text}")
    }

    fn wording(&self, terminal: u16) -> String {
        let terminal = self.parser.grammar.terminals[terminal as usize];
        self.parser.lexer_kind(terminal.kind).wording.clone()
    }

    /// What is expected, in words: sorts first, then operators as one, then the rest.
    fn listed(&self, wanted: &[Wanted]) -> Vec<String> {
        let mut words: Vec<String> = Vec::new();
        let mut operators = Vec::new();
        let mut literals = Vec::new();
        for want in wanted {
            match want {
                Wanted::Sort(sort) => words.push(self.parser.sort_wording(sort)),
                Wanted::Operator(t) => operators.push(self.wording(*t)),
                Wanted::Terminal(t) => literals.push((*t == 0, self.wording(*t))),
            }
        }
        operators.dedup();
        if operators.len() > 2 {
            words.push("an operator".to_owned());
        } else {
            words.extend(operators);
        }
        literals.sort();
        words.extend(literals.into_iter().map(|(_, word)| word));
        let mut seen = Vec::new();
        words.retain(|word| {
            let new = !seen.contains(word);
            seen.push(word.clone());
            new
        });
        if words.len() > MOST_LISTED {
            let more = words.len() - MOST_LISTED + 1;
            words.truncate(MOST_LISTED - 1);
            words.push(format!("one of {more} other things"));
        }
        words
    }

    fn leads_with_literal(&self, frame: &Frame) -> bool {
        let production = &self.parser.grammar.productions[frame.production as usize];
        matches!(production.right[0], Symbol::Terminal(_)) && production.roles[0] == Role::Drop
    }

    /// Says what was being read: the test of this `if`, which starts on line 3.
    fn context(&self, diagnostic: Diagnostic, frame: &Frame) -> Diagnostic {
        let production = &self.parser.grammar.productions[frame.production as usize];
        let source = &self.tokens.source;
        let start = self.tokens.tokens[frame.tokens[0] as usize].span;
        let opener = quote(source.slice(start));
        let field = |at: usize| match production.roles.get(at) {
            Some(Role::Field(field) | Role::Items(field)) => production
                .form
                // What is in brackets needs no other name.
                .filter(|&form| self.parser.becomes[form].is_none())
                .map(|form| humanise(&self.parser.field_names[form][*field as usize])),
            _ => None,
        };
        let line = source.position(start.start).line;
        let here = source.position(self.token().span.start).line;
        let which = if line == here {
            String::new()
        } else {
            format!(", which starts on line {line}")
        };
        let what = match (field(frame.dot), (0..frame.dot).rev().find_map(field)) {
            (Some(field), _) => format!("in the {field} of this {opener}{which}"),
            (None, Some(field)) if !frame.inside => {
                format!("after the {field} of this {opener}{which}")
            }
            _ => format!("in this {opener}{which}"),
        };
        diagnostic
            .why(what)
            .related(source, start, format!("this {opener}"))
    }

    /// A bracket of a form that is open, if closing it would do.
    fn unclosed(
        &self,
        frame: &Frame,
        wanted: &[Wanted],
    ) -> Option<(&'static str, &'static str, u32)> {
        let production = &self.parser.grammar.productions[frame.production as usize];
        let literal = |symbol: &Symbol| match symbol {
            Symbol::Terminal(t) => {
                let terminal = self.parser.grammar.terminals[*t as usize];
                let kind = self.parser.lexer_kind(terminal.kind);
                kind.is_literal().then_some((*t, kind.name.as_str()))
            }
            Symbol::Nonterminal(_) => None,
        };
        BRACKETS.into_iter().find_map(|(open, close)| {
            let at = (0..frame.dot)
                .rev()
                .find(|&at| literal(&production.right[at]).is_some_and(|(_, text)| text == open))?;
            let (terminal, _) = production.right[frame.dot..]
                .iter()
                .filter_map(literal)
                .find(|(_, text)| *text == close)?;
            wanted
                .contains(&Wanted::Terminal(terminal))
                .then(|| (open, close, frame.tokens[at]))
        })
    }

    /// A keyword that could stand here and is spelt almost like what does.
    fn misspelt(&self, wanted: &[Wanted]) -> Option<String> {
        let token = self.token();
        let text = self.tokens.source.slice(token.span);
        let is_word = text.starts_with(char::is_alphabetic);
        if !is_word || self.parser.lexer_kind(token.kind).is_literal() {
            return None;
        }
        let first = wanted.iter().flat_map(|want| match want {
            Wanted::Terminal(t) | Wanted::Operator(t) => vec![*t],
            Wanted::Sort(sort) => self.parser.first_of(sort),
        });
        let keywords: Vec<String> = first
            .filter_map(|t| {
                let terminal = self.parser.grammar.terminals[t as usize];
                let kind = self.parser.lexer_kind(terminal.kind);
                (kind.is_literal() && kind.name.starts_with(char::is_alphabetic))
                    .then(|| kind.name.clone())
            })
            .collect();
        // A name in front of this one may be the misspelt word.
        nearest(text, keywords.iter().map(String::as_str)).map(str::to_owned)
    }

    /// Two operators that do not chain.
    fn unchained(&self, inquiry: &Inquiry<'_>, stacks: &[Vec<Entry>]) -> Option<String> {
        let (plain, tight) = self.parser.grammar.of_kind[self.token().kind.0 as usize];
        let terminal = plain.or(tight)?;
        let met = stacks.iter().any(|stack| {
            inquiry
                .states_before(stack, terminal)
                .into_iter()
                .any(|state| self.parser.chains_not(state, terminal))
        });
        met.then(|| {
            format!(
                "{} does not chain: it cannot stand beside another of its level without brackets",
                quote(self.tokens.source.slice(self.token().span))
            )
        })
    }
}
