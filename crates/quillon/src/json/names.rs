//! What names mean, as data.

use quillon_core::Language;
use quillon_core::meaning::Places;
use quillon_core::scoping::{Home, Mention, Names};
use quillon_core::source::Span;
use quillon_core::tree::Tree;
use serde_json::{Value, json};

use crate::render;

/// Every mention of a name as data.
pub fn names(language: &Language, tree: &Tree, names: &Names) -> Value {
    let mentions = names.mentions(tree);
    let places = language.places(tree, names);
    let one = |m: &Mention| mention_json(tree, names, &places, m);
    mentions.iter().map(one).collect()
}

/// A place in a program as data.
pub fn place(tree: &Tree, span: Span) -> Value {
    let position = tree.source().position(span.start);
    json!({
        "line": position.line, "column": position.column, "start": span.start, "end": span.end,
    })
}

fn mention_json(tree: &Tree, names: &Names, places: &Places, mention: &Mention) -> Value {
    let kept = places.of(mention.binding);
    let binding = names.binding(mention.binding);
    let place = |span| place(tree, span);
    json!({
        "name": binding.name,
        "space": binding.space,
        "place": place(tree.node(mention.node).span),
        "role": render::names::role(mention),
        "scopesOut": mention.used.map(|used| used.scopes_out),
        "function": kept.map(|kept| kept.function),
        "slot": kept.map(|kept| kept.slot),
        "captured": kept.is_some_and(|kept| kept.captured),
        "binding": {
            "number": mention.binding.0,
            "place": binding.span.map(place),
            "builtIn": matches!(binding.home, Home::BuiltIn(_)),
            "fixed": binding.fixed,
            "dynamic": binding.dynamic,
        },
    })
}
