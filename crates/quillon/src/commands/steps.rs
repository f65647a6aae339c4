//! `quillon steps`: a program on the way to its end, rewritten step by step.

use quillon_core::reduction::{Bounds, Ended, Reduction, Shown, reduce};
use quillon_core::source::Span;
use serde_json::{Value, json};

use super::each_input;
use crate::args::{Format, Steps as Args, StepsView};
use crate::exit::Exit;
use crate::inputs::inputs;
use crate::output::{print_lines, with_diagnostics};
use crate::render::steps;
use crate::stop::Stop;

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let format = args.common.format;
    let mut exit = Exit::Done;
    let shown = each_input(&inputs(&args.program, &args.common)?, format, |input| {
        let bounds = Bounds {
            steps: args.limit,
            ..Bounds::default()
        };
        let outcome = reduce(&input.language, &input.source, input.reading, bounds);
        let diagnostics = outcome.diagnostics;
        let found = outcome.value;
        if let Some(Reduction { ended, .. }) = &found
            && *ended != Ended::Value
        {
            exit = Exit::Failed;
        }
        if format == Format::Json {
            let value = found.as_ref().map_or(Value::Null, as_json);
            let json = with_diagnostics("reduction", &value, &diagnostics);
            return Ok((Some(json), diagnostics));
        }
        if let Some(found) = &found {
            print_lines(&match args.view {
                StepsView::Text => steps::listed(found),
                StepsView::Html => steps::page(input.source.name(), found),
            })?;
        }
        Ok((None, diagnostics))
    })?;
    Ok(exit.and(shown))
}

fn as_json(found: &Reduction) -> Value {
    let span =
        |span: Option<Span>| span.map(|span| json!({ "start": span.start, "end": span.end }));
    let step = |shown: &Shown| {
        let renamed = shown.renamed.iter();
        json!({
            "text": shown.text,
            "changed": span(shown.marks.changed),
            "willChange": span(shown.marks.will_change),
            "by": shown.by,
            "renamed": renamed.map(|one| json!({ "from": one.from, "to": one.to })).collect::<Vec<_>>(),
        })
    };
    let (ended, why, back) = match &found.ended {
        Ended::Value => ("value", None, None),
        Ended::Stuck(why) => ("stuck", Some(why), None),
        Ended::Cycle(step) => ("cycle", None, Some(step)),
        Ended::Limit => ("limit", None, None),
        Ended::Size(_) => ("size", None, None),
        Ended::Depth(_) => ("depth", None, None),
    };
    json!({
        "steps": found.steps.iter().map(step).collect::<Vec<_>>(),
        "ended": ended,
        "why": why,
        "backTo": back,
    })
}
