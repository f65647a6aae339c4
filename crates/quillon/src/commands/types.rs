//! `quillon types`: the types of a program, and why they are what they are.

use quillon_core::Language;
use quillon_core::diagnostic::{Diagnostic, codes};
use quillon_core::scoping::{Around, Names};
use quillon_core::tree::{NodeId, Tree};
use quillon_core::typing::{Derivation, Has, Judged, Listed, Types};
use serde_json::{Value, json};

use super::explain::place_of;
use super::scopes::place_json;
use super::{Input, Stop, each_input, inputs, print_lines, with_diagnostics};
use crate::args::{Format, Types as Args, TypesView};
use crate::exit::Exit;
use crate::render::types;

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
                (Some(found), Some(why)) => derivation_json(language, found, why),
                (Some(found), None) => as_json(language, &found.tree, &found.names, &found.types),
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

/// Every type as data.
pub fn as_json(language: &Language, tree: &Tree, names: &Names, types: &Types) -> Value {
    let definition = language.definition();
    let one = |listed: &Listed| {
        let (what, form, name) = match listed.what {
            Has::Node(_, form) => ("node", Some(&definition.forms[form].name.text), None),
            Has::Binding(binding) => ("binding", None, Some(&names.binding(binding).name)),
        };
        json!({
            "place": place_json(tree, listed.span),
            "text": tree.source().slice(listed.span),
            "what": what,
            "form": form,
            "name": name,
            "type": listed.has.shown(definition),
        })
    };
    types
        .listed(definition, tree, names)
        .iter()
        .map(one)
        .collect()
}

fn derivation_json(language: &Language, found: &Found, why: &Derivation) -> Value {
    let (definition, tree) = (language.definition(), &found.tree);
    let token = |node: NodeId| json!({ "place": place_json(tree, tree.node(node).span), "text": tree.text(node) });
    let premises = why.premises.iter().map(|premise| {
        let mut one = match &premise.what {
            Judged::Form(own) => derivation_json(language, found, own),
            Judged::Name { node, binding, has } => {
                let mut one = token(*node);
                one["type"] = has.shown(definition).into();
                let bound = found.names.binding(*binding).span;
                one["boundAt"] = bound.map_or(Value::Null, |span| place_json(tree, span));
                one
            }
            Judged::Token(node) => token(*node),
        };
        one["field"] = premise.field.as_str().into();
        one
    });
    let form = tree.form(why.node).map(|form| &definition.forms[form]);
    let mut json = token(why.node);
    json["type"] = why.has.shown(definition).into();
    json["form"] = form.map_or(Value::Null, |form| form.name.text.as_str().into());
    json["clause"] = json!(why.clause);
    json["premises"] = premises.collect();
    json
}
