//! Checkpoints of a run that is led: copies of all that it has come to, from which it goes on again.
//!
//! They are on the run's own heap. What never changes (code, texts, functions that have captured nothing) is
//! shared with the run; the rest is copied when a checkpoint is made, and once more when the run goes back to
//! it, so that it can go back there as often as it likes. What the run has for the outside (input, output) is
//! not here: that is recorded by whoever leads it.

use super::threads::Thread;
use super::{Machine, Resumed};
use crate::metering::{Measured, Stopped};
use crate::runtime::Contents;
use crate::values::{Copier, Marker, Roots, Traced, ask};

/// All that a run has come to.
#[derive(Debug)]
pub(super) struct Checkpoint {
    /// How many instructions have been begun before.
    pub moment: u64,
    /// How many pieces were copied.
    pieces: usize,
    stacks: Stacks,
    contents: Contents,
    random: fastrand::Rng,
    fuel: u64,
    measured: Measured,
    /// How many bytes may still be printed.
    output_left: u64,
}

/// The stacks of a run.
#[derive(Debug)]
struct Stacks {
    thread: Box<Thread>,
    outer: Vec<Resumed>,
}

impl Roots for Checkpoint {
    fn trace(&self, marker: &mut Marker) {
        self.contents.trace(marker);
        let Stacks { thread, outer } = &self.stacks;
        thread.trace(marker);
        for resumed in outer {
            resumed.trace(marker);
        }
    }
}

impl Machine<'_> {
    /// Keeps all that the run has come to, before the instruction where it is; about how many bytes that
    /// takes. Nothing if it cannot be kept: it would take more than so many bytes, there is no room, something
    /// that is under way cannot be copied, or the run has come to a limit and is about to end.
    pub(super) fn keep(&mut self, moment: u64, most: usize) -> Option<usize> {
        let own = self.stacks();
        if own > most || self.memory.heap.meter.struck().is_some() {
            return None;
        }
        self.put_down();
        let made = self.memory.heap.made_in_all();
        let pieces = self.checkpoints.last().map_or(0, |kept| kept.pieces);
        let mut copier = Copier::whole(pieces, most - own);
        let contents = Contents::of(self.memory).copied(&mut copier).ok()?;
        let stacks = copied(&self.thread, &self.outer, &mut copier).ok()?;
        if copier.has_left_out {
            return None;
        }
        let made = (self.memory.heap.made_in_all() - made) as usize;
        self.checkpoints.retain(|kept| kept.moment != moment);
        self.checkpoints.push(Checkpoint {
            moment,
            pieces: copier.pieces(),
            stacks,
            contents,
            random: self.memory.random.clone(),
            fuel: self.fuel,
            measured: self.memory.heap.meter.measured(),
            output_left: self.host.left.get(),
        });
        Some(made + own + copier.shared)
    }

    /// Has the run be where it was at the moment of a checkpoint; whether it is there.
    pub(super) fn go_back(&mut self, moment: u64) -> bool {
        let found = self.checkpoints.iter().find(|kept| kept.moment == moment);
        let Some(kept) = found else {
            return false;
        };
        let mut copier = Copier::whole(kept.pieces, usize::MAX);
        let contents = kept.contents.copied(&mut copier);
        let Stacks { thread, outer } = &kept.stacks;
        let stacks = copied(thread, outer, &mut copier);
        let (Ok(contents), Ok(stacks)) = (contents, stacks) else {
            return false;
        };
        contents.put_into(self.memory);
        self.memory.random = kept.random.clone();
        self.memory.heap.meter.go_back(kept.measured);
        self.host.left.set(kept.output_left);
        self.fuel = kept.fuel;
        self.failure = None;
        self.struck = None;
        self.outer_calls = 0;
        self.outer_size = 0;
        for resumed in &stacks.outer {
            self.outer_calls += resumed.thread.depth;
            self.outer_size += resumed.thread.size();
        }
        self.outer = stacks.outer;
        self.thread = stacks.thread;
        self.pick_up();
        self.culprit = self.at.pc;
        true
    }
}

/// Copies of stacks.
fn copied(thread: &Thread, outer: &[Resumed], copier: &mut Copier<'_>) -> Result<Stacks, Stopped> {
    let copy = |thread: &Thread, copier: &mut Copier<'_>| {
        ask(thread.size())?;
        thread.copied(&mut |value| copier.copy(value)).map(Box::new)
    };
    let outer = outer.iter().map(|resumed| {
        Ok(Resumed {
            thread: copy(&resumed.thread, copier)?,
            coroutine: copier.copy_coroutine(resumed.coroutine)?,
        })
    });
    let outer = outer.collect::<Result<_, Stopped>>()?;
    let thread = copy(thread, copier)?;
    Ok(Stacks { thread, outer })
}
