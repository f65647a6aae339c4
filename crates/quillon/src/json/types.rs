//! Types, and why they are what they are, as data.

use quillon_core::Language;
use quillon_core::scoping::Names;
use quillon_core::tree::{NodeId, Tree};
use quillon_core::typing::{Derivation, Has, Judged, Listed, Types};
use serde_json::{Value, json};

use super::names::place;

/// Every type as data.
pub fn types(language: &Language, tree: &Tree, names: &Names, types: &Types) -> Value {
    let definition = language.definition();
    let one = |listed: &Listed| {
        let (what, form, name) = match listed.what {
            Has::Node(_, form) => ("node", Some(&definition.forms[form].name.text), None),
            Has::Binding(binding) => ("binding", None, Some(&names.binding(binding).name)),
        };
        json!({
            "place": place(tree, listed.span),
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

/// A derivation, with those it rests on.
pub fn derivation(language: &Language, tree: &Tree, names: &Names, why: &Derivation) -> Value {
    let definition = language.definition();
    let token = |node: NodeId| json!({ "place": place(tree, tree.node(node).span), "text": tree.text(node) });
    let premises = why.premises.iter().map(|premise| {
        let mut one = match &premise.what {
            Judged::Form(own) => derivation(language, tree, names, own),
            Judged::Name { node, binding, has } => {
                let mut one = token(*node);
                one["type"] = has.shown(definition).into();
                let bound = names.binding(*binding).span;
                one["boundAt"] = bound.map_or(Value::Null, |span| place(tree, span));
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
