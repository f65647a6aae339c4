//! A copy of values that does not change when they do.

use rustc_hash::FxHashMap;

use super::{Key, List, Map, Ref, Value};

/// Copies values with everything in them; what they share, the copies share, and circles
/// stay circles. Functions are kept as they are.
#[derive(Default)]
pub(crate) struct Copier {
    copies: FxHashMap<usize, Value>,
}

/// A list or map whose copy is still empty.
enum Open {
    List(Ref<List>, Ref<List>),
    Map(Ref<Map>, Ref<Map>),
}

impl Copier {
    /// A copy of a value. Goes through nested values with a stack of its own.
    pub fn copy(&mut self, value: Value) -> Value {
        let mut work = Vec::new();
        let result = self.shallow(value, &mut work);
        while let Some(open) = work.pop() {
            match open {
                Open::List(from, to) => {
                    let items = from.copied();
                    let copies = items.into_iter().map(|item| self.shallow(item, &mut work));
                    *to.items.borrow_mut() = copies.collect();
                    to.recount();
                }
                Open::Map(from, to) => {
                    for (key, value) in from.entries() {
                        to.put(key, self.shallow(value, &mut work));
                    }
                }
            }
        }
        result
    }

    fn shallow(&mut self, value: Value, work: &mut Vec<Open>) -> Value {
        let Some(address) = value.address() else {
            return value;
        };
        if let Some(known) = self.copies.get(&address) {
            return *known;
        }
        let copy = match value {
            Value::List(from) => {
                let copy = Value::list(Vec::new());
                if let Value::List(to) = copy {
                    work.push(Open::List(from, to));
                }
                copy
            }
            Value::Map(from) => {
                let copy = Value::map(Vec::<(Key, Value)>::new());
                if let Value::Map(to) = copy {
                    work.push(Open::Map(from, to));
                }
                copy
            }
            other => other,
        };
        self.copies.insert(address, copy);
        copy
    }
}
