//! What the stretches of a definition or a case file are to the eye, whatever is wrong in them.

use std::sync::Arc;

use super::arranging::{is_one_clause, mode_of};
use super::reading::{Mode, Word, content_of, first_word, items, lex, split_bars};
use crate::source::{SourceText, Span};

/// What a stretch is.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Spelt {
    /// A word: of the notation, or a name.
    Name,
    Number,
    /// A quoted text, or a class of characters.
    Text,
    /// A program in backquotes, or a line of one behind a bar.
    Program,
    Sign,
    Comment,
}

/// The stretches of a text, in order.
pub(crate) fn spelt(source: &Arc<SourceText>) -> Vec<(Span, Spelt)> {
    let mut found = Vec::new();
    let (all, stray) = items(source);
    for item in &all {
        let head = source.slice(item.head);
        let mode = mode_of(head);
        if is_one_clause(head) {
            words(source, item.span(), mode, &mut found);
            continue;
        }
        // The title of a case is no notation.
        if head.starts_with("case") {
            let start = item.head.start as usize;
            let word = Span::new(start, start + first_word(head).len());
            found.push((word, Spelt::Name));
        } else {
            words(source, item.head, mode, &mut found);
        }
        for clause in &item.clauses {
            words(source, *clause, mode, &mut found);
        }
    }
    for span in stray {
        words(source, span, Mode::Plain, &mut found);
    }
    found.sort_by_key(|(span, _)| *span);
    with_lines(source, found)
}

fn words(source: &Arc<SourceText>, span: Span, mode: Mode, found: &mut Vec<(Span, Spelt)>) {
    for part in split_bars(source, span).1 {
        let lexemes = lex(source, part, mode, &mut Vec::new());
        found.extend(lexemes.into_iter().filter_map(|lexeme| {
            let what = match lexeme.word {
                Word::Name(_) => Spelt::Name,
                Word::Integer(_) | Word::Number(_) => Spelt::Number,
                Word::Text(_) | Word::Class(_) => Spelt::Text,
                Word::Program(_) => Spelt::Program,
                Word::Sign(_) | Word::Odd(_) => Spelt::Sign,
                Word::End => return None,
            };
            Some((lexeme.span, what))
        }));
    }
}

/// Puts the comments and the lines behind bars between the words.
fn with_lines(source: &SourceText, words: Vec<(Span, Spelt)>) -> Vec<(Span, Spelt)> {
    let mut all = Vec::with_capacity(words.len());
    let mut words = words.into_iter().peekable();
    let mut end = 0;
    for line in 1..=source.line_count() as u32 {
        let span = source.line_span(line);
        while let Some(word) = words.next_if(|(word, _)| word.start < span.end) {
            end = word.0.end;
            all.push(word);
        }
        let rest = Span {
            start: end.max(span.start).min(span.end),
            end: span.end,
        };
        let text = source.slice(rest);
        let start = rest.start as usize + text.len() - text.trim_start().len();
        let stretch = Span::new(start, start + text.trim().len());
        if text.trim().starts_with("--") {
            all.push((stretch, Spelt::Comment));
        } else if content_of(source, line).is_some_and(|(indent, content)| {
            indent > 0 && content == stretch && source.slice(content).starts_with('|')
        }) {
            all.push((stretch, Spelt::Program));
        }
    }
    all
}
