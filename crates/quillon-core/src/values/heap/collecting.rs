//! Collections: what is in use is marked, the rest is free. Mark and sweep (McCarthy 1960), swept block by block as rooms
//! are needed.

use std::cell::Cell;

use super::{Heap, Roots, Traced};
use crate::values::{Pool, Ref, Value};

/// Where it is noted what is made, so many bytes at least are made between collections.
const FOLLOWED: usize = 4 << 10;

impl Heap {
    /// Has it noted from now on what is made, and collects more often, so that little escapes who asks what
    /// is in use.
    pub fn follow(&self) {
        if self.is_followed.replace(true) {
            return;
        }
        self.enough.set(FOLLOWED);
        self.texts.follow_rooms();
        self.lists.follow_rooms();
        self.maps.follow_rooms();
        self.functions.follow_rooms();
        self.variables.follow_rooms();
        self.coroutines.follow_rooms();
        self.inner.follow_rooms();
    }

    /// The addresses of what has been made since this was asked last.
    pub fn taken(&self) -> impl Iterator<Item = usize> {
        let all = [
            self.texts.taken(),
            self.lists.taken(),
            self.maps.taken(),
            self.functions.taken(),
            self.variables.taken(),
            self.coroutines.taken(),
            self.inner.taken(),
        ];
        all.into_iter().flatten()
    }

    /// Frees everything that neither the roots nor anything held from outside leads to.
    pub fn collect(&self, roots: &dyn Roots) {
        let mut marker = self.begin_collection();
        roots.trace(&mut marker);
        self.trace_own(&mut marker);
        marker.finish();
        self.end_collection(&marker);
    }

    /// The same, and everything that is in use is told, with how many bytes it takes and the number of the
    /// first of some values that leads to it; nothing where only the roots do.
    pub fn survey(
        &self,
        first: &[Value],
        roots: &dyn Roots,
        tell: &mut dyn FnMut(Option<usize>, Value, usize),
    ) {
        let mut marker = self.begin_collection();
        for (number, value) in first.iter().enumerate() {
            marker.value(*value);
            marker.finish_telling(&mut |value, bytes| tell(Some(number), value, bytes));
        }
        roots.trace(&mut marker);
        self.trace_own(&mut marker);
        marker.finish_telling(&mut |value, bytes| tell(None, value, bytes));
        self.end_collection(&marker);
    }

    fn begin_collection(&self) -> Marker {
        self.sweep_all();
        Marker {
            epoch: self.next_epoch(),
            open: Vec::new(),
            bytes: 0,
        }
    }

    /// Marks what the heap itself needs, and what is held from outside.
    fn trace_own(&self, marker: &mut Marker) {
        for (value, _) in self.held.borrow().values() {
            marker.value(*value);
        }
        for text in self.interned.borrow().values() {
            marker.value(Value::Text(*text));
        }
        for letter in self.letters.iter().filter_map(Cell::get) {
            marker.value(Value::Text(letter));
        }
        // What is no longer there may be another text's place.
        self.reading.set(None);
        for shape in self.known_shapes.borrow().iter() {
            shape.mark(marker.epoch);
        }
    }

    fn end_collection(&self, marker: &Marker) {
        let lived = marker.bytes;
        self.lived.set(lived);
        self.made_before.set(self.made_in_all());
        self.made.set(0);
        self.collections.set(self.collections.get() + 1);
        let stress = self.stress.get();
        self.stress.set(stress.saturating_sub(1));
        self.enough.set(match stress {
            0 if self.is_followed.get() => FOLLOWED.max(lived / 4),
            0 => self.room_after(lived),
            _ => 0,
        });
    }

    fn sweep_all(&self) {
        self.texts.sweep_all();
        self.lists.sweep_all();
        self.maps.sweep_all();
        self.functions.sweep_all();
        self.variables.sweep_all();
        self.coroutines.sweep_all();
        self.inner.sweep_all();
        self.shapes.sweep_all();
    }

    fn next_epoch(&self) -> u32 {
        self.texts.begin_epoch();
        self.lists.begin_epoch();
        self.maps.begin_epoch();
        self.functions.begin_epoch();
        self.variables.begin_epoch();
        self.coroutines.begin_epoch();
        self.inner.begin_epoch();
        self.shapes.begin_epoch()
    }
}

/// Marks what can be reached.
pub(crate) struct Marker {
    epoch: u32,
    /// Marked values whose content has not been looked at.
    open: Vec<Value>,
    bytes: usize,
}

impl Marker {
    /// Marks a value.
    #[inline]
    pub fn value(&mut self, value: Value) {
        let is_new = match value {
            Value::Unset
            | Value::Nothing
            | Value::Truth(_)
            | Value::Integer(_)
            | Value::Number(_) => false,
            Value::Text(it) => it.mark(self.epoch),
            Value::List(it) => it.mark(self.epoch),
            Value::Map(it) => it.mark(self.epoch),
            Value::Function(it) => it.mark(self.epoch),
            Value::Coroutine(it) => it.mark(self.epoch),
            Value::Variable(it) => it.mark(self.epoch),
            Value::Inner(it) => it.mark(self.epoch),
        };
        if is_new {
            self.open.push(value);
        }
    }

    /// Marks some values.
    pub fn values<'v>(&mut self, values: impl IntoIterator<Item = &'v Value>) {
        for value in values {
            self.value(*value);
        }
    }

    fn finish(&mut self) {
        while let Some(value) = self.open.pop() {
            self.follow(value);
        }
    }

    fn finish_telling(&mut self, tell: &mut dyn FnMut(Value, usize)) {
        while let Some(value) = self.open.pop() {
            let before = self.bytes;
            self.follow(value);
            tell(value, self.bytes - before);
        }
    }

    #[inline]
    fn follow(&mut self, value: Value) {
        match value {
            Value::Text(it) => self.object(it),
            Value::List(it) => self.object(it),
            Value::Map(it) => self.object(it),
            Value::Function(it) => self.object(it),
            Value::Coroutine(it) => self.object(it),
            Value::Variable(it) => self.object(it),
            Value::Inner(it) => self.object(it),
            Value::Unset
            | Value::Nothing
            | Value::Truth(_)
            | Value::Integer(_)
            | Value::Number(_) => {}
        }
    }

    fn object<T: Traced>(&mut self, object: Ref<T>) {
        self.bytes += Pool::<T>::SIZE + object.bytes_beside();
        object.trace(self);
    }
}
