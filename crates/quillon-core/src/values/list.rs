//! Lists.

use std::cell::{Cell, RefCell};

use super::heap::allocated;
use super::{Heap, Marker, Traced, Value, ask};
use crate::metering::Stopped;

/// A list.
#[derive(Debug, Default)]
pub(crate) struct List {
    /// Its items.
    pub items: RefCell<Vec<Value>>,
    /// How many items there was room for when it was last counted.
    counted: Cell<usize>,
}

impl List {
    /// A list of these items.
    pub fn new(items: Vec<Value>) -> List {
        List {
            counted: Cell::new(items.capacity()),
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
        self.items.borrow().get(place).copied()
    }

    /// Puts a value at a place; whether there is such a place.
    #[inline]
    pub fn put(&self, place: usize, value: Value) -> bool {
        match self.items.borrow_mut().get_mut(place) {
            Some(item) => {
                *item = value;
                true
            }
            None => false,
        }
    }

    /// Adds a value at the end, if there is room.
    #[inline]
    pub fn push(&self, value: Value) -> bool {
        let mut items = self.items.borrow_mut();
        let room = items.len() < items.capacity();
        if room {
            items.push(value);
        }
        room
    }

    /// Asks for the room that one item more needs.
    pub fn reserve_one(&self) -> Result<(), Stopped> {
        let mut items = self.items.borrow_mut();
        if items.len() == items.capacity() {
            let count = items.len();
            let room = (2 * count).max(4);
            ask(room * size_of::<Value>())?;
            items.reserve_exact(room - count);
        }
        Ok(())
    }

    /// A copy of its items.
    pub fn copied(&self) -> Vec<Value> {
        self.items.borrow().clone()
    }

    /// Takes note of the room that the items need now.
    #[inline]
    pub fn recount(&self) {
        let capacity = self.items.borrow().capacity();
        let before = self.counted.replace(capacity);
        if capacity > before {
            Heap::with(|heap| heap.count((capacity - before) * size_of::<Value>()));
        }
    }
}

impl Traced for List {
    fn trace(&self, marker: &mut Marker) {
        marker.values(&*self.items.borrow());
    }

    fn bytes_beside(&self) -> usize {
        allocated(self.items.borrow().capacity() * size_of::<Value>())
    }
}
