//! Which of two readings of the same tokens is kept: the one that does not go against the precedence
//! table; or else, by `wins over`, the one that has a form where the other has one that it wins over.

use super::forest::{Derivation, Forest, Ref, Referent};
use super::grammar::Grammar;

/// Which of two readings is the one to keep.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Winner {
    First,
    Second,
    /// Nothing says so.
    Neither,
}

/// What is found out about two readings of the same tokens.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) struct Comparison {
    pub winner: Winner,
    /// Whether one of them goes against the precedence table, so that a third could be better.
    pub is_open: bool,
}

/// A reading being gone over from the left.
struct Walk<'f> {
    forest: &'f Forest,
    /// Whether it goes against the precedence table somewhere.
    is_misgrouped: bool,
    /// What is still to come, the leftmost last.
    coming: Vec<Ref>,
    /// The forms met that begin at the token at hand.
    begun: Vec<usize>,
}

impl Walk<'_> {
    fn next(&self) -> Option<(Ref, Referent)> {
        let next = *self.coming.last()?;
        Some((next, self.forest.referent(next)))
    }

    /// Puts the children of what comes next in its place.
    fn open(&mut self, grammar: &Grammar, derivation: Derivation) {
        self.is_misgrouped |= grammar.is_misgrouped(self.forest, derivation);
        self.coming.pop();
        let production = &grammar.productions[derivation.production as usize];
        if let (Some(form), true) = (production.form, production.node) {
            self.begun.push(form);
        }
        let children = self.forest.children(derivation);
        self.coming.extend(children.iter().rev());
    }
}

impl Grammar {
    /// Which of two readings of the same tokens is kept: what counts is where they part. What both have
    /// in common is not gone into. A form that wins does so where they first part in a way that a `wins
    /// over` speaks of.
    pub(super) fn compare(&self, forest: &Forest, readings: [Ref; 2]) -> Comparison {
        let [mut one, mut two] = readings.map(|reading| Walk {
            forest,
            is_misgrouped: false,
            coming: vec![reading],
            begun: Vec::new(),
        });
        let mut winner = Winner::Neither;
        while let (Some((a, a_is)), Some((b, b_is))) = (one.next(), two.next()) {
            if a == b {
                if winner == Winner::Neither {
                    winner = self.of_begun(&one.begun, &two.begun);
                }
                for walk in [&mut one, &mut two] {
                    walk.coming.pop();
                    walk.begun.clear();
                }
                continue;
            }
            match (a_is, b_is) {
                (Referent::Derivation(x), Referent::Derivation(y)) => {
                    // The longer one first: the shorter may be a part of it.
                    if x.end >= y.end {
                        one.open(self, x);
                    }
                    if y.end >= x.end {
                        two.open(self, y);
                    }
                }
                (Referent::Derivation(x), Referent::Token(_) | Referent::Plain(_)) => {
                    one.open(self, x);
                }
                (Referent::Token(_) | Referent::Plain(_), Referent::Derivation(y)) => {
                    two.open(self, y);
                }
                (
                    Referent::Token(_) | Referent::Plain(_),
                    Referent::Token(_) | Referent::Plain(_),
                ) => break,
            }
        }
        if winner == Winner::Neither {
            winner = self.of_begun(&one.begun, &two.begun);
        }
        Comparison {
            winner: match (one.is_misgrouped, two.is_misgrouped) {
                (false, true) => Winner::First,
                (true, false) => Winner::Second,
                (true, true) | (false, false) => winner,
            },
            is_open: one.is_misgrouped || two.is_misgrouped,
        }
    }

    /// Which of two lists of forms that begin at the same token has the one that wins.
    fn of_begun(&self, one: &[usize], two: &[usize]) -> Winner {
        if self.wins.is_empty() {
            return Winner::Neither;
        }
        let wins = |these: &[usize], those: &[usize]| {
            let own = these.iter().filter(|form| !those.contains(form));
            own.copied().any(|form| {
                let others = those.iter().filter(|other| !these.contains(other));
                others
                    .copied()
                    .any(|other| self.wins.contains(&(form, other)))
            })
        };
        match (wins(one, two), wins(two, one)) {
            (true, false) => Winner::First,
            (false, true) => Winner::Second,
            (true, true) | (false, false) => Winner::Neither,
        }
    }
}
