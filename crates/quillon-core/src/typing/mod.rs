//! The types of a program, found before it runs: the `typed` clauses of its forms are
//! judgments, and unification finds types that meet all of them (R. Milner, "A theory of
//! type polymorphism in programming", 1978).
//!
//! `checker` goes through the tree and keeps what is known of nodes and bindings, `judge`
//! makes the judgments of one node with the types that `terms` fills in, `choice` picks one
//! of several clauses, `derived` knows the types of forms that have no clause, `store`
//! solves, `errors` says what does not fit, and `derivation` shows why a type is what it is.

use std::cell::RefCell;

use rustc_hash::FxHashMap;

use crate::definition::Definition;
use crate::diagnostic::Outcome;
use crate::lexing::Lexer;
use crate::scoping::{BindingId, Names};
use crate::tree::{NodeId, Tree};

mod checker;
mod choice;
mod derivation;
mod derived;
mod errors;
mod judge;
mod listing;
mod owners;
mod possible;
mod store;
mod terms;
mod types;

pub use derivation::{Derivation, Judged, Premise};
pub use listing::{Has, Listed};
pub(crate) use possible::impossible;
pub use types::Type;

use store::{Store, TypeId};

/// What a type is made with.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub enum Con {
    /// `integer`
    Integer,
    /// `number`
    Number,
    /// `text`
    Text,
    /// `truth`
    Truth,
    /// `nothing`
    Nothing,
    /// `list of T`
    List,
    /// `map of T`
    Map,
    /// `function (A, B) to R`: the parameters, then the result.
    Function {
        /// Whether it takes any number of the last parameter.
        rest: bool,
    },
    /// A type of the language's own, by its line in `types`.
    Own(u16),
}

/// The types of a program.
#[derive(Debug)]
pub struct Types {
    /// An export looks into parts that nobody has looked into.
    store: RefCell<Store>,
    of_node: Vec<Option<TypeId>>,
    of_binding: Vec<Option<TypeId>>,
    /// The clause that a node was judged by, where its form has several.
    chosen: FxHashMap<NodeId, usize>,
}

impl Types {
    /// The type of what a node gives, or of what an annotation denotes; nothing for a node
    /// that is no form.
    pub fn of_node(&self, node: NodeId) -> Option<Type> {
        let id = self.of_node.get(node.0 as usize).copied().flatten()?;
        Some(self.store.borrow_mut().export(id))
    }

    /// The type of a binding that the program has.
    pub(crate) fn of_binding(&self, binding: BindingId) -> Option<Type> {
        let id = self.of_binding.get(binding.0 as usize).copied().flatten()?;
        Some(self.store.borrow_mut().export(id))
    }

    /// The same, to be used again.
    pub(crate) fn kept_of_binding(&self, binding: BindingId) -> Option<Type> {
        let id = self.of_binding.get(binding.0 as usize).copied().flatten()?;
        Some(self.store.borrow_mut().kept(id))
    }

    /// Whether every type was met for what it is, and none only because of an `any`.
    pub(crate) fn is_strict(&self) -> bool {
        !self.store.borrow().leaned_on_any
    }
}

/// Finds the types of a program. `kept` are those of the names that a session has kept.
pub fn check(
    definition: &Definition,
    lexer: &Lexer,
    tree: &Tree,
    names: &Names,
    kept: &[Type],
) -> Outcome<Types> {
    checker::TypeChecker::new(definition, lexer, tree, names, kept).check()
}
