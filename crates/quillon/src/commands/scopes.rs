//! `quillon scopes`: what the names of a program mean.

use quillon_core::scoping::{Around, Home, Mention, Names, notes};
use quillon_core::tree::Tree;
use serde_json::{Value, json};

use super::{Stop, each_input, inputs, print_lines, with_diagnostics};
use crate::args::{Format, Scopes as Args, ScopesView};
use crate::exit::Exit;
use crate::render::names;

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
                let mentions = names.mentions(tree);
                mentions.iter().map(|m| as_json(tree, names, m)).collect()
            });
            let json = with_diagnostics("names", &listed, &diagnostics);
            return Ok((Some(json), diagnostics));
        }
        if let Some((tree, found)) = &found {
            print_lines(&match args.view {
                ScopesView::Source => names::over_source(tree, found),
                ScopesView::Table => names::listed(tree, found),
            })?;
        }
        Ok((None, diagnostics))
    })
}

fn as_json(tree: &Tree, names: &Names, mention: &Mention) -> Value {
    let binding = names.binding(mention.binding);
    let place = |span: quillon_core::source::Span| {
        let position = tree.source().position(span.start);
        json!({
            "line": position.line, "column": position.column, "start": span.start, "end": span.end,
        })
    };
    json!({
        "name": binding.name,
        "space": binding.space,
        "place": place(tree.node(mention.node).span),
        "role": names::role(mention),
        "scopesOut": mention.used.map(|used| used.scopes_out),
        "binding": {
            "number": mention.binding.0,
            "place": binding.span.map(place),
            "readyMade": matches!(binding.home, Home::ReadyMade(_)),
            "fixed": binding.fixed,
        },
    })
}
