//! `quillon tokens`: the tokens of a program.

use quillon_core::Language;
use quillon_core::lexing::Token;
use quillon_core::source::SourceText;
use serde_json::{Value, json};

use super::{Stop, each_input, inputs, print_lines, with_diagnostics};
use crate::args::{Format, Tokens as Args};
use crate::exit::Exit;
use crate::render::tokens::{in_order, parts};

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let format = args.common.format;
    each_input(&inputs(&args.program, &args.common)?, format, |input| {
        let (language, source) = (&input.language, &input.source);
        let outcome = if args.all {
            language.all_tokens(source)
        } else {
            language.tokens(source)
        };
        let tokens = outcome.value.as_ref();
        if format == Format::Json {
            let listed: Vec<Value> = tokens.map_or_else(Vec::new, |tokens| {
                in_order(tokens, args.all)
                    .map(|token| as_json(language, source, token))
                    .collect()
            });
            let json = with_diagnostics("tokens", &listed.into(), &outcome.diagnostics);
            return Ok((Some(json), outcome.diagnostics));
        }
        if let Some(tokens) = tokens {
            for lines in parts(language, tokens, args.all) {
                print_lines(&lines)?;
            }
        }
        Ok((None, outcome.diagnostics))
    })
}

/// A token as data.
pub fn as_json(language: &Language, source: &SourceText, token: Token) -> Value {
    let kind = language.lexer().kind(token.kind);
    let position = source.position(token.span.start);
    let mut out = json!({
        "kind": kind.name,
        "literal": kind.is_literal(),
        "text": source.slice(token.span),
        "line": position.line,
        "column": position.column,
        "start": token.span.start,
        "end": token.span.end,
    });
    if kind.ignored {
        out["ignored"] = true.into();
    }
    if kind.holds.is_some() {
        let value = language.lexer().value(source, token);
        out["value"] = quillon_core::tree::literal_json(&value);
    }
    out
}
