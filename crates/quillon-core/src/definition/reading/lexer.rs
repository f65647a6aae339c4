//! The words of the notation.

use std::sync::Arc;

use super::lines::first_word;
use crate::definition::model::CharSet;
use crate::diagnostic::{Diagnostic, codes, quote};
use crate::source::{SourceText, Span};

/// What a stretch of the notation is.
#[derive(Clone, PartialEq, Debug)]
pub(in crate::definition) enum Word {
    /// A word: a clause, a name.
    Name(String),
    /// A whole number; the least integer where its sign stands before it.
    Integer(i64),
    /// A number with a point.
    Number(f64),
    /// A quoted text, escapes resolved.
    Text(String),
    /// `[a-z]`: only in patterns.
    Class(CharSet),
    /// Program text between backquotes.
    Program(String),
    /// A sign.
    Sign(&'static str),
    /// A character that is no part of the notation.
    Odd(char),
    /// The end of the clause.
    End,
}

/// The digits of the least integer, which are those of no other.
const LEAST_DIGITS: &str = "9223372036854775808";

/// Clauses have about one word for so many bytes.
const BYTES_A_WORD: usize = 5;

/// A word with its place.
#[derive(Clone, Debug)]
pub(in crate::definition) struct Lexeme {
    pub word: Word,
    pub span: Span,
}

/// Whether `[` starts a class of characters or is a bracket.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(in crate::definition) enum Mode {
    /// In `tokens`.
    Pattern,
    /// Everywhere else.
    Plain,
}

/// The signs, longer ones first.
const SIGNS: &[&str] = &[
    "...", ":=", "=>", "<=", ">=", "/=", "(", ")", "{", "}", "[", "]", ",", ";", ":", ".", "+",
    "-", "*", "/", "&", "=", "<", ">", "|", "?", "~",
];

/// The sign that some bytes begin with.
fn sign_at(bytes: &[u8]) -> Option<&'static str> {
    let mut signs = SIGNS.iter().filter(|sign| sign.as_bytes()[0] == bytes[0]);
    signs
        .find(|sign| bytes.starts_with(sign.as_bytes()))
        .copied()
}

/// Splits a stretch of the notation into words; the last one is `End`.
pub(in crate::definition) fn lex(
    source: &Arc<SourceText>,
    span: Span,
    mode: Mode,
    diagnostics: &mut Vec<Diagnostic>,
) -> Vec<Lexeme> {
    let mut lexer = Lexer {
        source,
        text: &source.text()[..span.end as usize],
        at: span.start as usize,
        end: span.end as usize,
        mode,
        diagnostics,
    };
    let mut lexemes = Vec::with_capacity(lexer.rest().len() / BYTES_A_WORD + 1);
    while let Some(lexeme) = lexer.next() {
        lexemes.push(lexeme);
    }
    lexemes.push(Lexeme {
        word: Word::End,
        span: span.after(),
    });
    lexemes
}

/// The words of a stretch of the notation that are names, keywords among them; what is wrong in it is
/// passed over. In the patterns of tokens there are no names in classes of characters.
pub(in crate::definition) fn names_in(
    source: &Arc<SourceText>,
    span: Span,
    has_patterns: bool,
) -> Vec<(Span, String)> {
    let mode = if has_patterns {
        Mode::Pattern
    } else {
        Mode::Plain
    };
    let lexemes = lex(source, span, mode, &mut Vec::new()).into_iter();
    let names = lexemes.filter_map(|lexeme| match lexeme.word {
        Word::Name(name) => Some((lexeme.span, name)),
        Word::Integer(_)
        | Word::Number(_)
        | Word::Text(_)
        | Word::Class(_)
        | Word::Program(_)
        | Word::Sign(_)
        | Word::Odd(_)
        | Word::End => None,
    });
    names.collect()
}

struct Lexer<'a> {
    source: &'a Arc<SourceText>,
    /// The text up to the end of the stretch.
    text: &'a str,
    at: usize,
    end: usize,
    mode: Mode,
    diagnostics: &'a mut Vec<Diagnostic>,
}

