//! Comparisons of a literal with one of some literals, as tests say: the tests alone decide. So `compare(a, b) < 0`
//! jumps as `a < b` does, where `compare` gives -1, 0 or 1.

use super::emit::Mark;
use super::{Builder, Want};
use crate::definition::Literal;
use crate::definition::template::BinaryOperator as B;
use crate::meaning::{Core, CoreKind as K, CorePart, Variable};

/// So many pieces of Core are gone through inside each other.
const DEEPEST: usize = 12;

/// What a value is compared with, and how.
pub(super) struct Known {
    operator: B,
    with: Literal,
}

impl Known {
    /// What the comparison comes to for a literal.
    fn of(&self, core: &Core) -> Option<bool> {
        let literal = match &core.kind {
            K::Literal(literal) => literal.clone(),
            K::Negate(part) => match &part.kind {
                K::Literal(Literal::Integer(n)) => Literal::Integer(n.checked_neg()?),
                _ => return None,
            },
            _ => return None,
        };
        match super::arithmetic::fold(self.operator, &literal, &self.with)? {
            Literal::Truth(truth) => Some(truth),
            _ => None,
        }
    }

    /// Whether all that a piece of Core can come to is known, and tests decide on it.
    fn is_of(&self, core: &Core, depth: usize) -> bool {
        let Some(depth) = depth.checked_sub(1) else {
            return false;
        };
        match &core.kind {
            K::Fresh(_, body) => self.is_of(body, depth),
            K::Sequence(parts) => parts.last().is_some_and(|last| self.is_of(last, depth)),
            K::If([_, yes, no]) => {
                let is_known = |way: &Core| self.of(way).is_some() || self.is_of(way, depth);
                is_known(yes) && is_known(no)
            }
            _ => false,
        }
    }
}

impl Builder<'_, '_> {
    /// A comparison of what tests decide on with a literal.
    pub(super) fn compared(&mut self, operator: B, left: &Core, right: &Core) -> Option<Known> {
        let with = self.folded(right, 0)?;
        let known = Known { operator, with };
        known.is_of(left, DEEPEST).then_some(known)
    }

    /// What the comparison comes to, whatever tests say that do nothing else and cannot fail.
    fn always(&self, known: &Known, core: &Core) -> Option<bool> {
        match &core.kind {
            K::If([test, yes, no]) if self.is_harmless(test) => {
                let truth = self.always(known, yes)?;
                (self.always(known, no)? == truth).then_some(truth)
            }
            _ => known.of(core),
        }
    }

    /// Whether a piece of Core only compares what is at hand as equal.
    fn is_harmless(&self, core: &Core) -> bool {
        let is_at_hand = |side: &Core| match &side.kind {
            K::Literal(_) => true,
            K::Read(Variable::Slot(slot), _) => !self.facts(*slot).maybe_unset,
            _ => false,
        };
        match &core.kind {
            K::Binary(B::Equal | B::Unequal, [left, right]) => {
                is_at_hand(left) && is_at_hand(right)
            }
            _ => false,
        }
    }

    /// Jumps to a mark if the comparison comes to this truth value, and goes on otherwise.
    pub(super) fn branch_known(&mut self, core: &Core, known: &Known, on: bool, to: Mark) {
        if let Some(truth) = self.always(known, core) {
            if truth == on {
                let site = self.site(core, &[]);
                self.jump(to, site);
            }
            return;
        }
        match &core.kind {
            K::Fresh(slots, body) => self.within_fresh(core, slots, |builder| {
                builder.branch_known(body, known, on, to);
            }),
            K::Sequence(parts) => {
                if let Some((last, first)) = parts.split_last() {
                    for part in first {
                        self.generate(part, Want::Effect);
                    }
                    self.branch_known(last, known, on, to);
                }
            }
            K::If(parts) => self.branch_known_either(parts, known, on, to),
            _ => unreachable!("a literal is known, and nothing else was let in"),
        }
    }

    fn branch_known_either(
        &mut self,
        [test, yes, no]: &[CorePart; 3],
        known: &Known,
        on: bool,
        to: Mark,
    ) {
        // A way that always jumps needs no code of its own.
        if self.always(known, yes) == Some(on) {
            self.branch(test, true, to);
            self.branch_known(no, known, on, to);
            return;
        }
        if self.always(known, no) == Some(on) {
            self.branch(test, false, to);
            self.branch_known(yes, known, on, to);
            return;
        }
        let (otherwise, past) = (self.mark(), self.mark());
        self.branch(test, false, otherwise);
        self.branch_known(yes, known, on, to);
        if !self.is_unreachable() {
            let site = self.site(yes, &[]);
            self.jump(past, site);
        }
        self.here(otherwise);
        self.branch_known(no, known, on, to);
        self.here(past);
    }
}
