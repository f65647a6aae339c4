//! Lists.

use super::{Heap, Marker, Traced, ValueRow, ask};
use crate::metering::Stopped;

/// A list.
#[derive(Debug, Default)]
pub(crate) struct List {
    /// Its items.
    pub items: ValueRow,
}

impl List {
    /// How many items it has.
    #[inline]
    pub fn len(&self) -> usize {
        self.items.len()
    }

    /// Makes the room that one item more needs.
    pub fn reserve_one(&self) -> Result<(), Stopped> {
        if self.len() == self.items.room() {
            let room = (2 * self.len()).max(4);
            ask(ValueRow::bytes_for(room))?;
            let before = self.items.bytes();
            self.items.reserve(room);
            Heap::with(|heap| heap.count(self.items.bytes() - before));
        }
        Ok(())
    }

    /// Gives an empty list the items of a row.
    pub fn fill(&self, items: &ValueRow) {
        self.items.swap(items);
        Heap::with(|heap| heap.count(self.items.bytes()));
    }
}

impl Traced for List {
    fn trace(&self, marker: &mut Marker) {
        self.items.trace(marker);
    }

    fn bytes_beside(&self) -> usize {
        self.items.bytes()
    }
}
