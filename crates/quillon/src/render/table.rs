//! Columns that line up, whatever is in them.

use anstyle::Style;
use unicode_width::UnicodeWidthStr;

use super::style::{QUIET, paint};
use quillon_render::plain::plain;

/// One cell: its text and how it looks.
#[derive(Clone, Debug)]
pub struct Cell {
    text: String,
    style: Style,
    right: bool,
}

impl Cell {
    /// A cell that starts at the left of its column.
    pub fn new(text: impl Into<String>, style: Style) -> Cell {
        Cell {
            text: plain(&text.into()).into_owned(),
            style,
            right: false,
        }
    }

    /// A cell that ends at the right of its column.
    pub fn right(text: impl Into<String>, style: Style) -> Cell {
        Cell {
            right: true,
            ..Cell::new(text, style)
        }
    }
}

/// Rows under headings, as lines. A last column is never padded.
pub fn lines(headings: &[&str], rows: &[Vec<Cell>]) -> Vec<String> {
    Columns::new(headings).lines(rows)
}

/// The widths of the columns of a table that comes in parts: later parts can widen them.
pub struct Columns {
    headings: Vec<String>,
    widths: Vec<usize>,
    begun: bool,
}

impl Columns {
    /// Columns as wide as their headings.
    pub fn new(headings: &[&str]) -> Columns {
        Columns {
            headings: headings.iter().map(|h| (*h).to_owned()).collect(),
            widths: headings.iter().map(|h| h.width()).collect(),
            begun: false,
        }
    }

    /// Further rows as lines; before the first, the headings.
    pub fn lines(&mut self, rows: &[Vec<Cell>]) -> Vec<String> {
        for row in rows {
            for (width, cell) in self.widths.iter_mut().zip(row) {
                *width = (*width).max(cell.text.width());
            }
        }
        let mut out = Vec::with_capacity(rows.len() + 1);
        if !std::mem::replace(&mut self.begun, true) {
            let right = |i: usize| {
                rows.first()
                    .is_some_and(|r| r.get(i).is_some_and(|c| c.right))
            };
            let head: Vec<Cell> = self
                .headings
                .iter()
                .enumerate()
                .map(|(i, heading)| Cell {
                    right: right(i),
                    ..Cell::new(heading.clone(), QUIET)
                })
                .collect();
            out.push(line(&head, &self.widths));
        }
        out.extend(rows.iter().map(|row| line(row, &self.widths)));
        out
    }
}

fn line(row: &[Cell], widths: &[usize]) -> String {
    let mut out = String::new();
    let last = row
        .iter()
        .rposition(|cell| !cell.text.is_empty())
        .unwrap_or(0);
    for (index, cell) in row.iter().enumerate().take(last + 1) {
        let pad = " ".repeat(widths[index].saturating_sub(cell.text.width()));
        if index > 0 {
            out.push_str("  ");
        }
        if cell.right {
            out.push_str(&pad);
        }
        out.push_str(&paint(cell.style, &cell.text));
        if !cell.right && index < last {
            out.push_str(&pad);
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    fn cells(texts: [&str; 2]) -> Vec<Cell> {
        vec![
            Cell::right(texts[0], Style::new()),
            Cell::new(texts[1], Style::new()),
        ]
    }

    /// Lines without their styles.
    fn plain(lines: &[String]) -> Vec<String> {
        lines
            .iter()
            .map(|line| anstream::adapter::strip_str(line).to_string())
            .collect()
    }

    #[test]
    fn columns_line_up_by_what_is_seen() {
        let rows = [
            cells(["1", "水門"]),
            cells(["100", ""]),
            cells(["20", "gate"]),
        ];
        assert_eq!(
            plain(&lines(&["no", "name"], &rows)),
            [" no  name", "  1  水門", "100", " 20  gate"]
        );
    }

    #[test]
    fn a_table_in_parts_has_its_headings_once_and_only_grows_wider() {
        let mut columns = Columns::new(&["n", "name"]);
        assert_eq!(
            plain(&columns.lines(&[cells(["1", "a"])])),
            ["n  name", "1  a"]
        );
        assert_eq!(plain(&columns.lines(&[cells(["1000", "b"])])), ["1000  b"]);
        assert_eq!(plain(&columns.lines(&[cells(["2", "c"])])), ["   2  c"]);
    }
}
