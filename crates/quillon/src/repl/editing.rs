//! A line while it is typed: the colours of the language's tokens, and brackets that match.

use std::borrow::Cow;
use std::cell::RefCell;
use std::rc::Rc;

use quillon_core::Language;
use quillon_core::definition::Holds;
use quillon_core::lexing::{BRACKETS, KindId, Token};
use quillon_core::source::SourceText;
use quillon_core::values::Held;
use rustyline::completion::{Completer, Pair};
use rustyline::highlight::{CmdKind, Highlighter};
use rustyline::hint::Hinter;
use rustyline::validate::Validator;
use rustyline::{Context, Helper};

use super::completing;
use crate::render::style::{ERROR, FORM, QUIET, RELATED, STRONG, VALUE, paint};

/// What the line being typed is a part of.
pub struct Around {
    pub language: Language,
    /// The lines of the entry before this one, with their line ends.
    pub begun: String,
    /// The names kept so far.
    pub names: Vec<(String, Option<Held>)>,
    pub colours: bool,
    /// Whether the line is shown for the last time.
    pub is_done: bool,
}

/// Helps while a line is typed.
pub struct Typing(pub Rc<RefCell<Around>>);

impl Helper for Typing {}
impl Validator for Typing {}
impl Hinter for Typing {
    type Hint = String;
}

impl Completer for Typing {
    type Candidate = Pair;

    fn complete(
        &self,
        line: &str,
        pos: usize,
        _: &Context<'_>,
    ) -> rustyline::Result<(usize, Vec<Pair>)> {
        Ok(completing::complete(&self.0.borrow(), line, pos))
    }
}

impl Highlighter for Typing {
    fn highlight<'l>(&self, line: &'l str, pos: usize) -> Cow<'l, str> {
        let around = self.0.borrow();
        if !around.colours {
            return line.into();
        }
        if around.begun.is_empty() && line.starts_with('/') {
            let end = line.find(char::is_whitespace).unwrap_or(line.len());
            return format!("{}{}", paint(FORM, &line[..end]), &line[end..]).into();
        }
        coloured(&around, line, pos).into()
    }

    fn highlight_prompt<'b, 's: 'b, 'p: 'b>(&'s self, prompt: &'p str, _: bool) -> Cow<'b, str> {
        if self.0.borrow().colours {
            paint(QUIET, prompt).into()
        } else {
            prompt.into()
        }
    }

    fn highlight_char(&self, _: &str, _: usize, kind: CmdKind) -> bool {
        let mut around = self.0.borrow_mut();
        // A line that is done has no cursor in it any more.
        around.is_done = kind == CmdKind::ForcedRefresh;
        around.colours
    }
}

/// A line in the colours of its tokens, as the end of what has been typed before.
fn coloured(around: &Around, line: &str, cursor: usize) -> String {
    let text = format!("{}{line}", around.begun);
    let start = around.begun.len();
    let source = SourceText::new("entry", text.clone());
    let Some(tokens) = around.language.all_tokens(&source).value else {
        return line.to_owned();
    };
    // The text may be without a mark of the byte order that was typed.
    if source.text().len() != text.len() {
        return line.to_owned();
    }
    let mut all: Vec<Token> = tokens.tokens.clone();
    all.extend(&tokens.ignored);
    all.retain(|token| !token.span.is_empty() && token.kind != KindId::END);
    all.sort_by_key(|token| token.span.start);
    let matching = if around.is_done {
        Vec::new()
    } else {
        matching(&source, &all, start + cursor)
    };
    let mut out = String::new();
    let mut at = start;
    for token in all {
        let (from, to) = (token.span.start as usize, token.span.end as usize);
        if to <= at {
            continue;
        }
        if from > at {
            out.push_str(&paint(ERROR, &text[at..from]));
        }
        let piece = &text[from.max(at)..to];
        let style = if matching.contains(&from) {
            STRONG.invert()
        } else {
            style_of(around, token, &text[from..to])
        };
        out.push_str(&paint(style, piece));
        at = to;
    }
    if at < text.len() {
        out.push_str(&paint(ERROR, &text[at..]));
    }
    out
}

/// The colour of a token.
fn style_of(around: &Around, token: Token, text: &str) -> anstyle::Style {
    let kind = around.language.lexer().kind(token.kind);
    let is_word = text.starts_with(|c: char| c.is_alphabetic() || c == '_');
    match kind.holds {
        _ if kind.ignored => QUIET,
        _ if kind.is_literal() && is_word => FORM,
        Some(Holds::Text) => VALUE,
        Some(_) => RELATED,
        None => anstyle::Style::new(),
    }
}

/// Where the bracket at the cursor starts, or the one before it, and the one that belongs to
/// it.
fn matching(source: &SourceText, tokens: &[Token], cursor: usize) -> Vec<usize> {
    let side = |token: &Token| {
        let text = source.slice(token.span);
        let brackets = BRACKETS.iter().enumerate();
        brackets
            .into_iter()
            .find_map(|(number, (open, close))| match text {
                text if text == *open => Some((number, true)),
                text if text == *close => Some((number, false)),
                _ => None,
            })
    };
    let mut open: Vec<(usize, usize)> = Vec::new();
    for token in tokens {
        let start = token.span.start as usize;
        match side(token) {
            Some((number, true)) => open.push((number, start)),
            Some((number, false)) => {
                let Some((_, other)) = open.pop().filter(|(known, _)| *known == number) else {
                    return Vec::new();
                };
                let is_here = |at: usize| at == cursor || at + 1 == cursor;
                if is_here(start) || is_here(other) {
                    return vec![other, start];
                }
            }
            None => {}
        }
    }
    Vec::new()
}
