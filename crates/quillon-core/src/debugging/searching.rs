//! Searches for the last moment before another at which something was so.

use super::known::Known;
use super::names::trace_of;
use super::spot::{Spot, until};
use super::{Pace, Reason};
use crate::machine::{Until, View};

/// So many instructions are looked at one by one at first; the way there is gone at full speed. If what is
/// wanted is not among them, so many times as many are.
const NEAR: u64 = 1 << 12;
const WIDER: u64 = 16;

/// Stops are looked for at full speed.
const NEAR_STOPS: u64 = 1 << 22;

/// What is looked for backwards.
#[derive(Clone, Debug)]
pub(super) enum Wanted {
    /// The beginning of what is gone at a pace; the places where the calls under way have been last, the
    /// outermost first.
    Pace(Pace, Vec<Spot>),
    /// Where a variable got its value.
    Change {
        name: String,
        /// The cell of that name.
        cell: Option<usize>,
        /// What it held last, and the moment when that was seen.
        held: Option<String>,
        last: u64,
    },
}

/// A search.
#[derive(Clone, Debug)]
pub(super) struct Search {
    /// The first moment that is looked at, and the first that is not.
    start: u64,
    end: u64,
    wanted: Wanted,
    /// Where it began.
    from: Spot,
    found: Option<(u64, Reason)>,
}

/// What has come of a search.
pub(super) enum Came {
    Found(u64, Reason),
    /// Nothing yet: it is to be looked for from earlier on.
    Wider(Box<Search>),
    Nothing,
}

impl Search {
    /// A search for the last moment before another. Where it matters to a stop what was before, stops are
    /// looked for from the beginning on.
    pub fn new(wanted: Wanted, end: u64, from: Spot, has_past: bool) -> Search {
        let near = match wanted {
            Wanted::Pace(Pace::Stop, _) if has_past => u64::MAX,
            Wanted::Pace(Pace::Stop, _) => NEAR_STOPS,
            Wanted::Pace(
                Pace::Instruction
                | Pace::IntoForm
                | Pace::Form
                | Pace::IntoPart
                | Pace::Part
                | Pace::IntoLine
                | Pace::Line
                | Pace::Out,
                _,
            )
            | Wanted::Change { .. } => NEAR,
        };
        let start = end.saturating_sub(near);
        Search {
            start,
            end,
            wanted,
            from,
            found: None,
        }
    }

    /// The first moment that is looked at.
    pub fn start(&self) -> u64 {
        self.start
    }

    /// How far a run goes before it is looked at first.
    pub fn begin(&self) -> Until {
        if self.start > 0 {
            until(self.start)
        } else {
            self.until(0)
        }
    }

    /// How far it goes before it is looked at again.
    pub fn until(&self, next: u64) -> Until {
        let (instruction, deepest) = match &self.wanted {
            Wanted::Pace(Pace::Stop, _) => (self.end, 0),
            Wanted::Pace(Pace::Part | Pace::Form | Pace::Line | Pace::Out, _)
            | Wanted::Change { cell: None, .. } => (next, self.from.depth),
            Wanted::Pace(
                Pace::Instruction | Pace::IntoPart | Pace::IntoForm | Pace::IntoLine,
                _,
            )
            | Wanted::Change { cell: Some(_), .. } => (next, usize::MAX),
        };
        Until {
            instruction,
            deepest,
            latest: self.end,
        }
    }

    /// Whether a run is on the way to what is looked at.
    pub fn is_before(&self, now: u64) -> bool {
        now < self.start
    }

    /// Whether a run has come to the end of what is looked at.
    pub fn is_over(&self, now: u64) -> bool {
        now >= self.end
    }

    /// Takes note of where a run is, and of why it stops there, if it is a stop.
    pub fn note(&mut self, view: &View<'_, '_>, known: &Known, stop: Option<Reason>) {
        let now = view.now();
        let spot = Spot::of(view);
        let is_whole = self.start == 0;
        match &mut self.wanted {
            Wanted::Pace(..) if now >= self.end => {}
            Wanted::Pace(Pace::Stop, _) => {
                if let Some(reason) = stop {
                    self.found = Some((now, reason));
                }
            }
            Wanted::Pace(pace, places) => {
                if begins(*pace, &spot, &self.from, places, is_whole) {
                    self.found = Some((now, Reason::Went));
                }
            }
            Wanted::Change {
                name,
                cell,
                held,
                last,
            } => {
                let is_seen = spot.depth <= self.from.depth || cell.is_some();
                let holds = is_seen
                    .then(|| trace_of(view, known, name, *cell))
                    .flatten();
                if holds.is_some() && holds != *held {
                    // What it holds where the search begins has not changed there.
                    if is_whole || held.is_some() {
                        self.found = Some((*last, Reason::Went));
                    }
                    *held = holds;
                }
                *last = now;
            }
        }
    }

    /// What has come of it.
    pub fn came(mut self) -> Came {
        match self.found.take() {
            Some((at, reason)) => Came::Found(at, reason),
            None if self.start == 0 => Came::Nothing,
            None => {
                let width = (self.end - self.start).saturating_mul(WIDER);
                self.start = self.end.saturating_sub(width);
                match &mut self.wanted {
                    Wanted::Pace(_, places) => places.clear(),
                    Wanted::Change { held, last, .. } => (*held, *last) = (None, 0),
                }
                Came::Wider(Box::new(self))
            }
        }
    }
}

/// Whether something begins at a place that is gone in one go at a pace. A call that is seen first where the
/// search begins has begun before.
fn begins(pace: Pace, spot: &Spot, from: &Spot, places: &mut Vec<Spot>, is_whole: bool) -> bool {
    let is_over = match pace {
        Pace::Part | Pace::Form | Pace::Line | Pace::Out => spot.depth > from.depth,
        Pace::Instruction | Pace::IntoPart | Pace::IntoForm | Pace::IntoLine | Pace::Stop => false,
    };
    if spot.is_built_in && !pace.is_inside_forms() || is_over {
        return false;
    }
    while places.last().is_some_and(|place| place.depth > spot.depth) {
        places.pop();
    }
    let last = places.pop_if(|place| place.depth == spot.depth);
    let is_entered = is_whole || !places.is_empty();
    places.push(spot.clone());
    let differs =
        |same: &dyn Fn(&Spot) -> bool| last.as_ref().map_or(is_entered, |last| !same(last));
    match pace {
        Pace::Instruction => true,
        Pace::IntoPart | Pace::Part => differs(&|last| last.is_in_part_of(spot)),
        Pace::IntoForm | Pace::Form => differs(&|last| last.span == spot.span),
        Pace::IntoLine | Pace::Line => differs(&|last| last.is_on_line_of(spot)),
        Pace::Out => spot.depth < from.depth,
        Pace::Stop => false,
    }
}
