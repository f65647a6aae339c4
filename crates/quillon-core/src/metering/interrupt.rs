//! Ending a run from outside.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

/// Ends a run from another thread, or from a handler of signals. Copies are the same one.
#[derive(Clone, Debug, Default)]
pub struct Interrupt(Arc<AtomicBool>);

impl From<Arc<AtomicBool>> for Interrupt {
    /// One that is raised by setting a flag, for instance in a handler of signals.
    fn from(flag: Arc<AtomicBool>) -> Interrupt {
        Interrupt(flag)
    }
}

impl Interrupt {
    /// One that is not raised.
    pub fn new() -> Interrupt {
        Interrupt::default()
    }

    /// Makes the run end within a few milliseconds; whether it was raised before.
    pub fn raise(&self) -> bool {
        self.0.swap(true, Ordering::SeqCst)
    }

    /// Forgets that it was raised: for the next run.
    pub fn lower(&self) {
        self.0.store(false, Ordering::SeqCst);
    }

    /// Whether the run is to end.
    pub fn is_raised(&self) -> bool {
        self.0.load(Ordering::Relaxed)
    }
}
