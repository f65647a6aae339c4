//! `quillon scopes`: what the names of a program mean.

use quillon_core::Language;
use quillon_core::meaning::{Places, environments_to_dot, environments_to_svg};
use quillon_core::scoping::{Around, Home, Mention, Names, notes};
use quillon_core::source::Span;
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
            let listed = found
                .as_ref()
                .map_or(Value::Null, |(tree, names)| as_json(language, tree, names));
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
                        environments_to_dot(definition, tree, found, &places())
                            .trim_end()
                            .to_owned(),
                    ]
                }
                ScopesView::Svg => {
                    vec![
                        environments_to_svg(definition, tree, found, &places())
                            .trim_end()
                            .to_owned(),
                    ]
                }
            })?;
        }
        Ok((None, diagnostics))
    })
}

/// Every mention of a name as data.
pub fn as_json(language: &Language, tree: &Tree, names: &Names) -> Value {
    let mentions = names.mentions(tree);
    let places = language.places(tree, names);
    let one = |m: &Mention| mention_json(tree, names, &places, m);
    mentions.iter().map(one).collect()
}

/// A place in a program as data.
pub(super) fn place_json(tree: &Tree, span: Span) -> Value {
    let position = tree.source().position(span.start);
    json!({
        "line": position.line, "column": position.column, "start": span.start, "end": span.end,
    })
}

fn mention_json(tree: &Tree, names: &Names, places: &Places, mention: &Mention) -> Value {
    let kept = places.of(mention.binding);
    let binding = names.binding(mention.binding);
    let place = |span| place_json(tree, span);
    json!({
        "name": binding.name,
        "space": binding.space,
        "place": place(tree.node(mention.node).span),
        "role": names::role(mention),
        "scopesOut": mention.used.map(|used| used.scopes_out),
        "function": kept.map(|kept| kept.function),
        "slot": kept.map(|kept| kept.slot),
        "captured": kept.is_some_and(|kept| kept.captured),
        "binding": {
            "number": mention.binding.0,
            "place": binding.span.map(place),
            "readyMade": matches!(binding.home, Home::ReadyMade(_)),
            "fixed": binding.fixed,
            "dynamic": binding.dynamic,
        },
    })
}
