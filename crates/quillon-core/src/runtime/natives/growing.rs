//! What operations make piece by piece: each asks for room as it grows, so that nothing is
//! there before it has been counted.

use arrayvec::ArrayString;

use crate::metering::Stopped;
use crate::values::{Heap, LARGEST, Value, ask, spend};

/// Bytes that something in the making takes: they count as long as it is not a value yet.
#[derive(Default)]
struct Taken(usize);

impl Taken {
    /// Takes as many as there are to be.
    fn grow(&mut self, bytes: usize) -> Result<(), Stopped> {
        ask(bytes)?;
        Heap::with(|heap| heap.meter.keep(bytes.saturating_sub(self.0)));
        self.0 = bytes;
        Ok(())
    }
}

impl Drop for Taken {
    fn drop(&mut self) {
        Heap::with(|heap| heap.meter.release(self.0));
    }
}

/// The items of a list in the making.
pub(super) struct Items(Vec<Value>, Taken);

impl Items {
    pub fn new() -> Items {
        Items(Vec::new(), Taken::default())
    }

    /// Adds an item. What it needs beside its place in the list has been counted.
    pub fn push(&mut self, item: Value) -> Result<(), Stopped> {
        const OFTEN: usize = 256;
        let count = self.0.len();
        if count.is_multiple_of(OFTEN) {
            spend(OFTEN * 32)?;
            ask(OFTEN * size_of::<Value>())?;
        }
        if count == self.0.capacity() {
            let room = (2 * count).max(4);
            if room > 2 * LARGEST || count >= LARGEST {
                return Err(Stopped::Size);
            }
            self.1.grow(room * size_of::<Value>())?;
            self.0.reserve_exact(room - count);
        }
        self.0.push(item);
        Ok(())
    }

    pub fn list(self) -> Value {
        Value::list(self.0)
    }
}

/// So many bytes of a text in the making need no room of their own.
const SHORT: usize = 48;

/// A text in the making.
#[derive(Default)]
pub(super) struct Growing {
    /// The whole of it, as long as it is short.
    short: ArrayString<SHORT>,
    /// The whole of it once it is longer.
    long: String,
    taken: Taken,
}

impl Growing {
    pub fn new() -> Growing {
        Growing::default()
    }

    /// Adds a piece at the end.
    pub fn push(&mut self, piece: &str) -> Result<(), Stopped> {
        if self.long.is_empty() {
            if self.short.try_push_str(piece).is_ok() {
                return Ok(());
            }
            let short = std::mem::take(&mut self.short);
            self.push_long(&short)?;
        }
        self.push_long(piece)
    }

    fn push_long(&mut self, piece: &str) -> Result<(), Stopped> {
        let length = self.long.len() + piece.len();
        if length > LARGEST {
            return Err(Stopped::Size);
        }
        spend(piece.len() / 8 + 8)?;
        if length > self.long.capacity() {
            let room = length.max(2 * self.long.capacity()).max(2 * SHORT);
            self.taken.grow(room)?;
            self.long.reserve_exact(room - self.long.len());
        }
        self.long.push_str(piece);
        Ok(())
    }

    /// Adds an integer at the end, as it is shown.
    pub fn push_integer(&mut self, n: i64) -> Result<(), Stopped> {
        self.push(itoa::Buffer::new().format(n))
    }

    pub fn text(self) -> Value {
        if self.long.is_empty() {
            Value::text(self.short.as_str())
        } else {
            Value::text(self.long)
        }
    }
}
