//! The checkpoints of a walk: from the latest before a moment the run goes on to it, instead of from its
//! beginning.
//!
//! The machine keeps what the run has come to. Beside it is kept here what belongs to the walk: how often stops
//! have been come to, what has been had from outside, what has been done again.

use std::collections::BTreeMap;

use super::changes::Held;
use super::recorded::Place;
use super::stops::StopAt;
use super::walking::Walker;
use crate::machine::{View, Why};

/// So many are kept, and so many bytes by all of them.
const MOST: usize = 32;
const MOST_BYTES: usize = 256 << 20;

/// Of a run with limited memory, they take no more than this part.
const PART_OF_MEMORY: u64 = 4;

/// A checkpoint of so many bytes takes about as long as one instruction of a run that is led. They are made so
/// far apart that they take a fifth of the time.
const BYTES_AN_INSTRUCTION: usize = 4;
const TIMES_THEIRS: usize = 4;

/// On the way back, one is made so many instructions before what is looked for: most likely, the next walk back
/// goes to somewhere near.
const BEFORE: u64 = 1 << 16;

/// What belongs to a checkpoint beside what the machine keeps.
pub(super) struct Beside {
    /// The stops that there were, how often each had been come to, and what was looked after by them.
    pub(super) stops: Vec<StopAt>,
    pub(super) times: Vec<u64>,
    pub(super) held: Held,
    pub(super) place: Place,
    /// How many deeds had been done.
    pub(super) done: usize,
    bytes: usize,
}

/// The checkpoints of a walk.
pub(super) struct Checkpoints {
    pub(super) all: BTreeMap<u64, Beside>,
    /// Another one is made from this moment on. What comes before the first is found from the beginning.
    next: u64,
    /// So many instructions lie between them, at the least.
    apart: u64,
    /// Another one is made at this moment, on the way back.
    wanted: Option<u64>,
    most_bytes: usize,
}

impl Checkpoints {
    /// None yet, on the way to a moment.
    pub fn new(apart: u64, memory: Option<u64>, first: Option<u64>) -> Checkpoints {
        let part = memory.map_or(u64::MAX, |memory| memory / PART_OF_MEMORY);
        let mut checkpoints = Checkpoints {
            all: BTreeMap::new(),
            next: apart,
            apart: apart.max(1),
            wanted: None,
            most_bytes: usize::try_from(part).map_or(MOST_BYTES, |part| part.min(MOST_BYTES)),
        };
        checkpoints.want_before(first.unwrap_or_default());
        checkpoints
    }

    /// The first moment after another at which one is to be made.
    pub fn next(&self, now: u64) -> u64 {
        let wanted = self.wanted.filter(|wanted| *wanted > now);
        self.next.min(wanted.unwrap_or(u64::MAX)).max(now + 1)
    }

    /// Has one be made before a moment that lies back, unless there is one near.
    pub(super) fn want_before(&mut self, first: u64) {
        let wanted = first.saturating_sub(BEFORE);
        let last = self.all.range(..=wanted).next_back();
        let apart = wanted - last.map_or(0, |(moment, _)| *moment);
        self.wanted = (apart > BEFORE).then_some(wanted);
    }

    /// Takes another one in. While there are too many, one goes.
    fn add(&mut self, moment: u64, beside: Beside, view: &mut View<'_, '_>) {
        self.all.insert(moment, beside);
        while self.all.len() > MOST || self.bytes() > self.most_bytes {
            let moments: Vec<u64> = self.all.keys().copied().collect();
            let least = missed_least(&moments, moment);
            self.all.remove(&least);
            view.keep_only(|kept| kept != least);
        }
    }

    fn bytes(&self) -> usize {
        self.all.values().map(|beside| beside.bytes).sum()
    }
}

