//! Trees as pictures.

use quillon_core::Language;
use quillon_core::tree::{Child, NodeId, Tree, leaf};

use super::{Above, Shape, dot, svg};

/// The tree as a graph in the DOT language.
pub fn to_dot(language: &Language, tree: &Tree) -> String {
    dot("tree", &shapes(language, tree))
}

/// The tree as an SVG picture: leaves side by side, each form above the middle of what
/// it has.
pub fn to_svg(language: &Language, tree: &Tree) -> String {
    svg(&shapes(language, tree))
}

/// The nodes of a tree, each after the one above it.
fn shapes(language: &Language, tree: &Tree) -> Vec<Shape> {
    let definition = language.definition();
    let mut out: Vec<Shape> = Vec::new();
    let mut work: Vec<(NodeId, Option<Above>, usize)> = vec![(tree.root(), None, 0)];
    while let Some((id, above, depth)) = work.pop() {
        let number = out.len();
        let Some(form) = tree.form(id) else {
            out.push(Shape {
                label: leaf(language.lexer(), tree, id),
                is_form: false,
                above,
                depth,
            });
            continue;
        };
        let form = &definition.forms[form];
        let mut children = Vec::new();
        for (index, field) in form.fields.iter().enumerate() {
            let name = &field.name.text;
            match tree.field(id, index) {
                Child::Absent => {}
                Child::One(child) => children.push((child, name.clone())),
                Child::Many(items) => children.extend(
                    items
                        .iter()
                        .enumerate()
                        .map(|(i, &child)| (child, format!("{name}[{i}]"))),
                ),
            }
        }
        out.push(Shape {
            label: form.name.text.clone(),
            is_form: true,
            above,
            depth,
        });
        work.extend(
            children
                .into_iter()
                .rev()
                .map(|(child, field)| (child, Some((number, field)), depth + 1)),
        );
    }
    out
}
