//! Programs made up from a definition.
//!
//! A text is derived from the grammar at random (`derive`), with tokens made up from their
//! patterns (`tokens`). What in it breaks the rules of names is mended (`mend`), so that
//! what comes out is a program that can be run. A program found to be interesting is made as
//! small as can be (`shrink`). Programs that are to be plausible are of ordinary words and numbers, what
//! fails in them is mended as well, and their lines stand as the language has them.

use std::sync::Arc;

use super::expect::position;
use crate::diagnostic::{Diagnostic, codes, nearest, quote};
use crate::language::{Language, Reading};
use crate::printing::{Brackets, Comments};
use crate::source::SourceText;

mod derive;
mod mend;
mod shrink;
mod signs;
mod tokens;

pub use shrink::shrink;

use derive::Derivation;
use mend::Mender;
use tokens::Taste;

/// Makes up programs of one language.
#[derive(Debug)]
pub struct Generator<'a> {
    language: &'a Language,
    derivation: Derivation<'a>,
    mender: Mender<'a>,
    entry: String,
    taste: Taste,
}

/// How often another text is tried before a seed is given up.
const MOST_TRIES: u64 = 20;

/// Of so many plausible programs the largest is taken.
const DRAFTS: usize = 4;

impl<'a> Generator<'a> {
    /// A generator of programs that find mistakes, or of texts of another sort that may stand alone.
    ///
    /// # Errors
    /// What the definition lacks, or that the sort may not stand alone.
    pub fn new(
        language: &'a Language,
        sort: Option<&str>,
    ) -> Result<Generator<'a>, Box<Diagnostic>> {
        Generator::of_taste(language, sort, Taste::Odd)
    }

    /// The same of programs that a person could have written: they use ordinary words and numbers, and run
    /// without an error.
    ///
    /// # Errors
    /// As for the others.
    pub fn plausible(
        language: &'a Language,
        sort: Option<&str>,
    ) -> Result<Generator<'a>, Box<Diagnostic>> {
        Generator::of_taste(language, sort, Taste::Plausible)
    }

    fn of_taste(
        language: &'a Language,
        sort: Option<&str>,
        taste: Taste,
    ) -> Result<Generator<'a>, Box<Diagnostic>> {
        let definition = language.definition();
        let parser = match (language.parser(), language.lacks(crate::Stage::Tree)) {
            (Some(parser), None) => parser,
            (_, lack) => {
                let lack = lack.unwrap_or_else(|| {
                    Diagnostic::error(codes::DEFINITION_LACKS, "there are no forms yet")
                });
                return Err(Box::new(lack));
            }
        };
        let entries: Vec<&str> = parser.entries().collect();
        let wanted = sort.unwrap_or(entries[0]);
        let Some(entry) = entries.iter().find(|entry| **entry == wanted) else {
            let listed: Vec<String> = entries.iter().map(|e| quote(e)).collect();
            let problem = Diagnostic::error(
                codes::DEFINITION_NAME,
                format!("{} may not stand alone", quote(wanted)),
            )
            .at(&definition.source, definition.name.span)
            .why(format!("what may stand alone is {}", listed.join(", ")))
            .did_you_mean(nearest(wanted, entries.iter().copied()))
            .remedy(format!("add {wanted} to `entries`"));
            return Err(Box::new(problem));
        };
        Ok(Generator {
            language,
            derivation: Derivation::new(parser, language.lexer(), taste),
            mender: Mender::new(language, taste),
            entry: (*entry).to_owned(),
            taste,
        })
    }

    /// The program of a seed, of about so many tokens: always the same. Nothing where the
    /// language has too few programs that keep the rules of names.
    pub fn program(&self, seed: u64, size: usize) -> Option<String> {
        let mut made = (0..MOST_TRIES).filter_map(|attempt| self.attempt(seed, attempt, size));
        match self.taste {
            Taste::Odd => made.next(),
            Taste::Plausible => {
                // What is mended gets smaller, sometimes until next to nothing is left.
                let largest = made.take(DRAFTS).max_by_key(String::len)?;
                Some(self.set_out(largest))
            }
        }
    }

    /// One attempt at the program of a seed.
    fn attempt(&self, seed: u64, attempt: u64, size: usize) -> Option<String> {
        // Seeds that follow each other must not make programs that are alike.
        let mixed = (seed ^ attempt.rotate_left(32)).wrapping_mul(0x9E37_79B9_7F4A_7C15);
        let mut rng = fastrand::Rng::with_seed(mixed);
        let mut text = self.derivation.text(&self.entry, size, &mut rng)?;
        // A line end may be no blank of the language.
        if self.language.lexer().tokens(&source(&text)).has_errors() {
            text.truncate(text.trim_end().len());
        }
        self.mended(&text, &mut rng)
    }

    /// A text with its lines in order, as if a person had written it.
    fn set_out(&self, text: String) -> String {
        let read = self
            .language
            .tree(&source(&text), Reading::Sort(&self.entry));
        let printed = read.value.and_then(|tree| {
            let comments = Comments::default();
            self.language.source_of(&tree, Brackets::Fewest, &comments)
        });
        printed.unwrap_or(text)
    }

    /// A text with all that breaks the rules of names mended, if it can be.
    pub(super) fn mended(&self, text: &str, rng: &mut fastrand::Rng) -> Option<String> {
        self.mender
            .mended(text, Reading::Sort(&self.entry), &self.derivation, rng)
    }

    /// The language.
    pub fn language(&self) -> &'a Language {
        self.language
    }

    pub(super) fn derivation(&self) -> &Derivation<'a> {
        &self.derivation
    }
}

/// The text of a generated program, for messages.
pub(super) fn source(text: &str) -> Arc<SourceText> {
    SourceText::new("generated program", text.to_owned())
}

/// Where an error points, as an offset.
fn offset(error: &Diagnostic) -> Option<u32> {
    position(error)?;
    Some(error.place.as_ref()?.span.start)
}
