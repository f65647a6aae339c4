//! Rooms for things of one type, and the references to them: the part of the heap that the
//! compiler cannot check.
//!
//! # Safety
//!
//! A [`Ref`] is a bare address. What makes following it sound:
//!
//! - a room is freed only by a sweep, and only when the marking before it has not reached
//!   the room (`sweep` is private; it runs for rooms whose mark is old);
//! - a collection happens only between two instructions of an engine, when every value in
//!   use is reached from its roots (see [`super::heap`]), and values that are held from
//!   outside are among the roots;
//! - the heap outlives its values: an engine and every value held from outside keep it;
//! - values do not leave their thread (`Ref` is neither `Send` nor `Sync`).
#![allow(unsafe_code)]

use std::alloc::{Layout, alloc, dealloc, handle_alloc_error};
use std::cell::{Cell, RefCell};
use std::ptr::NonNull;

use super::heap::Heap;

/// A reference to something on the heap.
pub(crate) struct Ref<T>(NonNull<Room<T>>);

/// A place for a thing.
#[repr(C)]
struct Room<T> {
    /// The last collection that reached it, or in which it was made; 0 when it is free.
    mark: Cell<u32>,
    content: Content<T>,
}

union Content<T> {
    full: std::mem::ManuallyDrop<T>,
    /// The next free room.
    next: *mut Room<T>,
}

impl<T> Clone for Ref<T> {
    #[inline]
    fn clone(&self) -> Ref<T> {
        *self
    }
}

impl<T> Copy for Ref<T> {}

impl<T> std::fmt::Debug for Ref<T> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        // Not what is there: it may lead back here.
        write!(f, "{:p}", self.0)
    }
}

impl<T> std::ops::Deref for Ref<T> {
    type Target = T;

    #[inline]
    fn deref(&self) -> &T {
        check(self.mark_of());
        // SAFETY: the room is full as long as the reference is used; see the module.
        unsafe { &(*self.0.as_ptr()).content.full }
    }
}

impl<T> Ref<T> {
    #[inline]
    fn mark_of(&self) -> &Cell<u32> {
        // SAFETY: rooms stay allocated as long as the heap, which outlives its values.
        unsafe { &(*self.0.as_ptr()).mark }
    }

    /// Marks it as reached by a collection; whether it had not been.
    #[inline]
    pub fn mark(self, epoch: u32) -> bool {
        self.mark_of().replace(epoch) != epoch
    }

    /// What it refers to, for as long as the reference is good.
    #[inline]
    pub fn follow<'r>(self) -> &'r T {
        check(self.mark_of());
        // SAFETY: as for `deref`.
        unsafe { &(*self.0.as_ptr()).content.full }
    }

    /// Whether both are the very same.
    #[inline]
    pub fn is(self, other: Ref<T>) -> bool {
        self.0 == other.0
    }

    /// Where it is.
    pub fn address(self) -> usize {
        self.0.as_ptr() as usize
    }
}

/// Makes sure that a room is full, in builds that check.
#[inline]
fn check(mark: &Cell<u32>) {
    if cfg!(any(debug_assertions, feature = "checked")) {
        assert!(mark.get() != 0, "a freed room is used");
    }
}

/// The rooms for things of one type.
pub(crate) struct Pool<T> {
    /// The first free room.
    free: Cell<*mut Room<T>>,
    epoch: Cell<u32>,
    blocks: RefCell<Vec<(NonNull<Room<T>>, usize)>>,
    /// How many of the blocks have been swept since the last collection.
    swept: Cell<usize>,
    /// Whether it is noted which rooms are taken.
    follows: Cell<bool>,
    /// Free rooms that are handed out one by one, as long as it is.
    kept_back: Cell<*mut Room<T>>,
    /// The addresses of those that have been taken since they were asked for.
    taken: RefCell<Vec<usize>>,
}

impl<T> Pool<T> {
    /// The bytes that one room takes.
    pub const SIZE: usize = size_of::<Room<T>>();

    pub fn new() -> Pool<T> {
        Pool {
            free: Cell::new(std::ptr::null_mut()),
            epoch: Cell::new(1),
            blocks: RefCell::default(),
            swept: Cell::new(0),
            follows: Cell::new(false),
            kept_back: Cell::new(std::ptr::null_mut()),
            taken: RefCell::default(),
        }
    }

    /// Has it noted from now on which rooms are taken: each is handed out on its own then.
    pub fn follow_rooms(&self) {
        self.follows.set(true);
        self.kept_back.set(self.free.replace(std::ptr::null_mut()));
    }

    /// The addresses of the rooms that have been taken since this was asked last.
    pub fn taken(&self) -> Vec<usize> {
        self.taken.take()
    }

    /// Makes a thing in a room; see `made` for why it is always inlined.
    #[allow(clippy::inline_always)]
    #[inline(always)]
    pub fn allocate(&self, content: impl FnOnce() -> T) -> Ref<T> {
        let mut room = self.free.get();
        if room.is_null() {
            room = self.refill();
        }
        // SAFETY: a room in the list of free ones is free, allocated, and in that list once.
        unsafe {
            self.free.set((*room).content.next);
            (*room).content.full = std::mem::ManuallyDrop::new(content());
            (*room).mark.set(self.epoch.get());
            Ref(NonNull::new_unchecked(room))
        }
    }

