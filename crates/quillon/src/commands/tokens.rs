//! `quillon tokens`: the tokens of a program.

use quillon_core::diagnostic::{Diagnostic, Outcome};
use quillon_core::lexing::Tokens;
use serde::ser::{SerializeMap, SerializeSeq};
use serde::{Serialize, Serializer};

use super::each_input;
use crate::args::{Format, Tokens as Args};
use crate::exit::Exit;
use crate::inputs::{Input, inputs};
use crate::json::OneToken;
use crate::output::{print_json, print_json_list, print_lines, status};
use crate::render::tokens::{in_order, parts};
use crate::stop::Stop;

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
            several => print_json_list(several)?,
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
