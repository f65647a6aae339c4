//! `quillon translate`: a program in another surface of its language.

use quillon_core::diagnostic::{Diagnostic, codes, quote};
use quillon_core::printing::Brackets;
use quillon_core::source::Span;
use serde_json::Value;

use super::each_input;
use super::tree::unwritable;
use crate::args::{Format, Translate as Args};
use crate::exit::Exit;
use crate::inputs::inputs;
use crate::languages::in_surface;
use crate::output::{hand_over, with_diagnostics};
use crate::stop::Stop;

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let format = args.common.format;
    each_input(&inputs(&args.program, &args.common)?, format, |input| {
        let target = in_surface(&input.whole, &args.to)?;
        let outcome = input.language.tree(&input.source, input.reading);
        let mut diagnostics = outcome.diagnostics;
        let mut written = None;
        if let Some(tree) = &outcome.value {
            let comments = input.language.comments(&input.source);
            let text = target
                .source_of(tree, Brackets::Fewest, &comments)
                .ok_or_else(|| unwritable(&target))?;
            if target.round_trip(tree, &comments, input.reading).is_err() {
                let problem = Diagnostic::error(
                    codes::SYNTAX_TRANSLATION,
                    format!(
                        "in {} this would be read as something else",
                        quote(&args.to)
                    ),
                );
                diagnostics.push(
                    problem
                        .at(&input.source, Span::default())
                        .why("a name in it may be a keyword there, or a comment may not fit")
                        .remedy(
                            "look at what came of it, and rename what has another meaning there",
                        ),
                );
            }
            written = Some(text);
        }
        if format == Format::Json {
            let value = written.map_or(Value::Null, Value::from);
            let json = with_diagnostics("source", &value, &diagnostics);
            return Ok((Some(json), diagnostics));
        }
        if let Some(text) = written {
            hand_over(&text)?;
        }
        Ok((None, diagnostics))
    })
}
