//! Some words of a clause that should be others.

use std::ops::Range;

use super::super::lexer::{Lexeme, Word};
use crate::source::Span;

/// Some words that should be others.
#[derive(Clone, PartialEq, Debug)]
pub(super) struct Change {
    pub slip: Slip,
    /// The first of the words that are wrong, or the one before which some are missing.
    pub at: usize,
    pub count: usize,
    pub with: Vec<Word>,
    /// Another word that is missing, further on: the end of what is put in before `at`.
    pub end: Option<(usize, Word)>,
}

/// Why some words should be others.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Slip {
    Missing,
    Instead,
    Misspelt,
    TooMany,
    /// A word or a sign stands without its quotes.
    Quotes,
    /// Several steps stand where one may.
    Braces,
}

impl Change {
    /// Some words that should be one.
    pub fn one(slip: Slip, words: Range<usize>, word: Word) -> Change {
        Change {
            slip,
            at: words.start,
            count: words.len(),
            with: vec![word],
            end: None,
        }
    }

    /// Whether what is read with the change is what was meant: a word in quotes may be a part of
    /// something else, and what a bracket too many closes may open further left.
    pub fn is_meant(&self, words: &[Lexeme]) -> bool {
        match self.slip {
            Slip::Quotes => false,
            Slip::TooMany => !is_bracket(&words[self.at].word),
            Slip::Missing | Slip::Instead | Slip::Misspelt | Slip::Braces => true,
        }
    }

    /// The words of the clause with the change made.
    pub fn words(&self, words: &[Lexeme]) -> Vec<Lexeme> {
        let place = |at: usize| {
            let before = at.checked_sub(1).and_then(|before| words.get(before));
            before.map_or(words[at].span, |before| before.span.after())
        };
        let mut changed = words.to_vec();
        if let Some((at, word)) = &self.end {
            let span = place(*at);
            let word = word.clone();
            changed.insert(*at, Lexeme { word, span });
        }
        let span = match self.count {
            0 => place(self.at),
            count => words[self.at].span.to(words[self.at + count - 1].span),
        };
        let new = self.with.iter().map(|word| Lexeme {
            word: word.clone(),
            span,
        });
        changed.splice(self.at..self.at + self.count, new);
        changed
    }

    /// The text of the words that are wrong.
    pub fn span(&self, words: &[Lexeme]) -> Span {
        words[self.at]
            .span
            .to(words[self.at + self.count.max(1) - 1].span)
    }
}

pub(super) fn is_bracket(word: &Word) -> bool {
    matches!(word, Word::Sign("(" | ")" | "[" | "]" | "{" | "}"))
}

/// How a word is written.
pub(super) fn written(word: &Word) -> String {
    match word {
        Word::Name(name) => name.clone(),
        Word::Sign(sign) => (*sign).to_owned(),
        Word::Text(text) => format!("\"{text}\""),
        Word::Integer(_)
        | Word::Number(_)
        | Word::Class(_)
        | Word::Program(_)
        | Word::Odd(_)
        | Word::End => String::new(),
    }
}
