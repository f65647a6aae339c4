//! What can be said of a text that is wrong: one stage does not shut out the next. What follows
//! only from what could not be read is no error of its own.

use super::{Language, Surroundings};
use crate::diagnostic::{Diagnostic, codes};
use crate::meaning;
use crate::parsing::Parts;
use crate::scoping::Names;
use crate::tree::Tree;

impl Language {
    /// What names, types and jumps are wrong in what could be read of a text.
    pub(super) fn said_of_parts(
        &self,
        parts: &Parts,
        said: &[Diagnostic],
        around: Surroundings<'_>,
    ) -> Vec<Diagnostic> {
        let tree = &parts.tree;
        let names = self.names(tree, around.names);
        let mut found = names.diagnostics;
        if let Some(names) = names.value {
            if self.checks_types() {
                found.extend(self.types(tree, &names, around.types).diagnostics);
            }
            found.extend(self.lost_jumps(tree, &names));
        }
        found.retain(|one| is_sure(one, parts));
        // Of a text that cannot stand where it stands, nothing else is said.
        found.retain(|one| !said.iter().any(|other| other.start() == one.start()));
        found
    }

    /// Jumps that nothing around them ends.
    pub(super) fn lost_jumps(&self, tree: &Tree, names: &Names) -> Vec<Diagnostic> {
        let made = self.core_by(tree, names, meaning::program);
        let mut found = made.diagnostics;
        found.retain(|one| one.code == codes::NAME_LANDING);
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
