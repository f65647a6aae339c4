//! `quillon tokens`: the tokens of a program.

use quillon_core::Language;
use quillon_core::diagnostic::{Diagnostic, Outcome};
use quillon_core::lexing::{Token, Tokens};
use quillon_core::source::SourceText;
use serde::ser::{SerializeMap, SerializeSeq};
use serde::{Serialize, Serializer};
use serde_json::Value;

use super::{Input, Stop, each_input, inputs, print_json, print_lines, status};
use crate::args::{Format, Tokens as Args};
use crate::exit::Exit;
use crate::render::tokens::{in_order, parts};

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let inputs = inputs(&args.program, &args.common)?;
    let tokens = |input: &Input| {
        if args.all {
            input.language.all_tokens(&input.source)
        } else {
            input.language.tokens(&input.source)
        }
    };
    if args.common.format == Format::Json {
        let all: Vec<Listed<'_>> = inputs
            .iter()
            .map(|input| Listed {
                input,
                outcome: tokens(input),
                with_ignored: args.all,
                is_one_of_many: inputs.len() > 1,
            })
            .collect();
        match &all[..] {
            [] => {}
            [one] => print_json(one)?,
            several => print_json(several)?,
        }
        let exits = all.iter().map(|one| status(&one.outcome.diagnostics));
        return Ok(exits.fold(Exit::Done, Exit::and));
    }
    each_input(&inputs, Format::Text, |input| {
        let outcome = tokens(input);
        if let Some(tokens) = &outcome.value {
            for lines in parts(&input.language, tokens, args.all) {
                print_lines(&lines)?;
            }
        }
        Ok((None, outcome.diagnostics))
    })
}

/// The tokens of a program, as data: made one by one while they are written, since there can
/// be very many.
struct Listed<'a> {
    input: &'a Input,
    outcome: Outcome<Tokens>,
    with_ignored: bool,
    is_one_of_many: bool,
}

impl Serialize for Listed<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut object = serializer.serialize_map(None)?;
        let diagnostics: &Vec<Diagnostic> = &self.outcome.diagnostics;
        object.serialize_entry("diagnostics", diagnostics)?;
        if self.is_one_of_many {
            object.serialize_entry("file", self.input.source.name())?;
        }
        object.serialize_entry("tokens", &InOrder(self))?;
        object.end()
    }
}

struct InOrder<'a>(&'a Listed<'a>);

impl Serialize for InOrder<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let Listed { input, outcome, .. } = self.0;
        let mut list = serializer.serialize_seq(None)?;
        let tokens = outcome.value.iter();
        for token in tokens.flat_map(|tokens| in_order(tokens, self.0.with_ignored)) {
            list.serialize_element(&OneToken::new(&input.language, &input.source, token))?;
        }
        list.end()
    }
}

/// A token as data.
#[derive(Serialize)]
struct OneToken<'a> {
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
    fn new(language: &'a Language, source: &'a SourceText, token: Token) -> OneToken<'a> {
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
pub fn as_json(language: &Language, source: &SourceText, token: Token) -> Value {
    // It has nothing that JSON has no way to write.
    serde_json::to_value(OneToken::new(language, source, token)).unwrap_or_default()
}
