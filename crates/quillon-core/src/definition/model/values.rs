//! `values`: what kinds of values are called, and how they look.

use serde::{Deserialize, Serialize};

use super::template::ValueKind;
use super::{Definition, Name};

/// One line of `values`.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct ValueLine {
    /// The kind of value.
    pub kind: ValueKind,
    /// The word for it, where it stands.
    pub name: Name,
    /// What messages call a value of the kind: `a card`.
    pub called: Option<Name>,
    /// How values of the kind look.
    pub shown: Option<Shown>,
}

/// How values of a kind look.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub enum Shown {
    /// The absence of a value.
    Nothing(String),
    /// A coroutine.
    Coroutine(String),
    /// What is true, and what is false.
    Truths([String; 2]),
    /// A number without a fraction like an integer.
    AsInteger,
    /// A text between these, where it does not stand by itself.
    Between([String; 2]),
    /// Items: what stands before, between and after them.
    Items([String; 3]),
    /// Keys and values.
    Entries(EntriesShown),
    /// What stands around a function's name and its parameters.
    Function(Vec<FunctionPart>),
}

/// How a map looks.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct EntriesShown {
    /// What stands before the first entry.
    pub open: String,
    /// Whether a key that is a text and reads as a name stands without quotes.
    pub is_plain: bool,
    /// What stands between a key and its value.
    pub to: String,
    /// What stands between entries.
    pub between: String,
    /// What stands behind the last entry.
    pub close: String,
}

/// A part of how a function looks.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub enum FunctionPart {
    /// This, as it stands.
    Text(String),
    /// Its name, if it has one.
    Name,
    /// The names of its parameters, with this between them.
    Params(String),
}

impl Definition {
    /// The words that messages have for kinds instead of the usual ones: `a map`, `a card`.
    pub(super) fn kinds_called(&self) -> impl Iterator<Item = (&'static str, &str)> {
        self.values.iter().filter_map(|line| {
            let called = line.called.as_ref()?;
            Some((line.kind.described(), called.text.as_str()))
        })
    }
}
