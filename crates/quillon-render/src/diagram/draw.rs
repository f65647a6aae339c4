//! Draws railroads as SVG. Every stretch knows how wide it is and how far it reaches above
//! and below its rail; then each is put in its place, from the left to the right.

use unicode_width::UnicodeWidthStr;

use super::track::{Stop, Track};
use crate::xml::on_one_line;

/// Sizes in pixels: half the height of a box, the radius of a curve, the least distance
/// between stretches, the width of a letter, and the height of a field's name.
const HALF: f64 = 13.0;
const CURVE: f64 = 10.0;
const GAP: f64 = 10.0;
const LETTER: f64 = 8.0;
const FIELD: f64 = 13.0;

/// A place in the drawing.
#[derive(Clone, Copy, Debug)]
struct Point {
    x: f64,
    y: f64,
}

/// How much room a stretch takes.
#[derive(Clone, Copy, Debug)]
pub(super) struct Room {
    pub width: f64,
    /// From the rail up, and down.
    pub up: f64,
    pub down: f64,
}

impl Track {
    pub fn room(&self) -> Room {
        match self {
            Track::Box { text, field, .. } => {
                let own = text.width().max(1) as f64 * LETTER + 20.0;
                let above = field.as_ref().map_or(0.0, |f| f.width() as f64 * 6.5);
                Room {
                    width: own.max(above),
                    up: HALF + if field.is_some() { FIELD } else { 0.0 },
                    down: HALF,
                }
            }
            Track::Row(parts) => {
                let rooms: Vec<Room> = parts.iter().map(Track::room).collect();
                let gaps = rooms.len().saturating_sub(1) as f64 * GAP;
                Room {
                    width: (rooms.iter().map(|r| r.width).sum::<f64>() + gaps).max(GAP),
                    up: rooms.iter().map(|r| r.up).fold(0.0, f64::max),
                    down: rooms.iter().map(|r| r.down).fold(0.0, f64::max),
                }
            }
            Track::Fork(ways) => {
                let rooms: Vec<Room> = ways.iter().map(Track::room).collect();
                let lower = rooms.iter().skip(1).map(|r| GAP + r.up + r.down);
                let first_down = rooms.first().map_or(0.0, |r| r.down).max(CURVE);
                Room {
                    width: rooms.iter().map(|r| r.width).fold(0.0, f64::max) + 4.0 * CURVE,
                    up: rooms.first().map_or(0.0, |r| r.up),
                    down: first_down + lower.sum::<f64>(),
                }
            }
            Track::Loop(inner, back) => {
                let (inner, back) = (inner.room(), back.room());
                Room {
                    width: inner.width.max(back.width) + 4.0 * CURVE,
                    up: inner.up,
                    down: inner.down.max(CURVE) + GAP + back.up.max(2.0) + back.down,
                }
            }
        }
    }
}

/// A drawing in the making.
#[derive(Default)]
pub(super) struct Drawing {
    pub out: String,
    /// Whether boxes of sorts lead to their diagrams.
    pub links: bool,
}

impl Drawing {
    /// Draws a path.
    fn path(&mut self, path: &str) {
        self.out
            .push_str(&format!("<path class=\"rail\" d=\"{path}\"/>\n"));
    }

    /// Draws an end of a railroad.
    pub fn end(&mut self, x: f64, y: f64) {
        self.out.push_str(&format!(
            "<circle class=\"end\" cx=\"{x:.0}\" cy=\"{y:.0}\" r=\"4\"/>\n"
        ));
    }

    /// Draws a straight rail.
    pub fn rail(&mut self, from: f64, to: f64, y: f64) {
        if to - from > 0.1 {
            self.path(&format!("M{from:.0} {y:.0} H{to:.0}"));
        }
    }

    /// Draws a stretch whose rail starts at a point.
    pub fn track(&mut self, track: &Track, x: f64, y: f64) {
        match track {
            Track::Box { text, stop, field } => {
                self.stop(
                    text,
                    *stop,
                    field.as_deref(),
                    Point { x, y },
                    track.room().width,
                );
            }
            Track::Row(parts) => {
                let mut at = x;
                for (index, part) in parts.iter().enumerate() {
                    if index > 0 {
                        self.rail(at, at + GAP, y);
                        at += GAP;
                    }
                    self.track(part, at, y);
                    at += part.room().width;
                }
                self.rail(at, x + track.room().width, y);
            }
            Track::Fork(ways) => self.fork(ways, Point { x, y }, track.room().width),
            Track::Loop(inner, back) => self.turn(inner, back, Point { x, y }, track.room().width),
        }
    }

