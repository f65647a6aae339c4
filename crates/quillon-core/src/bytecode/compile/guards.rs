//! Guards: what gives a value as it is where that is of a kind, and ends in an error otherwise, such as `match v { integer n
//! => n  else => fault "…" at v }`. The value stays where it is.

use super::demands::kind_demanded;
use super::emit::Mark;
use super::kinds::{Kinds, NUMERIC, kind_of_literal};
use super::looking::{always_fails, variable_read};
use super::{Builder, Home, Names, Register, Want};
use crate::bytecode::instruction::Instruction;
use crate::definition::template::ValueKind;
use crate::meaning::{ArmCore, Core, CoreKind as K, CorePart, Variable};
use crate::operations::Operation as O;

/// So far a piece of Core is gone into.
const DEEPEST: usize = 8;

/// The value that a piece of Core gives as it is, if it comes to its end: through all guards around it.
pub(super) fn passed_on(core: &Core) -> &Core {
    through(core, passed_through)
}

/// What is inside of all that a piece of Core can be gone through, one after the other.
fn through(core: &Core, one: fn(&Core) -> Option<&Core>) -> &Core {
    let mut given = core;
    for _ in 0..DEEPEST {
        match one(given) {
            Some(inner) => given = inner,
            None => break,
        }
    }
    given
}

/// The same through one guard.
fn passed_through(core: &Core) -> Option<&Core> {
    match &core.kind {
        K::Mark(_, body) => Some(body),
        K::Apply(O::Demand, args) => args.first().map(|value| &**value),
        K::Match(subject, arms) => {
            let mut passing = arms.iter().filter(|arm| passes(arm, subject));
            let is_guard = passing.next().is_some()
                && arms
                    .iter()
                    .all(|arm| passes(arm, subject) || never_ends(&arm.body, DEEPEST));
            is_guard.then_some(&**subject)
        }
        K::Fresh(slots, body) => kept_through(slots, body, passed_through),
        _ => None,
    }
}

/// The value that a piece of Core gives as it is, if that is of some kind: through all guards around it, and all that makes
/// something else of other kinds.
pub(super) fn passed_on_for_some(core: &Core) -> &Core {
    through(core, passed_for_some)
}

/// The same through one, where some kind may be passed on.
fn passed_for_some(core: &Core) -> Option<&Core> {
    match &core.kind {
        K::Match(subject, arms) => {
            let some_pass = arms.iter().any(|arm| passes(arm, subject));
            some_pass.then_some(&**subject)
        }
        K::Fresh(slots, body) => kept_through(slots, body, passed_for_some),
        _ => passed_through(core),
    }
}

/// What a piece of Core always gives as it is: a literal, through all that makes something else of other kinds; or what
/// guards let through.
pub(super) fn given_by(core: &Core) -> &Core {
    let given = passed_on_for_some(core);
    match &given.kind {
        K::Literal(literal) if lets_through(core, kind_of_literal(literal)) => given,
        _ => passed_on(core),
    }
}

/// The value of a variable that is set to begin with and then gone through.
fn kept_through<'c>(
    slots: &[(u32, bool)],
    body: &'c Core,
    one: fn(&Core) -> Option<&Core>,
) -> Option<&'c Core> {
    let (slot, value, rest) = kept(slots, body)?;
    let given = one(rest)?;
    (variable_read(given) == Some(slot)).then_some(&**value)
}

/// Whether all that is around a value lets one of a kind through.
pub(super) fn lets_through(core: &Core, kind: ValueKind) -> bool {
    let lets_it = match &core.kind {
        K::Apply(O::Demand, args) => {
            let demanded = args.get(1).and_then(|pattern| kind_demanded(pattern));
            // A value of the kind may still not be of the type.
            demanded.is_some_and(|(kinds, is_all)| is_all && Kinds::of(kind).is_within(kinds))
        }
        K::Match(subject, arms) => {
            let mut taking = arms
                .iter()
                .filter(|arm| arm.kind.is_none_or(|own| own == kind));
            taking.next().is_some_and(|arm| passes(arm, subject))
        }
        K::Fresh(slots, body) => {
            kept(slots, body).is_some_and(|(_, _, rest)| lets_through(rest, kind))
        }
        _ => true,
    };
    lets_it && passed_for_some(core).is_none_or(|inner| lets_through(inner, kind))
}

/// A variable that is set to begin with, its value, and what is done with it.
pub(super) fn kept<'c>(
    slots: &[(u32, bool)],
    body: &'c Core,
) -> Option<(u32, &'c CorePart, &'c CorePart)> {
    let ([(slot, _)], K::Sequence(parts)) = (slots, &body.kind) else {
        return None;
    };
    let [set, rest] = &parts[..] else {
        return None;
    };
    match &set.kind {
        K::Write(Variable::Slot(own), _, value) if own == slot => Some((*slot, value, rest)),
        _ => None,
    }
}

