//! Texts whose parts have roles, to be shown in any way.

use std::fmt;

use crate::plain::plain;

/// What a part of a text is there for: whoever shows it chooses how that looks.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[non_exhaustive]
pub enum Role {
    /// Text as it is.
    Plain,
    /// The main thing on a line.
    Strong,
    /// Line numbers, signs in the margin, and other things to look past.
    Quiet,
    /// The word for an error, and what marks its place.
    Error,
    /// The same for a warning.
    Warning,
    /// The same for a note.
    Note,
    /// What marks other places that have to do with it.
    Related,
    /// A remedy.
    Remedy,
}

/// A text whose parts have roles. Whatever it was made of, nothing in it acts on a terminal.
#[derive(Clone, PartialEq, Eq, Default, Debug)]
pub struct Styled {
    parts: Vec<(Role, String)>,
}

impl Styled {
    /// The parts, in order.
    pub fn parts(&self) -> impl Iterator<Item = (Role, &str)> {
        self.parts.iter().map(|(role, text)| (*role, text.as_str()))
    }

    /// The text, each part as a function shows it.
    pub fn shown(&self, show: impl Fn(Role, &str) -> String) -> String {
        self.parts().map(|(role, text)| show(role, text)).collect()
    }

    /// Adds a part at the end.
    pub(crate) fn push(&mut self, role: Role, text: impl fmt::Display) {
        let text = text.to_string();
        self.parts.push((role, plain(&text).into_owned()));
    }
}

impl fmt::Display for Styled {
    /// The text alone.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.parts
            .iter()
            .try_for_each(|(_, text)| f.write_str(text))
    }
}
