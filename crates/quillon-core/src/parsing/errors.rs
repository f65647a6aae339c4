//! Syntax errors in the language's own words.

use super::Parser;
use super::expected::{Frame, Inquiry, Wanted};
use super::grammar::{Role, Symbol};
use super::mending::Mending;
use super::stacks::Entry;
use crate::diagnostic::{Diagnostic, codes, humanise, one_of, quote};
use crate::lexing::{BRACKETS, KindId, Token, Tokens};

/// At most this many things are listed as expected.
const MOST_LISTED: usize = 7;

/// What cannot stand at `index`, with what could and what was being read.
pub(super) fn unexpected(
    parser: &Parser,
    tokens: &Tokens,
    index: usize,
    stacks: &[Vec<Entry>],
    inquiry: &Inquiry<'_>,
    mending: Option<Mending>,
) -> Diagnostic {
    let mut wanted: Vec<Wanted> = stacks.iter().flat_map(|s| inquiry.wanted(s)).collect();
    wanted.sort();
    wanted.dedup();
    let mut report = Report {
        parser,
        tokens,
        index,
        mending,
    };
    let frames = stacks.first().map_or_else(Vec::new, |s| inquiry.frames(s));
    let unchained = report.unchained(inquiry, stacks);
    if unchained.is_some() {
        // Brackets are what is missing.
        report.mending = None;
    }
    report.diagnostic(&wanted, &frames, unchained)
}

struct Report<'a> {
    parser: &'a Parser,
    tokens: &'a Tokens,
    index: usize,
    mending: Option<Mending>,
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
        let mut diagnostic = self.headed(&one_of(&self.listed(wanted)));
        if let Some(words) = unchained {
            diagnostic = diagnostic
                .why(words)
                .remedy("put brackets around one of them");
        }
        if let Some(frame) = frames.iter().find(|frame| self.leads_with_literal(frame)) {
            diagnostic = self.context(diagnostic, frame);
        }
        match self.mending {
            Some(Mending::Insert(kind)) => {
                let close = self.parser.lexer_kind(kind).name.as_str();
                let open = frames.iter().find_map(|frame| self.unclosed(frame, close));
                if let Some((open, token)) = open {
                    let span = self.tokens.tokens[token as usize].span;
                    let line = source.position(span.start).line;
                    let (open, close) = (quote(open), quote(close));
                    let remedy = format!("close the {open} of line {line} with {close}");
                    diagnostic = diagnostic.remedy(remedy);
                    if !diagnostic.related.iter().any(|r| r.place.span == span) {
                        diagnostic = diagnostic.related(source, span, "opened here");
                    }
                }
                diagnostic
            }
            Some(Mending::Replace(kind)) => diagnostic.remedy(self.instead(kind, self.token())),
            Some(Mending::ReplaceBefore(kind, _)) => {
                diagnostic.remedy(self.instead(kind, self.token_before()))
            }
            Some(Mending::LeaveOut) => {
                let text = quote(source.slice(self.token().span));
                diagnostic.remedy(format!("leave out {text}"))
            }
            Some(Mending::LeaveOutBefore(_)) => {
                let text = quote(source.slice(self.token_before().span));
                diagnostic.remedy(format!("leave out the {text} before it"))
            }
            None => diagnostic,
        }
    }

    /// What is wrong, and where.
    fn headed(&self, expected: &str) -> Diagnostic {
        let source = &self.tokens.source;
        let token = self.token();
        // What layout adds at the end is no text: the text has ended.
        if self.parser.only_layout_from(self.tokens, self.index) {
            let message = format!("the text ends where {expected} is expected");
            return Diagnostic::error(codes::SYNTAX_UNFINISHED, message)
                .with_detail("expected", expected)
                .at(source, token.span)
                .label("more is needed here");
        }
        let found = self.found(token);
        let (message, span, label) = match self.mending {
            // What is missing is missing after what stands before.
            Some(Mending::Insert(kind)) if self.index > 0 => (
                format!(
                    "{} is missing here",
                    quote(&self.parser.lexer_kind(kind).name)
                ),
                self.token_before().span.after(),
                format!("before {found}"),
            ),
            Some(Mending::ReplaceBefore(..)) => {
                let before = self.token_before();
                (
                    format!("{} cannot stand here", self.found(before)),
                    before.span,
                    "this is no word of the language".to_owned(),
                )
            }
            Some(
                Mending::Insert(_)
                | Mending::Replace(_)
                | Mending::LeaveOut
                | Mending::LeaveOutBefore(_),
            )
            | None => (
                format!("found {found} where {expected} is expected"),
                token.span,
                "this cannot stand here".to_owned(),
            ),
        };
        Diagnostic::error(codes::SYNTAX_UNEXPECTED, message)
            .with_detail("found", found)
            .with_detail("expected", expected)
            .at(source, span)
            .label(label)
    }

    /// The token before the one where reading got stuck.
    fn token_before(&self) -> Token {
        self.tokens.tokens[self.index.saturating_sub(1)]
    }

    /// A remedy: another token in the place of one.
    fn instead(&self, kind: KindId, token: Token) -> String {
        let meant = quote(&self.parser.lexer_kind(kind).name);
        let text = self.tokens.source.slice(token.span);
        if self.parser.lexer_kind(token.kind).is_literal() {
            return format!("write {meant} instead of {}", quote(text));
        }
        format!("did you mean {meant}?")
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
        let place = diagnostic.place.as_ref();
        let here = place.map_or(0, |place| source.position(place.span.start).line);
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

    /// The bracket of a form that is open and that a text closes, with its token.
    fn unclosed(&self, frame: &Frame, close: &str) -> Option<(&'static str, u32)> {
        let (open, _) = BRACKETS.into_iter().find(|(_, own)| *own == close)?;
        let production = &self.parser.grammar.productions[frame.production as usize];
        let is_literal = |at: usize, text: &str| match production.right[at] {
            Symbol::Terminal(t) => {
                let terminal = self.parser.grammar.terminals[t as usize];
                let kind = self.parser.lexer_kind(terminal.kind);
                kind.is_literal() && kind.name == text
            }
            Symbol::Nonterminal(_) => false,
        };
        let at = (0..frame.dot).rev().find(|&at| is_literal(at, open))?;
        let closes = (frame.dot..production.right.len()).any(|at| is_literal(at, close));
        closes.then(|| (open, frame.tokens[at]))
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
