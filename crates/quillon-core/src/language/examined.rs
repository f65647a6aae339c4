//! All that the stages before a run find in a program, right or wrong.

use std::sync::Arc;

use super::core::Found;
use super::{Language, Reading, Surroundings};
use crate::diagnostic::{Diagnostic, has_errors};
use crate::scoping::{self, Around, Names};
use crate::source::SourceText;
use crate::tree::Tree;
use crate::typing::Types;

/// What the stages have found in a program, as far as each got.
#[derive(Debug)]
pub struct Examined {
    /// Its tree; of a wrong text, with gaps.
    pub tree: Option<Tree>,
    /// What its names mean.
    pub names: Option<Names>,
    /// Its types, if the language has any and checks them.
    pub types: Option<Types>,
    /// What is wrong, in the order of the text, as far as the Core does not tell.
    pub diagnostics: Vec<Diagnostic>,
    /// What is right and perhaps not meant, in the order of the text.
    pub notes: Vec<Diagnostic>,
    /// Whether the tree has gaps.
    pub(crate) has_gaps: bool,
}

impl Examined {
    /// Nothing but a tree of a text that is right.
    pub(crate) fn of_tree(tree: Tree) -> Examined {
        Examined {
            tree: Some(tree),
            names: None,
            types: None,
            diagnostics: Vec::new(),
            notes: Vec::new(),
            has_gaps: false,
        }
    }
}

impl Language {
    /// Goes through all stages before the Core.
    pub fn examined(&self, source: &Arc<SourceText>) -> Examined {
        let around = Surroundings::from(Around::Nothing);
        let read = self.read(source, Reading::Program);
        let mut diagnostics = read.tree.diagnostics;
        let mut has_gaps = false;
        let (tree, found) = match (read.tree.value, read.parts) {
            (Some(tree), _) => {
                let found = self.found_before_core(&tree, around);
                (Some(tree), found)
            }
            (None, Some(parts)) => {
                let found = self.found_in_parts_before_core(&parts, &diagnostics, around);
                has_gaps = !parts.gaps.is_empty();
                (Some(parts.tree), found)
            }
            (None, None) => (None, Found::default()),
        };
        diagnostics.extend(found.diagnostics);
        let mut notes = Vec::new();
        if let (Some(tree), Some(names)) = (&tree, &found.names) {
            notes = scoping::notes(self.definition(), tree, names);
        }
        diagnostics.sort_by_key(Diagnostic::start);
        Examined {
            tree,
            names: found.names,
            types: found.types,
            diagnostics,
            notes,
            has_gaps,
        }
    }

    /// What else is wrong in a program: what making its Core tells, which takes longer than all before
    /// it.
    pub fn wrong_in_core(&self, examined: &Examined) -> Vec<Diagnostic> {
        let (Some(tree), Some(names)) = (&examined.tree, &examined.names) else {
            return Vec::new();
        };
        let said = &examined.diagnostics;
        if !has_errors(said) {
            let lacks_nothing = self.lacks(super::Stage::Meaning).is_none();
            let found = lacks_nothing.then(|| self.core(tree, names).diagnostics);
            return found.unwrap_or_default();
        }
        if examined.has_gaps {
            return Vec::new();
        }
        self.lost_jumps(tree, names, said)
    }
}
