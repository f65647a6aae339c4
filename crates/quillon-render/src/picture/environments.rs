//! The environments of a program as a picture: each scope with its variables, below the
//! scope around it.

use quillon_core::definition::Definition;
use quillon_core::meaning::Places;
use quillon_core::scoping::Names;
use quillon_core::tree::{NodeId, Tree};

use super::{Shape, dot, svg};

/// As a graph in the DOT language.
pub fn to_dot(definition: &Definition, tree: &Tree, names: &Names, places: &Places) -> String {
    dot("environments", &shapes(definition, tree, names, places))
}

/// As an SVG picture.
pub fn to_svg(definition: &Definition, tree: &Tree, names: &Names, places: &Places) -> String {
    svg(&shapes(definition, tree, names, places))
}

fn shapes(definition: &Definition, tree: &Tree, names: &Names, places: &Places) -> Vec<Shape> {
    let mut scopes: Vec<NodeId> = names.scopes.clone();
    let is_filled = |node: &NodeId| !names.at(*node).is_empty();
    scopes.retain(is_filled);
    // The outer before the inner.
    scopes.sort_by_key(|node| {
        let span = tree.node(*node).span;
        (span.start, std::cmp::Reverse(span.end))
    });
    let mut out: Vec<Shape> = Vec::new();
    let mut around: Vec<(usize, u32)> = Vec::new();
    for node in scopes {
        let span = tree.node(node).span;
        while around.last().is_some_and(|&(_, end)| end < span.end) {
            around.pop();
        }
        let form = tree
            .form(node)
            .map(|form| definition.forms[form].name.text.as_str());
        let position = tree.source().position(span.start);
        let mut label = format!("{} {position}", form.unwrap_or_default());
        for id in names.at(node) {
            let binding = names.binding(*id);
            label.push_str(&format!("\n{}", binding.name));
            if let Some(place) = places.of(*id) {
                label.push_str(&format!(" · slot {}", place.slot));
                if place.captured {
                    label.push_str(" · captured");
                }
            } else if binding.dynamic {
                label.push_str(" · dynamic");
            }
        }
        out.push(Shape {
            label,
            is_form: true,
            above: around.last().map(|&(above, _)| (above, String::new())),
            depth: around.len(),
        });
        around.push((out.len() - 1, span.end));
    }
    out
}
