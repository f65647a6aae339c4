//! `binds NAME throughout`: names that are seen in the whole scope, also before the place
//! that binds them.

use std::rc::Rc;

use super::{Manner, Resolver};
use crate::definition::Form;
use crate::tree::NodeId;

impl Resolver<'_> {
    /// Binds what the forms of a scope bind throughout, before anything in it is visited.
    /// What is in scopes further in is theirs.
    pub(super) fn hoist(&mut self, scope: usize, field: Option<usize>, nodes: &[NodeId]) {
        let definition = self.definition;
        let plans = Rc::clone(&self.plans);
        if !self.binds_throughout {
            return;
        }
        let before = std::mem::replace(&mut self.scopes[scope].field, field);
        let mut work: Vec<NodeId> = nodes.iter().rev().copied().collect();
        while let Some(id) = work.pop() {
            let Some(form) = self.tree.form(id) else {
                continue;
            };
            let plan = &plans[form];
            let form = &definition.forms[form];
            if plan.binds_throughout {
                self.hoist_form(scope, field, id, form);
            }
            if plan.opens_whole {
                continue;
            }
            for (index, inner) in plan.fields.iter().enumerate().rev() {
                if inner.is_plain() {
                    let children = self.tree.children(id, index);
                    work.extend(children.iter().rev());
                }
            }
        }
        self.scopes[scope].field = before;
    }

    /// Binds what a node binds throughout.
    fn hoist_form(&mut self, scope: usize, field: Option<usize>, id: NodeId, form: &Form) {
        if form.binds.iter().any(|clause| clause.first) {
            // What a session keeps lives outside of the program.
            let home = self.scopes[scope].node.unwrap_or(self.tree.root());
            self.names.first.entry(home).or_default().push((field, id));
        }
        for clause in form.binds.iter().filter(|clause| clause.throughout) {
            for &leaf in self.leaves(form, id, &clause.field, &clause.reach).iter() {
                self.defines |= self.scopes[scope].session.is_some();
                let binding = self.bind_in(scope, leaf, Manner::of(clause));
                self.declare(scope, binding);
            }
        }
    }

    /// Binds what the fields of a node bind throughout, each under its field.
    pub(super) fn hoist_fields(&mut self, scope: usize, id: NodeId, pass: impl Fn(usize) -> bool) {
        for index in 0..self.tree.field_count(id) {
            if pass(index) {
                let children = self.tree.children(id, index);
                self.hoist(scope, Some(index), children);
            }
        }
    }
}
