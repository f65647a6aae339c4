//! Trees as an outline.

use quillon_core::Language;
use quillon_core::tree::{Tree, lines};
use unicode_width::UnicodeWidthStr;

use super::indent;
use super::style::{FORM, QUIET, VALUE, paint};

/// The tree a line a node, with the places in a column of their own.
pub fn outline(language: &Language, tree: &Tree) -> Vec<String> {
    let lines = lines(language.definition(), language.lexer(), tree);
    let label = |line: &quillon_core::tree::Line| {
        let field = line
            .field
            .as_ref()
            .map_or(String::new(), |f| format!("{f}: "));
        let what = line.form.as_ref().or(line.value.as_ref());
        format!(
            "{}{field}{}",
            indent("  ", line.depth),
            what.map_or("", |w| w)
        )
    };
    let width = lines
        .iter()
        .map(|line| label(line).width())
        .max()
        .unwrap_or(0)
        .min(72);
    lines
        .iter()
        .map(|line| {
            let pad = " ".repeat(width.saturating_sub(label(line).width()));
            let field = line
                .field
                .as_ref()
                .map_or(String::new(), |f| paint(QUIET, format_args!("{f}: ")));
            let what = match (&line.form, &line.value) {
                (Some(form), _) => paint(FORM, form),
                (None, Some(value)) => paint(VALUE, value),
                (None, None) => String::new(),
            };
            let place = paint(QUIET, line.position);
            format!("{}{field}{what}{pad}  {place}", indent("  ", line.depth))
        })
        .collect()
}
