//! `quillon code`: the bytecode of a program.

use quillon_core::bytecode::listing;
use quillon_core::scoping::Around;
use serde_json::{Value, json};

use super::each_input;
use crate::args::{Code as Args, Format};
use crate::exit::Exit;
use crate::inputs::inputs;
use crate::output::{print_lines, with_diagnostics};
use crate::render::code::listed;
use crate::stop::Stop;

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let format = args.common.format;
    each_input(&inputs(&args.program, &args.common)?, format, |input| {
        let language = &input.language;
        let outcome = language.code(&input.source, Around::Nothing, input.reading);
        let found = outcome.value.as_ref();
        let found = found.map(|function| listing(function, language.definition()));
        if format == Format::Json {
            let value = found.map_or(Value::Null, |found| json!(found));
            let json = with_diagnostics("code", &value, &outcome.diagnostics);
            return Ok((Some(json), outcome.diagnostics));
        }
        if let Some(found) = &found {
            let source = args.lines.then_some(&*input.source);
            print_lines(&listed(found, source))?;
        }
        Ok((None, outcome.diagnostics))
    })
}
