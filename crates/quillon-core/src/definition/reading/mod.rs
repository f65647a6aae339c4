//! From the text of a definition to the model of it.

mod brackets;
mod cursor;
mod example;
mod expectation;
mod form;
mod form_item;
mod functions;
mod habits;
mod include;
mod item;
mod laid_out;
mod lexer;
mod line;
mod lines;
mod meaning;
mod names;
mod pattern;
mod reduces;
mod signs;
mod trial;
mod typed;
mod values;

pub(in crate::definition) use example::CaseReader;
pub(in crate::definition) use example::split_bars;
pub(in crate::definition) use expectation::EXPECTATIONS;
pub use include::with_includes;
pub(in crate::definition) use item::Reader;
pub(in crate::definition) use lexer::{Lexeme, Mode, Word, lex, names_in};
pub(crate) use lines::first_word;
pub(in crate::definition) use lines::{Item, content_of, items};
pub(crate) use meaning::is_reserved;

/// The words that items begin with, and those that the clauses of a form begin with.
#[cfg(test)]
pub(in crate::definition) const WORDS: [&[&str]; 2] = [&lines::ITEMS, &form_item::FORM_CLAUSES];
