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
    /// What is wrong, in the order of the text.
    pub diagnostics: Vec<Diagnostic>,
    /// What is right and perhaps not meant, in the order of the text.
    pub notes: Vec<Diagnostic>,
}

impl Language {
    /// Goes through all stages before a run.
    pub fn examined(&self, source: &Arc<SourceText>) -> Examined {
        let around = Surroundings::from(Around::Nothing);
        let read = self.read(source, Reading::Program);
        let mut diagnostics = read.tree.diagnostics;
        let (tree, found) = match (read.tree.value, read.parts) {
            (Some(tree), _) => {
                let found = self.found(&tree, around);
                (Some(tree), found)
            }
            (None, Some(parts)) => {
                let found = self.found_in_parts(&parts, &diagnostics, around);
                (Some(parts.tree), found)
            }
            (None, None) => (None, Found::default()),
        };
        diagnostics.extend(found.diagnostics);
        let mut notes = Vec::new();
        if let (Some(tree), Some(names)) = (&tree, &found.names) {
            if !has_errors(&diagnostics) {
                let lacks_nothing = self.lacks(super::Stage::Meaning).is_none();
                diagnostics.extend(
                    lacks_nothing
                        .then(|| self.core(tree, names).diagnostics)
                        .into_iter()
                        .flatten(),
                );
            }
            notes = scoping::notes(self.definition(), tree, names);
        }
        diagnostics.sort_by_key(Diagnostic::start);
        Examined {
            tree,
            names: found.names,
            types: found.types,
            diagnostics,
            notes,
        }
    }
}
