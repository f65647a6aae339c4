//! From a tree to its source.

use std::sync::Arc;

use super::tree::chosen;
use super::{Language, Reading};
use crate::printing::{self, Brackets, Comments};
use crate::source::{SourceText, Span};
use crate::tree::{Tree, What};

impl Language {
    /// The source of a tree, with the fewest brackets or with all, and with the comments
    /// given; nothing if there is a part that cannot be written. A tree that was read in
    /// another surface of the language is written in this one.
    pub fn source_of(
        &self,
        tree: &Tree,
        brackets: Brackets,
        comments: &Comments,
    ) -> Option<String> {
        let parser = self.shared.parser.as_ref()?;
        printing::source_of(
            &self.shared.definition,
            &self.shared.lexer,
            parser,
            tree,
            brackets,
            comments,
        )
    }

    /// The comments of a text, to be written with the tree of it.
    pub fn comments(&self, source: &Arc<SourceText>) -> Comments {
        Comments::of(&self.shared.lexer, source)
    }

    /// The first token of a tree that stands for something else in this surface of the language:
    /// a name that is a word here.
    pub fn stranger(&self, tree: &Tree) -> Option<Span> {
        let lexer = &self.shared.lexer;
        let mut waiting = vec![tree.root()];
        while let Some(id) = waiting.pop() {
            if let What::Token(kind) = tree.node(id).what
                && !lexer.is_piece(kind)
                && !lexer.is_one(kind, tree.text(id))
            {
                return Some(tree.node(id).span);
            }
            for index in (0..tree.field_count(id)).rev() {
                waiting.extend(tree.children(id, index).iter().rev());
            }
        }
        None
    }

    /// Writes a tree with comments, reads it again as the same entry and compares; what was
    /// written, if another tree came of it.
    pub fn round_trip(
        &self,
        tree: &Tree,
        comments: &Comments,
        reading: Reading<'_>,
    ) -> Result<(), String> {
        let Some(parser) = &self.shared.parser else {
            return Ok(());
        };
        let (definition, lexer) = (&self.shared.definition, &self.shared.lexer);
        let mut result = Ok(());
        for entry in chosen(parser, reading) {
            result = printing::round_trip(definition, lexer, parser, tree, comments, entry);
            if result.is_ok() {
                break;
            }
        }
        result
    }
}