impl Lexer<'_> {
    fn rest(&self) -> &str {
        &self.text[self.at..]
    }

    fn next(&mut self) -> Option<Lexeme> {
        loop {
            self.at = self.end - self.rest().trim_start().len();
            let rest = self.rest();
            let first = rest.chars().next()?;
            if first == '-' && rest.starts_with("--") {
                self.at += rest.find('\n').unwrap_or(rest.len());
                continue;
            }
            let start = self.at;
            if let Some(word) = self.word(first) {
                return Some(Lexeme {
                    word,
                    span: Span::new(start, self.at),
                });
            }
        }
    }

    /// The word that starts here; nothing when it was no word, which is reported.
    fn word(&mut self, first: char) -> Option<Word> {
        match first {
            '"' | '\'' => self.text(first).map(Word::Text),
            '`' => self.program(),
            '[' if self.mode == Mode::Pattern => self.class().map(Word::Class),
            '#' if self.mode == Mode::Pattern => {
                self.code_point().map(|c| Word::Class(CharSet::single(c)))
            }
            c if c.is_alphabetic() || c == '_' => Some(self.name()),
            c if c.is_ascii_digit() => self.number(),
            _ => Some(self.sign(first)),
        }
    }

    fn error(&mut self, start: usize, message: impl Into<String>) -> &mut Diagnostic {
        let span = Span::new(start, self.at.max(start + 1).min(self.end));
        self.diagnostics
            .push(Diagnostic::error(codes::DEFINITION_CHARACTER, message).at(self.source, span));
        let last = self.diagnostics.len() - 1;
        &mut self.diagnostics[last]
    }

    fn name(&mut self) -> Word {
        let name = first_word(self.rest()).to_owned();
        self.at += name.len();
        Word::Name(name)
    }

    fn number(&mut self) -> Option<Word> {
        let start = self.at;
        let bytes = self.rest().as_bytes();
        let digits = |from: usize| {
            bytes[from..]
                .iter()
                .take_while(|b| b.is_ascii_digit())
                .count()
        };
        let mut length = digits(0);
        let mut real = false;
        if bytes.get(length) == Some(&b'.') && digits(length + 1) > 0 {
            length += 1 + digits(length + 1);
            real = true;
        }
        if matches!(bytes.get(length), Some(b'e' | b'E')) {
            let sign = usize::from(matches!(bytes.get(length + 1), Some(b'-' | b'+')));
            if digits(length + 1 + sign) > 0 {
                length += 1 + sign + digits(length + 1 + sign);
                real = true;
            }
        }
        let text = self.rest()[..length].to_owned();
        self.at += length;
        if real {
            return text.parse().ok().map(Word::Number);
        }
        let is_negative = self.text[..start].trim_end().ends_with('-');
        let value = match text.parse() {
            Ok(value) => Some(value),
            // The least integer has no opposite: what comes after its sign stands for it.
            Err(_) if is_negative && text == LEAST_DIGITS => Some(i64::MIN),
            Err(_) => None,
        };
        if value.is_none() {
            let message = if is_negative {
                format!("{} is too small for an integer", quote(&format!("-{text}")))
            } else {
                format!("{} is too large for an integer", quote(&text))
            };
            self.error(start, message).why.push(format!(
                "integers go from {} to {}",
                i64::MIN,
                i64::MAX
            ));
        }
        value.map(Word::Integer)
    }

    fn text(&mut self, quote: char) -> Option<String> {
        let start = self.at;
        self.at += 1;
        let mut text = String::new();
        loop {
            let plain = self.rest().find([quote, '\\', '\n']);
            let plain = plain.unwrap_or(self.rest().len());
            text.push_str(&self.rest()[..plain]);
            self.at += plain;
            let Some(c) = self.rest().chars().next().filter(|&c| c != '\n') else {
                self.diagnostics.push(
                    Diagnostic::error(
                        codes::DEFINITION_UNCLOSED,
                        "this quoted text is never closed",
                    )
                    .at(self.source, Span::new(start, self.at))
                    .label(format!("opened here with {quote}"))
                    .remedy(format!("end it with {quote} on the same line")),
                );
                return None;
            };
            self.at += c.len_utf8();
            if c == quote {
                return Some(text);
            }
            text.push(self.escape()?);
        }
    }

    /// The character that an escape stands for, the backslash already read.
    fn escape(&mut self) -> Option<char> {
        let start = self.at - 1;
        let Some(c) = self.rest().chars().next() else {
            self.error(start, "this backslash has nothing to escape");
            return None;
        };
        self.at += c.len_utf8();
        match c {
            'n' => Some('\n'),
            't' => Some('\t'),
            'r' => Some('\r'),
            '0' => Some('\0'),
            'u' => self.braced(start),
            c if c.is_ascii_punctuation() => Some(c),
            _ => {
                self.error(start, format!("`\\{c}` is no escape"))
                    .remedies
                    .push("the escapes are \\n, \\t, \\r, \\0, \\u{41} and a backslash before a punctuation sign".into());
                None
            }
        }
    }

    /// The character of `{1b}`, the code point behind `\u`.
    fn braced(&mut self, start: usize) -> Option<char> {
        let inner = self.rest().strip_prefix('{');
        let digits = inner
            .and_then(|inner| inner.split_once('}'))
            .map(|(digits, _)| digits);
        let code = digits.and_then(|digits| u32::from_str_radix(digits, 16).ok());
        let Some((digits, c)) = digits.zip(code.and_then(char::from_u32)) else {
            self.error(start, "`\\u` stands for no character")
                .remedies
                .push("write the number of one in braces: `\\u{1b}`".into());
            return None;
        };
        self.at += digits.len() + 2;
        Some(c)
    }

    fn program(&mut self) -> Option<Word> {
        let start = self.at;
        self.at += 1;
        if let Some(length) = self.rest().find('`') {
            let text = self.rest()[..length].to_owned();
            self.at += length + 1;
            return Some(Word::Program(text));
        }
        self.at = self.end;
        self.diagnostics.push(
            Diagnostic::error(
                codes::DEFINITION_UNCLOSED,
                "this program text is never closed",
            )
            .at(self.source, Span::new(start, start + 1))
            .remedy("end it with a backquote, or put each of its lines behind a bar: `| line`"),
        );
        None
    }

    fn code_point(&mut self) -> Option<char> {
        let start = self.at;
        let rest = self.rest();
        let digits = rest.strip_prefix("#x").map_or(0, |hex| {
            hex.chars().take_while(char::is_ascii_hexdigit).count()
        });
        let c = rest
            .get(2..2 + digits)
            .and_then(|hex| u32::from_str_radix(hex, 16).ok())
            .and_then(char::from_u32);
        self.at += if digits == 0 { 1 } else { 2 + digits };
        if c.is_none() {
            self.error(start, "this names no character")
                .remedies
                .push("write `#x` and the code point in hexadecimal, for example `#x41`".into());
        }
        c
    }

    fn class(&mut self) -> Option<CharSet> {
        let start = self.at;
        self.at += 1;
        let negated = self.rest().starts_with('^');
        self.at += usize::from(negated);
        let mut ranges = Vec::new();
        while !self.rest().starts_with(']') {
            let Some(low) = self.class_character(start) else {
                self.at = self.end;
                return None;
            };
            let mut high = low;
            if self.rest().starts_with('-') && !self.rest().starts_with("-]") {
                self.at += 1;
                high = self.class_character(start)?;
            }
            if high < low {
                self.error(
                    start,
                    format!("the range {low:?} to {high:?} runs backwards"),
                );
                return None;
            }
            ranges.push((low as u32, high as u32));
        }
        self.at += 1;
        let set = CharSet::new(ranges);
        Some(if negated { set.complement() } else { set })
    }

    fn class_character(&mut self, start: usize) -> Option<char> {
        let Some(c) = self.rest().chars().next().filter(|&c| c != '\n') else {
            self.diagnostics.push(
                Diagnostic::error(
                    codes::DEFINITION_UNCLOSED,
                    "this class of characters is never closed",
                )
                .at(self.source, Span::new(start, start + 1))
                .remedy("end it with `]`; a `]` among the characters is written `\\]`"),
            );
            return None;
        };
        let hex = self
            .rest()
            .strip_prefix("#x")
            .and_then(|hex| hex.chars().next());
        if hex.is_some_and(|digit| digit.is_ascii_hexdigit()) {
            return self.code_point();
        }
        self.at += c.len_utf8();
        if c == '\\' { self.escape() } else { Some(c) }
    }

    fn sign(&mut self, first: char) -> Word {
        if first.is_ascii()
            && let Some(sign) = sign_at(self.rest().as_bytes())
        {
            self.at += sign.len();
            return Word::Sign(sign);
        }
        self.at += first.len_utf8();
        Word::Odd(first)
    }
}
