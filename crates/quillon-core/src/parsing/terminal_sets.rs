//! Sets of terminals, many of them in one piece.

use serde::{Deserialize, Serialize};

/// Sets of terminals, by number.
#[derive(Clone, Default, Debug, Serialize, Deserialize)]
pub(crate) struct TerminalSets {
    /// A row of bits for each set.
    words: Vec<u64>,
    /// So many words have a row.
    width: usize,
}

impl TerminalSets {
    /// So many empty sets of so many terminals.
    pub fn new(count: usize, terminals: usize) -> TerminalSets {
        let width = terminals.div_ceil(64);
        TerminalSets {
            words: vec![0; count * width],
            width,
        }
    }

    /// The words of a set.
    pub fn of(&self, set: usize) -> &[u64] {
        &self.words[set * self.width..(set + 1) * self.width]
    }

    /// Puts a terminal into a set; whether it is new there.
    pub fn insert(&mut self, set: usize, terminal: u16) -> bool {
        let word = &mut self.words[set * self.width + terminal as usize / 64];
        let bit = 1 << (terminal % 64);
        let new = *word & bit == 0;
        *word |= bit;
        new
    }

    /// Whether a terminal is in a set.
    pub fn contains(&self, set: usize, terminal: u16) -> bool {
        contains(self.of(set), terminal)
    }

    /// Adds all of another set to one; whether anything was new.
    pub fn extend(&mut self, set: usize, other: usize) -> bool {
        let mut grown = false;
        for at in 0..self.width {
            let theirs = self.words[other * self.width + at];
            let mine = &mut self.words[set * self.width + at];
            grown |= theirs & !*mine != 0;
            *mine |= theirs;
        }
        grown
    }

    /// Adds one more set, of the terminals that are in some of another row of sets.
    pub fn push_union(&mut self, sets: &TerminalSets, some: impl Iterator<Item = usize>) {
        let start = self.words.len();
        self.words.resize(start + self.width, 0);
        for set in some {
            for (mine, theirs) in self.words[start..].iter_mut().zip(sets.of(set)) {
                *mine |= theirs;
            }
        }
    }

    /// The terminals of a set.
    pub fn iter(&self, set: usize) -> impl Iterator<Item = u16> + '_ {
        terminals(self.of(set))
    }
}

/// Whether a terminal is in the set of these words.
pub(super) fn contains(words: &[u64], terminal: u16) -> bool {
    words[terminal as usize / 64] >> (terminal % 64) & 1 == 1
}

/// The terminals in the set of these words.
fn terminals(words: &[u64]) -> impl Iterator<Item = u16> + '_ {
    let words = (0..).step_by(64).zip(words);
    words.flat_map(|(first, &word)| bits(word).map(move |bit| first + bit))
}

/// The terminals of which something claims that they are its own, and those that more than one claims.
pub(super) struct Claimed {
    by_one: Vec<u64>,
    by_more: Vec<u64>,
}

impl Claimed {
    /// None of so many terminals.
    pub fn new(terminals: usize) -> Claimed {
        let none = vec![0; terminals.div_ceil(64)];
        Claimed {
            by_one: none.clone(),
            by_more: none,
        }
    }

    /// Forgets all.
    pub fn clear(&mut self) {
        self.by_one.fill(0);
        self.by_more.fill(0);
    }

    /// Claims one terminal that nothing has claimed.
    pub fn insert(&mut self, terminal: u16) {
        self.by_one[terminal as usize / 64] |= 1 << (terminal % 64);
    }

    /// Claims a set, and calls a function with each terminal that nothing has claimed before.
    pub fn claim(&mut self, set: &[u64], mut new: impl FnMut(u16)) {
        let words = self.by_one.iter_mut().zip(&mut self.by_more).zip(set);
        for (first, ((mine, both), &theirs)) in (0..).step_by(64).zip(words) {
            bits(theirs & !*mine).for_each(|bit| new(first + bit));
            *both |= theirs & *mine;
            *mine |= theirs;
        }
    }

    /// What more than one claims.
    pub fn contested(&self) -> impl Iterator<Item = u16> + '_ {
        terminals(&self.by_more)
    }
}

/// The numbers of the bits that are set, the least first.
fn bits(word: u64) -> impl Iterator<Item = u16> {
    let rest = std::iter::successors(Some(word), |left| Some(left & left.wrapping_sub(1)));
    rest.take_while(|left| *left != 0)
        .map(|left| left.trailing_zeros() as u16)
}
