//! What is known of the variables of a function, as data; `facts` finds it.

use std::rc::Rc;

use super::kinds::Known;
use super::lists::Lists;
use crate::definition::Literal;

/// What becomes of the variables that a program names.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Names {
    /// Those that always hold the same are nothing but that.
    AsNeeded,
    /// They stay variables, so that somebody can look at them.
    Kept,
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
    /// Whether it holds what a loop goes over: it is set at each turn.
    pub is_turned: bool,
    /// Whether it may be read before it is set.
    pub maybe_unset: bool,
    /// Whether functions share it through the heap: it changes after they have been made, or
    /// is set only then.
    pub shared: bool,
    /// The literal that it always is.
    pub literal: Option<Literal>,
    /// The slot that always holds the same as long as it lives.
    pub alias: Option<u32>,
    /// Whether it lives in a part of the function only.
    pub is_local: bool,
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
