//! What the addresses that the machine follows may lead to: code, constants, registers and frames
//! that are there. Known in builds that check (with debug assertions, or the feature `checked`),
//! where every access is held against it; in others nothing of this is left.
// What is left of it in other builds is nothing, and must not become a call.
#![allow(clippy::inline_always)]

/// What an address leads to.
#[derive(Clone, Copy, Debug)]
pub(super) enum What {
    Instruction,
    Register,
    Constant,
    Frame,
}

#[cfg(any(debug_assertions, feature = "checked"))]
mod known {
    use std::any::Any;
    use std::cell::{Cell, RefCell};
    use std::collections::BTreeMap;

    thread_local! {
        /// Where each stretch of memory begins that may be followed into, and where it ends.
        static KNOWN: RefCell<BTreeMap<usize, usize>> = const { RefCell::new(BTreeMap::new()) };

        /// The stretches found last, by what they are: code, constants, registers and frames take
        /// turns.
        static LATEST: [Cell<(usize, usize)>; 4] = const { [const { Cell::new((0, 0)) }; 4] };
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
            let _ = LATEST.try_with(|latest| latest.iter().for_each(|one| one.set((0, 0))));
            let _ = KNOWN.try_with(|known| known.borrow_mut().remove(&start));
        }
    }

    /// Makes sure that the code of a function is that of an engine. Never inlined: what it asks for
    /// would be kept on the native stack of a handler, which could no longer end in a jump.
    #[inline(never)]
    pub fn is<T: Any>(code: &dyn Any) {
        assert!(code.is::<T>(), "a function of another engine");
    }

    /// Makes sure that something lies in a stretch that may be followed into.
    #[inline(never)]
    pub fn inside(address: usize, size: usize, what: super::What) {
        let end = address + size;
        let holds = LATEST.with(|latest| {
            let latest = &latest[what as usize];
            let (from, to) = latest.get();
            if from <= address && end <= to {
                return true;
            }
            let found = KNOWN.with(|known| {
                let known = known.borrow();
                let before = known.range(..=address).next_back();
                before.map(|(from, to)| (*from, *to))
            });
            latest.set(found.unwrap_or_default());
            found.is_some_and(|(_, to)| end <= to)
        });
        assert!(holds, "{what:?} outside of all there are");
    }
}

#[cfg(not(any(debug_assertions, feature = "checked")))]
mod known {
    use std::any::Any;

    /// From here on a stretch of memory may be followed into.
    #[inline(always)]
    pub fn enter<T>(_: &[T]) {}

    /// It may not any more: it moves, or is given back.
    #[inline(always)]
    pub fn leave<T>(_: &[T]) {}

    /// Makes sure that the code of a function is that of an engine.
    #[inline(always)]
    pub fn is<T>(_: &dyn Any) {}

    /// Makes sure that something lies in a stretch that may be followed into.
    #[inline(always)]
    pub fn inside(_: usize, _: usize, _: super::What) {}
}

pub(super) use known::{enter, inside, is, leave};

/// The same for the place that a pointer leads to.
#[inline(always)]
pub(super) fn place<T>(pointer: *const T, what: What) {
    inside(pointer as usize, size_of::<T>(), what);
}
