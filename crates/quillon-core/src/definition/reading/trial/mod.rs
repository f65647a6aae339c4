//! Reading a clause that is wrong: a few words are put in, exchanged or left out, the clause is read
//! again, and the change after which most can be read tells what is wrong (after Burke and Fisher,
//! 1987). What was read then stands for the clause, so that nothing follows from the slip.

mod candidates;
mod change;
mod told;

use std::sync::Arc;

use super::cursor::{Asked, Cursor};
use super::lexer::{Lexeme, Mode, Word, lex};
use crate::diagnostic::{Diagnostic, codes};
use crate::source::{SourceText, Span};

use change::{Change, Slip};

/// Clauses of more words than this are not mended.
const MOST_WORDS: usize = 2_000;

/// The signs that people leave out.
const FORGOTTEN: [&str; 9] = [")", "]", "}", ",", ";", "=>", "=", ":", "|"];

/// The rank of what is needed, and of all that is likelier.
const NEEDED: u8 = 4;

/// Words that may go on with what could be over.
const OPTIONAL: [&str; 6] = ["and", "or", "fits", "taking", "called", "as"];

/// So many words are looked left of the one where reading got stuck.
const LEFT: usize = 6;

/// A change with how far the clause can be read then, and how likely a slip it is.
struct Tried {
    reach: usize,
    rank: u8,
    change: Option<Change>,
}

/// What has been tried for a clause.
struct Attempts {
    /// The word where reading got stuck.
    stuck: usize,
    tried: Vec<Tried>,
}

