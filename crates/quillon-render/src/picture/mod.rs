//! What is above and below what, as a picture: Graphviz DOT, and SVG drawn here.

use unicode_width::UnicodeWidthStr;

use crate::xml::on_one_line;

pub mod environments;
pub mod tree;

/// The number of the node above, and the field of it that a node is in.
pub(crate) type Above = (usize, String);

/// A node of a picture.
pub(crate) struct Shape {
    /// What stands in it, a line or several.
    pub label: String,
    pub is_form: bool,
    pub above: Option<Above>,
    pub depth: usize,
}

impl Shape {
    fn width(&self) -> usize {
        let lines = self.label.lines().map(UnicodeWidthStr::width);
        lines.max().unwrap_or(0).max(1) * LETTER + 16
    }

    fn height(&self) -> usize {
        BOX + self.label.lines().count().saturating_sub(1) * LINE
    }
}

/// Shapes, each after the one above it, as a graph in the DOT language.
pub(crate) fn dot(name: &str, shapes: &[Shape]) -> String {
    let escape = |text: &str| {
        let quoted = text.replace('\\', "\\\\").replace('"', "\\\"");
        quoted.replace('\n', "\\n")
    };
    let mut out = format!("digraph {name} {{\n  node [fontname=\"monospace\"];\n");
    for (number, shape) in shapes.iter().enumerate() {
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
const BETWEEN: usize = 38;
const BOX: usize = 26;
const LINE: usize = 17;
const FIELD: usize = 15;

/// Where each row of shapes begins, and where the last one ends.
fn rows(shapes: &[Shape]) -> Vec<usize> {
    let deepest = shapes.iter().map(|s| s.depth).max().unwrap_or(0);
    let mut heights = vec![BOX; deepest + 1];
    for shape in shapes {
        heights[shape.depth] = heights[shape.depth].max(shape.height());
    }
    let mut tops = vec![GAP];
    for (row, height) in heights.iter().enumerate() {
        tops.push(tops[row] + height + BETWEEN);
    }
    tops
}

/// Shapes, each after the one above it, as an SVG picture.
pub(crate) fn svg(shapes: &[Shape]) -> String {
    let tops = rows(shapes);
    let centre = centres(shapes);
    let widest = shapes
        .iter()
        .zip(&centre)
        .map(|(shape, centre)| centre + shape.width() / 2 + GAP)
        .max()
        .unwrap_or(0);
    let mut out = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{widest}\" height=\"{}\" font-family=\"monospace\" font-size=\"13\">\n<rect width=\"100%\" height=\"100%\" fill=\"white\"/>\n",
        tops[tops.len() - 1] - BETWEEN + GAP
    );
    for (number, shape) in shapes.iter().enumerate() {
        let (x, y) = (centre[number], tops[shape.depth]);
        if let Some((above, field)) = &shape.above {
            let (from, over) = (centre[*above], &shapes[*above]);
            let top = tops[over.depth] + over.height();
            let end = if field.is_empty() { y } else { y - FIELD };
            out.push_str(&format!(
                "<path d=\"M{from} {top} L{x} {end}\" stroke=\"#8a97a6\" fill=\"none\"/>\n<text x=\"{x}\" y=\"{}\" fill=\"#5a6672\" font-size=\"11\" text-anchor=\"middle\">{}</text>\n",
                y - 4,
                on_one_line(field)
            ));
        }
    }
    for (shape, &x) in shapes.iter().zip(&centre) {
        out.push_str(&drawn(shape, x, tops[shape.depth]));
    }
    out.push_str("</svg>\n");
    out
}

/// A shape with the middle of its upper edge at a place.
fn drawn(shape: &Shape, x: usize, y: usize) -> String {
    let (fill, stroke) = if shape.is_form {
        ("#e8eef7", "#4a6a9a")
    } else {
        ("#f2f7ee", "#6a9a4a")
    };
    let (wide, high) = (shape.width(), shape.height());
    let mut out = format!(
        "<rect x=\"{}\" y=\"{y}\" width=\"{wide}\" height=\"{high}\" rx=\"5\" fill=\"{fill}\" stroke=\"{stroke}\"/>\n",
        x - wide / 2
    );
    for (number, line) in shape.label.lines().enumerate() {
        out.push_str(&format!(
            "<text x=\"{x}\" y=\"{}\" text-anchor=\"middle\">{}</text>\n",
            y + 18 + number * LINE,
            on_one_line(line)
        ));
    }
    out
}

/// The middle of each shape: those below one stand side by side under it.
fn centres(shapes: &[Shape]) -> Vec<usize> {
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
        room[number] = shape.width().max(field).max(below + gaps);
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
    centre
}
