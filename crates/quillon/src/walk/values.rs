//! Values with their parts, as far as they are unfolded.

use std::collections::{HashMap, HashSet};

use quillon_core::debugging::{Stopped, Variable};
use quillon_core::values::Held;

/// The most parts of a value that are shown.
const MOST_PARTS: usize = 200;

/// How much of a value is shown, in bytes.
pub const LONGEST: usize = 400;

/// A line with a value.
#[derive(Clone)]
pub struct Row {
    pub name: String,
    pub text: String,
    /// How many values it is a part of.
    pub depth: usize,
    /// Whether it has parts, and whether they are shown.
    pub has_parts: bool,
    pub is_open: bool,
    /// Whether it holds something else than at the last stop.
    pub is_changed: bool,
    /// Whether it belongs to a function around, or to the state.
    pub belongs: Belongs,
    /// What tells it from all others.
    path: String,
}

/// Whose a variable is.
#[derive(Clone, Copy, PartialEq, Eq)]
pub enum Belongs {
    Call,
    Around,
    State,
}

/// The variables that are seen.
#[derive(Default)]
pub struct Values {
    pub rows: Vec<Row>,
    /// The paths of those whose parts are shown.
    open: HashSet<String>,
    /// What each held at the last stop.
    last: HashMap<String, String>,
    /// How deep the call is that is looked at, and how deep it was at the last stop.
    depth: usize,
    last_depth: usize,
}

impl Values {
    /// Takes what is seen where the run stands, from a call.
    pub fn look(&mut self, at: &Stopped<'_, '_, '_>, call: usize) {
        self.rows.clear();
        // The same name in another call is something else.
        let depth = at.calls().len() - call;
        self.depth = depth;
        for variable in at.variables(call) {
            let belongs = if variable.is_captured {
                Belongs::Around
            } else {
                Belongs::Call
            };
            self.add(&variable, belongs, depth);
        }
        for cell in at.state() {
            self.add(&cell, Belongs::State, 0);
        }
    }

    /// Takes note of what is seen, so that what changes from here on is known.
    pub fn note(&mut self) {
        let rows = self.rows.iter();
        self.last_depth = self.depth;
        self.last = rows
            .map(|row| (row.path.clone(), row.text.clone()))
            .collect();
    }

    /// Shows the parts of a value, or shows them no longer.
    pub fn unfold(&mut self, row: usize) {
        if let Some(row) = self.rows.get(row)
            && !self.open.remove(&row.path)
        {
            self.open.insert(row.path.clone());
        }
    }

    fn add(&mut self, variable: &Variable, belongs: Belongs, depth: usize) {
        let path = format!("{depth} {}", variable.name);
        self.add_row(&variable.name, &variable.value, belongs, 0, &path);
    }

    fn add_row(&mut self, name: &str, value: &Held, belongs: Belongs, depth: usize, path: &str) {
        let has_parts = value.count().is_some_and(|count| count > 0);
        let text = value.written_within(LONGEST);
        let is_open = has_parts && self.open.contains(path);
        // Where a call begins, nothing in it has changed.
        let is_changed = match self.last.get(path) {
            Some(last) => *last != text,
            None => depth == 0 && self.depth == self.last_depth,
        };
        self.rows.push(Row {
            name: name.to_owned(),
            is_changed,
            text,
            depth,
            has_parts,
            is_open,
            belongs,
            path: path.to_owned(),
        });
        if is_open {
            for (name, value) in parts(value) {
                let path = format!("{path}\n{name}");
                self.add_row(&name, &value, belongs, depth + 1, &path);
            }
        }
    }
}

/// The items of a list, or the entries of a map.
fn parts(value: &Held) -> Vec<(String, Held)> {
    if let Some(items) = value.items() {
        let numbered = items.into_iter().enumerate().take(MOST_PARTS);
        return numbered.map(|(at, item)| (at.to_string(), item)).collect();
    }
    let entries = value.entries().unwrap_or_default().into_iter();
    let entries = entries.take(MOST_PARTS);
    entries.map(|(key, value)| (key.written(), value)).collect()
}
