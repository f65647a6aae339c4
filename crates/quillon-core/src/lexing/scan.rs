//! One pass over a text: the longest token at each place, and what is no token.

use std::sync::Arc;

use super::automaton::DEAD;
use super::held::{self, NotHeld};
use super::{Care, KindId, Lexer, MOST_ERRORS, Token, Tokens};
use crate::definition::Holds;
use crate::diagnostic::{Diagnostic, codes, quote};
use crate::source::{SourceText, Span};

/// The tokens of a text, what is wrong with it, and how many errors are left out.
pub(super) fn scan(
    lexer: &Lexer,
    source: &Arc<SourceText>,
    keep_ignored: bool,
) -> (Tokens, Vec<Diagnostic>, usize) {
    let mut scan = Scan {
        keep_ignored,
        lexer,
        source,
        out: Tokens {
            source: Arc::clone(source),
            tokens: Vec::with_capacity(source.text().len() / 6),
            ignored: Vec::new(),
            unfinished: false,
        },
        diagnostics: Vec::new(),
        suppressed: 0,
    };
    scan.all();
    (scan.out, scan.diagnostics, scan.suppressed)
}

/// One pass over a text.
struct Scan<'a> {
    keep_ignored: bool,
    lexer: &'a Lexer,
    source: &'a Arc<SourceText>,
    out: Tokens,
    diagnostics: Vec<Diagnostic>,
    suppressed: usize,
}

/// What stands at a place.
enum Found {
    Token(KindId, usize),
    /// Something that nests and is never closed.
    Unclosed(KindId),
    /// No token; where the automaton gave up, and in which state.
    Nothing {
        stopped: usize,
        state: u32,
    },
}

impl Scan<'_> {
    fn all(&mut self) {
        let length = self.source.text().len();
        let mut at = 0;
        let mut tight = false;
        while at < length {
            match self.find(at) {
                Found::Token(kind, end) => {
                    let span = Span::new(at, end);
                    let Care { ignored, held, .. } = self.lexer.care[kind.0 as usize];
                    if !ignored || self.keep_ignored {
                        let token = Token {
                            kind,
                            also: self.also(kind, span),
                            tight,
                            span,
                        };
                        if ignored {
                            self.out.ignored.push(token);
                        } else {
                            if held {
                                self.check_value(token);
                            }
                            self.out.tokens.push(token);
                        }
                    }
                    tight = !ignored;
                    at = end;
                }
                Found::Unclosed(kind) => {
                    tight = false;
                    self.unfinished(at, length, kind);
                    at = length;
                }
                Found::Nothing { stopped, state } => {
                    tight = false;
                    at = self.bad(at, stopped, state);
                }
            }
        }
        // The end is where the last token ends: what is missing is missing there, not
        // after the blanks that follow.
        let end = self
            .out
            .tokens
            .last()
            .map_or(0, |token| token.span.end as usize);
        self.out.tokens.push(Token {
            kind: KindId::END,
            also: None,
            tight: false,
            span: Span::new(end, end),
        });
    }

    /// The longest token at a place.
    #[inline]
    fn find(&self, start: usize) -> Found {
        let automaton = &self.lexer.automaton;
        let bytes = self.source.text().as_bytes();
        // Mostly the automaton ends where a token does; only if not, or if there is more
        // than ASCII, is it run again with an eye on where the last one ended.
        let (state, end) = automaton.run_ascii(automaton.start(), bytes, start);
        let ascii_only = bytes.get(end).is_none_or(|&byte| byte < 128);
        match automaton.accepted(state) {
            Some(kind) if ascii_only && end > start => {
                if self.lexer.care[kind as usize].nests {
                    return self.found(KindId(kind), end);
                }
                Found::Token(KindId(kind), end)
            }
            _ => self.find_slowly(start),
        }
    }

    fn found(&self, kind: KindId, end: usize) -> Found {
        match &self.lexer.kind(kind).nests {
            Some((open, close)) => self.nested(kind, open, close, end),
            None => Found::Token(kind, end),
        }
    }

    fn find_slowly(&self, start: usize) -> Found {
        let automaton = &self.lexer.automaton;
        let mut state = automaton.start();
        let mut at = start;
        let mut best = None;
        for c in self.source.text()[start..].chars() {
            let next = automaton.after(state, c);
            if next == DEAD {
                break;
            }
            state = next;
            at += c.len_utf8();
            if let Some(kind) = automaton.accepted(state) {
                best = Some((KindId(kind), at));
            }
        }
        match best {
            Some((kind, end)) => self.found(kind, end),
            None => Found::Nothing { stopped: at, state },
        }
    }

    /// The soft literal that a token may be as well.
    #[inline]
    fn also(&self, kind: KindId, span: Span) -> Option<KindId> {
        if self.lexer.soft.is_empty() || self.lexer.kind(kind).is_literal() {
            return None;
        }
        self.lexer.soft.get(self.source.slice(span)).copied()
    }

    /// Goes on from after an opening text to the closing one that belongs to it.
    fn nested(&self, kind: KindId, open: &str, close: &str, start: usize) -> Found {
        let text = self.source.text();
        let mut depth = 1;
        let mut at = start;
        while depth > 0 {
            let rest = &text[at..];
            let next_close = rest.find(close);
            // Only an opening that starts before the next closing text counts.
            let limit = next_close.map_or(rest.len(), |offset| offset + open.len() - 1);
            let next_open = rest.as_bytes()[..limit.min(rest.len())]
                .windows(open.len())
                .position(|window| window == open.as_bytes());
            match (next_open, next_close) {
                (Some(offset), _) => {
                    depth += 1;
                    at += offset + open.len();
                }
                (None, Some(offset)) => {
                    depth -= 1;
                    at += offset + close.len();
                }
                (None, None) => {
                    return Found::Unclosed(kind);
                }
            }
        }
        Found::Token(kind, at)
    }

    fn report(&mut self, diagnostic: Diagnostic) {
        if self.diagnostics.len() < MOST_ERRORS {
            self.diagnostics.push(diagnostic);
        } else {
            self.suppressed += 1;
        }
    }

    /// Reports a token that is begun and not finished where the line or the text ends.
    fn unfinished(&mut self, start: usize, stopped: usize, kind: KindId) {
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
    fn bad(&mut self, start: usize, stopped: usize, state: u32) -> usize {
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
            if end > start && (c.is_whitespace() || matches!(self.find(end), Found::Token(..))) {
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

    /// Reports a token whose text cannot be the value it is said to hold.
    fn check_value(&mut self, token: Token) {
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
        let Err(problem) = held::held(text, kind.holds, kind.escapes) else {
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
