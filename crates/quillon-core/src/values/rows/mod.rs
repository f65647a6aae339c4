//! Rows of values: what lists, maps and functions have beside themselves. A value in a row takes nine bytes: first come the
//! contents of all values, eight bytes each, then the kinds of all, a byte each.
//!
//! # Safety
//!
//! A [`ValueRow`] is an address with its room. What makes following it sound:
//!
//! - a row belongs to whoever has it, and nobody else has the same: it is not `Copy`, and what it was made from is not kept;
//! - nobody has a reference to what is in it: values are copied out and in, so that all who see the row may change it;
//! - short rows come from chunks that outlive them (see [`chunks`]), longer ones from the allocator;
//! - so many values as it says have been written, from the first on.
#![allow(unsafe_code)]

use std::alloc::{Layout, alloc, dealloc, handle_alloc_error, realloc};
use std::cell::Cell;
use std::mem::MaybeUninit;
use std::ptr::NonNull;

use super::heap::allocated;
use super::{Heap, Marker, Value};
use chunks::LARGEST;

mod chunks;

pub(crate) use chunks::Rows;

/// What is in a value; of some kinds of values a part of it is without meaning, of some all of it.
type Half = MaybeUninit<u64>;

/// A value in two halves.
#[repr(C)]
struct Halves {
    kind: u64,
    content: Half,
}

impl Halves {
    #[inline]
    const fn of(value: Value) -> Halves {
        // SAFETY: a value has its kind in the first word and what is in it in the second.
        unsafe { std::mem::transmute::<Value, Halves>(value) }
    }
}

/// The last of the kinds of values that have nothing on the heap.
const LAST_PLAIN: u8 = Halves::of(Value::Number(0.0)).kind as u8;

/// The bytes of a row with room for so many values.
const fn bytes_of(room: usize) -> usize {
    (room * (size_of::<Half>() + 1)).next_multiple_of(align_of::<Half>())
}

/// Some values one after the other, with room for so many.
pub(crate) struct ValueRow {
    first: Cell<NonNull<Half>>,
    length: Cell<u32>,
    room: Cell<u32>,
}

impl ValueRow {
    /// A row of these values, with room for no more of them than its size has.
    #[inline]
    pub fn of(values: &[Value]) -> ValueRow {
        let row = ValueRow::with_room(values.len());
        for (place, value) in values.iter().enumerate() {
            // SAFETY: there is room for all of them. The halves are read one by one: they have often just been written
            // so, and a processor is slow to read as one what was written as two.
            unsafe {
                let halves: *const Half = std::ptr::from_ref(value).cast();
                let content = halves.add(1).read_volatile();
                row.content(place).write(content);
                row.kind(place).write(halves.cast::<u64>().read() as u8);
            }
        }
        row.length.set(values.len() as u32);
        row
    }

    /// A row that is given its values one by one, so many at most.
    #[inline]
    pub fn gathered(count: usize, values: impl IntoIterator<Item = Value>) -> ValueRow {
        let row = ValueRow::with_room(count);
        for value in values.into_iter().take(count) {
            row.push(value);
        }
        row
    }

    /// A row of so many integers, from one up.
    pub fn counted(from: i64, count: usize) -> ValueRow {
        let row = ValueRow::with_room(count);
        let Halves { kind, .. } = Halves::of(Value::Integer(0));
        for place in 0..count {
            let integer = from.wrapping_add(place as i64);
            // SAFETY: there is room for all of them, and an integer is the second half of its value.
            unsafe { row.content(place).write(Half::new(integer as u64)) };
        }
        if count > 0 {
            // SAFETY: as above; a kind is a byte.
            unsafe { row.kind(0).write_bytes(kind as u8, count) };
        }
        row.length.set(count as u32);
        row
    }

    /// A row of the same values with room for so many, as many as there are at least.
    fn copied(&self, room: usize) -> ValueRow {
        let (length, row) = (self.len(), ValueRow::with_room(room));
        if length > 0 {
            // SAFETY: the other row is another piece of memory, with room for all of them.
            unsafe {
                std::ptr::copy_nonoverlapping(self.content(0), row.content(0), length);
                std::ptr::copy_nonoverlapping(self.kind(0), row.kind(0), length);
            }
        }
        row.length.set(length as u32);
        row
    }

    /// An empty row with room for so many values.
    #[allow(clippy::inline_always)]
    #[inline(always)]
    pub fn with_room(count: usize) -> ValueRow {
        if count == 0 {
            return ValueRow::default();
        }
        let (first, room) = if count > LARGEST {
            large(count)
        } else {
            Heap::with(|heap| heap.rows.take(count))
        };
        ValueRow {
            first: Cell::new(first),
            length: Cell::new(0),
            room: Cell::new(room),
        }
    }

    /// Where what is in the value at a place is.
    ///
    /// # Safety
    /// There is room for a value at that place.
    #[inline]
    unsafe fn content(&self, place: usize) -> *mut Half {
        // SAFETY: the place is inside the row.
        unsafe { self.first.get().as_ptr().add(place) }
    }

