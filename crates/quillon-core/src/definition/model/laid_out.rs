//! Where lines end when a tree is printed.

use super::Name;

/// How a field is laid out when it is printed.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Lay {
    /// On the line where it comes.
    Inline,
    /// Each child on a line of its own.
    Lines,
    /// The same, one step deeper than what is around.
    Deeper,
    /// Each child on a line of its own, with an empty line between two.
    Apart,
}

/// The ways with their words in the notation.
pub(in crate::definition) const WAYS: [(&str, Lay); 4] = [
    ("inline", Lay::Inline),
    ("lines", Lay::Lines),
    ("deeper", Lay::Deeper),
    ("apart", Lay::Apart),
];

/// How one field, or a text, is laid out.
#[derive(Clone, Debug)]
pub struct LaidOut {
    /// The field, or the text.
    pub what: Name,
    /// Whether it is a text that is not in the tree.
    pub literal: bool,
    /// How.
    pub lay: Lay,
}
