//! What can be read in a definition and is hardly meant: warnings, each with place, reason and what
//! to do.

use crate::definition::Definition;
use crate::diagnostic::Diagnostic;

mod brackets;
mod choices;
mod groups;
mod line_ends;
mod meanings;
mod names;
mod patterns;
mod ranks;
mod sorts;
mod spellings;
mod touching;
mod unrun;

/// Everything in a definition that is hardly meant, in the order of its text.
pub(crate) fn advice(definition: &Definition) -> Vec<Diagnostic> {
    let mut found = sorts::advice(definition);
    found.extend(ranks::advice(definition));
    found.extend(names::advice(definition));
    found.extend(meanings::advice(definition));
    found.extend(unrun::advice(definition));
    found.extend(brackets::advice(definition));
    found.extend(choices::advice(definition));
    found.extend(spellings::advice(definition));
    found.extend(patterns::advice(definition));
    found.extend(touching::advice(definition));
    found.extend(line_ends::advice(definition));
    found.extend(groups::advice(definition));
    found.sort_by_key(Diagnostic::start);
    found
}
