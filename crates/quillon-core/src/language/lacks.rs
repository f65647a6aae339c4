//! What a definition must have got to before some work is possible.

use super::Language;
use crate::diagnostic::{Diagnostic, codes};

/// What a definition must have got to for some work to be possible.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
#[non_exhaustive]
pub enum Stage {
    /// Splitting a text into tokens.
    Tokens,
    /// Reading a text as a tree.
    Tree,
    /// Finding the types of a program.
    Types,
    /// Running a program.
    Meaning,
    /// Reducing a program.
    Reduction,
}

impl Language {
    /// What the definition lacks for some work, as an error for the designer.
    pub fn lacks(&self, stage: Stage) -> Option<Diagnostic> {
        let name = &self.shared.definition.name.text;
        let lack = |message: String, remedy: &str| {
            Some(
                Diagnostic::error(codes::DEFINITION_LACKS, message)
                    .at(
                        &self.shared.definition.source,
                        self.shared.definition.name.span,
                    )
                    .remedy(remedy),
            )
        };
        if !self.shared.lexer.has_kinds() {
            return lack(
                format!("{name} has no tokens yet, so its programs cannot be tokenized"),
                "add an item `tokens` with a line for each kind of token",
            );
        }
        if stage != Stage::Tokens && self.shared.parser.is_none() {
            return lack(
                format!(
                    "{name} can be tokenized, and has no forms yet: its programs cannot be read as trees"
                ),
                "add an item `form NAME` with a clause `written …`",
            );
        }
        if stage == Stage::Types && !self.definition().is_typed() {
            return lack(
                format!("{name} has no types yet: none of its forms has a `typed` clause"),
                "add a clause `typed …` to each form: `typed left, right : number gives number`",
            );
        }
        if stage == Stage::Reduction && !self.definition().is_reducing() {
            return lack(
                format!("{name} has no rules of reduction, so its programs cannot be rewritten"),
                "add `is value` to the forms that are finished, and `reduces … to …` to others",
            );
        }
        let no_meaning = self
            .definition()
            .forms
            .iter()
            .all(|form| form.means.is_none());
        if stage == Stage::Meaning && no_meaning {
            return lack(
                format!("{name} can be parsed, and has no meaning yet: its programs cannot be run"),
                "add a clause `means …` to each form",
            );
        }
        None
    }
}
