//! Comparisons of a literal with one of some literals, as tests say: the tests alone decide. So `compare(a, b) < 0`
//! jumps as `a < b` does, where `compare` gives -1, 0 or 1.

use super::emit::Mark;
use super::guards::never_ends;
use super::tries::read_slot;
use super::{Builder, Want};
use crate::definition::Literal;
use crate::definition::template::BinaryOperator as B;
use crate::meaning::{Core, CoreKind as K, CorePart};

/// So many pieces of Core are gone through inside each other.
const DEEPEST: usize = 12;

/// What a value is compared with, and how.
pub(super) struct Known {
    operator: B,
    with: Literal,
}

impl Known {
    /// What the comparison comes to for a literal.
    pub fn of(&self, literal: &Literal) -> Option<bool> {
        match super::arithmetic::fold(self.operator, literal, &self.with)? {
            Literal::Truth(truth) => Some(truth),
            _ => None,
        }
    }

    /// The same for a piece of Core, if that is a literal.
    fn of_core(&self, core: &Core) -> Option<bool> {
        match &core.kind {
            K::Literal(literal) => self.of(literal),
            K::Negate(part) => match &part.kind {
                K::Literal(Literal::Integer(n)) => self.of(&Literal::Integer(n.checked_neg()?)),
                _ => None,
            },
            _ => None,
        }
    }

    /// What the comparison comes to behind a test, whatever is asked there about the same two values: where they
    /// have been put in order, no other comparison of them can fail.
    fn after(&self, test: &Core, core: &Core) -> Option<bool> {
        match &core.kind {
            K::If([asked, yes, no])
                if is_order(test) && (is_order(asked) || is_equality(asked)) =>
            {
                let is_about =
                    |(one, other): (Option<u32>, Option<u32>)| one.is_some() && one == other;
                let [before, now] = [test, asked].map(slots);
                let are_same = before.into_iter().zip(now).all(is_about);
                let truth = self.of_core(yes).filter(|_| are_same)?;
                (self.of_core(no) == Some(truth)).then_some(truth)
            }
            _ => self.of_core(core),
        }
    }

    /// The same of a way that may also end in an error.
    fn is_of_way(&self, way: &Core, depth: usize) -> bool {
        self.of_core(way).is_some() || never_ends(way, depth) || self.is_of(way, depth)
    }

    /// Whether all that a piece of Core can come to is known, and tests decide on it.
    fn is_of(&self, core: &Core, depth: usize) -> bool {
        let Some(depth) = depth.checked_sub(1) else {
            return false;
        };
        match &core.kind {
            K::Fresh(_, body) => self.is_of(body, depth),
            K::Sequence(parts) => parts.last().is_some_and(|last| self.is_of(last, depth)),
            K::If([_, yes, no]) => [yes, no].iter().all(|way| self.is_of_way(way, depth)),
            K::Match(_, arms) => arms.iter().all(|arm| self.is_of_way(&arm.body, depth)),
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

    /// Jumps to a mark if the comparison comes to this truth value, and goes on otherwise.
    pub(super) fn branch_known(&mut self, core: &Core, known: &Known, on: bool, to: Mark) {
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
            K::Match(subject, arms) => match self.settled(core, subject, arms) {
                Some(arm) => self.branch_known(&arm.body, known, on, to),
                None => self.branch_known_by_kind(core, known, on, to),
            },
            _ => match known.of_core(core) {
                Some(truth) if truth == on => {
                    let site = self.site(core, &[]);
                    self.jump(to, site);
                }
                Some(_) => {}
                None => self.generate(core, Want::Effect),
            },
        }
    }

    fn branch_known_by_kind(&mut self, core: &Core, known: &Known, on: bool, to: Mark) {
        let K::Match(subject, arms) = &core.kind else {
            return;
        };
        let past = self.mark();
        let choices = self.choices(core, subject, arms);
        self.try_test(core, &choices, Some(known), on, to, past);
        self.by_kind(core, &choices, |builder, arm| {
            builder.branch_known(&arm.body, known, on, to);
            Some(past)
        });
        self.here(past);
    }

    fn branch_known_either(&mut self, parts: &[CorePart; 3], known: &Known, on: bool, to: Mark) {
        let [test, yes, no] = parts;
        // A way that always comes to the same needs no code of its own.
        let ways = [known.after(test, yes), known.after(test, no)];
        for (truth, way) in [(true, no), (false, yes)] {
            let [own, other] = if truth { ways } else { [ways[1], ways[0]] };
            if own == Some(on) {
                self.branch(test, truth, to);
                if other != Some(!on) {
                    self.branch_known(way, known, on, to);
                }
                return;
            }
        }
        self.one_of_two(parts, |builder, way| {
            builder.branch_known(way, known, on, to);
        });
    }
}

fn is_order(core: &Core) -> bool {
    matches!(
        core.kind,
        K::Binary(B::Less | B::LessOrEqual | B::Greater | B::GreaterOrEqual, _)
    )
}

fn is_equality(core: &Core) -> bool {
    matches!(core.kind, K::Binary(B::Equal | B::Unequal, _))
}

/// The slots that the operands of an operator just read.
fn slots(core: &Core) -> [Option<u32>; 2] {
    match &core.kind {
        K::Binary(_, [left, right]) => [read_slot(left), read_slot(right)],
        _ => [None, None],
    }
}
