//! Changes to the left of the token where reading got stuck: it need not be the wrong one.

use super::expected::Wanted;
use super::mending::{FAR, Question, Tried};
use super::recovery::{Repairer, Trial};
use super::slips::{Mending, Slip};
use super::trying::{change, foreign_rank};
use crate::lexing::{KindId, Token, is_closing, is_opening};
use crate::purposes::is_sign;

/// The way to look left.
pub(super) struct Left<'a> {
    here: &'a Repairer<'a>,
    question: &'a Question<'a>,
}

impl<'a> Left<'a> {
    pub fn new(here: &'a Repairer<'a>, question: &'a Question<'a>) -> Left<'a> {
        Left { here, question }
    }

    /// All changes to the left, each with what comes of it.
    pub fn tried(&self) -> Vec<Tried> {
        let mut tried = Vec::new();
        for repairer in self.question.repairers {
            self.try_run(self.question.index, repairer, &mut tried);
        }
        for (back, stacks) in (1..).zip(self.question.left) {
            let Some(at) = self.question.index.checked_sub(back) else {
                break;
            };
            for stack in stacks {
                let repairer = Repairer {
                    stack,
                    ..*self.here
                };
                self.try_at(at, &repairer, &mut tried);
            }
        }
        tried
    }

    /// All changes of a token to the left, and of those that belong to it.
    fn try_at(&self, at: usize, repairer: &Repairer<'_>, tried: &mut Vec<Tried>) {
        let wanted = self.question.inquiry.wanted(repairer.stack);
        self.try_word(at, repairer, &wanted, tried);
        self.try_head(at, repairer, &wanted, tried);
        self.try_run(at, repairer, tried);
        repairer.try_remark(self.question, at, tried);
        repairer.try_assignment(self.question, at, tried);
        if at + 1 == self.question.index {
            self.try_leaving_out(at, repairer, tried);
        }
    }

    /// How many tokens can be read from the one on where reading got stuck, if others are read
    /// before it.
    fn reach(&self, repairer: &Repairer<'_>, trials: Vec<Trial>, from: usize) -> usize {
        repairer.reach_from(trials, from, self.question.index)
    }

    /// A change of some tokens into one, if that can stand there.
    fn one(
        &self,
        repairer: &Repairer<'_>,
        change: Mending,
        kind: KindId,
        rank: u8,
    ) -> Option<Tried> {
        let stand_in = Token::new(kind, repairer.tokens[change.at].span);
        let after = repairer.take(repairer.whole(), stand_in);
        (!after.is_empty()).then(|| Tried {
            reach: self.reach(repairer, after, change.at + change.count),
            rank,
            mending: Some(change),
        })
    }

    /// A word that is misspelt, or that other languages have.
    fn try_word(
        &self,
        at: usize,
        repairer: &Repairer<'_>,
        wanted: &[Wanted],
        tried: &mut Vec<Tried>,
    ) {
        let token = repairer.tokens[at];
        if repairer.parser.lexer_kind(token.kind).is_literal() {
            return;
        }
        let mut try_one = |slip, kind, rank| {
            tried.extend(self.one(repairer, change(slip, at..at + 1, kind), kind, rank));
        };
        if let Some(kind) = repairer.misspelt(token, wanted) {
            try_one(Slip::Misspelt, kind, 5);
        }
        let text = repairer.text(token);
        if text.starts_with(char::is_alphabetic) {
            let kinds = &repairer.parser.kinds;
            for (kind, purpose) in self.question.strangers.instead_of(text, kinds) {
                try_one(Slip::Foreign, kind, foreign_rank(purpose) - 2);
            }
        }
    }

    /// A word of the language where another belongs, if all that follows can be read then: the form
    /// that was meant begins with that.
    fn try_head(
        &self,
        at: usize,
        repairer: &Repairer<'_>,
        wanted: &[Wanted],
        tried: &mut Vec<Tried>,
    ) {
        let token = repairer.tokens[at];
        let is_word = |kind: &KindId| {
            let kind = repairer.parser.lexer_kind(*kind);
            kind.is_literal() && kind.name.starts_with(char::is_alphabetic)
        };
        let stuck = repairer.text(repairer.tokens[self.question.index]);
        if !is_word(&token.kind) || !stuck.starts_with(char::is_alphabetic) {
            return;
        }
        let fits = |kind: &KindId| {
            let head = &repairer.parser.lexer_kind(*kind).name;
            self.question.strangers.go_together(head, stuck)
        };
        let others = repairer.literals(wanted, true).into_iter();
        for kind in others.filter(|kind| is_word(kind) && *kind != token.kind && fits(kind)) {
            let after = repairer.take(repairer.whole(), Token::new(kind, token.span));
            let reach = self.reach(repairer, after, at + 1);
            if reach == FAR {
                tried.push(Tried {
                    reach,
                    rank: 0,
                    mending: Some(change(Slip::Head, at..at + 1, kind)),
                });
            }
        }
    }

    /// Signs that touch each other, or would without the blank between them, and are one.
    fn try_run(&self, at: usize, repairer: &Repairer<'_>, tried: &mut Vec<Tried>) {
        let tokens = repairer.tokens;
        let mut text = String::new();
        for count in 1..=3 {
            let Some(token) = tokens.get(at + count - 1) else {
                return;
            };
            let own = repairer.text(*token);
            if !is_sign(own) {
                return;
            }
            let before = &tokens[at..at + count - 1];
            let is_tight = before
                .last()
                .is_none_or(|last| last.span.end == token.span.start);
            text.push_str(own);
            if count == 1 || at + count <= self.question.index {
                if !is_tight {
                    return;
                }
                continue;
            }
            let mut try_one = |slip, kind, rank| {
                let change = change(slip, at..at + count, kind);
                tried.extend(self.one(repairer, change, kind, rank));
            };
            if is_tight {
                let kinds = &repairer.parser.kinds;
                for (kind, purpose) in self.question.strangers.instead_of(&text, kinds) {
                    try_one(Slip::Foreign, kind, foreign_rank(purpose));
                }
            } else if count == 2
                && let Some(kind) = repairer.parser.literal_kind(&text)
            {
                try_one(Slip::Blank, kind, 5);
            }
            if !is_tight {
                return;
            }
        }
    }

    /// A sign that separates may be one too many; a bracket or a word hardly is.
    fn try_leaving_out(&self, at: usize, repairer: &Repairer<'_>, tried: &mut Vec<Tried>) {
        let token = repairer.tokens[at];
        let text = repairer.text(token);
        let is_literal = repairer.parser.lexer_kind(token.kind).is_literal();
        if !is_literal || !is_sign(text) || is_opening(text) || is_closing(text) {
            return;
        }
        let next = repairer.text(repairer.tokens[self.question.index]);
        tried.push(Tried {
            reach: self.reach(repairer, repairer.whole(), at + 1),
            // Before a closing bracket it is likelier than that something is missing.
            rank: if is_closing(next) && [",", ";"].contains(&text) {
                2
            } else {
                0
            },
            mending: Some(Mending {
                slip: Slip::TooMany,
                at,
                count: 1,
                with: Vec::new(),
            }),
        });
    }
}