    /// Where the kind of the value at a place is.
    ///
    /// # Safety
    /// There is room for a value at that place.
    #[inline]
    unsafe fn kind(&self, place: usize) -> *mut u8 {
        // SAFETY: the kinds follow the contents.
        unsafe { self.content(self.room()).cast::<u8>().add(place) }
    }

    /// Writes a value.
    ///
    /// # Safety
    /// There is room for a value at that place.
    #[inline]
    unsafe fn write(&self, place: usize, value: Value) {
        let Halves { kind, content } = Halves::of(value);
        // SAFETY: the place is inside the row.
        unsafe {
            self.content(place).write(content);
            self.kind(place).write(kind as u8);
        }
    }

    /// How many values there are.
    #[inline]
    pub fn len(&self) -> usize {
        self.length.get() as usize
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// How many values it has room for.
    #[inline]
    pub fn room(&self) -> usize {
        self.room.get() as usize
    }

    /// The bytes that it takes.
    pub fn bytes(&self) -> usize {
        let bytes = bytes_of(self.room());
        if self.room() > LARGEST {
            allocated(bytes)
        } else {
            bytes
        }
    }

    /// The bytes that a row of so many values takes, about.
    pub fn bytes_for(count: usize) -> usize {
        bytes_of(count)
    }

    /// The value at a place, if there is one.
    #[inline]
    pub fn get(&self, place: usize) -> Option<Value> {
        if place >= self.len() {
            return None;
        }
        // SAFETY: a value has been written there, and these are its halves.
        Some(unsafe {
            let kind = u64::from(self.kind(place).read());
            let content = self.content(place).read();
            std::mem::transmute::<Halves, Value>(Halves { kind, content })
        })
    }

    /// Sets the value at a place; whether there is such a place. The value is asked for when that is known.
    #[inline]
    pub fn put(&self, place: usize, value: impl FnOnce() -> Value) -> bool {
        let is_there = place < self.len();
        if is_there {
            let value = value();
            // SAFETY: the place is inside the row.
            unsafe { self.write(place, value) };
        }
        is_there
    }

    /// Adds a value at the end, if there is room.
    #[inline]
    pub fn push(&self, value: Value) -> bool {
        let has_room = self.len() < self.room();
        if has_room {
            // SAFETY: the place is inside the row.
            unsafe { self.write(self.len(), value) };
            self.length.set(self.length.get() + 1);
        }
        has_room
    }

    /// Takes out the last value.
    pub fn pop(&self) -> Option<Value> {
        let last = self.len().checked_sub(1)?;
        let value = self.get(last);
        self.length.set(last as u32);
        value
    }

    /// Moves the values from a place on to another place, so many of them.
    ///
    /// # Safety
    /// There is room for so many at both places, and so many have been written at the first.
    unsafe fn shift(&self, from: usize, to: usize, count: usize) {
        // SAFETY: as above; the two may overlap.
        unsafe {
            std::ptr::copy(self.content(from), self.content(to), count);
            std::ptr::copy(self.kind(from), self.kind(to), count);
        }
    }

    /// Puts a value in at a place, before those from there on; whether there is such a place, and room.
    pub fn insert(&self, at: usize, value: Value) -> bool {
        let length = self.len();
        let can = at <= length && length < self.room();
        if can {
            // SAFETY: there is room for one more than there are.
            unsafe {
                self.shift(at, at + 1, length - at);
                self.write(at, value);
            }
            self.length.set(length as u32 + 1);
        }
        can
    }

    /// Takes out the value at a place.
    pub fn remove(&self, at: usize) -> Option<Value> {
        let value = self.get(at)?;
        let last = self.len() - 1;
        // SAFETY: the values behind the place are inside the row.
        unsafe { self.shift(at + 1, at, last - at) };
        self.length.set(last as u32);
        Some(value)
    }

    /// The values, in order.
    #[inline]
    pub fn iter(&self) -> impl DoubleEndedIterator<Item = Value> {
        // None is left out: whoever goes over a row does not shorten it.
        (0..self.len()).filter_map(|place| self.get(place))
    }

    /// The values, apart from the row.
    pub fn to_vec(&self) -> Vec<Value> {
        let mut values = Vec::with_capacity(self.len());
        values.extend(self.iter());
        values
    }

    /// The values that lead to something on the heap, with their places.
    fn leading(&self) -> impl Iterator<Item = (usize, Value)> {
        (0..self.len()).filter_map(|place| {
            // SAFETY: the place is inside the row.
            let kind = unsafe { self.kind(place).read() };
            let value = (kind > LAST_PLAIN).then(|| self.get(place))?;
            Some((place, value?))
        })
    }

    /// Shows a collection the values.
    pub fn trace(&self, marker: &mut Marker) {
        self.leading().for_each(|(_, value)| marker.value(value));
    }

    /// Puts another value in the place of each that leads to something on the heap.
    pub fn exchange(&self, mut other: impl FnMut(Value) -> Value) {
        for (place, value) in self.leading() {
            self.put(place, || other(value));
        }
    }

    /// Makes room for so many values in all.
    pub fn reserve(&self, count: usize) {
        let room = self.room();
        if count <= room {
            return;
        }
        if room <= LARGEST {
            self.swap(&self.copied(count));
            return;
        }
        let (before, after) = (large_layout(room), large_layout(count));
        let first = self.first.get().as_ptr().cast();
        // SAFETY: allocated with the layout before, and the one after is larger.
        let Some(start) = NonNull::new(unsafe { realloc(first, before, after.size()) }) else {
            handle_alloc_error(after)
        };
        self.first.set(start.cast());
        // SAFETY: what were the kinds is inside the row still, and so is where they go; the two may overlap.
        unsafe {
            let kinds = self.kind(0);
            self.room.set(count as u32);
            std::ptr::copy(kinds, self.kind(0), self.len());
        }
    }

    /// Exchanges what it has for what another row has.
    pub fn swap(&self, other: &ValueRow) {
        self.first.swap(&other.first);
        self.length.swap(&other.length);
        self.room.swap(&other.room);
    }
}

impl Default for ValueRow {
    /// A row of no values, with no room.
    #[inline]
    fn default() -> ValueRow {
        ValueRow {
            first: Cell::new(NonNull::dangling()),
            length: Cell::new(0),
            room: Cell::new(0),
        }
    }
}

impl Clone for ValueRow {
    fn clone(&self) -> ValueRow {
        self.copied(self.len())
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
        let room = self.room();
        if room == 0 {
            return;
        }
        // SAFETY: it came from where its room says that it came from, and is nobody's any more.
        unsafe {
            if room > LARGEST {
                dealloc(self.first.get().as_ptr().cast(), large_layout(room));
            } else {
                chunks::give_back(self.first.get(), room);
            }
        }
    }
}

/// A row from the allocator, and for how many values there is room.
#[cold]
fn large(count: usize) -> (NonNull<Half>, u32) {
    let layout = large_layout(count);
    // SAFETY: the layout is not of size zero.
    let Some(start) = NonNull::new(unsafe { alloc(layout) }) else {
        handle_alloc_error(layout)
    };
    (start.cast(), count as u32)
}

/// How a row from the allocator is laid out. More values than a row can count are more than there is memory for.
fn large_layout(count: usize) -> Layout {
    let layout = u32::try_from(count).ok().and_then(|count| {
        Layout::from_size_align(bytes_of(count as usize), align_of::<Half>()).ok()
    });
    layout.unwrap_or_else(|| handle_alloc_error(Layout::new::<Value>()))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn numbers(count: usize) -> Vec<Value> {
        (0..count).map(|n| Value::Integer(n as i64)).collect()
    }

    fn is_as(row: &ValueRow, count: usize) -> bool {
        let same =
            |(at, value): (usize, Value)| matches!(value, Value::Integer(n) if n == at as i64);
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
        let place = first.first.get();
        drop(first);
        assert_eq!(ValueRow::of(&numbers(3)).first.get(), place);
        assert_ne!(ValueRow::of(&numbers(4)).first.get(), place);
    }

    #[test]
    fn there_is_room_for_as_many_as_the_size_has() {
        let heap = Heap::new();
        let _entered = heap.enter();
        for count in 0..60 {
            let row = ValueRow::of(&numbers(count));
            while row.len() < row.room() {
                assert!(row.push(Value::Integer(row.len() as i64)));
            }
            assert!(!row.push(Value::Nothing));
            assert!(is_as(&row, row.room()));
        }
    }

    /// A value of each kind that has nothing on the heap, and a text now and then.
    fn mixed(place: usize) -> Value {
        match place % 6 {
            0 => Value::Unset,
            1 => Value::Nothing,
            2 => Value::Truth(place.is_multiple_of(4)),
            3 => Value::Integer(-(place as i64)),
            4 => Value::Number(place as f64 / 2.0),
            _ => Value::text(place.to_string()),
        }
    }

    #[test]
    fn values_of_all_kinds_stay_what_they_are_as_a_row_grows_and_shrinks() {
        let heap = Heap::new();
        let _entered = heap.enter();
        let told = |value: Option<Value>| format!("{value:?}");
        let (row, mut beside) = (ValueRow::default(), Vec::new());
        for place in 0..300 {
            let value = mixed(place);
            row.reserve(place + 1);
            match place % 5 {
                0 => {
                    let at = place / 2 % (beside.len() + 1);
                    beside.insert(at, value);
                    assert!(row.insert(at, value));
                }
                1 => {
                    let at = place / 3;
                    let removed = (at < beside.len()).then(|| beside.remove(at));
                    assert_eq!(told(row.remove(at)), told(removed));
                }
                _ => {
                    beside.push(value);
                    assert!(row.push(value));
                }
            }
            assert_eq!(format!("{row:?}"), format!("{beside:?}"));
        }
        assert_eq!(format!("{:?}", row.clone().to_vec()), format!("{beside:?}"));
        assert!(!row.put(beside.len(), || Value::Nothing));
        assert!(row.put(7, || Value::Nothing) && matches!(row.get(7), Some(Value::Nothing)));
    }

    #[test]
    fn a_value_takes_nine_bytes() {
        assert_eq!(bytes_of(800), 7_200);
        assert_eq!(bytes_of(3), 32);
    }
}
