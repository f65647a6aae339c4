//! Sets the columns of lines under each other.

use super::cells::Column;
use super::rows::{Place, Row};

/// How far the clauses of an item are set in, and one step.
pub(super) const STEP: usize = 2;

/// Lines whose widths differ by more do not share a column.
const WIDEST_DIFFERENCE: usize = 30;

/// A line in the course of being written.
struct Line {
    text: String,
    /// The width of the text in characters.
    width: usize,
    /// Where what its clause says begins.
    value: usize,
}

/// The lines of a text with their columns in order.
pub(super) fn written(rows: &[Row]) -> Vec<String> {
    let mut lines: Vec<Line> = rows.iter().map(begun).collect();
    for column in Column::LATER {
        indent(rows, &mut lines, column);
        for group in groups(rows, &lines, column) {
            let widest = group.iter().map(|at| lines[*at].width).max().unwrap_or(0);
            for at in group {
                let line = &mut lines[at];
                let cells = rows[at].cells.iter();
                line.pad(widest + column.gap());
                if column == Column::Value {
                    line.value = line.width;
                }
                cells
                    .filter(|cell| cell.column == column)
                    .for_each(|cell| line.push(&cell.text));
            }
        }
    }
    set_in_comments(rows, &mut lines);
    spaced(rows, lines)
}

impl Line {
    fn push(&mut self, text: &str) {
        self.text.push_str(text);
        self.width += text.chars().count();
    }

    fn pad(&mut self, width: usize) {
        while self.width < width {
            self.push(" ");
        }
    }
}

fn begun(row: &Row) -> Line {
    let mut line = Line {
        text: String::new(),
        width: 0,
        value: 0,
    };
    match row.place {
        // How deep what goes on is, is known when its clause is.
        Place::Blank | Place::Deeper(_) => {}
        Place::Comment { .. } | Place::Head | Place::Untouched => line.push(&row.cells[0].text),
        Place::Clause => {
            line.pad(STEP);
            line.push(&row.cells[0].text);
        }
        Place::Body(level) => {
            line.pad(STEP * level);
            line.push(&row.cells[0].text);
        }
        Place::Barred => {
            line.pad(2 * STEP);
            line.push(&row.cells[0].text);
        }
    }
    line
}

/// Begins the lines that go on with a clause, once it is known where what that says begins: before
/// what comes after that column.
fn indent(rows: &[Row], lines: &mut [Line], column: Column) {
    if column != Column::Role {
        return;
    }
    let values = item_values(rows, lines);
    let mut value = 0;
    for (row, line) in rows.iter().zip(lines) {
        match row.place {
            Place::Clause => {
                let usual = values.get(row.item).copied().flatten();
                value = usual.unwrap_or(2 * STEP);
            }
            Place::Deeper(level) => {
                line.pad(value + STEP * level);
                line.push(&row.cells[0].text);
            }
            Place::Blank
            | Place::Comment { .. }
            | Place::Head
            | Place::Body(_)
            | Place::Barred
            | Place::Untouched => {}
        }
    }
}

/// Where what the clauses of each item say begins, if one of them says something.
fn item_values(rows: &[Row], lines: &[Line]) -> Vec<Option<usize>> {
    let count = rows.last().map_or(0, |row| row.item + 1);
    let mut values = vec![None; count];
    for (row, line) in rows.iter().zip(lines) {
        if line.value > 0 {
            values[row.item] = Some(line.value);
        }
    }
    values
}

/// The lines that share a column.
fn groups(rows: &[Row], lines: &[Line], column: Column) -> Vec<Vec<usize>> {
    let mut groups: Vec<Vec<usize>> = Vec::new();
    let mut is_open = false;
    for (at, row) in rows.iter().enumerate() {
        let has = row.cells.iter().any(|cell| cell.column == column);
        if !has {
            let is_apart = matches!(
                row.place,
                Place::Blank | Place::Head | Place::Comment { .. }
            );
            is_open &= !is_apart;
            continue;
        }
        let last = groups.last_mut().filter(|group| {
            let before = group[group.len() - 1];
            let near = lines[before].width.abs_diff(lines[at].width) <= WIDEST_DIFFERENCE;
            let is_alike = rows[before].item == row.item && rows[before].place == row.place;
            is_alike && (column.is_of_item() || is_open && near)
        });
        match last {
            Some(group) => group.push(at),
            None => groups.push(vec![at]),
        }
        is_open = true;
    }
    groups
}

/// Comments stand as deep as what they are written above.
fn set_in_comments(rows: &[Row], lines: &mut [Line]) {
    let mut below: Option<usize> = None;
    for at in (0..rows.len()).rev() {
        match rows[at].place {
            // A comment apart from the item below it may belong to the one above.
            Place::Blank => below = below.filter(|depth| *depth > 0),
            Place::Comment { is_indented } => {
                let depth = below.unwrap_or(if is_indented { STEP } else { 0 });
                let mut line = Line {
                    text: String::new(),
                    width: 0,
                    value: 0,
                };
                line.pad(depth);
                line.push(&rows[at].cells[0].text);
                lines[at] = line;
                below = Some(depth);
            }
            Place::Head
            | Place::Clause
            | Place::Body(_)
            | Place::Deeper(_)
            | Place::Barred
            | Place::Untouched => {
                let text = &lines[at].text;
                below = Some(text.len() - text.trim_start().len());
            }
        }
    }
}

/// The lines with at most one empty one between them, and one before each item, unless it is a single line
/// like the one before it.
fn spaced(rows: &[Row], lines: Vec<Line>) -> Vec<String> {
    let before = item_starts(rows);
    let mut out: Vec<String> = Vec::new();
    let mut is_due = false;
    for ((row, line), begins_item) in rows.iter().zip(lines).zip(before) {
        is_due |= begins_item || row.place == Place::Blank;
        if row.place == Place::Blank {
            continue;
        }
        if std::mem::take(&mut is_due) && !out.is_empty() {
            out.push(String::new());
        }
        // Blanks at the end of a program's line, or of a text, may say something.
        let is_kept = matches!(row.place, Place::Untouched | Place::Barred);
        let text = if is_kept {
            &line.text
        } else {
            line.text.trim_end()
        };
        out.push(text.to_owned());
    }
    out
}

/// Of each line whether an empty one has to stand before it: it begins an item, or is the comment above one.
fn item_starts(rows: &[Row]) -> Vec<bool> {
    let count = rows.last().map_or(0, |row| row.item + 1);
    let mut sizes = vec![0; count];
    for row in rows {
        if !matches!(row.place, Place::Blank | Place::Comment { .. }) {
            sizes[row.item] += 1;
        }
    }
    let mut starts = vec![false; rows.len()];
    for (at, row) in rows.iter().enumerate() {
        let is_first = row.item == 0;
        if row.place != Place::Head || is_first || sizes[row.item] == 1 && sizes[row.item - 1] == 1
        {
            continue;
        }
        let is_comment = |row: &&Row| matches!(row.place, Place::Comment { .. });
        let comments = rows[..at].iter().rev().take_while(is_comment);
        starts[at - comments.count()] = true;
    }
    starts
}
