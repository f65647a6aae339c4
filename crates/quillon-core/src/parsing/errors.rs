//! Syntax errors in the language's own words.

use super::Parser;
use super::expected::{Frame, Inquiry, Wanted};
use super::grammar::{Role, Symbol};
use super::slips::{Mending, Slip};
use super::stacks::Entry;
use super::strangers::Strangers;
use super::witness::Witness;
use crate::diagnostic::{Diagnostic, codes, one_of, quote};
use crate::lexing::{BRACKETS, KindId, Signs, Token, Tokens, no_token};
use crate::purposes::{is_known_head, is_known_sign, is_sign};
use crate::source::Span;

/// At most this many things are listed as expected.
const MOST_LISTED: usize = 7;

/// Everything that an error is told with.
pub(super) struct Told<'a> {
    pub parser: &'a Parser,
    pub tokens: &'a Tokens,
    /// The token where reading got stuck.
    pub index: usize,
    pub mending: Option<&'a Mending>,
    pub strangers: &'a Strangers,
    /// The signs that are operators so far.
    pub signs: &'a Signs,
}

/// What is not closed, as indentation shows.
pub(super) fn unclosed(parser: &Parser, tokens: &Tokens, witness: &Witness) -> Diagnostic {
    let Mending { at, with, .. } = &witness.mending;
    let name = with
        .first()
        .map_or("", |kind| parser.lexer_kind(*kind).name.as_str());
    let before = tokens.tokens[at.saturating_sub(1)].span.after();
    let next = tokens.tokens[*at].span;
    let message = format!("{} is missing here", quote(name));
    let error = Diagnostic::error(codes::SYNTAX_UNEXPECTED, message)
        .with_detail("found", quote(tokens.source.slice(next)))
        .with_detail("expected", quote(name))
        .at(&tokens.source, before)
        .label("before a line that stands no deeper");
    let opener = tokens.tokens[witness.opener].span;
    closing(error, tokens, opener, name)
}

/// An error that is mended by closing something.
fn closing(error: Diagnostic, tokens: &Tokens, opener: Span, close: &str) -> Diagnostic {
    let source = &tokens.source;
    let line = source.position(opener.start).line;
    let (open, close) = (quote(source.slice(opener)), quote(close));
    let error = error.remedy(format!("close the {open} of line {line} with {close}"));
    if error.related.iter().any(|known| known.place.span == opener) {
        error
    } else {
        error.related(source, opener, "opened here")
    }
}

