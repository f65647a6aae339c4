//! What need not be asked or kept, since the kinds of values are known.

use std::rc::Rc;

use super::kinds::{Kinds, NUMERIC};
use super::{Builder, Capturing, Home, Names, Register};
use crate::definition::template::ValueKind;
use crate::meaning::{ArmCore, Core, CoreKind as K, Variable};

/// An arm that a match can come to.
pub(super) struct Choice<'c> {
    pub arm: &'c ArmCore,
    /// The kind that has to be asked for; nothing where no other arm is left.
    pub asked: Option<ValueKind>,
}

/// A match whose subject is in a register.
pub(super) struct Choices<'c> {
    pub possible: Vec<Choice<'c>>,
    pub register: Register,
    pub site: u32,
}

impl<'c> Choices<'c> {
    /// The arms that it can come to.
    pub fn arms(&self) -> Vec<&'c ArmCore> {
        self.possible.iter().map(|choice| choice.arm).collect()
    }
}

/// So far a piece of Core is looked into for what it comes to.
const DEEPEST: usize = 8;

impl Builder<'_, '_> {
    /// The arms that a match can come to.
    pub(super) fn possible<'c>(&self, core: &Core, arms: &'c [ArmCore]) -> Vec<Choice<'c>> {
        let kinds = self.kinds_of_subject(core);
        let mut left = kinds;
        let mut possible = Vec::new();
        for arm in arms {
            let taken = arm.kind.map_or(left, |kind| left.among(Kinds::of(kind)));
            if taken == Kinds::NONE {
                continue;
            }
            left = left.without(taken);
            possible.push(Choice {
                arm,
                asked: arm.kind.filter(|_| left != Kinds::NONE),
            });
        }
        if possible.len() > 1 && kinds.is_within(NUMERIC) && self.is_first_enough(core) {
            possible.truncate(1);
            possible[0].asked = None;
        }
        possible
    }

    /// Whether the first arm of a match on a number does what the other one does.
    fn is_first_enough(&self, core: &Core) -> bool {
        let K::Match(subject, _) = &core.kind else {
            return false;
        };
        // Somebody may want to see which one it is.
        self.shared.names == Names::AsNeeded && self.is_alike_for_numbers(core, subject)
    }

    /// What the subject of a match can be.
    pub(super) fn kinds_of_subject(&self, core: &Core) -> Kinds {
        let scope = &self.scopes[self.scopes.len() - 1];
        scope.facts.kinds.subject(core)
    }

    /// The arm of a match that its subject, which is a literal or always the same captured value, always comes to; the
    /// arm's own name is another one for that.
    pub(super) fn settled<'c>(
        &mut self,
        core: &Core,
        subject: &Core,
        arms: &'c [ArmCore],
    ) -> Option<&'c ArmCore> {
        let home = match &self.simple(subject).kind {
            K::Read(variable @ Variable::Captured(index), name) => {
                if self.capturing[*index as usize] == Capturing::Variable {
                    return None;
                }
                Home::Same(variable.clone(), Rc::clone(name))
            }
            K::Read(variable @ Variable::BuiltIn(_), name) => {
                Home::Same(variable.clone(), Rc::clone(name))
            }
            _ => Home::Literal(self.folded(subject, 0)?),
        };
        let possible = self.possible(core, arms);
        let [only] = &possible[..] else { return None };
        if only.asked.is_some() {
            return None;
        }
        if let Some(slot) = only.arm.slot {
            let facts = self.facts(slot);
            if facts.shared || facts.writes != 1 {
                return None;
            }
            self.scope().homes[slot as usize] = home;
        }
        Some(only.arm)
    }

    /// A piece of Core that gives the same: of a match that can come to one arm only, which gives
    /// its subject, the subject; of a variable that is set and just read, its value.
    pub(super) fn simple<'c>(&self, core: &'c Core) -> &'c Core {
        self.simple_within(core, DEEPEST)
    }

    fn simple_within<'c>(&self, core: &'c Core, depth: usize) -> &'c Core {
        let Some(depth) = depth.checked_sub(1) else {
            return core;
        };
        match &core.kind {
            K::Match(subject, arms) => {
                let [only] = &self.possible(core, arms)[..] else {
                    return core;
                };
                if only.asked.is_some() {
                    return core;
                }
                match self.simple_within(&only.arm.body, depth).kind {
                    K::Read(Variable::Slot(slot), _)
                        if only.arm.slot == Some(slot) || is_read_of(subject, slot) =>
                    {
                        self.simple_within(subject, depth)
                    }
                    _ => core,
                }
            }
            K::Fresh(..) => match self.kept(core) {
                Some((slot, value, rest)) if is_read_of(self.simple_within(rest, depth), slot) => {
                    self.simple_within(value, depth)
                }
                Some(_) | None => core,
            },
            _ => core,
        }
    }
}

/// What is an `and` or an `or` in effect.
pub(super) struct Both<'c> {
    pub parts: [&'c Core; 2],
    /// Whether both must hold.
    pub all: bool,
}

impl Builder<'_, '_> {
    /// A truth value that is kept, looked at, and given itself where that says so: `let a = x; if
    /// a { y } else { a }` is `x and y`.
    pub(super) fn as_both<'c>(&self, core: &'c Core) -> Option<Both<'c>> {
        let (slot, value, choice) = self.kept(core)?;
        let K::If([test, yes, no]) = &choice.kind else {
            return None;
        };
        let is_it = |core: &Core| is_read_of(self.simple(core), slot);
        // Nothing else may look at it.
        if self.facts(slot).reads != 2 || !is_it(test) {
            return None;
        }
        let (all, second) = match (is_it(yes), is_it(no)) {
            (false, true) => (true, yes),
            (true, false) => (false, no),
            (true, true) | (false, false) => return None,
        };
        let is_truth = self.kinds_of(slot).is_within(Kinds::of(ValueKind::Truth));
        is_truth.then_some(Both {
            parts: [value, second],
            all,
        })
    }

    /// A variable that is set once to begin with, its value, and what is done with it.
    pub(super) fn kept<'c>(&self, core: &'c Core) -> Option<(u32, &'c Core, &'c Core)> {
        let K::Fresh(slots, body) = &core.kind else {
            return None;
        };
        let (slot, value, rest) = super::guards::kept(slots, body)?;
        let facts = self.facts(slot);
        // One that its own value looks at has to have a place where nothing is yet.
        let is_kept = facts.writes == 1 && !facts.shared && !facts.maybe_unset;
        is_kept.then_some((slot, value, rest))
    }

    pub(super) fn kinds_of(&self, slot: u32) -> Kinds {
        let scope = &self.scopes[self.scopes.len() - 1];
        scope.facts.kinds.of_slot(slot)
    }
}

/// Whether a piece of Core just reads a slot.
fn is_read_of(core: &Core, slot: u32) -> bool {
    matches!(core.kind, K::Read(Variable::Slot(own), _) if own == slot)
}
