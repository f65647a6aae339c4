//! Values of Rust as values of a language, and back.

use std::collections::{BTreeMap, HashMap};
use std::rc::Rc;

use super::held::{Foreign, Held};
use super::{Heap, Value};
use crate::definition::Literal;

impl From<()> for Held {
    fn from((): ()) -> Held {
        Held::nothing()
    }
}

/// The same value.
impl From<&Held> for Held {
    fn from(value: &Held) -> Held {
        value.clone()
    }
}

impl From<bool> for Held {
    fn from(truth: bool) -> Held {
        Held::new(Literal::Truth(truth))
    }
}

impl From<i64> for Held {
    fn from(n: i64) -> Held {
        Held::integer(n)
    }
}

impl From<i32> for Held {
    fn from(n: i32) -> Held {
        Held::integer(n.into())
    }
}

impl From<u32> for Held {
    fn from(n: u32) -> Held {
        Held::integer(n.into())
    }
}

impl From<f64> for Held {
    fn from(n: f64) -> Held {
        Held::new(Literal::Number(n))
    }
}

impl From<&str> for Held {
    fn from(text: &str) -> Held {
        Held::text(text)
    }
}

impl From<String> for Held {
    fn from(text: String) -> Held {
        Held::text(text)
    }
}

/// The value, or nothing.
impl<T: Into<Held>> From<Option<T>> for Held {
    fn from(value: Option<T>) -> Held {
        value.map_or_else(Held::nothing, Into::into)
    }
}

/// A list.
impl<T: Into<Held>> From<Vec<T>> for Held {
    fn from(items: Vec<T>) -> Held {
        items.into_iter().collect()
    }
}

/// A list.
impl<T: Into<Held>> FromIterator<T> for Held {
    fn from_iter<I: IntoIterator<Item = T>>(items: I) -> Held {
        let items: Vec<Held> = items.into_iter().map(Into::into).collect();
        let heap = heap_of(&items);
        let items: Result<Vec<_>, Foreign> = items.iter().map(|item| item.on(&heap)).collect();
        let _entered = heap.enter();
        Held::of_all(&heap, items.map(Value::list))
    }
}

/// A map, its keys in their order.
impl<K: Into<String>, V: Into<Held>> From<BTreeMap<K, V>> for Held {
    fn from(entries: BTreeMap<K, V>) -> Held {
        Held::map(entries)
    }
}

/// A map, its keys in any order.
impl<K: Into<String>, V: Into<Held>> From<HashMap<K, V>> for Held {
    fn from(entries: HashMap<K, V>) -> Held {
        Held::map(entries)
    }
}

/// The heap of the first of some values that has one, so that it need not be copied; a new one
/// where there is none.
fn heap_of(values: &[Held]) -> Rc<Heap> {
    let known = values.iter().find_map(Held::heap);
    known.map_or_else(Heap::new, Rc::clone)
}

impl Held {
    /// A map of keys that are texts, in the order given.
    pub fn map<K: Into<String>, V: Into<Held>>(entries: impl IntoIterator<Item = (K, V)>) -> Held {
        let entries = entries.into_iter();
        let (keys, values): (Vec<String>, Vec<Held>) = entries
            .map(|(key, value)| (key.into(), value.into()))
            .unzip();
        let heap = heap_of(&values);
        let _entered = heap.enter();
        let entries = keys.into_iter().zip(&values).filter_map(|(key, value)| {
            let key = Value::text(key).key()?;
            Some(value.on(&heap).map(|value| (key, value)))
        });
        let entries: Result<Vec<_>, Foreign> = entries.collect();
        Held::of_all(&heap, entries.map(Value::map))
    }
}