/// Of the moments of checkpoints, the one that is missed least where a run is at `now`: without which the way
/// from the one before to the one after is the shortest, in proportion to how far away that is. So those that
/// lie far away get far apart. The one at `now` goes only if it is alone.
fn missed_least(moments: &[u64], now: u64) -> u64 {
    let missed = |at: usize| {
        let before = at.checked_sub(1).map_or(0, |before| moments[before]);
        let after = moments.get(at + 1).copied().unwrap_or(moments[at]);
        (after - before) as f64 / moments[at].abs_diff(now) as f64
    };
    let others = (0..moments.len()).filter(|at| moments[*at] != now);
    let least = others.min_by(|a, b| missed(*a).total_cmp(&missed(*b)));
    least.map_or(now, |at| moments[at])
}

impl Walker<'_> {
    /// Keeps a checkpoint of where the run is, if it is time.
    pub(super) fn keep_up(&mut self, view: &mut View<'_, '_>, why: Why<'_>) {
        let now = view.now();
        let is_wanted = self.checkpoints.wanted == Some(now);
        if now < self.checkpoints.next && !is_wanted || matches!(why, Why::Fails(..)) {
            return;
        }
        // For want of room, the machine may have forgotten some.
        let kept: Vec<u64> = view.kept().collect();
        self.checkpoints
            .all
            .retain(|moment, _| kept.contains(moment));
        let bytes = view.keep(self.checkpoints.most_bytes);
        if let Some(bytes) = bytes {
            let beside = Beside {
                stops: self.guide_stops().to_vec(),
                times: self.marks.times().to_vec(),
                held: self.changes.held(),
                place: self.outside.place(),
                done: self.deeds.done(),
                bytes,
            };
            self.checkpoints.add(now, beside, view);
        }
        // What could not be kept has taken time, too, and is not likely to be smaller soon.
        let bytes = bytes.unwrap_or(self.checkpoints.most_bytes);
        let cost = bytes / BYTES_AN_INSTRUCTION * TIMES_THEIRS;
        let next = now.saturating_add(self.checkpoints.apart.max(cost as u64));
        self.checkpoints.next = self.checkpoints.next.max(next);
    }

    /// Forgets all checkpoints.
    pub(super) fn forget_checkpoints(&mut self, view: &mut View<'_, '_>) {
        view.keep_only(|_| false);
        self.checkpoints.all.clear();
    }

    /// Forgets the checkpoints after a moment: the run goes on otherwise from there.
    pub(super) fn forget_after(&mut self, moment: u64, view: &mut View<'_, '_>) {
        view.keep_only(|kept| kept <= moment);
        self.checkpoints.all.retain(|kept, _| *kept <= moment);
        self.checkpoints.next = moment.saturating_add(self.checkpoints.apart);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Those that are left of checkpoints made one after the other where only so many are kept.
    fn left(most: usize, made: impl Iterator<Item = u64>) -> Vec<u64> {
        let mut moments = Vec::new();
        for moment in made {
            let at = moments.partition_point(|other| *other < moment);
            moments.insert(at, moment);
            if moments.len() > most {
                let least = missed_least(&moments, moment);
                moments.retain(|other| *other != least);
            }
        }
        moments
    }

    #[test]
    fn what_lies_near_is_found_near_and_what_lies_far_back_further_apart() {
        let kept = left(16, 1..=10_000);
        assert_eq!(kept.len(), 16);
        for back in [1, 10, 100, 1_000, 5_000] {
            let goal = 10_000 - back;
            let from = kept.iter().rev().find(|moment| **moment <= goal);
            let way = goal - from.copied().unwrap_or(0);
            assert!(
                way <= 2 * back,
                "{way} instructions to go {back} back: {kept:?}"
            );
        }
    }

    #[test]
    fn the_one_made_on_the_way_back_stays() {
        assert_eq!(
            left(2, [10_000, 20_000, 8_900].into_iter()),
            [8_900, 10_000]
        );
        assert_eq!(left(1, [10, 20, 5].into_iter()), [5]);
        assert_eq!(missed_least(&[7], 7), 7);
    }
}
