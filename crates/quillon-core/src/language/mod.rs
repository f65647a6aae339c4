//! The facade: a language compiled from its definition, with each of its stages in a file of its
//! own, from texts to Core and bytecode.

mod checks;
mod compile;
mod core;
mod examined;
mod interactive;
mod kept;
mod lacks;
mod names;
mod parts;
mod prepared;
mod signs;
mod surfaces;
mod tokens;
mod told;
mod tree;
mod writing;

use std::sync::Arc;

use crate::advising;
use crate::definition::Definition;
use crate::diagnostic::{Diagnostic, Diagnostics, Outcome, has_errors};
use crate::lexing::{self, Lexer, Signs};
use crate::meaning;
use crate::parsing::Parser;
use crate::source::SourceText;
use crate::typing;

pub use core::{Compiled, Surroundings};
pub use examined::Examined;
pub use interactive::Possible;
pub use lacks::Stage;
pub use prepared::Prepared;
pub(crate) use prepared::Ready;
pub(crate) use tree::Extent;
pub use tree::Reading;

/// A language, compiled from its definition. Copies share all of it.
#[derive(Clone, Debug)]
pub struct Language {
    shared: Arc<Shared>,
    /// Whether the types of programs are left unchecked.
    types_off: bool,
    /// The signs that are operators before a text begins, if not just those that are built in.
    signs: Option<Arc<Signs>>,
}

#[derive(Debug)]
struct Shared {
    definition: Arc<Definition>,
    lexer: Lexer,
    parser: Option<Parser>,
    /// The same, with what it checks in place of what it means, if it checks anything.
    checking: Option<Definition>,
    /// The same in its other surfaces.
    surfaces: Vec<Language>,
    /// What was said beside it when it was made.
    warnings: Vec<Diagnostic>,
}

impl Language {
    /// Makes a language of the text of its definition; `name` is what messages call the text. What is
    /// said beside it, though there are no errors, is in [`Language::warnings`].
    ///
    /// # Errors
    /// All that is wrong with the definition.
    pub fn from_text(
        name: impl Into<String>,
        text: impl Into<String>,
    ) -> Result<Language, Diagnostics> {
        Language::load(&SourceText::new(name.into(), text.into())).into_result()
    }

    /// Warnings and notes about the definition.
    pub fn warnings(&self) -> &[Diagnostic] {
        &self.shared.warnings
    }

    /// Reads, checks and compiles a definition. The value is there only when it has no
    /// errors; warnings and notes may come with it.
    pub fn load(source: &Arc<SourceText>) -> Outcome<Language> {
        let Outcome {
            value,
            mut diagnostics,
        } = Definition::read(source);
        let Some(definition) = value else {
            return Outcome::failed(diagnostics);
        };
        diagnostics.extend(meaning::check(&definition));
        diagnostics.sort_by_key(Diagnostic::start);
        if has_errors(&diagnostics) {
            return Outcome::failed(diagnostics);
        }
        let value = match Language::compile(definition, &diagnostics) {
            Ok(language) => Some(language),
            Err(errors) => {
                diagnostics.extend(errors);
                None
            }
        };
        Outcome { value, diagnostics }
    }

    /// Whether this is a copy of another: the same definition, compiled once.
    pub fn is(&self, other: &Language) -> bool {
        Arc::ptr_eq(&self.shared, &other.shared) && self.types_off == other.types_off
    }

    /// The same language, whose programs run without their types being checked.
    #[must_use]
    pub fn without_types(&self) -> Language {
        Language {
            types_off: true,
            ..self.clone()
        }
    }

    /// Whether the types of programs are found before they run.
    pub fn checks_types(&self) -> bool {
        !self.types_off && self.definition().is_typed()
    }

    /// The definition, to be kept.
    pub(crate) fn shared_definition(&self) -> Arc<Definition> {
        Arc::clone(&self.shared.definition)
    }

    /// The definition.
    pub fn definition(&self) -> &Definition {
        &self.shared.definition
    }

    /// What is probably not meant in the definition: warnings and notes, found by looking
    /// longer than every command should.
    pub fn advice(&self) -> Vec<Diagnostic> {
        let mut found = lexing::mistakes(&self.shared.definition, &self.shared.lexer);
        found.extend(typing::impossible(&self.shared.definition));
        found.extend(meaning::repeats(&self.shared.definition));
        found.extend(advising::advice(&self.shared.definition));
        found
    }

    /// The compiled tokens.
    pub fn lexer(&self) -> &Lexer {
        &self.shared.lexer
    }

    /// The compiled grammar, when there are forms with a `written` clause.
    pub fn parser(&self) -> Option<&Parser> {
        self.shared.parser.as_ref()
    }

    /// An outcome with its errors in the words of the definition.
    pub(crate) fn worded<T>(&self, mut outcome: Outcome<T>) -> Outcome<T> {
        self.shared.definition.reword(&mut outcome.diagnostics);
        outcome
    }
}
