//! What a meaning that is filled in can mention, and the variables around it.

use std::rc::Rc;

use super::core::{Core, CoreKind as K};
use super::function::{VariableId, fresh};
use crate::definition::Form;
use crate::source::Span;
use crate::tree::NodeId;

/// What a name made by a meaning stands for.
#[derive(Clone, Copy, Debug)]
pub(super) enum Local {
    /// A variable; its value came from this text.
    Variable(VariableId, Option<Span>),
    /// A child of the node.
    Child(NodeId),
}

impl Local {
    /// The variable, if it is one.
    pub fn variable(self) -> Option<VariableId> {
        match self {
            Local::Variable(variable, _) => Some(variable),
            Local::Child(_) => None,
        }
    }
}

/// The variables that live as long as a run of a node.
#[derive(Debug, Default)]
pub(super) struct Homes {
    pub slots: Vec<u32>,
    /// The names of those with a dynamic binding.
    pub dynamic: Vec<Rc<str>>,
    /// What runs before all else.
    pub first: Vec<Core>,
}

impl Homes {
    /// A body that runs with these variables, all of them fresh.
    pub fn around(self, body: Core, span: Span) -> Core {
        let parts = self.first.into_iter().chain([body]).collect();
        let body = fresh(self.slots, parts, span);
        if self.dynamic.is_empty() {
            return body;
        }
        Core::new(K::Rebind(self.dynamic, Rc::new(body)), span)
    }
}

/// The node a template is filled in for.
#[derive(Clone, Copy, Debug)]
pub(super) struct Context<'a> {
    pub node: Option<(NodeId, &'a Form)>,
    pub span: Span,
}
