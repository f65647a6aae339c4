//! What is taken off the stack of a text that is not as the grammar has it: kept aside to be put back,
//! or dropped for a gap.

use super::assembly::{Assembly, GAP, MARK, Value, first_mark, mark_of};
use super::stacks::Entry;

/// Entries taken off the stack with their values, to be put back in another way.
#[derive(Debug, Default)]
pub(super) struct Parked {
    entries: Vec<Entry>,
    values: Vec<Value>,
    /// The height of the first.
    height: u32,
    /// Where the values stood.
    low: usize,
}

/// What stands for text that could not be read.
#[derive(Clone, Copy, Debug)]
pub(super) struct Gap {
    /// The state with it on top.
    pub state: u32,
    /// Whether it is a helper that it stands for.
    pub is_helper: bool,
    /// The token after it.
    pub upto: u32,
}

impl Assembly<'_> {
    /// Takes the entries from a height on off the stack.
    pub fn park(&mut self, stack: &mut Vec<Entry>, height: u32) -> Parked {
        let entries = stack.split_off(height as usize);
        let low = first_mark(&entries).unwrap_or(self.values.len());
        let values = self.values.split_off(low);
        Parked {
            entries,
            values,
            height,
            low,
        }
    }

    /// Puts one of the entries of a height back on top of the stack.
    pub fn put_back(&mut self, stack: &mut Vec<Entry>, parked: &Parked, height: u32) {
        let at = (height - parked.height) as usize;
        let mut entry = parked.entries[at];
        if let Some(start) = mark_of(entry) {
            let end = first_mark(&parked.entries[at + 1..]);
            let end = end.map_or(parked.values.len(), |end| end - parked.low);
            entry.what = self.values.len() as u32 | MARK;
            self.values
                .extend_from_slice(&parked.values[start - parked.low..end]);
        }
        stack.push(entry);
    }

    /// What stands on top could not be read.
    pub fn leave_gap(stack: &mut [Entry]) {
        if let Some(top) = stack.last_mut() {
            top.what = GAP;
        }
    }

    /// Takes the entries from a height on off the stack, with what they have gathered.
    fn cut(&mut self, stack: &mut Vec<Entry>, height: usize) {
        self.drop_values(&stack[height..]);
        stack.truncate(height);
    }

    /// The same, and something stands for them that could not be read: of a helper what it has
    /// gathered so far is left.
    pub fn cut_to_gap(&mut self, stack: &mut Vec<Entry>, height: usize, gap: Gap) {
        let begun = stack.get(height).filter(|entry| entry.state == gap.state);
        let kept = begun.copied().filter(|entry| mark_of(*entry).is_some());
        let start = stack.get(height).map_or(gap.upto, |entry| entry.start);
        let above = height + usize::from(kept.is_some());
        self.cut(stack, above.min(stack.len()));
        if kept.is_some() {
            return;
        }
        let what = if gap.is_helper {
            self.values.len() as u32 | MARK
        } else {
            GAP
        };
        stack.push(Entry {
            state: gap.state,
            start,
            what,
            height: 0,
        });
    }
}
