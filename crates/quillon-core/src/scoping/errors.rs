//! Errors of names.

use super::{BindingId, Home, Resolver};
use crate::diagnostic::{Diagnostic, codes, nearest, quote};
use crate::tree::NodeId;

/// More unbound names than this in one program are counted, not shown.
pub(super) const MOST_SHOWN: usize = 50;

impl Resolver<'_> {
    pub(super) fn report_twice(&mut self, binding: BindingId, earlier: BindingId) {
        let source = self.tree.source();
        let binding = self.names.binding(binding);
        let earlier = self.names.binding(earlier);
        let mut diagnostic = Diagnostic::error(
            codes::NAME_DUPLICATE,
            format!("{} is bound twice in the same scope", quote(&binding.name)),
        )
        .with_detail("name", &binding.name);
        if let Some(span) = binding.span {
            diagnostic = diagnostic.at(source, span).label("bound again here");
        }
        if let Some(span) = earlier.span {
            diagnostic = diagnostic.related(source, span, "first bound here");
        }
        self.diagnostics.push(diagnostic.remedy(
            "give one of them another name, or change the first instead of binding it again",
        ));
    }

    pub(super) fn report_fixed(&mut self, leaf: NodeId, binding: BindingId) {
        let source = self.tree.source();
        let binding = self.names.binding(binding);
        let name = quote(&binding.name);
        let message = match binding.home {
            Home::ReadyMade(_) => format!("{name} is ready-made and cannot be changed"),
            _ => format!("{name} is fixed and cannot be changed"),
        };
        let mut diagnostic = Diagnostic::error(codes::NAME_FIXED, message)
            .with_detail("name", &binding.name)
            .at(source, self.tree.node(leaf).span)
            .label("changed here");
        if let Some(span) = binding.span {
            diagnostic = diagnostic.related(source, span, "bound here as fixed");
        }
        if matches!(binding.home, Home::ReadyMade(_)) {
            diagnostic = diagnostic.remedy("bind a name of your own");
        }
        self.diagnostics.push(diagnostic);
    }

    /// Reports names without a binding, once all bindings are known: one that comes too
    /// late, or is out of sight, is pointed at.
    pub(super) fn report_unbound(&mut self) {
        let unbound = std::mem::take(&mut self.unbound);
        let missing = unbound.iter();
        self.names.missing = missing
            .map(|(leaf, _, visible)| (*leaf, visible.clone()))
            .collect();
        let more = unbound.len().saturating_sub(MOST_SHOWN);
        for (leaf, uses, visible) in unbound.into_iter().take(MOST_SHOWN) {
            let space = super::space_of(uses.space.as_ref());
            let source = self.tree.source();
            let name = self.tree.text(leaf);
            let span = self.tree.node(leaf).span;
            let mut diagnostic = Diagnostic::error(
                codes::NAME_UNBOUND,
                format!("there is no binding called {}", quote(name)),
            )
            .with_detail("name", name)
            .at(source, span);
            let elsewhere = self.names.bindings.iter().find(|b| {
                let alike = self.folded(&b.name) == self.folded(name);
                alike && b.space == space && b.span.is_some()
            });
            if let Some(place) = elsewhere.and_then(|b| b.span) {
                let label = if place.start > span.start {
                    "bound only here, after this use"
                } else {
                    "bound here, in a scope that has ended"
                };
                diagnostic = diagnostic
                    .label("not bound at this point")
                    .related(source, place, label);
            } else {
                diagnostic = diagnostic.label("nothing binds this name");
                let near = nearest(name, visible.iter().map(String::as_str));
                let place = near.and_then(|near| {
                    self.names
                        .bindings
                        .iter()
                        .find(|b| b.name == near)
                        .and_then(|b| b.span)
                });
                diagnostic = diagnostic.did_you_mean(near);
                if let Some(place) = place {
                    diagnostic = diagnostic.related(source, place, "a name much like it");
                }
            }
            self.diagnostics.push(diagnostic);
        }
        if more > 0 {
            self.diagnostics.push(Diagnostic::note(
                codes::NAME_UNBOUND,
                format!("{more} more names without a binding are not shown"),
            ));
        }
    }
}
