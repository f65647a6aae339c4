//! Rows of a few values: what maps and functions have beside themselves. They come from chunks of the heap, with a list of
//! free ones for each size (after Knuth, "The Art of Computer Programming", volume 1, section 2.5), which takes a few
//! machine instructions where a general allocator takes a hundred.
//!
//! # Safety
//!
//! A [`ValueRow`] is an address with its room. What makes following it sound:
//!
//! - a row belongs to whoever has it, and nobody else has the same: it is not `Copy`, and what it was made from is not kept;
//! - its chunk stays as long as the heap, which outlives its values: the heap drops its rows last;
//! - a chunk begins where its size divides the address, and with the address of the rows that it belongs to, so that a row
//!   finds back to them by itself;
//! - so many values as it says have been written, from the first on.
#![allow(unsafe_code)]

use std::alloc::{Layout, alloc, dealloc, handle_alloc_error, realloc};
use std::cell::{Cell, RefCell};
use std::mem::{ManuallyDrop, MaybeUninit};
use std::ptr::NonNull;

use super::heap::allocated;
use super::map::Entries;
use super::{Heap, Value};

/// The bytes of a chunk, and what divides its address.
const CHUNK: usize = 1 << 14;

/// How many values there is room for in a row of each size.
const SIZES: [u8; 9] = [1, 2, 3, 4, 6, 8, 12, 16, 24];

/// Rows with room for more come from the allocator.
const LARGEST: usize = SIZES[SIZES.len() - 1] as usize;

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

    /// A row of a size, by the number of that.
    #[inline]
    fn take(&self, size: u8) -> NonNull<Value> {
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
    fn cut(&self, size: u8) -> NonNull<Value> {
        let bytes = usize::from(SIZES[usize::from(size)]) * size_of::<Value>();
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
        let head = size_of::<Value>();
        // SAFETY: the chunk has room for its header, which is no larger than a value.
        unsafe {
            start.cast::<Header>().write(Header { owner: self });
            self.left.set((start.as_ptr().add(head), CHUNK - head));
        }
        self.chunks.borrow_mut().push(start);
    }
}

const _: () = assert!(size_of::<Header>() <= size_of::<Value>());

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

/// So many values are copied by themselves.
const FEW: usize = 6;

/// Copies some halves of values one by one: they have often just been written so, and a processor is slow to read as
/// one what was written as two.
///
/// # Safety
/// There are so many at the first place, and there is room for them at the second.
#[inline]
unsafe fn copy_by_halves(from: *const MaybeUninit<u64>, to: *mut MaybeUninit<u64>, count: usize) {
    const { assert!(size_of::<Value>() == 2 * size_of::<u64>()) };
    for at in 0..count {
        // SAFETY: a value is two words, either of which may be without meaning.
        unsafe { to.add(at).write(from.add(at).read_volatile()) };
    }
}

/// Some values one after the other, with room for so many.
pub(crate) struct ValueRow {
    first: NonNull<Value>,
    length: u32,
    room: u32,
}

impl ValueRow {
    /// A row of these values, with room for no more of them than its size has.
    #[inline]
    pub fn of(values: &[Value]) -> ValueRow {
        let mut row = ValueRow::with_room(values.len());
        let (from, to) = (values.as_ptr(), row.first.as_ptr());
        // SAFETY: there is room for all of them, and a new row is nobody else's.
        unsafe {
            if values.len() <= FEW {
                copy_by_halves(from.cast(), to.cast(), 2 * values.len());
            } else {
                std::ptr::copy_nonoverlapping(from, to, values.len());
            }
        }
        row.length = values.len() as u32;
        row
    }

    /// An empty row with room for so many values.
    #[allow(clippy::inline_always)]
    #[inline(always)]
    pub fn with_room(count: usize) -> ValueRow {
        if count == 0 {
            return ValueRow::default();
        }
        if count > LARGEST {
            return ValueRow::large(count);
        }
        let size = SIZE_FOR[count];
        ValueRow {
            first: Heap::with(|heap| heap.rows.take(size)),
            length: 0,
            room: u32::from(SIZES[usize::from(size)]),
        }
    }

    #[cold]
    fn large(count: usize) -> ValueRow {
        let layout = large_layout(count);
        // SAFETY: the layout is not of size zero.
        let Some(start) = NonNull::new(unsafe { alloc(layout) }) else {
            handle_alloc_error(layout)
        };
        ValueRow {
            first: start.cast(),
            length: 0,
            room: count as u32,
        }
    }

