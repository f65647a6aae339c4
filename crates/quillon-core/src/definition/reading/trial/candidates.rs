//! The changes of a clause that are tried.

use super::super::cursor::{Asked, Cursor};
use super::super::habits::{self, KEYWORDS};
use super::super::lexer::Word;
use super::super::meaning::is_reserved;
use super::change::{Change, Slip, is_bracket};
use super::{Attempts, FORGOTTEN, LEFT, NEEDED, OPTIONAL, Trial, Tried};
use crate::diagnostic::nearest;

impl<T, R: Fn(&mut Cursor<'_>) -> Option<T>> Trial<'_, R> {
    /// What was asked for, put in or in the place of the word there.
    pub(super) fn try_asked(&self, asked: &[Asked], attempts: &mut Attempts) {
        let stuck = attempts.stuck;
        let is_end = stuck + 1 == self.words.len();
        for what in asked {
            let (word, rank) = match what {
                Asked::Needed(word) => (word.clone(), NEEDED),
                Asked::Sign(sign) => (Word::Sign(sign), 3),
                // Many things could go on with an operator.
                Asked::Word(word) if OPTIONAL.contains(&word.as_str()) => {
                    (Word::Name(word.clone()), 0)
                }
                Asked::Word(word) | Asked::Instead(word) => (Word::Name(word.clone()), 3),
                Asked::Name => {
                    self.try_unknown(Word::Name("x".to_owned()), attempts);
                    continue;
                }
                Asked::Text => {
                    self.try_unknown(Word::Text("x".to_owned()), attempts);
                    self.try_quotes(attempts);
                    continue;
                }
            };
            let is_sign = matches!(what, Asked::Sign(sign) if !FORGOTTEN.contains(sign));
            if !matches!(what, Asked::Instead(_)) && !is_sign {
                let missing = Change::one(Slip::Missing, stuck..stuck, word.clone());
                self.try_change(missing, rank, attempts);
            }
            if is_end {
                continue;
            }
            let own = &self.words[stuck].word;
            let is_near = matches!((own, &word), (Word::Name(own), Word::Name(word))
                if nearest(own, [word.as_str()]).is_some());
            let (slip, rank) = if is_near {
                (Slip::Misspelt, 6)
            } else {
                (Slip::Instead, 2)
            };
            // A name is hardly written for a sign, and one sign for another only where nothing else
            // can stand.
            let is_needed = matches!(what, Asked::Needed(_));
            let is_optional =
                matches!(&word, Word::Name(word) if OPTIONAL.contains(&word.as_str()));
            let separates = |word: &Word| matches!(word, Word::Sign("," | ";"));
            let is_alike = match (own, &word) {
                // A word of the notation is hardly a slip for another one.
                (Word::Name(own), Word::Name(_)) => !is_reserved(own) && (!is_optional || is_near),
                (Word::Sign(_) | Word::Odd(_), Word::Sign(_)) => {
                    is_needed || separates(own) && separates(&word)
                }
                _ => false,
            };
            if !is_alike {
                continue;
            }
            let change = Change::one(slip, stuck..stuck + 1, word);
            let reach = self.reach(&change, stuck);
            // One word is written for another, if all that follows fits.
            if is_needed || is_near || reach == self.words.len() {
                attempts.tried.push(Tried {
                    reach,
                    rank,
                    change: Some(change),
                });
            }
        }
    }

    /// Something is missing of which nobody knows what it would be.
    fn try_unknown(&self, word: Word, attempts: &mut Attempts) {
        let stuck = attempts.stuck;
        let change = Change::one(Slip::Missing, stuck..stuck, word);
        attempts.tried.push(Tried {
            reach: self.reach(&change, stuck),
            rank: 2,
            change: None,
        });
    }

    /// A word or a sign that should stand in quotes.
    fn try_quotes(&self, attempts: &mut Attempts) {
        let stuck = attempts.stuck;
        let text = self.text(stuck).to_owned();
        if text.is_empty() || matches!(self.words[stuck].word, Word::Text(_) | Word::End) {
            return;
        }
        // A bracket, or what ends something, is one too many rather.
        let own = &self.words[stuck].word;
        let ends = is_bracket(own) || matches!(own, Word::Sign(";" | "?" | "|"));
        let change = Change::one(Slip::Quotes, stuck..stuck + 1, Word::Text(text));
        self.try_change(change, if ends { 0 } else { 4 }, attempts);
    }

    /// What other notations write for something here: a word, or signs that touch each other.
    pub(super) fn try_habits(&self, attempts: &mut Attempts) {
        let stuck = attempts.stuck;
        for at in stuck.saturating_sub(LEFT)..=stuck {
            for count in 1..=2 {
                let Some(words) = self.words.get(at..at + count) else {
                    break;
                };
                let touch = words
                    .windows(2)
                    .all(|two| two[0].span.end == two[1].span.start);
                if !touch || at + count <= stuck && count > 1 {
                    continue;
                }
                let text = self.source.slice(words[0].span.to(words[count - 1].span));
                if let Some(with) = habits::instead_of(text) {
                    let change = Change {
                        slip: Slip::Instead,
                        at,
                        count,
                        with,
                        end: None,
                    };
                    self.try_change(change, 7, attempts);
                }
            }
        }
    }

    /// A keyword to the left that is misspelt, or a sign there that is one too many.
    pub(super) fn try_left(&self, attempts: &mut Attempts) {
        let stuck = attempts.stuck;
        for at in stuck.saturating_sub(LEFT)..stuck {
            if let Word::Name(name) = &self.words[at].word
                && let Some(near) = nearest(name, KEYWORDS)
            {
                let word = Word::Name(near.to_owned());
                let change = Change::one(Slip::Misspelt, at..at + 1, word);
                let reach = self.reach(&change, stuck);
                if reach == self.words.len() {
                    attempts.tried.push(Tried {
                        reach,
                        rank: 5,
                        change: Some(change),
                    });
                }
            }
        }
        let before = stuck.checked_sub(1).map(|at| &self.words[at].word);
        if matches!(before, Some(Word::Sign("," | ";"))) {
            let change = Change {
                slip: Slip::TooMany,
                at: stuck - 1,
                count: 1,
                with: Vec::new(),
                end: None,
            };
            self.try_change(change, 1, attempts);
        }
    }

    /// Several steps in an arm: braces around them.
    pub(super) fn try_braces(&self, attempts: &mut Attempts) {
        let stuck = attempts.stuck;
        let is_arrow = |at: &usize| self.words[*at].word == Word::Sign("=>");
        let Some(arrow) = (0..=stuck).rev().find(is_arrow) else {
            return;
        };
        let next = (stuck + 1..self.words.len()).find(is_arrow);
        let ends = if let Some(next) = next {
            vec![next - 1, next.saturating_sub(2)]
        } else {
            let is_end = |at: &usize| self.words[*at].word == Word::Sign("}");
            let end = (stuck..self.words.len()).rev().find(is_end);
            end.into_iter().collect()
        };
        for end in ends.into_iter().filter(|end| *end > arrow + 1) {
            let change = Change {
                slip: Slip::Braces,
                at: arrow + 1,
                count: 0,
                with: vec![Word::Sign("{")],
                end: Some((end, Word::Sign("}"))),
            };
            self.try_change(change, 2, attempts);
        }
    }
}
