//! A definition or a case file with its columns in order: what clauses say stands in one column, as do
//! the expectations of examples that follow each other, the arms of a `match` and the comments behind
//! lines; what goes on stands as deep as its brackets. Only blanks and empty lines change.
//!
//! `rows` finds what each line is, `cells` where its columns begin, `columns` sets them under each other.
//! `begun` tells the column of a line that is being typed.

mod begun;
mod cells;
mod columns;
mod rows;

use std::sync::Arc;

use super::reading::{Mode, Word, first_word, items, lex, split_bars};
use crate::diagnostic::Diagnostic;
use crate::source::{SourceText, Span};

pub use begun::column_of_begun_line;

/// A definition or a case file with its columns in order.
///
/// # Errors
/// What cannot be read even as words: a quoted text that is never closed.
pub fn arranged(source: &Arc<SourceText>) -> Result<String, Box<Diagnostic>> {
    let rows = rows::rows(source)?;
    let text = columns::written(&rows);
    let end = if source.text().contains("\r\n") {
        "\r\n"
    } else {
        "\n"
    };
    let text: String = text.iter().flat_map(|line| [line.as_str(), end]).collect();
    let new = SourceText::new(source.name(), text.as_str());
    // What cannot be put in order without saying something else stays as it is.
    let is_same = said(source) == said(&new);
    Ok(if is_same {
        text
    } else {
        source.text().to_owned()
    })
}

/// How the words of an item are told apart.
pub(in crate::definition) fn mode_of(head: &str) -> Mode {
    if first_word(head) == "tokens" {
        Mode::Pattern
    } else {
        Mode::Plain
    }
}

/// Whether all lines of an item are one clause.
pub(in crate::definition) fn is_one_clause(head: &str) -> bool {
    first_word(head) == "define"
}

/// What a text says, without its blanks.
#[derive(PartialEq)]
struct Said<'a> {
    /// Of each head and each clause its words and its program.
    parts: Vec<(Vec<Word>, Option<String>)>,
    comments: Vec<&'a str>,
}

fn said(source: &Arc<SourceText>) -> Said<'_> {
    let (items, stray) = items(source);
    let mut parts = Vec::new();
    let mut say = |span: Span, mode: Mode| {
        let (program, rest) = split_bars(source, span);
        let lexemes = rest
            .into_iter()
            .flat_map(|span| lex(source, span, mode, &mut Vec::new()));
        parts.push((lexemes.map(|lexeme| lexeme.word).collect(), program));
    };
    for item in &items {
        let head = source.slice(item.head);
        let mode = mode_of(head);
        if is_one_clause(head) {
            say(item.span(), mode);
            continue;
        }
        say(item.head, mode);
        item.clauses.iter().for_each(|clause| say(*clause, mode));
    }
    stray.into_iter().for_each(|span| say(span, Mode::Plain));
    let lines = source.text().lines().map(str::trim);
    Said {
        parts,
        comments: lines.filter(|line| line.starts_with("--")).collect(),
    }
}
