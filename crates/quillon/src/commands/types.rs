//! `quillon types`: the types of a program, and why they are what they are.

use quillon_core::diagnostic::{Diagnostic, codes};
use quillon_core::scoping::{Around, Names};
use quillon_core::tree::Tree;
use quillon_core::typing::{Derivation, Types};
use serde_json::Value;

use super::each_input;
use super::explain::place_of;
use crate::args::{Format, Types as Args, TypesView};
use crate::exit::Exit;
use crate::inputs::{Input, inputs};
use crate::json;
use crate::output::{print_lines, with_diagnostics};
use crate::render::types;
use crate::stop::Stop;

/// A program with its types.
struct Found {
    tree: Tree,
    names: Names,
    types: Types,
}

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let format = args.common.format;
    each_input(&inputs(&args.program, &args.common)?, format, |input| {
        let language = &input.language;
        let (found, diagnostics) = found(input);
        let why = match (&found, &args.why) {
            (Some(found), Some(place)) => Some(derivation(input, found, place)?),
            _ => None,
        };
        if format == Format::Json {
            let listed = match (&found, &why) {
                (Some(found), Some(why)) => {
                    json::derivation(language, &found.tree, &found.names, why)
                }
                (Some(found), None) => {
                    json::types(language, &found.tree, &found.names, &found.types)
                }
                (None, _) => Value::Null,
            };
            let json = with_diagnostics("types", &listed, &diagnostics);
            return Ok((Some(json), diagnostics));
        }
        if let Some(found) = &found {
            let Found { tree, names, types } = found;
            let definition = language.definition();
            let listed = || types.listed(definition, tree, names);
            print_lines(&match (&why, args.view) {
                (Some(why), _) => types::derivation(definition, tree, names, why),
                (None, TypesView::Source) => types::over_source(definition, tree, &listed()),
                (None, TypesView::Table) => types::table(definition, tree, names, &listed()),
            })?;
        }
        Ok((None, diagnostics))
    })
}

fn found(input: &Input) -> (Option<Found>, Vec<Diagnostic>) {
    let language = &input.language;
    let parsed = language.tree(&input.source, input.reading);
    let mut diagnostics = parsed.diagnostics;
    let Some(tree) = parsed.value else {
        return (None, diagnostics);
    };
    let resolved = language.names(&tree, Around::Nothing);
    let is_bound = !resolved.has_errors();
    diagnostics.extend(resolved.diagnostics);
    let Some(names) = resolved.value.filter(|_| is_bound) else {
        return (None, diagnostics);
    };
    let typed = language.types(&tree, &names, &[]);
    diagnostics.extend(typed.diagnostics);
    let found = typed.value.map(|types| Found { tree, names, types });
    (found, diagnostics)
}

/// Why the innermost form at a place has its type.
fn derivation(input: &Input, found: &Found, place: &str) -> Result<Derivation, Stop> {
    let offset = place_of(&input.source, place)?;
    let mut path = found.tree.path(offset).into_iter().rev();
    let form = path.find(|step| found.tree.form(step.node).is_some());
    let node = form.map_or(found.tree.root(), |step| step.node);
    let definition = input.language.definition();
    let why = found
        .types
        .derivation(definition, &found.tree, &found.names, node);
    why.ok_or_else(|| {
        let message = format!("nothing at {place} has a type");
        Stop::Usage(Box::new(Diagnostic::error(codes::USAGE, message)))
    })
}
