//! `quillon scopes`: what the names of a program mean.

use quillon_core::scoping::{Around, notes};
use quillon_render::picture::environments;
use serde_json::Value;

use super::each_input;
use crate::args::{Format, Scopes as Args, ScopesView};
use crate::exit::Exit;
use crate::inputs::inputs;
use crate::json;
use crate::output::{print_lines, with_diagnostics};
use crate::render::names;
use crate::stop::Stop;

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let format = args.common.format;
    each_input(&inputs(&args.program, &args.common)?, format, |input| {
        let language = &input.language;
        let parsed = language.tree(&input.source, input.reading);
        let mut diagnostics = parsed.diagnostics;
        let found = parsed.value.map(|tree| {
            let outcome = language.names(&tree, Around::Nothing);
            diagnostics.extend(outcome.diagnostics);
            (tree, outcome.value.unwrap_or_default())
        });
        if let Some((tree, names)) = found.as_ref().filter(|_| args.notes) {
            diagnostics.extend(notes(language.definition(), tree, names));
        }
        if format == Format::Json {
            let listed = found.as_ref().map_or(Value::Null, |(tree, names)| {
                json::names(language, tree, names)
            });
            let json = with_diagnostics("names", &listed, &diagnostics);
            return Ok((Some(json), diagnostics));
        }
        if let Some((tree, found)) = &found {
            let places = || language.places(tree, found);
            let definition = language.definition();
            print_lines(&match args.view {
                ScopesView::Source => names::over_source(tree, found),
                ScopesView::Table => names::listed(tree, found, &places()),
                ScopesView::Dot => {
                    vec![
                        environments::to_dot(definition, tree, found, &places())
                            .trim_end()
                            .to_owned(),
                    ]
                }
                ScopesView::Svg => {
                    vec![
                        environments::to_svg(definition, tree, found, &places())
                            .trim_end()
                            .to_owned(),
                    ]
                }
            })?;
        }
        Ok((None, diagnostics))
    })
}
