//! What the addresses that the machine follows may lead to: code, constants, registers and frames
//! that are there. Known in builds that check (with debug assertions, or the feature `checked`),
//! where every access is held against it; in others nothing of this is left.
// What is left of it in other builds is nothing, and must not become a call.
#![allow(clippy::inline_always)]

#[cfg(any(debug_assertions, feature = "checked"))]
mod known {
    use std::cell::RefCell;
    use std::collections::BTreeMap;

    thread_local! {
        /// Where each stretch of memory begins that may be followed into, and where it ends.
        static KNOWN: RefCell<BTreeMap<usize, usize>> = const { RefCell::new(BTreeMap::new()) };
    }

    fn range<T>(slice: &[T]) -> (usize, usize) {
        let start = slice.as_ptr() as usize;
        (start, start + size_of_val(slice))
    }

    /// From here on a stretch of memory may be followed into.
    pub fn enter<T>(slice: &[T]) {
        let (start, end) = range(slice);
        if start < end {
            KNOWN.with(|known| known.borrow_mut().insert(start, end));
        }
    }

    /// It may not any more: it moves, or is given back.
    pub fn leave<T>(slice: &[T]) {
        let (start, end) = range(slice);
        if start < end {
            // Other thread-local things may be gone already when a thread ends.
            let _ = KNOWN.try_with(|known| known.borrow_mut().remove(&start));
        }
    }

    /// Makes sure that something lies in a stretch that may be followed into.
    #[inline(never)]
    pub fn inside(address: usize, size: usize, what: &str) {
        let holds = KNOWN.with(|known| {
            let known = known.borrow();
            let before = known.range(..=address).next_back();
            before.is_some_and(|(_, end)| address + size <= *end)
        });
        assert!(holds, "{what} outside of all there are");
    }
}

#[cfg(not(any(debug_assertions, feature = "checked")))]
mod known {
    /// From here on a stretch of memory may be followed into.
    #[inline(always)]
    pub fn enter<T>(_: &[T]) {}

    /// It may not any more: it moves, or is given back.
    #[inline(always)]
    pub fn leave<T>(_: &[T]) {}

    /// Makes sure that something lies in a stretch that may be followed into.
    #[inline(always)]
    pub fn inside(_: usize, _: usize, _: &str) {}
}

pub(super) use known::{enter, inside, leave};

/// The same for the place that a pointer leads to.
#[inline(always)]
pub(super) fn place<T>(pointer: *const T, what: &str) {
    inside(pointer as usize, size_of::<T>(), what);
}
