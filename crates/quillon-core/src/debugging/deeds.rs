//! What somebody has changed in a run: it belongs to the run from then on, and is done again at the same
//! moment when the run is run again.

use std::cell::Cell;
use std::rc::Rc;

/// What somebody has done.
#[derive(Clone, PartialEq, Eq, Debug)]
pub(super) enum Deed {
    /// A variable of a call, by the number of that from the innermost on, has been given another value.
    Set {
        call: usize,
        /// What it is called.
        name: String,
        /// What was to be worked out for it.
        text: String,
    },
    /// A text has been carried out in such a call.
    CarryOut { call: usize, text: String },
    /// The innermost call goes on at an instruction.
    GoOnAt(usize),
}

/// When something is done: at a moment, before its instruction is carried out, or once that has failed.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub(super) struct When {
    /// How many instructions lie before.
    pub moment: u64,
    /// Whether the instruction has failed.
    pub has_failed: bool,
}

/// All of them, in their order.
#[derive(Debug, Default)]
pub(super) struct Deeds {
    /// Each with its time.
    all: Vec<(When, Deed)>,
    /// How many of them have been done in this run.
    done: usize,
    /// How many there have ever been.
    count: u64,
    /// Whether this run goes on otherwise than the one before from here on.
    diverges: Rc<Cell<bool>>,
}

impl Deeds {
    /// Whether the run has been changed, as long as nobody has taken note of that.
    pub fn diverges(&self) -> Rc<Cell<bool>> {
        Rc::clone(&self.diverges)
    }

    /// From the beginning again.
    pub fn rewind(&mut self) {
        self.done = 0;
    }

    /// How many of them have been done.
    pub fn done(&self) -> usize {
        self.done
    }

    /// From where so many of them had been done.
    pub fn go_back(&mut self, done: usize) {
        self.done = done;
    }

    /// How many there have ever been.
    pub fn count(&self) -> u64 {
        self.count
    }

    /// Forgets all of them.
    pub fn clear(&mut self) {
        self.all.clear();
        self.done = 0;
    }

    /// The moment of the next that is to be done again.
    pub fn next(&self) -> Option<u64> {
        self.all.get(self.done).map(|(when, _)| when.moment)
    }

    /// What is to be done again now, one after the other.
    pub fn due(&mut self, now: When) -> Option<Deed> {
        let due = self.all.get(self.done).filter(|(when, _)| *when <= now)?;
        self.done += 1;
        Some(due.1.clone())
    }

    /// Takes note of what has been done now: what was done later before is not done again.
    pub fn add(&mut self, now: When, deed: Deed) {
        self.all.truncate(self.done);
        self.all.push((now, deed));
        self.count += 1;
        self.done = self.all.len();
        self.diverges.set(true);
    }
}
