//! Lists.

use std::cell::{Cell, RefCell};

use super::{Heap, Marker, Traced, Value};

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

    fn room(&self) -> usize {
        self.items.borrow().capacity() * size_of::<Value>()
    }
}
