//! Values of Rust as values of a language, and back.

use std::collections::{BTreeMap, HashMap};
use std::rc::Rc;

use serde::de::value::{MapDeserializer, SeqDeserializer};
use serde::de::{DeserializeOwned, Deserializer, Error, IntoDeserializer, Visitor};

use super::held::{Foreign, Held};
use super::{Heap, Value};
use crate::definition::Literal;
use crate::definition::template::ValueKind;

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
        let items: Result<_, Foreign> = items.iter().map(|item| item.on(&heap)).collect();
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

    /// The value as a type of Rust: nothing as `None` or `()`, a list as a sequence, a map as a struct
    /// or a map, an integer where a number is wanted, too.
    ///
    /// # Errors
    /// It is not what the type needs, in words.
    pub fn to<T: DeserializeOwned>(&self) -> Result<T, serde::de::value::Error> {
        T::deserialize(Taken {
            held: self.clone(),
            depth: 0,
        })
    }
}

/// A value on its way into a type of Rust.
struct Taken {
    held: Held,
    depth: usize,
}

/// Types of Rust are read with the native stack: no value that is nested deeper is one.
const DEEPEST: usize = 128;

impl Taken {
    fn inside(&self, held: Held) -> Taken {
        Taken {
            held,
            depth: self.depth + 1,
        }
    }
}

impl IntoDeserializer<'_> for Taken {
    type Deserializer = Taken;

    fn into_deserializer(self) -> Taken {
        self
    }
}

impl<'de> Deserializer<'de> for Taken {
    type Error = serde::de::value::Error;

    fn deserialize_any<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Self::Error> {
        let held = &self.held;
        if self.depth > DEEPEST {
            return Err(Error::custom("this value is nested too deeply"));
        }
        match held.kind() {
            ValueKind::Nothing => visitor.visit_unit(),
            ValueKind::Truth => visitor.visit_bool(held.as_truth().unwrap_or_default()),
            ValueKind::Integer => visitor.visit_i64(held.as_integer().unwrap_or_default()),
            ValueKind::Number => visitor.visit_f64(held.as_number().unwrap_or_default()),
            ValueKind::Text => visitor.visit_string(held.as_text().unwrap_or_default()),
            ValueKind::List => {
                let items = held.items().unwrap_or_default().into_iter();
                let items = items.map(|item| self.inside(item));
                visitor.visit_seq(SeqDeserializer::new(items))
            }
            ValueKind::Map => {
                let entries = held.entries().unwrap_or_default().into_iter();
                let entries = entries.map(|(key, value)| (self.inside(key), self.inside(value)));
                visitor.visit_map(MapDeserializer::new(entries))
            }
            ValueKind::Function | ValueKind::Coroutine => Err(Error::custom(format!(
                "{} is no value of Rust",
                held.described()
            ))),
        }
    }

    fn deserialize_option<V: Visitor<'de>>(self, visitor: V) -> Result<V::Value, Self::Error> {
        if self.held.is_nothing() {
            return visitor.visit_none();
        }
        visitor.visit_some(self)
    }

    fn deserialize_newtype_struct<V: Visitor<'de>>(
        self,
        _: &'static str,
        visitor: V,
    ) -> Result<V::Value, Self::Error> {
        visitor.visit_newtype_struct(self)
    }

    fn deserialize_enum<V: Visitor<'de>>(
        self,
        name: &'static str,
        variants: &'static [&'static str],
        visitor: V,
    ) -> Result<V::Value, Self::Error> {
        let text = self.held.as_text();
        let text = text.ok_or_else(|| {
            let found = self.held.described();
            Error::custom(format!("a text is needed for {name}, and this is {found}"))
        })?;
        let text: serde::de::value::StringDeserializer<Self::Error> = text.into_deserializer();
        text.deserialize_enum(name, variants, visitor)
    }

    serde::forward_to_deserialize_any! {
        bool i8 i16 i32 i64 i128 u8 u16 u32 u64 u128 f32 f64 char str string bytes byte_buf unit
        unit_struct seq tuple tuple_struct map struct identifier ignored_any
    }
}
