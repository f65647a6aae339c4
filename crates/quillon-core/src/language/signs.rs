//! Signs that were made operators by what came before a text.

use std::sync::Arc;

use super::Language;
use crate::lexing::Tokens;
use crate::parsing::signs_after;
use crate::tree::Tree;

impl Language {
    /// The same language, after a text in which signs may have been declared; nothing if it is the
    /// same still.
    pub(crate) fn after(&self, tree: &Tree) -> Option<Language> {
        self.definition().ranks()?;
        let signs = signs_after(self.definition(), tree, &mut |_, _| {});
        Some(Language {
            signs: Some(Arc::new(signs.at_end())),
            ..self.clone()
        })
    }

    /// The same language, after all that another one has met.
    pub(crate) fn after_all_of(&self, other: &Language) -> Language {
        Language {
            signs: other.signs.clone(),
            ..self.clone()
        }
    }

    /// Tokens of a text that comes after all that the language has met.
    pub(super) fn met(&self, tokens: Tokens) -> Tokens {
        match &self.signs {
            Some(signs) => Tokens {
                signs: Arc::clone(signs),
                ..tokens
            },
            None => tokens,
        }
    }
}
