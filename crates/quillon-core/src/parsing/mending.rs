//! What would mend a wrong text, found by trying: a few tokens are put in, exchanged or left out,
//! and the change after which most can be read is offered, if one clearly is (after Burke and
//! Fisher, 1987). The token where reading got stuck need not be the wrong one: those before it are
//! tried, too.

use super::expected::{Inquiry, Wanted};
use super::left::Left;
use super::recovery::{Repairer, Trial};
use super::slips::{Mending, Slip};
use super::stacks::Entry;
use super::strangers::Strangers;

/// What is to be done about a wrong text.
#[derive(Clone, Debug)]
pub(super) struct Advice {
    pub mending: Mending,
    /// The number of the stack on which it helps.
    pub stack: usize,
    /// Whether it lets what follows be read.
    pub is_tried: bool,
    /// Whether it lets as much be read as is tried.
    pub is_far: bool,
}

/// So many tokens are read after a change, at most.
pub(super) const FAR: usize = 24;

/// A change must let so many be read behind it.
const ENOUGH: usize = 2;

/// A change with what comes of it.
pub(super) struct Tried {
    /// How far can be read, in tokens from the one on where reading got stuck: a change of that one
    /// counts it.
    pub reach: usize,
    /// How likely a slip it is where that is the same.
    pub rank: u8,
    /// The change; an operand that may be missing is one, too, but nobody knows which.
    pub mending: Option<Mending>,
}

impl Repairer<'_> {
    /// How far can be read from the token on where reading got stuck, if others are read before and
    /// those of an index on follow; nothing if that helps too little.
    pub fn reach_from(&self, trials: Vec<Trial>, from: usize, stuck: usize) -> usize {
        let passed = from.saturating_sub(stuck);
        let between = stuck.saturating_sub(from);
        let ahead = (FAR + between).saturating_sub(passed).max(ENOUGH);
        let count = self.reach_within(trials, from, ahead);
        if count < ENOUGH + between {
            return 0;
        }
        (count + passed).saturating_sub(between).min(FAR)
    }
}

/// Everything that a change is tried with.
pub(super) struct Question<'a> {
    /// The token where reading got stuck.
    pub index: usize,
    /// A repairer for each stack.
    pub repairers: &'a [Repairer<'a>],
    /// The stacks before each of the tokens before it, the nearest first.
    pub left: &'a [Vec<Vec<Entry>>],
    pub inquiry: &'a Inquiry<'a>,
    /// What could come next on each of the stacks.
    pub wanted: &'a [Vec<Wanted>],
    pub strangers: &'a Strangers,
}

/// The change after which most can be read, if one is clearly the best, or the only word that can
/// follow.
pub(super) fn mending(question: &Question<'_>) -> Option<Advice> {
    let mut tried: Vec<(Tried, usize)> = Vec::new();
    for (number, repairer) in question.repairers.iter().enumerate() {
        let all = repairer.try_here(question, &question.wanted[number]);
        tried.extend(all.into_iter().map(|one| (one, number)));
    }
    if let Some(first) = question.repairers.first() {
        let left = Left::new(first, question);
        tried.extend(left.tried().into_iter().map(|one| (one, 0)));
    }
    let best = tried.iter().map(|(one, _)| (one.reach, one.rank)).max()?;
    let mut found = tried
        .iter()
        .filter(|(one, _)| (one.reach, one.rank) == best);
    let (one, stack) = found.next()?;
    // Several that do as well: nobody knows which was meant.
    let is_clear = one.reach > 0 && found.all(|(other, _)| other.mending == one.mending);
    if let Some(mending) = one.mending.clone().filter(|_| is_clear) {
        return Some(Advice {
            mending,
            stack: *stack,
            is_tried: true,
            is_far: one.reach >= FAR,
        });
    }
    // Where only one word can follow, that is what is missing, whatever comes after it.
    let mut wanted: Vec<Wanted> = question.wanted.iter().flatten().cloned().collect();
    wanted.sort();
    wanted.dedup();
    let only = question.repairers.first()?.only_literal(&wanted)?;
    Some(Advice {
        mending: Mending {
            slip: Slip::Missing,
            at: question.index,
            count: 0,
            with: vec![only],
        },
        stack: 0,
        is_tried: false,
        is_far: false,
    })
}
