//! How far a run may go, and how far it has gone: one meter for all that a run does, so that one
//! long operation is stopped like many short ones.
//!
//! Whoever makes something large asks for the room first ([`crate::values::ask`]); whoever goes
//! over something long says how much it does ([`crate::values::spend`]). Both are answered by
//! the meter of the heap that the thread has entered, and without a run by nothing: what is
//! looked at from outside has no limit.

mod interrupt;
mod limits;

use std::cell::{Cell, RefCell};
use std::time::{Duration, Instant};

pub use interrupt::Interrupt;
pub use limits::Limits;
pub(crate) use limits::in_bytes;

/// The limit that a run has come to.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Stopped {
    /// It has made all its steps.
    Steps,
    /// Its time is over.
    Time,
    /// It was interrupted from outside.
    Interrupted,
    /// There is not enough room for what it asked for; a collection may find some.
    Memory,
    /// What it makes would be larger than anything may be.
    Size,
}

/// After so many steps the limits are looked at: often enough for a limit on time, and
/// rarely enough to cost nothing.
const SLICE: u64 = 1 << 14;

/// After so much work, too. A unit is about a nanosecond.
const WORK: usize = 1 << 20;

/// From so many bytes on, the system is asked whether it has them: an allocation that fails
/// would end the process.
const LARGE: usize = 1 << 20;

/// What is left of the limits of a run.
#[derive(Debug)]
pub(crate) struct Meter {
    limits: Cell<Limits>,
    /// When the run began, if one is under way.
    started: Cell<Option<Instant>>,
    interrupt: RefCell<Option<Interrupt>>,
    steps_left: Cell<u64>,
    /// Work until the clock is looked at.
    work_left: Cell<usize>,
    /// What has struck; it is never taken back while the run goes on.
    struck: Cell<Option<Stopped>>,
    /// Bytes beside the heap: of stacks, and of what is kept until the run ends.
    stacks: Cell<usize>,
    kept: Cell<usize>,
    /// Whether the system had not as much as the run may have.
    is_short: Cell<bool>,
    /// Calls under way, for messages.
    calls: Cell<u32>,
}

/// How far a run had come, to have it go on from there again.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Measured {
    steps_left: u64,
    kept: usize,
}

/// Ends the measuring of a run when it is dropped.
pub(crate) struct Running<'m>(&'m Meter);

impl Drop for Running<'_> {
    fn drop(&mut self) {
        self.0.started.set(None);
        self.0.interrupt.replace(None);
        self.0.stacks.set(0);
        self.0.kept.set(0);
        self.0.struck.set(None);
        self.0.work_left.set(usize::MAX);
    }
}

impl Meter {
    /// One that measures nothing yet.
    pub fn new() -> Meter {
        Meter {
            limits: Cell::new(Limits::default()),
            started: Cell::new(None),
            interrupt: RefCell::new(None),
            steps_left: Cell::new(u64::MAX),
            work_left: Cell::new(usize::MAX),
            struck: Cell::new(None),
            stacks: Cell::new(0),
            kept: Cell::new(0),
            is_short: Cell::new(false),
            calls: Cell::new(0),
        }
    }