/// Reads a clause: what was read, if it could be, with what is wrong.
pub(in crate::definition) fn read<T>(
    source: &Arc<SourceText>,
    span: Span,
    mode: Mode,
    diagnostics: &mut Vec<Diagnostic>,
    reader: impl Fn(&mut Cursor<'_>) -> Option<T>,
) -> Option<T> {
    let before = diagnostics.len();
    let words = lex(source, span, mode, diagnostics);
    let is_broken = diagnostics.len() > before;
    let trial = Trial {
        source,
        words: &words,
        reader: &reader,
    };
    let first = trial.read(&words);
    if first.found.is_empty() && !is_broken {
        return first.value;
    }
    if is_broken {
        unclosed(
            source,
            span,
            mode,
            &words,
            &mut diagnostics[before..],
            &reader,
        );
        return None;
    }
    let Some(stuck) = first.stuck.filter(|_| words.len() <= MOST_WORDS) else {
        diagnostics.extend(first.found);
        return first.value;
    };
    let Some(error) = first.found.first() else {
        return first.value;
    };
    if let Some(told) = trial.elsewhere(error, stuck) {
        diagnostics.push(told);
        return None;
    }
    let Some(change) = trial.best(stuck) else {
        diagnostics.extend(first.found);
        return first.value;
    };
    // What the error itself advises comes first.
    let is_told = matches!(change.slip, Slip::Misspelt | Slip::Instead);
    if !error.remedies.is_empty() && !is_told {
        diagnostics.push(error.clone());
        return None;
    }
    diagnostics.push(trial.told(error.clone(), &change));
    let is_meant = change.is_meant(&words);
    let read = trial.read(&change.words(&words));
    read.value.filter(|_| is_meant)
}

/// A quoted text that is never closed may be an earlier one than the last: the first that can be
/// closed where its first word ends, so that all that follows can be read.
fn unclosed<T>(
    source: &Arc<SourceText>,
    span: Span,
    mode: Mode,
    words: &[Lexeme],
    found: &mut [Diagnostic],
    reader: &impl Fn(&mut Cursor<'_>) -> Option<T>,
) {
    const MOST_QUOTES: usize = 8;
    let [error] = found else { return };
    let text = source.slice(span);
    if error.code != codes::DEFINITION_UNCLOSED || words.len() > MOST_WORDS {
        return;
    }
    let texts = words
        .iter()
        .filter(|lexeme| matches!(&lexeme.word, Word::Text(text) if text.contains(' ')));
    for lexeme in texts.take(MOST_QUOTES) {
        let at = (lexeme.span.start - span.start) as usize;
        let word = text[at + 1..].find(char::is_whitespace);
        let Some(end) = word.map(|word| at + 1 + word) else {
            continue;
        };
        let mended = format!("{}{}{}", &text[..end], &text[at..=at], &text[end..]);
        let mended = SourceText::new("mended", mended);
        let all = Span::new(0, mended.text().len());
        let mut wrong = Vec::new();
        let words = lex(&mended, all, mode, &mut wrong);
        let mut cursor = Cursor::of(&mended, words, &mut wrong);
        reader(&mut cursor);
        if wrong.is_empty() {
            let start = span.start as usize + at;
            let place = Span::new(start, span.start as usize + end);
            *error = error.clone().at(source, place);
            return;
        }
    }
}

/// What came of reading some words.
struct Reading<T> {
    value: Option<T>,
    found: Vec<Diagnostic>,
    stuck: Option<usize>,
}

/// A clause that is tried to be read.
struct Trial<'a, R> {
    source: &'a Arc<SourceText>,
    words: &'a [Lexeme],
    reader: &'a R,
}

impl<T, R: Fn(&mut Cursor<'_>) -> Option<T>> Trial<'_, R> {
    fn read(&self, words: &[Lexeme]) -> Reading<T> {
        let mut found = Vec::new();
        let mut cursor = Cursor::of(self.source, words, &mut found);
        let value = (self.reader)(&mut cursor);
        let stuck = cursor.stuck();
        Reading {
            value,
            found,
            stuck,
        }
    }

    /// What was asked for in vain where reading got stuck.
    fn asked(&self) -> Vec<Asked> {
        let mut found = Vec::new();
        let mut cursor = Cursor::of(self.source, self.words, &mut found).asking();
        (self.reader)(&mut cursor);
        cursor.into_asked()
    }

    fn text(&self, at: usize) -> &str {
        self.source.slice(self.words[at].span)
    }

    /// The change after which most can be read, if one is clearly the best.
    fn best(&self, stuck: usize) -> Option<Change> {
        let asked = self.asked();
        let mut attempts = Attempts {
            stuck,
            tried: Vec::new(),
        };
        self.try_asked(&asked, &mut attempts);
        self.try_habits(&mut attempts);
        self.try_left(&mut attempts);
        self.try_braces(&mut attempts);
        if stuck + 1 < self.words.len() {
            let change = Change {
                slip: Slip::TooMany,
                at: stuck,
                count: 1,
                with: Vec::new(),
                end: None,
            };
            self.try_change(change, 1, &mut attempts);
        }
        let tried = attempts.tried;
        let best = tried.iter().map(|one| (one.reach, one.rank)).max()?;
        let mut found = tried.iter().filter(|one| (one.reach, one.rank) == best);
        let one = found.next()?;
        // Where several could be missing, what was asked for first is nearest to what was read.
        let is_missing = |one: &Tried| {
            let change = one.change.as_ref();
            change.is_some_and(|change| change.slip == Slip::Missing)
        };
        let is_end = stuck + 1 == self.words.len();
        let is_clear = found.all(|other| {
            other.change == one.change || !is_end && is_missing(one) && is_missing(other)
        });
        // What could stand there and need not must help further than one word.
        let enough = if one.rank >= NEEDED { 1 } else { 2 };
        one.change
            .clone()
            .filter(|_| is_clear && one.reach >= enough)
    }

    /// Tries a change; how many of the words after the one where reading got stuck can be read.
    fn try_change(&self, change: Change, rank: u8, attempts: &mut Attempts) {
        let reach = self.reach(&change, attempts.stuck);
        attempts.tried.push(Tried {
            reach,
            rank,
            change: Some(change),
        });
    }

    fn reach(&self, change: &Change, stuck: usize) -> usize {
        let words = change.words(self.words);
        let grown = words.len();
        let read = self.read(&words);
        match read.stuck {
            None => self.words.len(),
            // The words behind a change have moved.
            Some(at) => (at + self.words.len()).saturating_sub(grown + stuck),
        }
    }
}