    /// Free rooms: of a block that is still to be swept, or of a new one.
    #[cold]
    #[inline(never)]
    fn refill(&self) -> *mut Room<T> {
        if self.follows.get() {
            return self.hand_out();
        }
        while self.free.get().is_null() && self.sweep_next() {}
        if self.free.get().is_null() {
            self.add_block();
        }
        self.free.get()
    }

    /// One free room, which is noted; the others are kept back.
    fn hand_out(&self) -> *mut Room<T> {
        if self.kept_back.get().is_null() {
            while self.free.get().is_null() && self.sweep_next() {}
            if self.free.get().is_null() {
                self.add_block();
            }
            self.kept_back.set(self.free.replace(std::ptr::null_mut()));
        }
        let room = self.kept_back.get();
        // SAFETY: a room in the list of those that are kept back is free, allocated, and in that list
        // once; it is the only one in the list of free ones now.
        unsafe {
            self.kept_back.set((*room).content.next);
            (*room).content.next = std::ptr::null_mut();
        }
        self.free.set(room);
        self.taken.borrow_mut().push(room as usize);
        room
    }

    fn add_block(&self) {
        let mut blocks = self.blocks.borrow_mut();
        // Small heaps stay small; 64 KiB otherwise.
        let count = (32 << blocks.len().min(10))
            .min((1 << 16) / Self::SIZE)
            .max(8);
        let layout = Layout::array::<Room<T>>(count).unwrap_or(Layout::new::<Room<T>>());
        // SAFETY: a room is never of size zero.
        let block = unsafe { alloc(layout) }.cast::<Room<T>>();
        let Some(first) = NonNull::new(block) else {
            handle_alloc_error(layout)
        };
        for index in (0..count).rev() {
            // SAFETY: the block has `count` rooms, and nobody else has it yet.
            unsafe {
                let room = first.as_ptr().add(index);
                (&raw mut (*room).mark).write(Cell::new(0));
                (&raw mut (*room).content.next).write(self.free.get());
                self.free.set(room);
            }
        }
        blocks.push((first, count));
        self.swept.set(blocks.len());
    }

    /// Sweeps the next block that has not been swept since the last collection, if any.
    fn sweep_next(&self) -> bool {
        let at = self.swept.get();
        let Some(&(first, count)) = self.blocks.borrow().get(at) else {
            return false;
        };
        self.swept.set(at + 1);
        let epoch = self.epoch.get();
        for index in (0..count).rev() {
            // SAFETY: the block has `count` rooms; a room with an old mark was not reached,
            // so that no reference to it is ever used again.
            unsafe {
                let room = first.as_ptr().add(index);
                let mark = (*room).mark.get();
                if mark == epoch {
                    continue;
                }
                if mark != 0 {
                    (*room).mark.set(0);
                    std::mem::ManuallyDrop::drop(&mut (*room).content.full);
                }
                (*room).content.next = self.free.get();
                self.free.set(room);
            }
        }
        true
    }

    /// Sweeps what is left to be swept.
    pub fn sweep_all(&self) {
        while self.sweep_next() {}
    }

    /// Begins a collection; everything has been swept.
    pub fn begin_epoch(&self) -> u32 {
        self.free.set(std::ptr::null_mut());
        self.kept_back.set(std::ptr::null_mut());
        self.swept.set(0);
        self.epoch.set(self.epoch.get() + 1);
        self.epoch.get()
    }
}

impl<T> Drop for Pool<T> {
    fn drop(&mut self) {
        for &(first, count) in self.blocks.borrow().iter() {
            for index in 0..count {
                // SAFETY: the heap ends, and with it every reference into it.
                unsafe {
                    let room = first.as_ptr().add(index);
                    if (*room).mark.get() != 0 {
                        std::mem::ManuallyDrop::drop(&mut (*room).content.full);
                    }
                }
            }
            let layout = Layout::array::<Room<T>>(count).unwrap_or(Layout::new::<Room<T>>());
            // SAFETY: allocated with this very layout.
            unsafe { dealloc(first.as_ptr().cast(), layout) };
        }
    }
}

/// The heap that a thread has entered.
#[inline]
pub(super) fn entered<'h>(current: *const Heap) -> &'h Heap {
    // SAFETY: the guard of `Heap::enter` keeps the heap as long as it is current.
    unsafe { &*current }
}

/// So many bytes of what texts are built in.
#[inline]
pub(super) fn beginning(all: &RefCell<String>, length: usize) -> &str {
    // SAFETY: bytes that are there never change. They move when more are put behind them, in
    // `append`, and nobody has the content of a text that shares them in hand there.
    let all = unsafe { &*all.as_ptr() };
    // Each length is one that the whole had once, and so the end of a character.
    &all[..length]
}

/// The text that the first of some bytes are; they were copied from one.
#[inline]
pub(super) fn text_in(bytes: &[u8], length: u8) -> &str {
    let bytes = &bytes[..usize::from(length)];
    debug_assert!(std::str::from_utf8(bytes).is_ok());
    // SAFETY: whole texts were copied there, one after the other.
    unsafe { std::str::from_utf8_unchecked(bytes) }
}