/// Whether an arm gives the subject of its match.
pub(super) fn passes(arm: &ArmCore, subject: &Core) -> bool {
    let mut body = &arm.body;
    while let K::Mark(_, inside) = &body.kind {
        body = inside;
    }
    let read = variable_read(body);
    read.is_some() && (read == arm.slot || read == variable_read(subject))
}

/// Whether a piece of Core never comes to its end.
pub(super) fn never_ends(core: &Core, depth: usize) -> bool {
    let Some(depth) = depth.checked_sub(1) else {
        return false;
    };
    match &core.kind {
        K::Jump(..) => true,
        K::Mark(_, body) | K::Fresh(_, body) => never_ends(body, depth),
        K::Sequence(parts) => parts.iter().any(|part| never_ends(part, depth)),
        _ => always_fails(core),
    }
}

impl Builder<'_, '_> {
    /// A value that a guard lets through, in the register where it is; nothing if a piece of Core is no guard, or
    /// somebody may look at what it does.
    pub(super) fn let_through(&mut self, core: &Core) -> Option<Register> {
        if self.shared.names == Names::Kept {
            return None;
        }
        match &core.kind {
            K::Match(subject, arms) => self.guard(core, subject, arms),
            K::Fresh(..) => {
                let (slot, value, rest) = self.kept_and_guarded(core)?;
                let facts = self.facts(slot);
                let home = if facts.alias.is_some() || facts.literal.is_some() {
                    self.generate(value, Want::Effect);
                    Home::None
                } else {
                    Home::Register(self.operand_register(value))
                };
                self.scope().homes[slot as usize] = home;
                Some(self.operand_register(rest))
            }
            _ => None,
        }
    }

    /// The same for what a new variable is set to, whose register is there; whether it is done.
    pub(super) fn let_through_into(&mut self, core: &Core, into: Register) -> bool {
        let core = self.simple(core);
        if self.shared.names == Names::Kept {
            return false;
        }
        let Some((slot, value, rest)) = self.kept_and_guarded(core) else {
            return false;
        };
        let facts = self.facts(slot);
        if facts.alias.is_some() || facts.literal.is_some() {
            return false;
        }
        self.generate(value, Want::Into(into));
        self.scope().homes[slot as usize] = Home::Register(into);
        let register = self.operand_register(rest);
        self.give(core, register, Want::Into(into));
        true
    }

    /// A guard with a variable of its own: that, its value, and the guard.
    fn kept_and_guarded<'c>(&self, core: &'c Core) -> Option<(u32, &'c Core, &'c Core)> {
        let (slot, value, rest) = self.kept(core)?;
        let given = passed_through(rest)?;
        (variable_read(given) == Some(slot)).then_some((slot, value, rest))
    }

    /// Asks for the kinds that a guard lets through; where its subject is, if it is a guard.
    pub(super) fn guard(
        &mut self,
        core: &Core,
        subject: &CorePart,
        arms: &[ArmCore],
    ) -> Option<Register> {
        if self.shared.names == Names::Kept {
            return None;
        }
        let possible = self.possible(core, arms);
        let (passing, failing): (Vec<_>, Vec<_>) = possible
            .iter()
            .partition(|choice| passes(choice.arm, subject));
        let [failing] = &failing[..] else {
            return None;
        };
        if passing.is_empty() || !never_ends(&failing.arm.body, DEEPEST) {
            return None;
        }
        let register = self.operand_register(subject);
        let top = self.top;
        for choice in &possible {
            self.bind_arm(choice.arm, subject, register);
        }
        let site = self.site(core, &[subject]);
        let past = self.mark();
        if let Some(kind) = failing.asked {
            self.emit(Instruction::JumpUnlessKind(kind as u8, register, 0), site);
            self.to(past);
        } else {
            let kinds: Vec<ValueKind> = passing.iter().filter_map(|arm| arm.asked).collect();
            self.jump_if_any(&kinds, register, past, site);
        }
        self.move_to_arm(core, failing.arm, register);
        self.generate(&failing.arm.body, Want::Effect);
        self.here(past);
        self.top = top;
        Some(register)
    }

    /// Jumps to a mark if what is in a register is of one of some kinds.
    pub(super) fn jump_if_any(
        &mut self,
        kinds: &[ValueKind],
        register: Register,
        to: Mark,
        site: u32,
    ) {
        let all = kinds
            .iter()
            .fold(Kinds::NONE, |all, kind| all.with(Kinds::of(*kind)));
        if NUMERIC.is_within(all) {
            self.emit(Instruction::JumpNumber(register, 0), site);
            self.to(to);
        }
        for kind in kinds {
            if !NUMERIC.is_within(all) || !Kinds::of(*kind).is_within(NUMERIC) {
                self.emit(Instruction::JumpKind(*kind as u8, register, 0), site);
                self.to(to);
            }
        }
    }
}
