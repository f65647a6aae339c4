//! The state of a language as a table.

use quillon_core::values::Held;

use super::style::{FORM, QUIET, VALUE};
use super::table::{self, Cell};

/// A table of the cells before and after a run.
pub fn shown(before: &[(String, String)], after: &[(String, String)]) -> Vec<String> {
    let rows: Vec<Vec<Cell>> = before
        .iter()
        .zip(after)
        .map(|((name, before), (_, after))| {
            let changed = if before == after { QUIET } else { VALUE };
            vec![
                Cell::new(name, FORM),
                Cell::new(before, QUIET),
                Cell::new(after, changed),
            ]
        })
        .collect();
    if rows.is_empty() {
        return vec!["there is no state".to_owned()];
    }
    table::lines(&["state", "before", "after"], &rows)
}

/// A table of the cells as they are.
pub fn listed<'a>(cells: impl Iterator<Item = (&'a str, Held)>) -> Vec<String> {
    let rows: Vec<Vec<Cell>> = cells
        .map(|(name, value)| vec![Cell::new(name, FORM), Cell::new(value.written(), VALUE)])
        .collect();
    if rows.is_empty() {
        return vec!["there is no state".to_owned()];
    }
    table::lines(&["state", "value"], &rows)
}
