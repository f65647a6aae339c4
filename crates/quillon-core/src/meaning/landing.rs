//! Jumps and the landings that they end, by the names that programs give them.

use std::rc::Rc;

use super::core::{ArmCore, Core, CoreKind as K, CorePart, Label};
use super::instantiate::{Maker, nothing};
use super::local::Context;
use crate::definition::Template;
use crate::definition::template::Target;
use crate::diagnostic::{Diagnostic, codes, nearest, quote};
use crate::scoping::folded;
use crate::source::Span;

/// A landing with more jumps keeps them: each is one more level of what is made of it.
const MOST_JUMPS: usize = 8;

impl Maker<'_> {
    /// A block with a label, which jumps leave. Where that is the last thing that they do, it needs neither.
    pub(super) fn landing(
        &mut self,
        target: &Target,
        body: &Template,
        context: Context<'_>,
    ) -> Core {
        let called = self.label(target, context);
        let label = self.functions.open_landing(&target.name.text, called);
        let body = self.region_apart(|maker| maker.template(body, context));
        let jumps = self.functions.close_landing();
        let ends = Ends {
            label,
            span: context.span,
        };
        if (1..=MOST_JUMPS).contains(&jumps) && ends.count(&body) == jumps {
            let body = Rc::new(body);
            let straight = ends.followed(&body, &[]);
            // What stays is in one place again.
            drop(body);
            return Rc::try_unwrap(straight)
                .unwrap_or_else(|shared| Core::new(K::Sequence(vec![shared]), context.span));
        }
        Core::new(K::Landing(label, Rc::new(body)), context.span)
    }

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
        if let Some(label) = self.functions.jump_to(name, called.as_deref()) {
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

/// The jumps to a landing that are the last thing done in it, where its own meaning has them: each is its value then, and
/// what would come after it is done where it is not taken.
struct Ends {
    label: Label,
    /// Where all that its meaning has itself stands.
    span: Span,
}

impl Ends {
    /// Whether a piece is one of the meaning itself, and not of a child: children are not looked into, however they
    /// nest.
    fn is_own(&self, core: &Core) -> bool {
        core.span == self.span
    }

    fn is_jump<'c>(&self, core: &'c Core) -> Option<&'c CorePart> {
        match &core.kind {
            K::Jump(label, value) if *label == self.label && self.is_own(core) => Some(value),
            _ => None,
        }
    }

    /// How many there are in what is done last.
    fn count(&self, core: &Core) -> usize {
        if self.is_jump(core).is_some() {
            return 1;
        }
        match &core.kind {
            _ if !self.is_own(core) => 0,
            K::Fresh(_, body) => self.count(body),
            K::If([_, yes, no]) => self.count(yes) + self.count(no),
            K::Match(_, arms) => arms.iter().map(|arm| self.count(&arm.body)).sum(),
            K::Sequence(parts) => {
                let Some((last, first)) = parts.split_last() else {
                    return 0;
                };
                let leaving = first.iter().filter(|part| self.leaves(part));
                leaving.map(|part| self.count(part)).sum::<usize>() + self.count(last)
            }
            _ => 0,
        }
    }

    /// Whether something before the end of a sequence goes on only in one way, and leaves in the other.
    fn leaves(&self, core: &Core) -> bool {
        match &core.kind {
            _ if !self.is_own(core) => false,
            K::Fresh(_, body) => self.leaves(body),
            K::If([_, yes, no]) => self.always_leaves(yes) != self.always_leaves(no),
            K::Sequence(parts) => parts.iter().any(|part| self.leaves(part)),
            _ => false,
        }
    }

    fn always_leaves(&self, core: &Core) -> bool {
        match &core.kind {
            _ if !self.is_own(core) => false,
            K::Fresh(_, body) => self.always_leaves(body),
            K::Sequence(parts) => parts.last().is_some_and(|last| self.always_leaves(last)),
            _ => self.is_jump(core).is_some(),
        }
    }

    /// What is done, and then the rest, unless it leaves.
    fn followed(&self, core: &CorePart, rest: &[CorePart]) -> CorePart {
        if let Some(value) = self.is_jump(core) {
            return Rc::clone(value);
        }
        let way = |way: &CorePart| self.followed(way, rest);
        let kind = match &core.kind {
            K::Sequence(parts) => return self.sequence(core, &[parts, rest].concat()),
            // What does not leave is done, and then the rest once.
            _ if !rest.is_empty() && !self.leaves(core) => match core.kind {
                K::Literal(_) => return self.sequence(core, rest),
                _ => return self.sequence(core, &[&[Rc::clone(core)], rest].concat()),
            },
            _ if !self.is_own(core) => return Rc::clone(core),
            K::Fresh(slots, body) => K::Fresh(slots.clone(), way(body)),
            K::If([test, yes, no]) => K::If([Rc::clone(test), way(yes), way(no)]),
            K::Match(subject, arms) => {
                let arms = arms.iter().map(|arm| ArmCore {
                    kind: arm.kind,
                    slot: arm.slot,
                    body: way(&arm.body),
                });
                K::Match(Rc::clone(subject), arms.collect())
            }
            _ => return Rc::clone(core),
        };
        made_instead(core, kind)
    }

    /// One after the other, up to where it leaves or may leave.
    fn sequence(&self, core: &Core, parts: &[CorePart]) -> CorePart {
        let last = parts.len().saturating_sub(1);
        let leaving = |part: &CorePart| self.always_leaves(part) || self.leaves(part);
        let at = parts.iter().position(leaving).unwrap_or(last);
        let mut done = parts[..at].to_vec();
        if let Some(part) = parts.get(at) {
            let rest = if self.always_leaves(part) {
                &[]
            } else {
                &parts[at + 1..]
            };
            done.push(self.followed(part, rest));
        }
        match &done[..] {
            [only] => Rc::clone(only),
            _ => made_instead(core, K::Sequence(done)),
        }
    }
}

/// A piece of Core in the place of another one.
fn made_instead(core: &Core, kind: K) -> CorePart {
    let mut made = Core::new(kind, core.span);
    made.meaning = core.meaning;
    Rc::new(made)
}
