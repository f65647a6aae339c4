//! Tokens as a table.

use quillon_core::Language;
use quillon_core::lexing::{KindId, Token, Tokens};
use quillon_core::source::SourceText;

use super::style::{FORM, QUIET, VALUE};
use super::table::{self, Cell};

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
    let source = &tokens.source;
    let rows: Vec<Vec<Cell>> = in_order(tokens, all)
        .map(|token| {
            let kind = language.lexer().kind(token.kind);
            let value = match kind.holds {
                Some(_) => quillon_core::tree::value_text(&language.lexer().value(source, token)),
                None => String::new(),
            };
            let name = if kind.is_literal() {
                "(literal)".to_owned()
            } else {
                kind.name.clone()
            };
            let style = if kind.ignored || kind.is_literal() {
                QUIET
            } else {
                FORM
            };
            vec![
                Cell::right(source.position(token.span.start).to_string(), QUIET),
                Cell::new(name, style),
                Cell::new(on_one_line(source, token), anstyle::Style::new()),
                Cell::new(value, VALUE),
            ]
        })
        .collect();
    table::lines(&["place", "kind", "text", "value"], &rows)
}

/// A token's text with line ends and the like shown as escapes.
fn on_one_line(source: &SourceText, token: Token) -> String {
    let text = source.slice(token.span);
    if text.trim().is_empty() || text.chars().any(char::is_control) {
        quillon_core::diagnostic::quoted(text)
    } else {
        text.to_owned()
    }
}
