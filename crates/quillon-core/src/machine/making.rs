//! Instructions in full that make texts and maps, and remember where keys were.

use super::{Done, Machine, fast};
use crate::bytecode::Instruction;
use crate::values::{Key, Map, Value, join, shown};

impl Machine<'_> {
    /// Texts one after the other, whatever they are made of.
    pub(super) fn join_shown(&mut self, word: Instruction, second: Value) -> Done {
        let first = match self.get(word.b()) {
            Value::Text(text) => text,
            other => shown(&other)?,
        };
        let second = match second {
            Value::Text(second) => second,
            other => shown(&other)?,
        };
        self.set(word.a(), Value::Text(join(first, second)?));
        self.made()
    }

    /// The word after an instruction on a map remembers where its key was.
    pub(super) fn remember(&mut self, map: Value, key: Value, before: Option<u32>) {
        if let (Value::Map(map), Value::Text(key)) = (map, key) {
            if let Some((shape, place)) = map.place_of(key) {
                let known = match before {
                    // A key that was not there before leads to another shape.
                    Some(before) if before != shape => {
                        u64::from(before) | u64::from(shape) << 32 | fast::LEADS_ON
                    }
                    _ => fast::known_place(shape, place),
                };
                self.culprit.plus(1).remember(known);
            }
            self.at.pc = self.at.pc.plus(1);
        }
    }

    /// Makes a map with the keys of an instruction, whose next word remembers the shape that they make.
    pub(super) fn make_row(&mut self, word: Instruction) -> Done {
        let map = Map::default();
        for index in 0..u16::from(word.x()) {
            if let Value::Text(key) = self.constant(word.c() + index) {
                map.put(Key::Text(key), self.get(word.b() + index));
            }
        }
        // A shape without keys is the number 0, which nothing is remembered by.
        if let Some(shape) = map.shape().filter(|_| map.len() == usize::from(word.x())) {
            self.culprit.plus(1).remember(u64::from(shape));
        }
        self.set(word.a(), Value::from_map(map));
        self.at.pc = self.at.pc.plus(1);
        self.made()
    }
}