    /// Begins to measure a run.
    #[must_use]
    pub fn run(&self, limits: Limits, interrupt: Option<Interrupt>) -> Running<'_> {
        self.limits.set(limits);
        self.started.set(Some(Instant::now()));
        self.interrupt.replace(interrupt);
        self.steps_left.set(limits.steps.unwrap_or(u64::MAX));
        self.work_left.set(WORK);
        self.struck.set(None);
        self.is_short.set(false);
        Running(self)
    }

    /// The limits of the run.
    pub fn limits(&self) -> Limits {
        self.limits.get()
    }

    /// How long the run has taken so far.
    pub fn running(&self) -> Duration {
        self.started
            .get()
            .map_or(Duration::ZERO, |begun| begun.elapsed())
    }

    /// Whether time is left and nobody has interrupted the run. A limit that has struck
    /// strikes again, whatever the run does about it.
    #[cold]
    fn look(&self) -> Result<(), Stopped> {
        if self.struck.get().is_none() {
            let interrupt = self.interrupt.borrow();
            if interrupt.as_ref().is_some_and(Interrupt::is_raised) {
                self.struck.set(Some(Stopped::Interrupted));
            }
            let limit = self.limits.get().time;
            if limit.is_some_and(|limit| self.running() > limit) {
                self.struck.set(Some(Stopped::Time));
            }
        }
        self.struck.get().map_or(Ok(()), Err)
    }

    /// Lets nothing more be done: a limit has struck that is not looked at here.
    pub fn end(&self) {
        if self.struck.get().is_none() {
            self.struck.set(Some(Stopped::Steps));
        }
        self.work_left.set(0);
    }

    /// How many steps may be made until the limits are looked at again; at least one.
    #[cold]
    pub fn slice(&self) -> Result<u64, Stopped> {
        self.look()?;
        let left = self.steps_left.get();
        if left == 0 {
            self.struck.set(Some(Stopped::Steps));
            self.work_left.set(0);
            return Err(Stopped::Steps);
        }
        let steps = SLICE.min(left);
        self.steps_left.set(left - steps);
        Ok(steps + 1)
    }

    /// The limit that has struck, if one has: nothing more can be done then.
    pub fn struck(&self) -> Option<Stopped> {
        self.struck.get()
    }

    /// How far the run has come.
    pub fn measured(&self) -> Measured {
        Measured {
            steps_left: self.steps_left.get(),
            kept: self.kept.get(),
        }
    }

    /// Has the run be where it was: no limit has struck, and its time begins anew.
    pub fn go_back(&self, to: Measured) {
        self.steps_left.set(to.steps_left);
        self.kept.set(to.kept);
        self.started.set(Some(Instant::now()));
        self.struck.set(None);
        self.work_left.set(WORK);
    }

    /// Has something be done in so many steps at most, in the middle of a run: what strikes then strikes only
    /// that, unless it is a limit of the run itself.
    pub fn within<R>(&self, most: u64, what: impl FnOnce() -> R) -> R {
        let left = self.steps_left.get();
        let limits = self.limits.get();
        if left <= most {
            return what();
        }
        self.steps_left.set(most);
        self.limits.set(Limits {
            steps: Some(most),
            ..limits
        });
        let result = what();
        self.limits.set(limits);
        self.steps_left.set(left - (most - self.steps_left.get()));
        if self.struck.get() == Some(Stopped::Steps) {
            self.struck.set(None);
            self.work_left.set(WORK);
        }
        result
    }

    /// Counts work that is about to be done, in units of about a nanosecond.
    #[inline]
    pub fn spend(&self, work: usize) -> Result<(), Stopped> {
        let left = self.work_left.get();
        if work < left {
            self.work_left.set(left - work);
            return Ok(());
        }
        self.spent()
    }

    #[cold]
    fn spent(&self) -> Result<(), Stopped> {
        if self.started.get().is_none() {
            return Ok(());
        }
        // What has been stopped stops again at once.
        self.work_left.set(0);
        self.look()?;
        self.work_left.set(WORK);
        Ok(())
    }

    /// Whether there is room for so many bytes more, when so many are in use.
    #[inline]
    pub fn ask(&self, bytes: usize, used: usize) -> Result<(), Stopped> {
        if self.started.get().is_none() {
            return Ok(());
        }
        if bytes > self.left(used) {
            return Err(Stopped::Memory);
        }
        if bytes >= LARGE {
            let mut probe: Vec<u8> = Vec::new();
            return probe.try_reserve_exact(bytes).map_err(|_| {
                self.is_short.set(true);
                Stopped::Memory
            });
        }
        Ok(())
    }

    /// Whether so many bytes on the heap, with all beside it, are more than there may be.
    pub fn is_exceeded(&self, used: usize) -> bool {
        let most = self.limits.get().memory;
        self.started.get().is_some()
            && most.is_some_and(|most| (used + self.beside()) as u64 > most)
    }

    /// How many bytes more there may be, when the heap uses so many.
    pub fn left(&self, used: usize) -> usize {
        let most = self.limits.get().memory;
        let most = most.map_or(usize::MAX, |most| {
            usize::try_from(most).unwrap_or(usize::MAX)
        });
        most.saturating_sub(used).saturating_sub(self.beside())
    }

    /// Bytes in use that are not on the heap.
    pub fn beside(&self) -> usize {
        self.stacks.get() + self.kept.get()
    }

    /// Notes how large the stacks are, and how many calls are under way.
    pub fn set_stacks(&self, bytes: usize, calls: u32) {
        self.stacks.set(bytes);
        self.calls.set(calls);
    }

    /// Counts bytes that are kept as long as the run goes on.
    pub fn keep(&self, bytes: usize) {
        self.kept.set(self.kept.get() + bytes);
    }

    /// Whether the system had not as much as the run may have.
    pub fn is_short(&self) -> bool {
        self.is_short.get()
    }

    /// Gives back bytes that were kept.
    pub fn release(&self, bytes: usize) {
        self.kept.set(self.kept.get().saturating_sub(bytes));
    }

    /// Calls under way when it was last noted.
    pub fn calls(&self) -> u32 {
        self.calls.get()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_limit_that_has_struck_strikes_again() {
        let meter = Meter::new();
        let limits = Limits {
            time: Some(Duration::ZERO),
            ..Limits::default()
        };
        let _running = meter.run(limits, None);
        std::thread::sleep(Duration::from_millis(1));
        for _ in 0..3 {
            assert_eq!(meter.slice(), Err(Stopped::Time));
            assert_eq!(meter.spend(WORK + 1), Err(Stopped::Time));
            assert_eq!(meter.spend(1), Err(Stopped::Time));
        }
    }

    #[test]
    fn steps_are_counted_to_the_last() {
        let meter = Meter::new();
        let limits = Limits {
            steps: Some(SLICE + 5),
            ..Limits::default()
        };
        let _running = meter.run(limits, None);
        assert_eq!(meter.slice(), Ok(SLICE + 1));
        assert_eq!(meter.slice(), Ok(6));
        assert_eq!(meter.slice(), Err(Stopped::Steps));
        assert_eq!(meter.slice(), Err(Stopped::Steps));
    }

    #[test]
    fn without_a_run_nothing_is_measured() {
        let meter = Meter::new();
        assert_eq!(meter.ask(usize::MAX, 0), Ok(()));
        assert_eq!(meter.spend(usize::MAX), Ok(()));
        drop(meter.run(Limits::default(), None));
        assert_eq!(meter.spend(usize::MAX), Ok(()));
    }

    #[test]
    fn an_interrupt_is_seen() {
        let meter = Meter::new();
        let interrupt = Interrupt::new();
        let _running = meter.run(Limits::default(), Some(interrupt.clone()));
        assert_eq!(meter.spend(WORK), Ok(()));
        interrupt.raise();
        assert_eq!(meter.spend(WORK), Err(Stopped::Interrupted));
    }
}
