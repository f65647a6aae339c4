//! Fields as meanings name them.

use serde::{Deserialize, Serialize};

use super::Name;
use crate::source::Span;

/// A field, or a field of what a field or a name stands for: `body`, `entry.key`.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct FieldPath {
    /// The field, or the name.
    pub field: Name,
    /// The field of what it stands for.
    pub part: Option<Name>,
}

impl FieldPath {
    /// Where it stands.
    pub fn span(&self) -> Span {
        let end = self.part.as_ref().unwrap_or(&self.field);
        self.field.span.to(end.span)
    }

    /// As it is written.
    pub fn text(&self) -> String {
        FieldRef::from(self).text()
    }

    /// The name that it is, if it is one alone.
    pub(crate) fn alone(&self) -> Option<&Name> {
        self.part.is_none().then_some(&self.field)
    }
}

impl From<Name> for FieldPath {
    fn from(field: Name) -> FieldPath {
        FieldPath { field, part: None }
    }
}

/// The texts of a [`FieldPath`].
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub(crate) struct FieldRef<'a> {
    pub field: &'a str,
    pub part: Option<&'a str>,
}

impl FieldRef<'_> {
    /// As it is written.
    pub fn text(&self) -> String {
        match self.part {
            Some(part) => format!("{}.{part}", self.field),
            None => self.field.to_owned(),
        }
    }
}

impl<'a> From<&'a str> for FieldRef<'a> {
    fn from(field: &'a str) -> FieldRef<'a> {
        FieldRef { field, part: None }
    }
}

impl<'a> From<&'a Name> for FieldRef<'a> {
    fn from(name: &'a Name) -> FieldRef<'a> {
        FieldRef::from(name.text.as_str())
    }
}

impl<'a> From<&'a FieldPath> for FieldRef<'a> {
    fn from(path: &'a FieldPath) -> FieldRef<'a> {
        FieldRef {
            field: &path.field.text,
            part: path.part.as_ref().map(|part| part.text.as_str()),
        }
    }
}
