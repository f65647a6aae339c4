//! Lists.

use std::cell::{Cell, RefCell};

use super::rows::{push_on, put_at, seen_at};
use super::{Heap, Marker, Traced, Value, ValueRow, ask};
use crate::metering::Stopped;

/// A list.
#[derive(Debug, Default)]
pub(crate) struct List {
    /// Its items.
    pub items: RefCell<ValueRow>,
    /// The bytes that they took when they were last counted.
    counted: Cell<usize>,
}

impl List {
    /// A list of these items.
    pub fn new(items: ValueRow) -> List {
        List {
            counted: Cell::new(items.bytes()),
            items: RefCell::new(items),
        }
    }

    /// How many items it has.
    #[inline]
    pub fn len(&self) -> usize {
        self.items.borrow().len()
    }

    /// The item at a place, if there is one.
    #[inline]
    pub fn at(&self, place: usize) -> Option<Value> {
        seen_at(&self.items, place)
    }

    /// Puts a value at a place; whether there is such a place, and nobody is looking at the items.
    #[inline]
    pub fn put(&self, place: usize, value: Value) -> bool {
        put_at(&self.items, place, value)
    }

    /// Adds a value at the end, if there is room and nobody is looking at the items.
    #[inline]
    pub fn push(&self, value: Value) -> bool {
        push_on(&self.items, value)
    }

    /// Makes the room that one item more needs.
    pub fn reserve_one(&self) -> Result<(), Stopped> {
        let mut items = self.items.borrow_mut();
        if items.len() == items.room() {
            let room = (2 * items.len()).max(4);
            ask(room * size_of::<Value>())?;
            items.reserve(room);
        }
        Ok(())
    }

    /// A copy of its items.
    pub fn copied(&self) -> Vec<Value> {
        self.items.borrow().to_vec()
    }

    /// Takes note of the room that the items need now.
    #[inline]
    pub fn recount(&self) {
        let bytes = self.items.borrow().bytes();
        let before = self.counted.replace(bytes);
        if bytes > before {
            Heap::with(|heap| heap.count(bytes - before));
        }
    }
}

impl Traced for List {
    fn trace(&self, marker: &mut Marker) {
        marker.values(&**self.items.borrow());
    }

    fn bytes_beside(&self) -> usize {
        self.items.borrow().bytes()
    }
}
