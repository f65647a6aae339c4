//! Tokens as a table.

use quillon_core::Language;
use quillon_core::lexing::{KindId, Token, Tokens};
use quillon_core::source::SourceText;

use super::style::{FORM, QUIET, VALUE};
use super::table::{Cell, Columns};

/// The tokens in the order of the text, the ignored ones among them if asked for; the
/// end of the text is left out.
pub fn in_order(tokens: &Tokens, all: bool) -> impl Iterator<Item = Token> {
    let mut listed: Vec<Token> = tokens.tokens.clone();
    listed.retain(|token| token.kind != KindId::END);
    if all {
        listed.extend(&tokens.ignored);
        listed.sort_by_key(|token| token.span.start);
    }
    listed.into_iter()
}

/// Tokens as a table, a line each.
pub fn listing(language: &Language, tokens: &Tokens, all: bool) -> Vec<String> {
    parts(language, tokens, all).flatten().collect()
}

/// The same in parts, so that the table of a long text need not be held as a whole.
pub fn parts(language: &Language, tokens: &Tokens, all: bool) -> impl Iterator<Item = Vec<String>> {
    const ROWS: usize = 4096;
    let mut columns = Columns::new(&["place", "kind", "text", "value"]);
    let mut left = in_order(tokens, all).peekable();
    let mut first = true;
    std::iter::from_fn(move || {
        if left.peek().is_none() && !first {
            return None;
        }
        first = false;
        let rows: Vec<Vec<Cell>> = left
            .by_ref()
            .take(ROWS)
            .map(|token| row(language, &tokens.source, token))
            .collect();
        Some(columns.lines(&rows))
    })
}

fn row(language: &Language, source: &SourceText, token: Token) -> Vec<Cell> {
    let kind = language.lexer().kind(token.kind);
    let value = match kind.holds {
        Some(_) => shortened(&quillon_core::tree::value_text(
            &language.lexer().value(source, token),
        )),
        None => String::new(),
    };
    let (name, style) = if kind.is_literal() {
        ("(literal)", QUIET)
    } else if kind.ignored {
        (kind.name.as_str(), QUIET)
    } else {
        (kind.name.as_str(), FORM)
    };
    vec![
        Cell::right(source.position(token.span.start).to_string(), QUIET),
        Cell::new(name, style),
        Cell::new(
            shortened(&on_one_line(source, token)),
            anstyle::Style::new(),
        ),
        Cell::new(value, VALUE),
    ]
}

/// A text that does not push the table off the screen; JSON has the whole.
fn shortened(text: &str) -> String {
    const LONGEST: usize = 60;
    if text.chars().nth(LONGEST).is_none() {
        return text.to_owned();
    }
    let mut shown: String = text.chars().take(LONGEST - 1).collect();
    shown.push('…');
    shown
}

/// A token's text with line ends and the like shown as escapes.
fn on_one_line(source: &SourceText, token: Token) -> String {
    let text = source.slice(token.span);
    if text.trim().is_empty() || text.chars().any(quillon_render::plain::acts) {
        quillon_core::diagnostic::quoted(text)
    } else {
        text.to_owned()
    }
}
