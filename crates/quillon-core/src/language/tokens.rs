//! From a text to tokens.

use std::sync::Arc;

use super::{Language, Stage};
use crate::diagnostic::Outcome;
use crate::lexing::Tokens;
use crate::source::SourceText;

impl Language {
    /// Splits a text into tokens.
    pub fn tokens(&self, source: &Arc<SourceText>) -> Outcome<Tokens> {
        match self.lacks(Stage::Tokens) {
            Some(lack) => Outcome::failed(vec![lack]),
            None => self.worded(self.shared.lexer.tokens(source)),
        }
    }

    /// Splits a text into tokens and keeps the ignored ones, too.
    pub fn all_tokens(&self, source: &Arc<SourceText>) -> Outcome<Tokens> {
        match self.lacks(Stage::Tokens) {
            Some(lack) => Outcome::failed(vec![lack]),
            None => self.worded(self.shared.lexer.all_tokens(source)),
        }
    }
}
