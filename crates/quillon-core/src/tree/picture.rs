//! The tree as a picture: Graphviz DOT, and SVG drawn here.

use unicode_width::UnicodeWidthStr;

use super::text::leaf;
use super::{Child, NodeId, Tree};
use crate::definition::Definition;
use crate::lexing::Lexer;
use crate::xml::escaped;

/// The number of the node above, and the field of it that a node is in.
type Above = (usize, String);

/// A node of the picture.
struct Shape {
    label: String,
    is_form: bool,
    above: Option<Above>,
    depth: usize,
}

/// The nodes of a tree, each after the one above it.
fn shapes(definition: &Definition, lexer: &Lexer, tree: &Tree) -> Vec<Shape> {
    let mut out: Vec<Shape> = Vec::new();
    let mut work: Vec<(NodeId, Option<Above>, usize)> = vec![(tree.root(), None, 0)];
    while let Some((id, above, depth)) = work.pop() {
        let number = out.len();
        let Some(form) = tree.form(id) else {
            out.push(Shape {
                label: leaf(lexer, tree, id),
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

/// The tree as a graph in the DOT language.
pub fn to_dot(definition: &Definition, lexer: &Lexer, tree: &Tree) -> String {
    let escape = |text: &str| text.replace('\\', "\\\\").replace('"', "\\\"");
    let mut out = String::from("digraph tree {\n  node [fontname=\"monospace\"];\n");
    for (number, shape) in shapes(definition, lexer, tree).iter().enumerate() {
        let kind = if shape.is_form { "box" } else { "plaintext" };
        out.push_str(&format!(
            "  n{number} [shape={kind}, label=\"{}\"];\n",
            escape(&shape.label)
        ));
        if let Some((above, field)) = &shape.above {
            out.push_str(&format!(
                "  n{above} -> n{number} [label=\"{}\"];\n",
                escape(field)
            ));
        }
    }
    out.push_str("}\n");
    out
}

/// Sizes of the picture, in pixels.
const LETTER: usize = 8;
const GAP: usize = 18;
const ROW: usize = 64;
const BOX: usize = 26;
const FIELD: usize = 15;

/// The tree as an SVG picture: leaves side by side, each form above the middle of what
/// it has.
pub fn to_svg(definition: &Definition, lexer: &Lexer, tree: &Tree) -> String {
    let shapes = shapes(definition, lexer, tree);
    let width = |shape: &Shape| shape.label.width().max(1) * LETTER + 16;
    let mut children: Vec<Vec<usize>> = vec![Vec::new(); shapes.len()];
    for (number, shape) in shapes.iter().enumerate() {
        if let Some((above, _)) = &shape.above {
            children[*above].push(number);
        }
    }
    // Nodes come after the one above them: from the end, everything below is known.
    let mut room = vec![0usize; shapes.len()];
    for (number, shape) in shapes.iter().enumerate().rev() {
        let below: usize = children[number].iter().map(|&c| room[c]).sum();
        let gaps = children[number].len().saturating_sub(1) * GAP;
        // The field's name stands above the node and needs room, too.
        let field = shape
            .above
            .as_ref()
            .map_or(0, |(_, f)| f.width() * (LETTER - 1));
        room[number] = width(shape).max(field).max(below + gaps);
    }
    let mut left = vec![GAP; shapes.len()];
    let mut centre = vec![0usize; shapes.len()];
    for number in 0..shapes.len() {
        centre[number] = left[number] + room[number] / 2;
        let below: usize = children[number].iter().map(|&c| room[c]).sum();
        let gaps = children[number].len().saturating_sub(1) * GAP;
        let mut next = left[number] + (room[number] - below - gaps) / 2;
        for &child in &children[number] {
            left[child] = next;
            next += room[child] + GAP;
        }
    }
    let deepest = shapes.iter().map(|s| s.depth).max().unwrap_or(0);
    let widest = shapes
        .iter()
        .zip(&centre)
        .map(|(shape, centre)| centre + width(shape) / 2 + GAP)
        .max()
        .unwrap_or(0);
    let mut out = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{widest}\" height=\"{}\" font-family=\"monospace\" font-size=\"13\">\n<rect width=\"100%\" height=\"100%\" fill=\"white\"/>\n",
        deepest * ROW + BOX + 2 * GAP
    );
    for (number, shape) in shapes.iter().enumerate() {
        let (x, y) = (centre[number], shape.depth * ROW + GAP);
        if let Some((above, field)) = &shape.above {
            let (from, top) = (centre[*above], y + BOX - ROW);
            let end = y - FIELD;
            out.push_str(&format!(
                "<path d=\"M{from} {top} L{x} {end}\" stroke=\"#8a97a6\" fill=\"none\"/>\n<text x=\"{x}\" y=\"{}\" fill=\"#5a6672\" font-size=\"11\" text-anchor=\"middle\">{}</text>\n",
                y - 4,
                escaped(field)
            ));
        }
    }
    for (number, shape) in shapes.iter().enumerate() {
        let (x, y) = (centre[number], shape.depth * ROW + GAP);
        let (fill, stroke) = if shape.is_form {
            ("#e8eef7", "#4a6a9a")
        } else {
            ("#f2f7ee", "#6a9a4a")
        };
        let wide = width(shape);
        out.push_str(&format!(
            "<rect x=\"{}\" y=\"{y}\" width=\"{wide}\" height=\"{BOX}\" rx=\"5\" fill=\"{fill}\" stroke=\"{stroke}\"/>\n<text x=\"{x}\" y=\"{}\" text-anchor=\"middle\">{}</text>\n",
            x - wide / 2,
            y + 18,
            escaped(&shape.label)
        ));
    }
    out.push_str("</svg>\n");
    out
}
