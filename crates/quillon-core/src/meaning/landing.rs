//! Jumps and the landings that they end, by the names that programs give them.

use std::rc::Rc;

use super::core::{Core, CoreKind as K};
use super::instantiate::{Maker, nothing};
use super::local::Context;
use crate::definition::Template;
use crate::definition::template::Target;
use crate::diagnostic::{Diagnostic, codes, nearest, quote};
use crate::scoping::folded;

impl Maker<'_> {
    /// What the program calls a landing, or the one it jumps to.
    pub(super) fn label(&self, target: &Target, context: Context<'_>) -> Option<Rc<str>> {
        let label = target.label.as_ref()?;
        let label = self.spelt(label.into(), context)?;
        Some(Rc::from(&*folded(&label, self.definition.ignores_case)))
    }

    pub(super) fn jump(
        &mut self,
        target: &Target,
        value: Option<&Template>,
        context: Context<'_>,
    ) -> Core {
        let value = match value {
            Some(value) => self.template(value, context),
            None => nothing(context.span),
        };
        let name = &target.name.text;
        let called = self.label(target, context);
        if let Some(label) = self.functions.landing(name, called.as_deref()) {
            return Core::new(K::Jump(label, Rc::new(value)), context.span);
        }
        let form = context.node.map(|(_, form)| form);
        let diagnostic = match &called {
            // What it would end is there, only not by this name.
            Some(called) if self.functions.landing(name, None).is_some() => {
                let message = format!(
                    "nothing here that could be ended is called {}",
                    quote(called)
                );
                let known = self.functions.labels(name);
                Diagnostic::error(codes::NAME_LANDING, message)
                    .did_you_mean(nearest(called, known.iter().map(|label| &**label)))
            }
            _ => Diagnostic::error(codes::NAME_LANDING, self.definition.unmatched(name, form)),
        };
        let label = target.label.as_ref().filter(|_| called.is_some());
        let place = label.and_then(|label| self.place_of(label.into(), context));
        let mut diagnostic = diagnostic.at(self.source, place.unwrap_or(context.span));
        if self.functions.landing_outside(name, called.as_deref()) {
            diagnostic =
                diagnostic.why("what it would end lies outside the function that this stands in");
        }
        self.diagnostics.push(diagnostic);
        nothing(context.span)
    }
}
