//! Railroad diagrams of a grammar: each sort as a picture, or all on one page.

use quillon_core::definition::{Definition, Form};
use quillon_core::grammar::{self, Notation};

use crate::xml::on_one_line;

mod draw;
mod track;

use draw::Drawing;
use track::Track;

/// How rails, boxes and letters look.
const STYLE: &str = "
.rail { stroke: #52606d; stroke-width: 1.6; fill: none }
.end { fill: #52606d }
.literal { fill: #fdf3dc; stroke: #b07d18 }
.token { fill: #e9f4ee; stroke: #2f7d5b }
.sort { fill: #e8eef8; stroke: #3c5f9c }
text { font-family: monospace; fill: #1d2733; text-anchor: middle }
.name { font-size: 13px }
.field { font-size: 11px; fill: #5d6b7a; font-style: italic }
.form { font-size: 12px; fill: #5d6b7a; text-anchor: start }
.heading { font-size: 16px; font-weight: bold; text-anchor: start }
";

/// Room around a picture, and between its rows.
const MARGIN: f64 = 16.0;
const BETWEEN: f64 = 14.0;
/// How high a form's name and a sort's name stand.
const NAME: f64 = 18.0;
const HEADING: f64 = 30.0;

/// The diagram of a sort, or of every sort one below the other, as an SVG picture.
/// Nothing if there is no such sort.
pub fn to_svg(definition: &Definition, sort: Option<&str>) -> Option<String> {
    let mut sorts = definition.sorts();
    sorts.retain(|(name, _)| sort.is_none_or(|wanted| wanted == *name));
    if sorts.is_empty() {
        return None;
    }
    let mut drawing = Drawing::default();
    let (mut y, mut width) = (MARGIN, 0f64);
    for (name, forms) in &sorts {
        drawing.out.push_str(&format!(
            "<text class=\"heading\" x=\"{MARGIN}\" y=\"{:.0}\">{}</text>\n",
            y + NAME,
            on_one_line(name)
        ));
        y += HEADING;
        let size = rows(&mut drawing, definition, forms, y);
        width = width.max(size.0);
        y = size.1 + BETWEEN;
    }
    Some(picture(&drawing, width, y, true))
}

/// The diagram of a form, to stand on a page that has styles and diagrams of its own; boxes lead to what they
/// stand for.
pub fn of_form(definition: &Definition, form: &Form) -> String {
    let mut drawing = Drawing {
        links: true,
        ..Drawing::default()
    };
    let track = Track::of_form(definition, form);
    let room = track.room();
    let (left, y) = (4.0, 6.0 + room.up);
    let (start, end) = (left + 20.0, left + 20.0 + room.width);
    drawing.rail(left, start, y);
    drawing.track(&track, start, y);
    drawing.rail(end, end + 20.0, y);
    for x in [left, end + 20.0] {
        drawing.end(x, y);
    }
    picture(&drawing, end + 28.0, y + room.down + 6.0, false)
}

/// One page with the diagram of every sort, its rule in the W3C's EBNF, and the abstract
/// syntax; needs nothing but itself.
pub fn to_html(definition: &Definition) -> String {
    let name = on_one_line(&definition.name.text);
    let sorts = definition.sorts();
    let links: Vec<String> = sorts
        .iter()
        .map(|(sort, _)| format!("<a href=\"#{0}\">{0}</a>", on_one_line(sort)))
        .collect();
    let mut out = format!(
        "<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<title>The grammar of {name}</title>\n<style>\nbody {{ font-family: sans-serif; color: #1d2733; margin: 2rem auto; max-width: 70rem; padding: 0 1rem }}\nsvg {{ display: block; max-width: 100%; height: auto }}\npre {{ background: #f5f7f9; padding: .8rem 1rem; overflow-x: auto }}\nnav a {{ margin-right: .8rem }}\nh2 {{ margin-top: 2.2rem }}\nsvg a:hover .sort {{ stroke-width: 2.5 }}\n{STYLE}</style>\n</head>\n<body>\n<h1>The grammar of {name}</h1>\n<nav>{}</nav>\n<p>Read each line from the left to the right. Boxes with round ends are texts as they are written, soft ones are tokens, square ones are sorts and lead to theirs; above a box stands the field that it is for.</p>\n",
        links.join(" ")
    );
    for (sort, forms) in &sorts {
        let mut drawing = Drawing {
            links: true,
            ..Drawing::default()
        };
        let (width, height) = rows(&mut drawing, definition, forms, MARGIN);
        out.push_str(&format!(
            "<h2 id=\"{0}\">{0}</h2>\n{1}",
            on_one_line(sort),
            picture(&drawing, width, height, false)
        ));
    }
    out.push_str(&format!(
        "<h2>In the EBNF of the W3C</h2>\n<pre>{}</pre>\n<h2>What the tree has</h2>\n<pre>{}</pre>\n</body>\n</html>\n",
        escaped_lines(&grammar::text(definition, Notation::W3c)),
        escaped_lines(&grammar::abstract_syntax(definition))
    ));
    out
}

fn escaped_lines(text: &str) -> String {
    let lines: Vec<String> = text.trim_end().lines().map(on_one_line).collect();
    lines.join("\n")
}

/// Draws each form on a row of its own, from a height down: how wide that is, and where it
/// ends.
fn rows(drawing: &mut Drawing, definition: &Definition, forms: &[&Form], top: f64) -> (f64, f64) {
    let (mut y, mut width) = (top, 0f64);
    for form in forms {
        let track = Track::of_form(definition, form);
        let room = track.room();
        drawing.out.push_str(&format!(
            "<text class=\"form\" x=\"{MARGIN}\" y=\"{:.0}\">{}</text>\n",
            y + NAME - 6.0,
            on_one_line(&form.name.text)
        ));
        y += NAME + room.up;
        let (start, end) = (MARGIN + 4.0, MARGIN + 24.0 + room.width);
        drawing.rail(start, MARGIN + 24.0, y);
        drawing.track(&track, MARGIN + 24.0, y);
        drawing.rail(end, end + 20.0, y);
        for x in [start, end + 20.0] {
            drawing.end(x, y);
        }
        width = width.max(end + 24.0 + MARGIN);
        y += room.down + BETWEEN;
    }
    (width, y)
}

/// A whole picture; one that stands alone carries its style.
fn picture(drawing: &Drawing, width: f64, height: f64, alone: bool) -> String {
    let width = width.max(200.0);
    let style = if alone {
        format!("<style>{STYLE}</style>\n<rect width=\"100%\" height=\"100%\" fill=\"white\"/>\n")
    } else {
        String::new()
    };
    format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{width:.0}\" height=\"{height:.0}\" viewBox=\"0 0 {width:.0} {height:.0}\">\n{style}{}</svg>\n",
        drawing.out
    )
}
