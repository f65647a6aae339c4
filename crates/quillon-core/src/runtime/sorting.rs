//! Sorting with comparisons made by somebody else.

use crate::values::{EngineState, Marker, Traced, Value};

/// A merge sort from the bottom up that asks for each comparison. The order of equals is
/// kept.
#[derive(Debug)]
pub(crate) struct Sorting {
    from: Vec<Value>,
    to: Vec<Value>,
    /// How long the runs are that are merged.
    width: usize,
    /// Where the pair of runs begins that is merged now, and how far in both it is.
    left: usize,
    i: usize,
    j: usize,
    /// Whether two items have been asked about, and no answer has come.
    is_asking: bool,
}

impl Sorting {
    /// A sort of these items.
    pub fn new(items: Vec<Value>) -> Sorting {
        Sorting {
            to: Vec::with_capacity(items.len()),
            width: 1,
            left: 0,
            i: 0,
            j: 1,
            is_asking: false,
            from: items,
        }
    }

    /// The two items to be compared next: whether the first comes before the second;
    /// nothing when all are sorted.
    pub fn ask(&mut self) -> Option<[Value; 2]> {
        let count = self.from.len();
        while self.width < count {
            if self.left >= count {
                std::mem::swap(&mut self.from, &mut self.to);
                self.to.clear();
                self.width *= 2;
                self.begin(0);
                continue;
            }
            let middle = (self.left + self.width).min(count);
            let end = (middle + self.width).min(count);
            if self.i < middle && self.j < end {
                self.is_asking = true;
                return Some([self.from[self.j], self.from[self.i]]);
            }
            self.to.extend_from_slice(&self.from[self.i..middle]);
            self.to.extend_from_slice(&self.from[self.j.min(end)..end]);
            self.begin(end);
        }
        None
    }

    fn begin(&mut self, left: usize) {
        self.left = left;
        self.i = left;
        self.j = (left + self.width).min(self.from.len());
    }

    /// Takes the answer; false if nothing has been asked.
    pub fn answer(&mut self, second_first: bool) -> bool {
        if !std::mem::take(&mut self.is_asking) {
            return false;
        }
        let next = if second_first {
            &mut self.j
        } else {
            &mut self.i
        };
        self.to.push(self.from[*next]);
        *next += 1;
        true
    }

    /// What has been sorted, once nothing is left to be asked; after that, nothing is.
    pub fn sorted(&mut self) -> Vec<Value> {
        self.is_asking = false;
        std::mem::take(&mut self.from)
    }
}

impl Traced for Sorting {
    fn trace(&self, marker: &mut Marker) {
        marker.values(&self.from);
        marker.values(&self.to);
    }

    fn bytes_beside(&self) -> usize {
        (self.from.capacity() + self.to.capacity()) * size_of::<Value>()
    }
}

impl EngineState for Sorting {
    fn copied(&self, copy: &mut dyn FnMut(Value) -> Value) -> Option<Box<dyn EngineState>> {
        let mut copies = |items: &[Value]| items.iter().map(|item| copy(*item)).collect();
        Some(Box::new(Sorting {
            from: copies(&self.from),
            to: copies(&self.to),
            ..*self
        }))
    }
}
