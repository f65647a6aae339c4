//! What is known of the variables of a function, as data; `facts` finds it.

use std::rc::Rc;

use super::kinds::{Kinds, Known};
use super::lists::Lists;
use crate::definition::Literal;
use crate::meaning::Fillable;

/// What becomes of the variables that a program names.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Names {
    /// Those that always hold the same are nothing but that.
    AsNeeded,
    /// They stay variables, so that somebody can look at them.
    Kept,
}

/// What is known around a function.
#[derive(Clone, Copy)]
pub(super) struct Around<'a> {
    /// Of which kinds the values are that it captures.
    pub captured: &'a [Kinds],
    /// The built-in functions; nothing for a constant.
    pub built_in: Fillable<'a>,
    /// What becomes of the variables that the program names.
    pub names: Names,
}

impl Around<'_> {
    /// Whether somebody may look at a slot, and set it.
    pub fn shows(&self, facts: &SlotFacts) -> bool {
        self.names == Names::Kept && facts.name.is_some()
    }
}

/// How long a slot lives.
#[derive(Clone, Copy, PartialEq, Eq, Default, Debug)]
pub(super) enum Lives {
    /// As long as the function.
    #[default]
    Throughout,
    /// In a part of the function only.
    InPart,
    /// In a part that a loop sets it for, at each turn.
    ByTurn,
}

/// What is known of a slot.
#[derive(Clone, Debug, Default)]
pub(super) struct SlotFacts {
    /// What the program calls it, where that is known.
    pub name: Option<Rc<str>>,
    /// How many places read it, or capture it.
    pub reads: u32,
    /// How many places set it; one in a loop around which it lives counts twice.
    pub writes: u32,
    /// Whether it may be read before it is set.
    pub maybe_unset: bool,
    /// Whether functions share it through the heap: it changes after they have been made, or
    /// is set only then.
    pub shared: bool,
    /// The literal that it always is.
    pub literal: Option<Literal>,
    /// The slot that always holds the same as long as it lives.
    pub alias: Option<u32>,
    /// How long it lives.
    pub lives: Lives,
}

impl SlotFacts {
    /// Whether a loop sets it at each turn, and nothing else does: that counts as two places.
    pub fn is_set_by_turn(&self) -> bool {
        self.lives == Lives::ByTurn && self.writes == 2
    }
}

/// What is known of a function.
#[derive(Debug, Default)]
pub(super) struct Facts {
    /// Its slots.
    pub slots: Vec<SlotFacts>,
    /// Whether something in it must be done on the way out of it.
    pub has_cleanups: bool,
    /// How many nodes of Core it has.
    pub size: u32,
    /// Whether it makes functions, loops or goes to landings.
    pub is_plain: bool,
    /// Of which kinds its values can be.
    pub kinds: Known,
    /// Its lists whose items are in registers.
    pub lists: Lists,
}
