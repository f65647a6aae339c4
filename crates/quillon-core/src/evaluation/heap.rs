//! How much memory values take. Each text, list and map says what it needs when it is made
//! or grows, and gives it back when it is dropped; the count is one a thread, since values
//! never leave theirs.

use std::cell::Cell;

thread_local! {
    static LIVE: Cell<usize> = const { Cell::new(0) };
}

/// What one value of variable size costs beside its content, in bytes: counts of
/// references, length, capacity.
const HEAD: usize = 48;

/// The bytes that all values of this thread take.
pub(super) fn live() -> usize {
    LIVE.with(Cell::get)
}

/// A number of bytes that are counted as long as this lives.
#[derive(Debug)]
pub(super) struct Counted(Cell<usize>);

impl Counted {
    /// Counts something with so many bytes of content.
    pub fn new(bytes: usize) -> Counted {
        let all = bytes + HEAD;
        LIVE.with(|live| live.set(live.get() + all));
        Counted(Cell::new(all))
    }

    /// Counts anew after the content has changed its size.
    #[inline]
    pub fn resize(&self, bytes: usize) {
        let all = bytes + HEAD;
        let before = self.0.replace(all);
        if before != all {
            LIVE.with(|live| live.set(live.get() - before + all));
        }
    }
}

impl Default for Counted {
    fn default() -> Counted {
        Counted::new(0)
    }
}

impl Drop for Counted {
    fn drop(&mut self) {
        // A thread that ends has nothing left to count.
        let _ = LIVE.try_with(|live| live.set(live.get() - self.0.get()));
    }
}
