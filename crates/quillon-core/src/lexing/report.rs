//! What a scan says of a text that is wrong.

use super::scan::{Found, Scan};
use super::token_values::NotHeld;
use super::{KindId, MOST_ERRORS, Token};
use crate::definition::Holds;
use crate::diagnostic::{Diagnostic, codes, quote};
use crate::source::Span;

impl Scan<'_> {
    fn report(&mut self, diagnostic: Diagnostic) {
        if self.diagnostics.len() < MOST_ERRORS {
            self.diagnostics.push(diagnostic);
        } else {
            self.suppressed += 1;
        }
    }

    /// Reports a token that is begun and not finished where the line or the text ends.
    pub(super) fn unfinished(&mut self, start: usize, stopped: usize, kind: KindId) {
        let text = self.source.text();
        let wording = &self.lexer.kind(kind).wording;
        let at_end = stopped == text.len();
        self.out.unfinished |= at_end;
        let opening = match &self.lexer.kind(kind).nests {
            Some((open, _)) => open.clone(),
            None => text[start..].chars().take(1).collect(),
        };
        let (limit, remedy) = if at_end {
            ("before the text ends", "close it")
        } else {
            ("before the line ends", "close it on the same line")
        };
        self.report(
            Diagnostic::error(
                codes::TOKEN_UNKNOWN,
                format!("what starts here like {wording} is never finished"),
            )
            .at(self.source, Span::new(start, stopped))
            .label(format!(
                "opened with {}, not closed {limit}",
                quote(&opening)
            ))
            .remedy(remedy),
        );
    }

    /// Reports what is no token and gives the place to go on from.
    pub(super) fn bad(&mut self, start: usize, stopped: usize, state: u32) -> usize {
        let text = self.source.text();
        let at_line_end = text[stopped..]
            .chars()
            .next()
            .is_none_or(|c| c == '\n' || c == '\r');
        let kinds = self.lexer.automaton.reachable_kinds(state);
        if stopped > start
            && at_line_end
            && let [kind] = kinds[..]
        {
            self.unfinished(start, stopped, KindId(kind));
            return stopped;
        }
        let mut end = start;
        while let Some(c) = text[end..].chars().next() {
            if end > start
                && (c.is_whitespace()
                    || matches!(self.find(end), Found::Token(..) | Found::Holed(..)))
            {
                break;
            }
            end += c.len_utf8();
        }
        let span = Span::new(start, end);
        let bad = &text[start..end];
        let message = if bad.chars().count() == 1 {
            format!("no token starts with {}", quote(bad))
        } else {
            format!("no token starts with any of {}", quote(bad))
        };
        let mut diagnostic = Diagnostic::error(codes::TOKEN_UNKNOWN, message).at(self.source, span);
        if let Some(c) = bad.chars().next().filter(|c| !c.is_ascii()) {
            diagnostic = diagnostic.why(format!("this character is U+{:04X}", c as u32));
        }
        self.report(diagnostic);
        end
    }

    /// Reports a hole that is never ended.
    pub(super) fn open_hole(&mut self, at: usize, hole: &str, close: &str) {
        self.out.unfinished = true;
        self.report(
            Diagnostic::error(
                codes::TOKEN_UNKNOWN,
                format!(
                    "the hole that starts here with {} is never ended",
                    quote(hole)
                ),
            )
            .at(self.source, Span::new(at, at + hole.len()))
            .label("not ended before the text ends")
            .remedy(format!("end it with {}", quote(close))),
        );
    }

    /// Reports a token whose text cannot be the value it is said to hold.
    pub(super) fn check_value(&mut self, token: Token) {
        let kind = self.lexer.kind(token.kind);
        let text = self.source.slice(token.span);
        // Up to 18 decimal digits always fit: most tokens end here.
        let numeric = match kind.holds {
            Some(Holds::Integer) => text.len() > 18 || !text.bytes().all(|b| b.is_ascii_digit()),
            // Digits with one point among them always are a number.
            Some(Holds::Number) => !text.bytes().all(|b| b.is_ascii_digit() || b == b'.'),
            _ => false,
        };
        if !numeric {
            return;
        }
        let Err(problem) = kind.held(text) else {
            return;
        };
        let diagnostic = match problem {
            NotHeld::TooLarge => Diagnostic::error(
                codes::TOKEN_INTEGER,
                format!("{} is too large for an integer", quote(text)),
            )
            .why(format!("the largest integer is {}", i64::MAX)),
            NotHeld::NotANumber => Diagnostic::error(
                codes::TOKEN_HELD,
                format!(
                    "{} cannot be read as {}",
                    quote(text),
                    match kind.holds {
                        Some(Holds::Integer) => "an integer",
                        _ => "a number",
                    }
                ),
            )
            .why(format!("the definition says that {} holds one", kind.name)),
        };
        let diagnostic = diagnostic.at(self.source, token.span);
        self.report(diagnostic);
    }
}
