//! Makes the bindings that `binds` clauses speak of.

use super::plan::Plan;
use super::{Binding, BindingId, Home, Manner, Resolver, Scope};
use crate::definition::{Form, Reach};
use crate::source::Span;
use crate::tree::NodeId;

/// A name, with the place where it is written, if it is.
#[derive(Clone, Copy, Debug)]
struct Written<'t> {
    text: &'t str,
    span: Option<Span>,
}

impl<'t> Written<'t> {
    fn nowhere(text: &'t str) -> Written<'t> {
        Written { text, span: None }
    }
}

impl Resolver<'_> {
    /// Makes the bindings of `binds … in …` and, for each set of clauses that share
    /// fields, the scope in which they are seen.
    pub(super) fn bind_inside(
        &mut self,
        form: &Form,
        plan: &Plan<'_>,
        id: NodeId,
        own: usize,
        outer: usize,
    ) -> (Vec<Vec<BindingId>>, Vec<usize>) {
        let mut bound: Vec<Vec<BindingId>> = vec![Vec::new(); form.binds.len()];
        for (number, clause) in form.binds.iter().enumerate() {
            if clause.inside.is_empty() {
                continue;
            }
            let Some(field) = form.bound_index(&clause.field.text) else {
                continue;
            };
            if clause.reach == Reach::Unwritten {
                let name = Written::nowhere(&clause.field.text);
                let binding = self.bind(Home::Node(id), Some(field), name, Manner::of(clause));
                bound[number].push(binding);
            }
            for &leaf in self.leaves(form, id, &clause.field, &clause.reach).iter() {
                let hoisted = self.names.binding_of(leaf).filter(|_| clause.throughout);
                let binding = match hoisted {
                    Some(binding) => binding,
                    None if clause.onward => self.bind_in(outer, leaf, Manner::of(clause)),
                    None => self.bind_at(Home::Node(id), Some(field), leaf, Manner::of(clause)),
                };
                bound[number].push(binding);
            }
        }
        let mut regions = Vec::with_capacity(plan.regions.len());
        for (number, clauses) in plan.regions.iter().enumerate() {
            let region = self.open(Some(own), Some(id));
            for &clause in clauses {
                for &binding in &bound[clause] {
                    self.declare(region, binding);
                }
            }
            self.hoist_fields(region, id, |other| {
                plan.fields[other].region == Some(number) && !plan.fields[other].opens
            });
            regions.push(region);
        }
        (bound, regions)
    }

    pub(super) fn bind_onward(
        &mut self,
        form: &Form,
        id: NodeId,
        scope: usize,
        bound: &[Vec<BindingId>],
    ) {
        for (number, clause) in form.binds.iter().enumerate() {
            if !clause.onward {
                continue;
            }
            if !clause.inside.is_empty() {
                for &binding in &bound[number] {
                    self.declare(scope, binding);
                }
                continue;
            }
            for &leaf in self.leaves(form, id, &clause.field, &clause.reach).iter() {
                let binding = self.bind_in(scope, leaf, Manner::of(clause));
                self.declare(scope, binding);
            }
        }
    }

    /// A binding whose variable has a home, at a node under one of its fields if it is bound
    /// there.
    pub(super) fn bind_at(
        &mut self,
        home: Home,
        field: Option<usize>,
        leaf: NodeId,
        manner: Manner<'_>,
    ) -> BindingId {
        let written = Written {
            text: self.tree.text(leaf),
            span: Some(self.tree.node(leaf).span),
        };
        let id = self.bind(home, field, written, manner);
        self.names.of_node.insert(leaf, id);
        id
    }

    /// A binding that a later entry of the session is to make.
    pub(super) fn bind_later(&mut self, base: usize, name: &str, space: &str) -> Option<BindingId> {
        let next = self.scopes[base].session.as_mut()?;
        let home = Home::Session(*next);
        *next += 1;
        let manner = Manner {
            fixed: false,
            dynamic: false,
            space,
        };
        let binding = self.bind(home, None, Written::nowhere(name), manner);
        self.names.awaited.insert(binding);
        Some(binding)
    }

    /// A binding of a name.
    fn bind(
        &mut self,
        home: Home,
        field: Option<usize>,
        name: Written<'_>,
        manner: Manner<'_>,
    ) -> BindingId {
        self.binding(Binding {
            name: name.text.to_owned(),
            span: name.span,
            home,
            fixed: manner.fixed,
            dynamic: manner.dynamic,
            ignores_case: self.definition.ignores_case,
            space: manner.space.to_owned(),
            hides: None,
            field,
        })
    }

    /// A binding whose variable lives in a scope.
    pub(super) fn bind_in(&mut self, scope: usize, leaf: NodeId, manner: Manner<'_>) -> BindingId {
        if let Some(next) = self.scopes[scope].session {
            let name = self.folded(self.tree.text(leaf)).into_owned();
            let awaited = self.awaited.remove(&(manner.space.to_owned(), name));
            let home = Home::Session(awaited.unwrap_or(next));
            if awaited.is_none() {
                self.scopes[scope].session = Some(next + 1);
            }
            return self.bind_at(home, None, leaf, manner);
        }
        let Scope { node, field, .. } = &self.scopes[scope];
        let (node, field) = (*node, *field);
        let home = Home::Node(node.unwrap_or_else(|| self.tree.root()));
        self.bind_at(home, field, leaf, manner)
    }
}
