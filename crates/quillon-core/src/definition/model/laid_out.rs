//! Where lines end, and where blanks stand, when a tree is printed.

use serde::{Deserialize, Serialize};

use super::Name;

/// How a field is laid out when it is printed.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
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

/// The words for blanks: none, or one.
pub(in crate::definition) const BLANKS: [(&str, bool); 2] = [("close", false), ("spaced", true)];

/// What is said of how a field, or a text, is printed.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub enum Printed {
    /// How its lines are laid out.
    Laid(Lay),
    /// Whether a blank stands before it and behind it, where that is said.
    Blanks([Option<bool>; 2]),
}

/// How one field, or a text, is laid out.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct LaidOut {
    /// The field, or the text.
    pub what: Name,
    /// Whether it is a text that is not in the tree.
    pub literal: bool,
    /// How.
    pub how: Printed,
}
