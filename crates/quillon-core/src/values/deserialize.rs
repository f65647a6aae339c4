//! Values of a language as types of Rust, by serde.

use serde::de::value::{MapDeserializer, SeqDeserializer};
use serde::de::{DeserializeOwned, Deserializer, Error, IntoDeserializer, Visitor};

use super::held::Held;
use crate::definition::template::ValueKind;

impl Held {
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
