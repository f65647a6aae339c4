//! What a scan says of a text that is wrong.

use super::scan::{Found, Scan};
use super::token_values::NoValue;
use super::{KindId, MOST_ERRORS, Token};
use crate::definition::{Holds, Pattern};
use crate::diagnostic::{Diagnostic, codes, quote};
use crate::purposes::QUOTES;
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
        let pattern = self.lexer.kind(kind).pattern();
        if let Some(whole) = pattern.and_then(Pattern::fixed) {
            let (begun, whole) = (quote(&text[start..stopped]), quote(&whole));
            let message = format!("{begun} is only the beginning of {whole}");
            self.report(
                Diagnostic::error(codes::TOKEN_UNFINISHED, message)
                    .at(self.source, Span::new(start, stopped))
                    .label("the rest of it is missing")
                    .remedy(format!("write {whole}")),
            );
            return;
        }
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
                codes::TOKEN_UNFINISHED,
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

    /// Puts a token that is not finished on the list.
    pub(super) fn stand_in(&mut self, kind: KindId, start: usize, stopped: usize) {
        if !self.lexer.kind(kind).ignored {
            let token = Token::new(kind, Span::new(start, stopped));
            self.out.tokens.push(token);
        }
    }

    /// Reports what is no token and gives the place to go on from.
    pub(super) fn bad(&mut self, start: usize, stopped: usize, state: u32) -> usize {
        let text = self.source.text();
        let at_line_end = text[stopped..]
            .chars()
            .next()
            .is_none_or(|c| c == '\n' || c == '\r');
        let kinds = self.automaton().reachable_kinds(state);
        if stopped > start
            && at_line_end
            && let [kind] = kinds[..]
        {
            self.unfinished(start, stopped, KindId(kind));
            self.stand_in(KindId(kind), start, stopped);
            return stopped;
        }
        let end = self
            .foreign_text(start)
            .unwrap_or_else(|| self.odd_end(start));
        let span = Span::new(start, end);
        self.out.tokens.push(Token::new(self.lexer.odd, span));
        let diagnostic = no_token(&text[start..end]).at(self.source, span);
        self.report(diagnostic);
        end
    }

    /// Where what is no token ends.
    fn odd_end(&self, start: usize) -> usize {
        let text = self.source.text();
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
        end
    }

    /// Where a text ends that stands between quotes of which the language does not know.
    fn foreign_text(&self, start: usize) -> Option<usize> {
        let rest = &self.source.text()[start..];
        let quote = rest.chars().next().filter(|c| QUOTES.contains(c))?;
        let inner = &rest[quote.len_utf8()..];
        let close = match quote {
            '“' => '”',
            '‘' => '’',
            other => other,
        };
        let line = inner.split(['\n', '\r']).next().unwrap_or_default();
        let at = line.find(close)?;
        Some(start + quote.len_utf8() + at + close.len_utf8())
    }

    /// Reports that a hole is not ended where the text around it is.
    pub(super) fn lacks_end(&mut self, hole: usize, of: &str, close: &str) {
        let before = self
            .out
            .tokens
            .last()
            .map_or(hole, |token| token.span.end as usize);
        let (open, close) = (quote(of), quote(close));
        self.report(
            Diagnostic::error(codes::TOKEN_UNFINISHED, format!("{close} is missing here"))
                .at(self.source, Span::new(before, before))
                .label("the text around it ends next")
                .related(self.source, Span::new(hole, hole + of.len()), "opened here")
                .remedy(format!("end the hole that {open} begins with {close}")),
        );
    }

    /// Reports a hole that is never ended.
    pub(super) fn open_hole(&mut self, at: usize, hole: &str, close: &str) {
        self.out.unfinished = true;
        self.report(
            Diagnostic::error(
                codes::TOKEN_UNFINISHED,
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
        let Err(problem) = kind.value(text) else {
            return;
        };
        let diagnostic = match problem {
            NoValue::TooLarge => {
                let (size, bound) = if text.starts_with('-') {
                    ("small", format!("the least integer is {}", i64::MIN))
                } else {
                    ("large", format!("the largest integer is {}", i64::MAX))
                };
                let message = format!("{} is too {size} for an integer", quote(text));
                Diagnostic::error(codes::TOKEN_INTEGER, message).why(bound)
            }
            NoValue::NotANumber => Diagnostic::error(
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

/// That no token starts with some characters.
pub(crate) fn no_token(odd: &str) -> Diagnostic {
    let message = if odd.chars().count() == 1 {
        format!("no token starts with {}", quote(odd))
    } else {
        format!("no token starts with any of {}", quote(odd))
    };
    let diagnostic = Diagnostic::error(codes::TOKEN_UNKNOWN, message);
    match odd.chars().next().filter(|c| !c.is_ascii()) {
        Some(c) => diagnostic.why(format!("this character is U+{:04X}", c as u32)),
        None => diagnostic,
    }
}
