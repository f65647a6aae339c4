//! Tokens as data.

use quillon_core::Language;
use quillon_core::lexing::Token;
use quillon_core::source::SourceText;
use serde::Serialize;
use serde_json::Value;

/// A token as data.
#[derive(Serialize)]
pub struct OneToken<'a> {
    kind: &'a str,
    literal: bool,
    text: &'a str,
    line: u32,
    column: u32,
    start: u32,
    end: u32,
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    ignored: bool,
    #[serde(skip_serializing_if = "Option::is_none")]
    value: Option<Value>,
}

impl<'a> OneToken<'a> {
    pub fn new(language: &'a Language, source: &'a SourceText, token: Token) -> OneToken<'a> {
        let kind = language.lexer().kind(token.kind);
        let position = source.position(token.span.start);
        let value = kind.holds.is_some().then(|| {
            let value = language.lexer().value(source, token);
            quillon_core::tree::literal_json(&value)
        });
        OneToken {
            kind: &kind.name,
            literal: kind.is_literal(),
            text: source.slice(token.span),
            line: position.line,
            column: position.column,
            start: token.span.start,
            end: token.span.end,
            ignored: kind.ignored,
            value,
        }
    }
}

/// A token as a value of JSON.
pub fn token(language: &Language, source: &SourceText, token: Token) -> Value {
    // It has nothing that JSON has no way to write.
    serde_json::to_value(OneToken::new(language, source, token)).unwrap_or_default()
}
