//! A language as its designer described it: the `.quillon` file, read and checked.
//!
//! `model` is what a definition says, as data. `reading` makes it of a text: `lines` splits the
//! file into items and clauses, `lexer` and `cursor` read the words of a clause, the others turn
//! clauses into the types of the model. `checking` ties names to what they name. Several mistakes
//! are reported in one go. `cases` reads files of cases; `arranging` puts the columns of both in
//! order; `spelling` tells what their words are to the eye.

mod arranging;
mod cases;
mod checking;
mod model;
mod reading;
mod spelling;

use std::sync::Arc;

use crate::diagnostic::Outcome;
use crate::source::{SourceText, Span};

pub use arranging::{arranged, column_of_begun_line};
pub use cases::{CaseFile, read_cases};
pub use model::*;
pub use reading::with_includes;
pub(crate) use reading::{first_word, is_reserved};
pub(crate) use spelling::{Spelt, spelt};

/// An item as it is written, whatever is wrong in it.
pub(crate) struct Noted {
    /// Its first line.
    pub head: Span,
    pub clauses: Vec<Span>,
    /// The words in it that are names, keywords among them.
    pub names: Vec<(Span, String)>,
}

/// The items of a definition as they are written.
pub(crate) fn outlined(source: &Arc<SourceText>) -> Vec<Noted> {
    let (items, _) = reading::items(source);
    let noted = items.into_iter().map(|item| Noted {
        names: {
            let has_patterns = source.slice(item.head).starts_with("tokens");
            reading::names_in(source, item.span(), has_patterns)
        },
        head: item.head,
        clauses: item.clauses,
    });
    noted.collect()
}

/// The words of a stretch of the notation that are names, keywords among them.
pub(crate) fn names_in(source: &Arc<SourceText>, span: Span) -> Vec<(Span, String)> {
    reading::names_in(source, span, false)
}

/// The words that the expectations of cases begin with.
#[cfg(test)]
pub(crate) fn words_of_expectations() -> &'static [&'static str] {
    &reading::EXPECTATIONS
}

/// The words that items begin with, and those that the clauses of a form begin with.
#[cfg(test)]
pub(crate) fn words_of_notation() -> [&'static [&'static str]; 2] {
    reading::WORDS
}

impl Definition {
    /// Reads and checks a definition. The value is there also when it has errors, so that
    /// the rest of it can be checked; it must not be used for more then.
    pub fn read(source: &Arc<SourceText>) -> Outcome<Definition> {
        let mut reader = reading::Reader::new(source);
        let mut definition = reader.definition();
        let mut diagnostics = reader.diagnostics;
        if let Some(definition) = &mut definition {
            definition.find_recursive_helpers();
            diagnostics.extend(checking::check(definition));
            checking::leave_out_mentions(definition, &mut diagnostics);
        }
        diagnostics.sort_by_key(crate::diagnostic::Diagnostic::start);
        Outcome {
            value: definition,
            diagnostics,
        }
    }

    /// The file extensions that a definition says it reads, whatever else is wrong
    /// with it.
    pub fn extensions_of(source: &Arc<SourceText>) -> Vec<String> {
        reading::Reader::new(source)
            .outside()
            .map_or_else(Vec::new, |definition| {
                let own = definition.extensions.into_iter();
                let others = definition.surfaces.into_iter().flat_map(|s| s.extensions);
                own.chain(others).map(|extension| extension.text).collect()
            })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn extensions_are_found_whatever_else_is_wrong() {
        let of = |text: &str| Definition::extensions_of(&SourceText::new("a.quillon", text));
        let text = "form Broken in\n  written \"(\n\nlanguage Gate\n  reads \".gate\", \".lock\"\n\ntokens\n  Odd [\n\nsurface Short reads \".short\"\n  Broken \"p\"\n";
        assert_eq!(of(text), [".gate", ".lock", ".short"]);
        assert!(of("").is_empty() && of("tokens\n  Blank \" \"+ ignored\n").is_empty());
    }
}
