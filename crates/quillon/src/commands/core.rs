//! `quillon core`: what a program becomes before it is run.

use quillon_core::meaning::core_lines;
use quillon_core::scoping::Around;
use serde_json::{Value, json};

use super::each_input;
use crate::args::{Core as Args, Format};
use crate::exit::Exit;
use crate::inputs::inputs;
use crate::output::{print_lines, with_diagnostics};
use crate::render::core::outline;
use crate::stop::Stop;

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let format = args.common.format;
    each_input(&inputs(&args.program, &args.common)?, format, |input| {
        let language = &input.language;
        let outcome = language.compiled(&input.source, Around::Nothing, input.reading);
        let found = outcome.value.as_ref().map(|made| core_lines(&made.core));
        if format == Format::Json {
            let value = found.map_or(Value::Null, |found| json!(found));
            let json = with_diagnostics("core", &value, &outcome.diagnostics);
            return Ok((Some(json), outcome.diagnostics));
        }
        if let Some(found) = &found {
            print_lines(&outline(found))?;
        }
        Ok((None, outcome.diagnostics))
    })
}
