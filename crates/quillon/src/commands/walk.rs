//! `quillon walk`: a run in the terminal, or a reduction, forwards and backwards.

use quillon_core::debugging;
use quillon_core::reduction::{Bounds, reduce};
use quillon_core::scoping::Around;

use crate::args::{Format, Walk as Args};
use crate::exit::Exit;
use crate::files;
use crate::inputs::{Input, one_program};
use crate::output::{report, status};
use crate::stop::Stop;
use crate::walk::{Walked, walk, walk_reduction};

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let input = one_program(&args.program, &args.common)?;
    if let Some(steps) = args.reduction {
        return through_reduction(&input, steps);
    }
    // What is wrong with a program is seen better than a walk that does not begin.
    let compiled = input
        .language
        .compiled(&input.source, Around::Nothing, input.reading);
    if compiled.has_errors() {
        report(&compiled.diagnostics, Format::Text);
        return Ok(status(&compiled.diagnostics));
    }
    let read = match &args.input {
        Some(path) => Some(files::read(path)?.text().to_owned()),
        None => None,
    };
    let builder = args.running.builder(&input.language)?;
    let lines = debugging::lines(&builder, &input.source, input.reading, Around::Nothing);
    let walked = Walked {
        language: &input.language,
        source: &input.source,
        lines: lines.into_iter().collect(),
        reach: args.running.reading_only(&input.source),
        asks: read.is_none(),
        given: read.unwrap_or_default(),
    };
    walk(walked, |host, guide| {
        debugging::walk(&builder, &input.source, input.reading, host, guide);
    })
}

fn through_reduction(input: &Input, steps: usize) -> Result<Exit, Stop> {
    let bounds = Bounds {
        steps,
        ..Bounds::default()
    };
    let reduced = reduce(&input.language, &input.source, input.reading, bounds);
    let Some(found) = reduced.value else {
        report(&reduced.diagnostics, Format::Text);
        return Ok(status(&reduced.diagnostics));
    };
    walk_reduction(&input.language, input.source.name(), found)
}
