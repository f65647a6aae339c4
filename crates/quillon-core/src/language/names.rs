//! From a tree to what its names mean and which types it has.

use super::{Language, Stage};
use crate::diagnostic::Outcome;
use crate::scoping::{self, Around, Names};
use crate::tree::Tree;
use crate::typing::{self, Type, Types};

impl Language {
    /// Finds the types of a tree; `kept` are those of what a session has kept.
    pub fn types(&self, tree: &Tree, names: &Names, kept: &[Type]) -> Outcome<Types> {
        if let Some(lack) = self.lacks(Stage::Types) {
            return Outcome::failed(vec![lack]);
        }
        let (definition, lexer) = (&self.shared.definition, &self.shared.lexer);
        self.worded(typing::check(definition, lexer, tree, names, kept))
    }

    /// Finds what the names of a tree mean.
    pub fn names(&self, tree: &Tree, around: Around<'_>) -> Outcome<Names> {
        self.worded(scoping::resolve(&self.shared.definition, tree, around))
    }
}
