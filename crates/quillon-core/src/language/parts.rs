//! What can be said of a text that is wrong: one stage does not shut out the next. What follows
//! only from what could not be read is no error of its own.

use super::core::Found;
use super::{Language, Surroundings};
use crate::diagnostic::{Diagnostic, codes};
use crate::meaning;
use crate::parsing::Parts;
use crate::scoping::Names;
use crate::tree::Tree;

impl Language {
    /// What names, types and jumps come to in what could be read of a text, of which some things
    /// are said already.
    pub(super) fn found_in_parts(
        &self,
        parts: &Parts,
        said: &[Diagnostic],
        around: Surroundings<'_>,
    ) -> Found {
        let mut found = self.found_in_parts_before_core(parts, said, around);
        // One in a gap may be what ends a jump.
        if let Some(names) = found.names.as_ref().filter(|_| parts.gaps.is_empty()) {
            let lost = self.lost_jumps(&parts.tree, names, said);
            found.diagnostics.extend(lost);
        }
        found
    }

    /// What names and types come to there.
    pub(super) fn found_in_parts_before_core(
        &self,
        parts: &Parts,
        said: &[Diagnostic],
        around: Surroundings<'_>,
    ) -> Found {
        let tree = &parts.tree;
        let names = self.names(tree, around.names);
        let mut found = Found {
            names: names.value,
            types: None,
            diagnostics: names.diagnostics,
        };
        if let Some(names) = found.names.as_ref().filter(|_| self.checks_types()) {
            let types = self.types(tree, names, around.types);
            found.diagnostics.extend(types.diagnostics);
            found.types = types.value;
        }
        found.diagnostics.retain(|one| is_sure(one, parts));
        // Of a text that cannot stand where it stands, nothing else is said.
        let is_said = |one: &Diagnostic| said.iter().any(|other| other.start() == one.start());
        found.diagnostics.retain(|one| !is_said(one));
        found
    }

    /// Jumps that nothing around them ends, where nothing else is said already.
    pub(super) fn lost_jumps(
        &self,
        tree: &Tree,
        names: &Names,
        said: &[Diagnostic],
    ) -> Vec<Diagnostic> {
        let made = self.core_by(tree, names, meaning::program);
        let mut found = made.diagnostics;
        let is_said = |one: &Diagnostic| said.iter().any(|other| other.start() == one.start());
        found.retain(|one| one.code == codes::NAME_LANDING && !is_said(one));
        found
    }
}

/// Whether an error is one whatever stands in the gaps: a name may be bound in them, and so may
/// what opens a scope or ends a jump; and what is typed may be read otherwise.
fn is_sure(one: &Diagnostic, parts: &Parts) -> bool {
    if parts.gaps.is_empty() {
        return true;
    }
    if one.code != codes::NAME_UNBOUND {
        return false;
    }
    let source = parts.tree.source();
    let name = one.place.as_ref().map(|place| source.slice(place.span));
    let mut gaps = parts.gaps.iter().map(|gap| source.slice(*gap));
    name.is_some_and(|name| !gaps.any(|gap| gap.contains(name)))
}