    /// The values of a vector; where they are many, they stay where they are.
    pub fn of_vector(values: Vec<Value>) -> ValueRow {
        if values.capacity() <= LARGEST || u32::try_from(values.capacity()).is_err() {
            return ValueRow::of(&values);
        }
        let mut values = ManuallyDrop::new(values);
        ValueRow {
            // SAFETY: a vector with room has an address, and nobody but the row drops it from here on.
            first: unsafe { NonNull::new_unchecked(values.as_mut_ptr()) },
            length: values.len() as u32,
            room: values.capacity() as u32,
        }
    }

    /// Makes room for so many values in all.
    pub fn reserve(&mut self, count: usize) {
        if count <= self.room() {
            return;
        }
        if self.room() > LARGEST {
            let (before, after) = (large_layout(self.room()), large_layout(count));
            let first = self.first.as_ptr().cast();
            // SAFETY: allocated with the layout before, and the one after is larger.
            let Some(start) = NonNull::new(unsafe { realloc(first, before, after.size()) }) else {
                handle_alloc_error(after)
            };
            self.first = start.cast();
            self.room = count as u32;
            return;
        }
        let mut longer = ValueRow::with_room(count);
        for value in &**self {
            longer.push(*value);
        }
        *self = longer;
    }

    /// Puts a value in at a place, before those from there on, if there is room.
    pub fn insert(&mut self, at: usize, value: Value) -> bool {
        let has_room = self.push(value);
        if has_room {
            self[at..].rotate_right(1);
        }
        has_room
    }

    /// Takes out the value at a place.
    pub fn remove(&mut self, at: usize) -> Option<Value> {
        self.get_mut(at..)?.rotate_left(1);
        self.pop()
    }

    /// Takes out the last value.
    pub fn pop(&mut self) -> Option<Value> {
        let last = self.last().copied()?;
        self.length -= 1;
        Some(last)
    }

    /// The bytes that it takes.
    pub fn bytes(&self) -> usize {
        let bytes = self.room() * size_of::<Value>();
        if self.room() > LARGEST {
            allocated(bytes)
        } else {
            bytes
        }
    }

    /// How many values it has room for.
    #[inline]
    pub fn room(&self) -> usize {
        self.room as usize
    }

    /// Adds a value at the end, if there is room.
    #[inline]
    pub fn push(&mut self, value: Value) -> bool {
        let has_room = self.length < self.room;
        if has_room {
            // SAFETY: the place is inside the row.
            unsafe { self.first.add(self.length as usize).write(value) };
            self.length += 1;
        }
        has_room
    }
}

impl Default for ValueRow {
    /// A row of no values, with no room.
    #[inline]
    fn default() -> ValueRow {
        ValueRow {
            first: NonNull::dangling(),
            length: 0,
            room: 0,
        }
    }
}

impl std::ops::Deref for ValueRow {
    type Target = [Value];

    #[inline]
    fn deref(&self) -> &[Value] {
        // SAFETY: so many values have been written; see the module.
        unsafe { std::slice::from_raw_parts(self.first.as_ptr(), self.length as usize) }
    }
}

impl std::ops::DerefMut for ValueRow {
    #[inline]
    fn deref_mut(&mut self) -> &mut [Value] {
        // SAFETY: as for `deref`, and nobody else has it.
        unsafe { std::slice::from_raw_parts_mut(self.first.as_ptr(), self.length as usize) }
    }
}

impl Clone for ValueRow {
    fn clone(&self) -> ValueRow {
        ValueRow::of(self)
    }
}

impl std::fmt::Debug for ValueRow {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_list().entries(self.iter()).finish()
    }
}

impl Drop for ValueRow {
    #[inline]
    fn drop(&mut self) {
        let room = self.room as usize;
        if room == 0 {
            return;
        }
        if room > LARGEST {
            // SAFETY: allocated with this very layout.
            unsafe { dealloc(self.first.as_ptr().cast(), large_layout(room)) };
            return;
        }
        let start = self.first.as_ptr().map_addr(|at| at & !(CHUNK - 1));
        let free = self.first.as_ptr().cast::<Free>();
        // SAFETY: the chunk begins there, with where its rows go back to; the row is nobody's any more.
        unsafe {
            let owner = &*(*start.cast::<Header>()).owner;
            let list = &owner.free[usize::from(SIZE_FOR[room])];
            free.write(Free { next: list.get() });
            list.set(free);
        }
    }
}

/// How a row of its own is laid out. More values than a row can count are more than there is memory for.
fn large_layout(count: usize) -> Layout {
    match (u32::try_from(count), Layout::array::<Value>(count)) {
        (Ok(_), Ok(layout)) => layout,
        (Err(_), _) | (_, Err(_)) => handle_alloc_error(Layout::new::<Value>()),
    }
}

