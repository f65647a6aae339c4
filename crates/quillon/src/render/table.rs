//! Columns that line up, whatever is in them.

use anstyle::Style;
use unicode_width::UnicodeWidthStr;

use super::style::{QUIET, paint};

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
            text: text.into(),
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
    let mut widths: Vec<usize> = headings.iter().map(|h| h.width()).collect();
    for row in rows {
        for (width, cell) in widths.iter_mut().zip(row) {
            *width = (*width).max(cell.text.width());
        }
    }
    let head: Vec<Cell> = headings
        .iter()
        .enumerate()
        .map(|(i, heading)| {
            let right = rows
                .first()
                .is_some_and(|row| row.get(i).is_some_and(|c| c.right));
            Cell {
                right,
                ..Cell::new(*heading, QUIET)
            }
        })
        .collect();
    std::iter::once(&head)
        .chain(rows)
        .map(|row| line(row, &widths))
        .collect()
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
