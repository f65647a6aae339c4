//! The names that can be typed where a run stands.

use quillon_core::debugging::Stopped;
use serde_json::{Value, json};

/// The names that a call sees and that what stands before the cursor may be the beginning of.
pub fn told(at: &Stopped<'_, '_, '_>, call: usize, arguments: &Value) -> Value {
    let text = arguments["text"].as_str().unwrap_or_default();
    let number = |name: &str| arguments[name].as_u64().unwrap_or(1).max(1) as usize - 1;
    let line = text.lines().nth(number("line")).unwrap_or_default();
    let before = first_units(line, number("column"));
    let variables = at.variables(call).into_iter();
    let cells = at.state().into_iter();
    let mut names: Vec<(String, &str)> = variables
        .map(|one| (one.name, "variable"))
        .chain(cells.map(|one| (one.name, "property")))
        .collect();
    names.sort();
    names.dedup_by(|one, other| one.0 == other.0);
    let begun = names.iter().filter_map(|(name, kind)| {
        let length = typed_of(name, before)?;
        let units = |text: &str| text.encode_utf16().count();
        Some(json!({
            "label": name,
            "type": kind,
            "start": units(&before[..before.len() - length]),
            "length": units(&before[before.len() - length..]),
        }))
    });
    json!({ "targets": begun.collect::<Vec<_>>() })
}

/// The text up to so many units of UTF-16.
fn first_units(text: &str, count: usize) -> &str {
    let mut left = count;
    let end = text.char_indices().find(|(_, char)| {
        let fits = left >= char.len_utf16();
        left = left.saturating_sub(char.len_utf16());
        !fits
    });
    end.map_or(text, |(at, _)| &text[..at])
}

/// How many bytes of a name have been typed at the end of a text; nothing if what is typed there is something
/// else.
fn typed_of(name: &str, text: &str) -> Option<usize> {
    let ends = name.char_indices().map(|(at, char)| at + char.len_utf8());
    let is_in_word = |char: Option<char>| char.is_some_and(char::is_alphanumeric);
    let begun = ends.filter(|end| {
        let before = text.strip_suffix(&name[..*end]);
        before.is_some_and(|before| !is_in_word(before.chars().last()))
    });
    let nothing = (!is_in_word(text.chars().last())).then_some(0);
    begun.max().or(nothing)
}