/// The value at a place of a row that nobody is changing.
#[inline]
pub(super) fn seen_at(row: &RefCell<ValueRow>, place: usize) -> Option<Value> {
    // SAFETY: what is seen is copied before anything else runs.
    let row = unsafe { row.try_borrow_unguarded() }.ok()?;
    row.get(place).copied()
}

/// Puts a value at a place of a row; whether there is such a place, and nobody is looking at the row.
#[inline]
pub(super) fn put_at(row: &RefCell<ValueRow>, place: usize, value: Value) -> bool {
    if row.try_borrow_mut().is_err() {
        return false;
    }
    // SAFETY: nobody is looking at the row, and nothing else runs before the value is written.
    let row = unsafe { &mut *row.as_ptr() };
    row.get_mut(place).map(|there| *there = value).is_some()
}

/// Adds a value at the end of a row, if there is room and nobody is looking at the row.
#[inline]
pub(super) fn push_on(row: &RefCell<ValueRow>, value: Value) -> bool {
    // SAFETY: as for `put_at`.
    row.try_borrow_mut().is_ok() && unsafe { &mut *row.as_ptr() }.push(value)
}

/// The value at a place of a row of a map that has a shape of some number.
#[inline]
pub(super) fn seen_in(entries: &RefCell<Entries>, number: u32, place: u32) -> Option<Value> {
    // SAFETY: as for `seen_at`.
    match unsafe { entries.try_borrow_unguarded() }.ok()? {
        Entries::Row(shape, values) if shape.number == number => {
            values.get(place as usize).copied()
        }
        Entries::Empty | Entries::Row(..) | Entries::Table(_) => None,
    }
}

/// A row whose values can be exchanged by all who see it.
#[derive(Debug, Default)]
pub(crate) struct CellRow(ValueRow);

impl CellRow {
    /// A row of these values.
    #[inline]
    pub fn of(values: &[Value]) -> CellRow {
        CellRow(ValueRow::of(values))
    }

    /// A row that is given its values one by one.
    #[inline]
    pub fn gathered(count: usize, values: impl Iterator<Item = Value>) -> CellRow {
        let mut row = ValueRow::with_room(count);
        for value in values.take(count) {
            row.push(value);
        }
        CellRow(row)
    }
}

impl std::ops::Deref for CellRow {
    type Target = [Cell<Value>];

    #[inline]
    fn deref(&self) -> &[Cell<Value>] {
        // SAFETY: as for `deref` of a row; a cell is laid out as what is in it, and the row is seen in no other way.
        unsafe { std::slice::from_raw_parts(self.0.first.as_ptr().cast(), self.0.length as usize) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn numbers(count: usize) -> Vec<Value> {
        (0..count).map(|n| Value::Integer(n as i64)).collect()
    }

    fn is_as(row: &ValueRow, count: usize) -> bool {
        let same =
            |(at, value): (usize, &Value)| matches!(value, Value::Integer(n) if *n == at as i64);
        row.len() == count && row.iter().enumerate().all(same)
    }

    #[test]
    fn rows_of_all_sizes_keep_what_is_in_them_while_others_come_and_go() {
        let heap = Heap::new();
        let _entered = heap.enter();
        let mut kept: Vec<(usize, ValueRow)> = Vec::new();
        for turn in 0..2_000 {
            let count = turn * 7 % 40;
            kept.push((count, ValueRow::of(&numbers(count))));
            if turn % 3 == 0 {
                kept.swap_remove(turn * 5 % kept.len());
            }
        }
        assert!(kept.iter().all(|(count, row)| is_as(row, *count)));
    }

    #[test]
    fn a_row_that_was_dropped_is_used_again() {
        let heap = Heap::new();
        let _entered = heap.enter();
        let first = ValueRow::of(&numbers(3));
        let place = first.first;
        drop(first);
        assert_eq!(ValueRow::of(&numbers(3)).first, place);
        assert_ne!(ValueRow::of(&numbers(4)).first, place);
    }

    #[test]
    fn there_is_room_for_as_many_as_the_size_has() {
        let heap = Heap::new();
        let _entered = heap.enter();
        for count in 0..60 {
            let mut row = ValueRow::of(&numbers(count));
            while row.len() < row.room() {
                assert!(row.push(Value::Integer(row.len() as i64)));
            }
            assert!(!row.push(Value::Nothing));
            assert!(is_as(&row, row.room()));
        }
    }
}
