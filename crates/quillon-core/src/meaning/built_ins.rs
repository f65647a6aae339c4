//! The Core of what is built in, each piece made when it is first asked for: a short program needs little of it.

use std::cell::OnceCell;
use std::rc::Rc;
use std::sync::Arc;

use super::core::{FunctionCore, Marks};
use super::whole::{built_in, helper};
use crate::definition::Definition;

/// What the definition `provides`, and then the helpers that are functions of their own.
#[derive(Debug)]
pub(crate) struct BuiltIns {
    definition: Arc<Definition>,
    marks: Marks,
    made: Vec<OnceCell<Rc<FunctionCore>>>,
}

impl BuiltIns {
    /// Those of a definition.
    pub fn new(definition: Arc<Definition>, marks: Marks) -> BuiltIns {
        let count = definition.provides.len() + definition.recursive_helpers().count();
        BuiltIns {
            definition,
            marks,
            made: vec![OnceCell::new(); count],
        }
    }

    /// How many there are.
    pub fn len(&self) -> usize {
        self.made.len()
    }

    /// Whether one is a function, and not a constant.
    pub fn is_function(&self, index: usize) -> bool {
        let provided = self.definition.provides.get(index);
        index < self.len() && provided.is_none_or(|provided| provided.params.is_some())
    }

    /// How many come before one in the order in which they may be filled in, one in the other: those after it are
    /// perhaps not there yet. Helpers are called.
    pub fn known_to(&self, index: usize) -> usize {
        let is_provided = index < self.definition.provides.len();
        if is_provided { index } else { 0 }
    }

    /// The Core of one: of a function, or of what makes the value of a constant.
    pub fn core(&self, index: usize) -> Option<&Rc<FunctionCore>> {
        let made = self.made.get(index)?;
        if made.get().is_none() {
            let definition = &self.definition;
            let core = if let Some(provided) = definition.provides.get(index) {
                built_in(definition, provided, self.marks)
            } else {
                let helpers = &mut definition.recursive_helpers();
                let own = helpers.nth(index - definition.provides.len())?;
                helper(definition, own, self.marks)
            };
            return Some(made.get_or_init(|| Rc::new(core)));
        }
        made.get()
    }

    /// The first so many, to be filled in where they are called.
    pub fn first(&self, known: usize) -> Fillable<'_> {
        Fillable { all: self, known }
    }
}

/// The first so many built-in functions and constants: those that may be filled in.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Fillable<'b> {
    all: &'b BuiltIns,
    known: usize,
}

impl<'b> Fillable<'b> {
    /// How many there are.
    pub fn len(self) -> usize {
        self.known
    }

    /// Whether one of them is a function.
    pub fn is_function(self, index: usize) -> bool {
        index < self.known && self.all.is_function(index)
    }

    /// The Core of a function among them.
    pub fn function(self, index: usize) -> Option<&'b Rc<FunctionCore>> {
        let is_function = self.is_function(index);
        is_function.then(|| self.all.core(index)).flatten()
    }
}
