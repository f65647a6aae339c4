//! Where short rows come from: chunks, with a list of free rows for each size (after Knuth, "The Art of Computer
//! Programming", volume 1, section 2.5), which takes a few machine instructions where a general allocator takes a hundred.
//!
//! # Safety
//!
//! A chunk stays as long as the heap, which outlives its values: the heap drops its rows last. It begins where its size
//! divides the address, and with the address of the rows that it belongs to, so that a row finds back to them by itself.
#![allow(unsafe_code)]

use std::alloc::{Layout, alloc, dealloc, handle_alloc_error};
use std::cell::{Cell, RefCell};
use std::ptr::NonNull;

use super::{Half, bytes_of};

/// The bytes of a chunk, and what divides its address.
const CHUNK: usize = 1 << 14;

/// How many values there is room for in a row of each size.
const SIZES: [u8; 9] = [1, 2, 3, 4, 6, 8, 12, 16, 24];

/// Rows with room for more come from the allocator.
pub(super) const LARGEST: usize = SIZES[SIZES.len() - 1] as usize;

/// The smallest size with room for so many values.
const SIZE_FOR: [u8; LARGEST + 1] = {
    let mut all = [0; LARGEST + 1];
    let (mut count, mut size) = (0, 0);
    while count <= LARGEST {
        if count > SIZES[size] as usize {
            size += 1;
        }
        all[count] = size as u8;
        count += 1;
    }
    all
};

/// What a row is while it is free.
struct Free {
    next: *mut Free,
}

/// What a chunk begins with.
struct Header {
    owner: *const Rows,
}

/// Where the rows of a heap come from.
pub(crate) struct Rows {
    /// The free ones of each size.
    free: [Cell<*mut Free>; SIZES.len()],
    /// What is left of the last chunk: where it begins, and how many bytes there are.
    left: Cell<(*mut u8, usize)>,
    chunks: RefCell<Vec<NonNull<u8>>>,
}

impl Rows {
    /// None yet.
    pub fn new() -> Rows {
        Rows {
            free: [const { Cell::new(std::ptr::null_mut()) }; SIZES.len()],
            left: Cell::new((std::ptr::null_mut(), 0)),
            chunks: RefCell::default(),
        }
    }

    /// A row with room for so many values, which are one of the sizes at most, and for how many there is room.
    #[inline]
    pub fn take(&self, count: usize) -> (NonNull<Half>, u32) {
        let size = SIZE_FOR[count];
        (self.taken(size), u32::from(SIZES[usize::from(size)]))
    }

    /// A row of a size, by the number of that.
    #[inline]
    fn taken(&self, size: u8) -> NonNull<Half> {
        let list = &self.free[usize::from(size)];
        match NonNull::new(list.get()) {
            Some(free) => {
                // SAFETY: what is in the list is free, and there once.
                list.set(unsafe { (*free.as_ptr()).next });
                free.cast()
            }
            None => self.cut(size),
        }
    }

    /// Takes a row off the last chunk, or off a new one.
    #[cold]
    #[inline(never)]
    fn cut(&self, size: u8) -> NonNull<Half> {
        let bytes = bytes_of(usize::from(SIZES[usize::from(size)]));
        if self.left.get().1 < bytes {
            self.add_chunk();
        }
        let (start, left) = self.left.get();
        // SAFETY: the chunk has so many bytes left, of which these are nobody's yet.
        unsafe {
            self.left.set((start.add(bytes), left - bytes));
            NonNull::new_unchecked(start).cast()
        }
    }

    fn add_chunk(&self) {
        let layout = chunk();
        // SAFETY: the layout is not of size zero.
        let Some(start) = NonNull::new(unsafe { alloc(layout) }) else {
            handle_alloc_error(layout)
        };
        let head = size_of::<Header>();
        // SAFETY: the chunk has room for its header.
        unsafe {
            start.cast::<Header>().write(Header { owner: self });
            self.left.set((start.as_ptr().add(head), CHUNK - head));
        }
        self.chunks.borrow_mut().push(start);
    }
}

/// Gives a row back to where it came from.
///
/// # Safety
/// It came from [`Rows::take`] with room for so many values, its rows are there, and nobody uses it from here on.
#[inline]
pub(super) unsafe fn give_back(first: NonNull<Half>, room: usize) {
    let start = first.as_ptr().map_addr(|at| at & !(CHUNK - 1));
    let free = first.as_ptr().cast::<Free>();
    // SAFETY: the chunk begins there, with where its rows go back to.
    unsafe {
        let owner = &*(*start.cast::<Header>()).owner;
        let list = &owner.free[usize::from(SIZE_FOR[room])];
        free.write(Free { next: list.get() });
        list.set(free);
    }
}

impl Drop for Rows {
    fn drop(&mut self) {
        for start in self.chunks.borrow().iter() {
            // SAFETY: allocated with this very layout; nobody has a row any more.
            unsafe { dealloc(start.as_ptr(), chunk()) };
        }
    }
}

fn chunk() -> Layout {
    Layout::from_size_align(CHUNK, CHUNK).unwrap_or(Layout::new::<u64>())
}