    fn stop(&mut self, text: &str, stop: Stop, field: Option<&str>, at: Point, width: f64) {
        let Point { x, y } = at;
        let own = text.width().max(1) as f64 * LETTER + 20.0;
        let left = x + (width - own) / 2.0;
        self.rail(x, left, y);
        self.rail(left + own, x + width, y);
        let (class, round) = match stop {
            Stop::Literal => ("literal", HALF),
            Stop::Token => ("token", 6.0),
            Stop::Sort => ("sort", 0.0),
        };
        let link = self.links && stop == Stop::Sort;
        if link {
            self.out
                .push_str(&format!("<a href=\"#{}\">", on_one_line(text)));
        }
        self.out.push_str(&format!(
            "<rect class=\"{class}\" x=\"{left:.0}\" y=\"{:.0}\" width=\"{own:.0}\" height=\"{:.0}\" rx=\"{round}\"/>",
            y - HALF,
            2.0 * HALF
        ));
        self.text("name", x + width / 2.0, y + 4.5, text);
        if link {
            self.out.push_str("</a>\n");
        }
        if let Some(field) = field {
            self.text("field", x + width / 2.0, y - HALF - 4.0, field);
        }
    }

    /// Writes a text around the middle of a place.
    fn text(&mut self, class: &str, x: f64, y: f64, text: &str) {
        self.out.push_str(&format!(
            "<text class=\"{class}\" x=\"{x:.0}\" y=\"{y:.1}\">{}</text>\n",
            on_one_line(text)
        ));
    }

    fn fork(&mut self, ways: &[Track], at: Point, width: f64) {
        let Point { x, y } = at;
        let inside = width - 4.0 * CURVE;
        let mut row = y;
        for (index, way) in ways.iter().enumerate() {
            let room = way.room();
            let left = x + 2.0 * CURVE;
            let right = left + inside;
            if index == 0 {
                self.rail(x, left, y);
                self.rail(right, right + 2.0 * CURVE, y);
                row += room.down.max(CURVE);
            } else {
                row += GAP + room.up;
                // Down from the rail, into the way, and up again at its end.
                self.path(&format!(
                    "M{x:.0} {y:.0} q{CURVE} 0 {CURVE} {CURVE} V{:.0} q0 {CURVE} {CURVE} {CURVE}",
                    row - CURVE
                ));
                self.path(&format!(
                    "M{right:.0} {row:.0} q{CURVE} 0 {CURVE} -{CURVE} V{:.0} q0 -{CURVE} {CURVE} -{CURVE}",
                    y + CURVE
                ));
            }
            let at = if index == 0 { y } else { row };
            self.track(way, left, at);
            self.rail(left + room.width, right, at);
            if index > 0 {
                row += room.down;
            }
        }
    }

    fn turn(&mut self, inner: &Track, back: &Track, at: Point, width: f64) {
        let Point { x, y } = at;
        let inside = width - 4.0 * CURVE;
        let (left, right) = (x + 2.0 * CURVE, x + 2.0 * CURVE + inside);
        let room = inner.room();
        let indent = (inside - room.width) / 2.0;
        self.rail(x, left + indent, y);
        self.track(inner, left + indent, y);
        self.rail(left + indent + room.width, right + 2.0 * CURVE, y);
        let below = back.room();
        let row = y + room.down.max(CURVE) + GAP + below.up.max(2.0);
        self.path(&format!(
            "M{right:.0} {y:.0} q{CURVE} 0 {CURVE} {CURVE} V{:.0} q0 {CURVE} -{CURVE} {CURVE}",
            row - CURVE
        ));
        self.path(&format!(
            "M{left:.0} {row:.0} q-{CURVE} 0 -{CURVE} -{CURVE} V{:.0} q0 -{CURVE} {CURVE} -{CURVE}",
            y + CURVE
        ));
        let indent = (inside - below.width) / 2.0;
        self.rail(left, left + indent, row);
        self.track(back, left + indent, row);
        self.rail(left + indent + below.width, right, row);
        // The way back is read from the right to the left.
        let middle = left + GAP / 2.0;
        self.path(&format!("M{:.0} {:.0} l-5 4 l5 4", middle + 2.0, row - 4.0));
    }
}
