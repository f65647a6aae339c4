//! What a language has built-in, with help.

use quillon_core::Language;
use quillon_core::definition::Provided;
use quillon_core::diagnostic::{nearest, quote};
use quillon_core::editing::{help, signature};

use super::style::{FORM, QUIET};
use super::table::{self, Cell};

/// A line for each thing that is built in, or more about the one of a name.
pub fn listed(language: &Language, name: &str) -> Result<Vec<String>, String> {
    let definition = language.definition();
    let all = &definition.provides;
    if name.is_empty() {
        if all.is_empty() {
            let message = format!("{} has nothing built-in", definition.name.text);
            return Ok(vec![message]);
        }
        let rows: Vec<Vec<Cell>> = all.iter().map(row).collect();
        return Ok(table::lines(&["built-in", "what it gives"], &rows));
    }
    let Some(found) = all.iter().find(|provided| provided.name.text == name) else {
        let near = nearest(name, all.iter().map(|p| p.name.text.as_str()));
        let hint = near.map_or(String::new(), |near| {
            format!("; did you mean {}?", quote(near))
        });
        return Err(format!("nothing built-in is called {}{hint}", quote(name)));
    };
    let span = definition
        .source
        .line_span(definition.source.line_of(found.name.span.start));
    let mut lines = table::lines(&["built-in", "what it gives"], &[row(found)]);
    lines.push(format!("    {}", definition.source.slice(span).trim()));
    Ok(lines)
}

fn row(provided: &Provided) -> Vec<Cell> {
    vec![
        Cell::new(signature(provided), FORM),
        Cell::new(help(provided), QUIET),
    ]
}