impl Told<'_> {
    /// What cannot stand where it stands, with what could and what was being read.
    pub fn unexpected(
        &self,
        stacks: &[Vec<Entry>],
        wanted: &[Vec<Wanted>],
        inquiry: &Inquiry<'_>,
    ) -> Diagnostic {
        let mut all: Vec<Wanted> = wanted.iter().flatten().cloned().collect();
        all.sort();
        all.dedup();
        let frames = stacks.first().map_or_else(Vec::new, |s| inquiry.frames(s));
        let expected = one_of(&self.listed(&all));
        if let Some(words) = self.unchained(inquiry, stacks) {
            // Brackets are what is missing.
            let plain = Told {
                mending: None,
                ..*self
            };
            let error = plain.headed(&expected).why(words);
            return plain.in_context(error.remedy("put brackets around one of them"), &frames);
        }
        let error = self.in_context(self.headed(&expected), &frames);
        match self.mending {
            Some(mending) => self.with_remedy(error, mending, &frames),
            None => error,
        }
    }

    fn token(&self) -> Token {
        self.tokens.tokens[self.index]
    }

    /// What is wrong, and where.
    fn headed(&self, expected: &str) -> Diagnostic {
        let source = &self.tokens.source;
        let token = self.token();
        // What layout adds at the end is no text: the text has ended.
        let ends = self.parser.only_layout_from(self.tokens, self.index);
        let found = self.found(token);
        let known = self
            .mending
            .and_then(|mending| self.headed_by(mending, &found));
        let is_earlier = self.mending.is_some_and(|mending| mending.at < self.index);
        if ends && !(is_earlier && known.is_some()) {
            let message = format!("expected {expected}, found the end of the text");
            return Diagnostic::error(codes::SYNTAX_UNFINISHED, message)
                .with_detail("expected", expected)
                .at(source, token.span)
                .label("more is needed here");
        }
        let found_there = format!("expected {expected}, found {found}");
        let cannot = "this cannot stand here".to_owned();
        let known = known.or_else(|| self.strange());
        let (message, span, label) = known.unwrap_or((found_there, token.span, cannot.clone()));
        let odd = |at: usize| self.parser.lexer_kind(self.tokens.tokens[at].kind).is_odd();
        let wrong = match self.mending {
            None => self.index..self.index + 1,
            Some(Mending {
                slip: Slip::Remark,
                at,
                ..
            }) => *at..at + 1,
            Some(mending) => mending.at..mending.at + mending.count,
        };
        let error = if wrong.clone().any(odd) && span == self.span_of(wrong.clone()) {
            no_token(source.slice(span))
        } else {
            Diagnostic::error(codes::SYNTAX_UNEXPECTED, message).label(label)
        };
        error
            .with_detail("found", found)
            .with_detail("expected", expected)
            .at(source, span)
    }

    /// Whether a form that only other languages have begins on the same line.
    pub fn is_strange(&self) -> bool {
        let is_odd = self.parser.lexer_kind(self.token().kind).is_odd();
        !is_odd && self.strange().is_some()
    }

    /// A word that forms of other languages begin with, and none of this one, on the same line to the
    /// left; or a sign of other languages.
    fn strange(&self) -> Option<(String, Span, String)> {
        let source = &self.tokens.source;
        if self.mending.is_some() {
            return None;
        }
        let text = |token: &Token| source.slice(token.span);
        let token = self.token();
        if self.parser.lexer_kind(token.kind).is_odd() {
            let rest = &self.tokens.tokens[self.index..];
            let mut end = token.span.start;
            let run = rest.iter().take_while(|token| {
                let touches = token.span.start == end && is_sign(text(token));
                end = token.span.end;
                touches
            });
            let last = run.last()?;
            let span = token.span.to(last.span);
            let is_known = is_known_sign(source.slice(span)) && span != token.span;
            let message = format!("no operator is written {}", quote(source.slice(span)));
            return is_known.then(|| (message, span, "this cannot stand here".to_owned()));
        }
        let line = source.line_of(token.span.start);
        let before = self.tokens.tokens[..self.index].iter().rev();
        let mut same = before.take_while(|token| source.line_of(token.span.start) == line);
        let found = same.find(|token| {
            let kind = self.parser.lexer_kind(token.kind);
            let is_word = !kind.is_literal() && !kind.is_layout();
            is_word && is_known_head(text(token)) && !self.strangers.is_own(text(token))
        })?;
        let message = format!("{} cannot stand here", self.found(*found));
        let label = "no form of the language begins with this word".to_owned();
        Some((message, found.span, label))
    }

    fn span_of(&self, tokens: std::ops::Range<usize>) -> Span {
        let first = self.tokens.tokens[tokens.start].span;
        let last = tokens.end.max(tokens.start + 1) - 1;
        first.to(self.tokens.tokens[last].span)
    }

    /// The message, the place and the label where a slip is known.
    fn headed_by(&self, mending: &Mending, found: &str) -> Option<(String, Span, String)> {
        let at = mending.at;
        let span = mending.span(self.tokens);
        let text = quote(self.tokens.source.slice(span));
        let before = || self.tokens.tokens[at.saturating_sub(1)].span.after();
        let cannot = "this cannot stand here".to_owned();
        match mending.slip {
            // What is missing is missing after what stands before.
            Slip::Missing if at > 0 => {
                let message = format!("{} is missing here", self.named(&mending.with));
                Some((message, before(), format!("before {found}")))
            }
            Slip::Blank => {
                let last = self.tokens.tokens[at + mending.count - 1];
                let last = quote(self.tokens.source.slice(last.span));
                let place = match mending.count {
                    1 => before(),
                    _ => self.tokens.tokens[at].span.after(),
                };
                let message = "no blank may stand here".to_owned();
                Some((message, place, format!("before {last}")))
            }
            Slip::Foreign | Slip::Misspelt if at < self.index || mending.count > 1 => {
                let message = if text.contains(char::is_alphabetic) {
                    format!("{} cannot stand here", self.found(self.tokens.tokens[at]))
                } else {
                    format!("{text} cannot stand here")
                };
                Some((message, span, "this is none of the language".to_owned()))
            }
            Slip::Quotes if mending.count > 1 => {
                let message = format!("no token starts with {text}");
                Some((message, span, cannot))
            }
            Slip::Remark => {
                let opener = self.tokens.tokens[at].span;
                let opener_text = quote(self.tokens.source.slice(opener));
                let message = format!("{opener_text} cannot stand here");
                Some((message, opener, cannot))
            }
            Slip::Missing
            | Slip::Instead
            | Slip::TooMany
            | Slip::Misspelt
            | Slip::Foreign
            | Slip::Quotes
            | Slip::Reserved
            | Slip::Head
            | Slip::Assignment => None,
        }
    }

    /// Tokens by what they are made of.
    fn named(&self, kinds: &[KindId]) -> String {
        kinds.first().map_or_else(String::new, |kind| {
            let kind = self.parser.lexer_kind(*kind);
            if kind.is_layout() {
                kind.wording.clone()
            } else {
                quote(&kind.name)
            }
        })
    }

    /// Adds what would mend it.
    fn with_remedy(&self, error: Diagnostic, mending: &Mending, frames: &[Frame]) -> Diagnostic {
        let error = self.with_advice(error, mending, frames);
        match self.change(mending) {
            Some((span, text)) => error.mended_by(span, text),
            None => error,
        }
    }

    /// The change of the text that mends it, if its tokens are literals.
    fn change(&self, mending: &Mending) -> Option<(Span, String)> {
        match mending.slip {
            Slip::Missing
            | Slip::Instead
            | Slip::TooMany
            | Slip::Misspelt
            | Slip::Foreign
            | Slip::Head => {}
            Slip::Remark | Slip::Quotes | Slip::Blank | Slip::Reserved | Slip::Assignment => {
                return None;
            }
        }
        let mut text = String::new();
        for kind in &mending.with {
            let kind = self.parser.lexer_kind(*kind);
            let name = kind.is_literal().then_some(&kind.name)?;
            let is_word = name.starts_with(char::is_alphanumeric);
            if is_word && (mending.count == 0 || !text.is_empty()) {
                text.push(' ');
            }
            text += name;
        }
        let span = match mending.count {
            0 => self.tokens.tokens[mending.at.checked_sub(1)?].span.after(),
            _ => mending.span(self.tokens),
        };
        Some((span, text))
    }

    /// Adds in words what would mend it.
    fn with_advice(&self, error: Diagnostic, mending: &Mending, frames: &[Frame]) -> Diagnostic {
        let source = &self.tokens.source;
        let wrong = source.slice(mending.span(self.tokens));
        let text = quote(wrong);
        let meant = self.named(&mending.with);
        match mending.slip {
            Slip::Missing => {
                let close = mending.with.first();
                let close = close.map_or("", |kind| self.parser.lexer_kind(*kind).name.as_str());
                match frames.iter().find_map(|frame| self.unclosed(frame, close)) {
                    Some(token) => {
                        let opener = self.tokens.tokens[token as usize].span;
                        closing(error, self.tokens, opener, close)
                    }
                    None => self.with_line(error, mending),
                }
            }
            Slip::Instead if self.is_layout(mending) => error.remedy(
                if self.parser.layout_kind("Indent") == mending.with.first().copied() {
                    "indent the next line"
                } else {
                    "indent this line like the one before"
                },
            ),
            Slip::Instead | Slip::Foreign | Slip::Head => {
                error.remedy(format!("write {meant} instead of {text}"))
            }
            Slip::Misspelt => error.remedy(format!("did you mean {meant}?")),
            Slip::TooMany if mending.at < self.index => {
                error.remedy(format!("leave out the {text} before it"))
            }
            Slip::TooMany => error.remedy(format!("leave out {text}")),
            Slip::Remark => {
                let begin = &self.strangers.marks.remarks;
                let choices: Vec<String> = begin.iter().map(|one| quote(one)).collect();
                let begin = begin.first().map_or("", String::as_str);
                error
                    .why(format!("comments begin with {}", one_of(&choices)))
                    .remedy(format!("write {} to begin a comment", quote(begin)))
            }
            Slip::Quotes => match self.strangers.marks.texts.first() {
                Some((open, close)) if open == close => {
                    error.remedy(format!("put texts between {}", quote(open)))
                }
                Some((open, close)) => error.remedy(format!(
                    "put texts between {} and {}",
                    quote(open),
                    quote(close)
                )),
                None => error,
            },
            Slip::Blank if mending.count == 1 => error.remedy("leave out the blank"),
            Slip::Blank => error.remedy(format!("write {meant} without a blank")),
            Slip::Reserved => error.why(format!("{text} is a word of the language")),
            Slip::Assignment => {
                let strangers = [&self.strangers.binding, &self.strangers.assignment];
                let mut leads = strangers.into_iter().flatten();
                let lead = leads.find(|lead| lead.kinds == mending.with);
                let name = source.slice(self.tokens.tokens[mending.at].span);
                match lead {
                    Some(lead) => error.remedy(format!("write {}", quote(&(lead.form)(name)))),
                    None => error,
                }
            }
        }
    }

    fn is_layout(&self, mending: &Mending) -> bool {
        let mut with = mending.with.iter();
        with.any(|kind| self.parser.lexer_kind(*kind).is_layout())
    }

    /// Where the end of a line is missing, what to do about it.
    fn with_line(&self, error: Diagnostic, mending: &Mending) -> Diagnostic {
        if self.is_layout(mending) && !self.parser.only_layout_from(self.tokens, self.index) {
            error.remedy("begin a new line here")
        } else {
            error
        }
    }

    /// The token as messages have it: `then`, name `boat`.
    fn found(&self, token: Token) -> String {
        let kind = self.parser.lexer_kind(token.kind);
        if kind.is_layout() {
            return kind.wording.clone();
        }
        let text = quote(self.tokens.source.slice(token.span));
        if kind.is_literal() || kind.is_odd() {
            return text;
        }
        let wording = kind.wording.as_str();
        if wording == text {
            return text;
        }
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

    /// Whether a part of a form is a literal.
    pub(super) fn is_literal(&self, frame: &Frame, at: usize) -> bool {
        let production = &self.parser.grammar.productions[frame.production as usize];
        matches!(production.right[at], Symbol::Terminal(_)) && production.roles[at] == Role::Drop
    }

    /// The bracket of a form that is open and that a text closes, with its token.
    fn unclosed(&self, frame: &Frame, close: &str) -> Option<u32> {
        let bracket = BRACKETS.into_iter().find(|(_, own)| *own == close);
        let production = &self.parser.grammar.productions[frame.production as usize];
        let is_literal = |at: usize, text: &str| match production.right[at] {
            Symbol::Terminal(t) => {
                let terminal = self.parser.grammar.terminals[t as usize];
                let kind = self.parser.lexer_kind(terminal.kind);
                kind.is_literal() && kind.name == text
            }
            Symbol::Nonterminal(_) => false,
        };
        let at = match bracket {
            Some((open, _)) => (0..frame.dot).rev().find(|&at| is_literal(at, open))?,
            // A word, or a sign that is no bracket, closes the form that it ends.
            None if is_literal(production.right.len() - 1, close) => 0,
            None => return None,
        };
        let is_opener = self.leads_with_literal(frame) || bracket.is_some();
        let closes = (frame.dot..production.right.len()).any(|at| is_literal(at, close));
        (closes && is_opener).then(|| frame.tokens[at])
    }

    /// Two operators that do not chain.
    fn unchained(&self, inquiry: &Inquiry<'_>, stacks: &[Vec<Entry>]) -> Option<String> {
        let token = self.token();
        let lookahead = self
            .parser
            .grammar
            .ways(self.signs, &self.tokens.source, token);
        let met = stacks.iter().any(|stack| {
            lookahead.iter().any(|&terminal| {
                let states = inquiry.states_before(stack, terminal).into_iter();
                let mut states = states.filter(|state| self.parser.chains_not(*state, terminal));
                states.next().is_some()
            })
        });
        met.then(|| {
            format!(
                "{} does not chain: it cannot stand beside another of its level without brackets",
                quote(self.tokens.source.slice(self.token().span))
            )
        })
    }
}
