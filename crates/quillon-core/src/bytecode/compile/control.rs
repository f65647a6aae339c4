//! Ways through a function: sequences, branches, loops, landings, matches, and what is done
//! on the way out.

use std::rc::Rc;

use super::emit::Mark;
use super::folding::Choices;
use super::looking::always_fails;
use super::tries::Tried;
use super::{Builder, Cleanup, Home, Landing, MOST, Operand, Register, Want};
use crate::bytecode::instruction::Instruction;
use crate::bytecode::unit::{Handler, Purpose};
use crate::definition::Literal;
use crate::definition::template::ValueKind;
use crate::meaning::{ArmCore, Core, CoreKind as K, CorePart, Label, Variable};

impl Builder<'_, '_> {
    pub(super) fn sequence(&mut self, core: &Core, parts: &[CorePart], want: Want) {
        let Some((last, first)) = parts.split_last() else {
            self.give_nothing(core, want);
            return;
        };
        self.behind_tests(core, &[], want, |builder| {
            let mut left = first;
            while let Some((part, after)) = left.split_first() {
                let taken = builder.record_in_variable(part, after, last, want);
                if taken.is_none() {
                    builder.generate(part, Want::Effect);
                }
                left = &after[taken.unwrap_or(0)..];
            }
            let is_known = first.last().is_some_and(|set| has_set(set, last));
            if want != Want::Effect || !is_known {
                builder.generate(last, want);
            }
        });
    }

    pub(super) fn fresh(&mut self, core: &Core, slots: &[(u32, bool)], body: &Core, want: Want) {
        self.within_fresh(core, slots, |builder| {
            builder.behind_tests(body, slots, want, |builder| builder.generate(body, want));
        });
    }

    /// Makes fresh variables for something.
    pub(super) fn within_fresh(
        &mut self,
        core: &Core,
        slots: &[(u32, bool)],
        body: impl FnOnce(&mut Self),
    ) {
        let top = self.top;
        let site = self.site(core, &[]);
        for &(slot, _) in slots {
            let facts = self.facts(slot).clone();
            if facts.literal.is_some() || facts.alias.is_some() {
                // It has no place of its own; a copy of the code gets none either.
                self.scope().homes[slot as usize] = Home::None;
                continue;
            }
            if let Some(&count) = self.facts_of_lists().made.get(&slot) {
                let first = self.top.min(MOST) as u16;
                self.top += count;
                self.most = self.most.max(self.top);
                self.scope().homes[slot as usize] = Home::Items(first, count);
                continue;
            }
            let register = self.register();
            self.scope().homes[slot as usize] = Home::Register(register);
            self.begin_local(slot, register);
            if facts.shared {
                self.emit(Instruction::Fresh(register), site);
            } else if facts.maybe_unset {
                self.emit(Instruction::Unset(register), site);
            }
        }
        body(self);
        self.end_locals(top);
        self.top = top;
    }

    pub(super) fn conditional(&mut self, core: &Core, [test, yes, no]: [&CorePart; 3], want: Want) {
        let site = self.site(core, &[]);
        if let Some(truth) = self.folded_truth(test) {
            self.generate(if truth { yes } else { no }, want);
            return;
        }
        let top = self.top;
        let (otherwise, end) = (self.mark(), self.mark());
        let tried = match want {
            Want::Effect => self.tried_put_of(test, yes, |_| true),
            Want::Into(_) | Want::Tail => self.tried_choice([test, yes, no]),
        };
        let is_guarded = always_fails(yes) || always_fails(no);
        let tried = match tried {
            None if is_guarded => self.tried_item(core, &[], want, |_| true),
            tried => tried,
        };
        let done = self.try_each(core, tried.as_slice(), want, end);
        if let Some(map) = tried.as_ref().and_then(Tried::found_no_key_in) {
            let map_kind = ValueKind::Map as u8;
            self.emit(Instruction::JumpKind(map_kind, map, 0), site);
            self.to(otherwise);
        }
        self.branch(test, false, otherwise);
        self.generate(yes, want);
        let is_empty = want == Want::Effect && matches!(no.kind, K::Literal(_));
        if !is_empty && want != Want::Tail && !self.is_unreachable() {
            self.jump(end, site);
        }
        self.here(otherwise);
        self.generate(no, want);
        self.here(end);
        self.give_tried(core, done, want);
        self.top = top;
    }

    pub(super) fn landing(&mut self, core: &Core, label: Label, body: &Core, want: Want) {
        let top = self.top;
        let facts = &self.scopes[self.scopes.len() - 1].facts;
        // A jump that passes a cleanup brings its value in a register.
        let carried = want == Want::Tail && facts.has_cleanups;
        let carried = carried.then(|| self.register());
        let end = self.mark();
        self.landings.push(Landing {
            label,
            want,
            carried,
            end,
            cleanups: self.cleanups.len(),
        });
        self.generate(body, want);
        self.landings.pop();
        self.here(end);
        if let Some(register) = carried {
            self.give(core, register, Want::Tail);
        }
        self.top = top;
    }

    /// Goes to a landing.
    pub(super) fn go(&mut self, core: &Core, label: Label, value: &Core) {
        // Landings are found when Core is made.
        let found = self.landings.iter().rev().find(|own| own.label == label);
        let Some(&Landing {
            want,
            carried,
            end,
            cleanups,
            ..
        }) = found
        else {
            return;
        };
        let want = match carried {
            Some(register) if self.cleanups.len() > cleanups => Want::Into(register),
            _ => want,
        };
        self.generate(value, want);
        if want == Want::Tail {
            return;
        }
        let site = self.site(core, &[]);
        self.leave(end, cleanups, site);
    }

    /// Jumps to a place around which there are only so many cleanups, through those inside.
    fn leave(&mut self, to: Mark, cleanups: usize, site: u32) {
        if self.cleanups.len() <= cleanups {
            self.jump(to, site);
            return;
        }
        let last = self.cleanups.len() - 1;
        let inner = &mut self.cleanups[last];
        let number = inner.through.len() as i32 + 1;
        inner.through.push((to, cleanups));
        let (how, after) = (inner.how, inner.after);
        self.emit(Instruction::Integer(how, number), site);
        self.jump(after, site);
    }

    pub(super) fn matching(
        &mut self,
        core: &Core,
        subject: &CorePart,
        arms: &[ArmCore],
        want: Want,
    ) {
        if let Some(arm) = self.settled(core, subject, arms) {
            self.generate(&arm.body, want);
            return;
        }
        let top = self.top;
        if let Some(register) = self.guard(core, subject, arms) {
            self.give(core, register, want);
            self.top = top;
            return;
        }
        let choices = self.choices(core, subject, arms);
        let end = self.mark();
        let tried = self.tried(subject, &choices, want);
        let done = self.try_each(core, &tried, want, end);
        let has_no_key = tried.iter().any(|one| one.found_no_key_in().is_some());
        self.by_kind(core, &choices, |builder, arm| {
            let body = match &arm.body.kind {
                // What has been tried has been found not to be there.
                K::If([_, _, no]) if has_no_key && arm.kind == Some(ValueKind::Map) => no,
                _ => &arm.body,
            };
            builder.generate(body, want);
            (want != Want::Tail).then_some(end)
        });
        self.here(end);
        self.give_tried(core, done, want);
        self.top = top;
    }

    /// The subject of a match in a register, and the arms that can take it.
    pub(super) fn choices<'c>(
        &mut self,
        core: &Core,
        subject: &CorePart,
        arms: &'c [ArmCore],
    ) -> Choices<'c> {
        let site = self.site(core, &[subject]);
        let register = self.operand_register(subject);
        let possible = self.possible(core, arms);
        for choice in &possible {
            self.bind_arm(choice.arm, subject, register);
        }
        Choices {
            possible,
            register,
            site,
        }
    }

    /// Goes to the arm of a match that takes its subject. `make` makes an arm, and says where it
    /// goes on behind it, if it does.
    pub(super) fn by_kind(
        &mut self,
        core: &Core,
        choices: &Choices<'_>,
        mut make: impl FnMut(&mut Self, &ArmCore) -> Option<Mark>,
    ) {
        let Choices {
            possible,
            register,
            site,
        } = choices;
        let marks: Vec<Mark> = possible.iter().map(|_| self.mark()).collect();
        let mut behind = None;
        for (choice, &mark) in possible.iter().zip(&marks) {
            if let Some(kind) = choice.asked {
                self.emit(Instruction::JumpKind(kind as u8, *register, 0), *site);
                self.to(mark);
            } else {
                self.move_to_arm(core, choice.arm, *register);
                behind = make(self, choice.arm);
            }
        }
        if possible.iter().all(|choice| choice.asked.is_some()) {
            self.emit(Instruction::NoMatch(*register), *site);
        }
        for (choice, &mark) in possible.iter().zip(&marks) {
            if choice.asked.is_none() {
                break;
            }
            if let Some(to) = behind.take()
                && !self.is_unreachable()
            {
                self.jump(to, *site);
            }
            self.here(mark);
            self.move_to_arm(core, choice.arm, *register);
            behind = make(self, choice.arm);
        }
    }

    /// Gives the slot of an arm a home: the subject's own, where neither changes.
    pub(super) fn bind_arm(&mut self, arm: &ArmCore, subject: &Core, register: Register) {
        let Some(slot) = arm.slot else { return };
        let facts = self.facts(slot);
        let reads = matches!(self.in_place(subject).kind, K::Read(Variable::Slot(_), _));
        let same = facts.alias.is_some() || (!reads && facts.writes == 1);
        let own = if same { register } else { self.register() };
        self.scope().homes[slot as usize] = Home::Register(own);
    }

    /// Gives an arm its own copy of the subject, if it needs one.
    pub(super) fn move_to_arm(&mut self, core: &Core, arm: &ArmCore, register: Register) {
        if let Some(slot) = arm.slot
            && let Home::Register(own) = self.home(slot)
            && own != register
        {
            self.give(core, register, Want::Into(own));
        }
    }

    pub(super) fn attempt(
        &mut self,
        core: &Core,
        slot: u32,
        [body, rescue]: [&CorePart; 2],
        want: Want,
    ) {
        let top = self.top;
        let site = self.site(core, &[]);
        let inner = self.not_tail(want);
        let caught = self.register();
        let end = self.mark();
        let start = self.code.len() as u32;
        self.attempts += 1;
        self.generate(body, inner);
        self.attempts -= 1;
        let stop = self.code.len() as u32;
        self.jump(end, site);
        self.catch(start, stop, caught, Purpose::Rescue);
        self.scope().homes[slot as usize] = Home::Register(caught);
        self.generate(rescue, inner);
        self.here(end);
        self.end_not_tail(core, inner, want);
        self.top = top;
    }

    /// What is caught in a stretch of code goes on here.
    fn catch(&mut self, start: u32, end: u32, register: Register, purpose: Purpose) {
        self.reached();
        if start < end {
            self.handlers.push(Handler {
                start,
                end,
                target: self.code.len() as u32,
                register,
                purpose,
            });
        }
    }

    /// A value wanted by the caller goes into a register first.
    fn not_tail(&mut self, want: Want) -> Want {
        match want {
            Want::Tail => Want::Into(self.register()),
            other @ (Want::Effect | Want::Into(_)) => other,
        }
    }

    fn end_not_tail(&mut self, core: &Core, inner: Want, want: Want) {
        if let (Want::Tail, Want::Into(register)) = (want, inner) {
            self.give(core, register, Want::Tail);
        }
    }

    pub(super) fn cleanup(&mut self, core: &Core, [body, after]: [&CorePart; 2], want: Want) {
        self.guarded(core, want, Purpose::Cleanup, body, |builder| {
            builder.generate(after, Want::Effect);
        });
    }

    /// Runs a body with fresh dynamic variables.
    pub(super) fn rebind(&mut self, core: &Core, names: &[Rc<str>], body: &Core, want: Want) {
        let top = self.top;
        let site = self.site(core, &[]);
        let mut held = Vec::new();
        for name in names {
            let name = self.name(name);
            let register = self.register();
            self.emit(Instruction::TakeDynamic(register, name), site);
            held.push((name, register));
        }
        self.guarded(core, want, Purpose::Restore, body, |builder| {
            for &(name, register) in &held {
                builder.emit(Instruction::RestoreDynamic(name, register), site);
            }
        });
        self.top = top;
    }

    /// Runs a body, and then, whatever came of it, something else.
    fn guarded(
        &mut self,
        core: &Core,
        want: Want,
        purpose: Purpose,
        body: &Core,
        after: impl FnOnce(&mut Self),
    ) {
        let top = self.top;
        let site = self.site(core, &[]);
        // The value is not where it is wanted before the end: what is done after the body
        // may look there.
        let inner = match want {
            Want::Effect => Want::Effect,
            Want::Into(_) | Want::Tail => Want::Into(self.register()),
        };
        let how = self.register();
        let begin = self.mark();
        self.cleanups.push(Cleanup {
            after: begin,
            how,
            through: Vec::new(),
        });
        let start = self.code.len() as u32;
        self.generate(body, inner);
        let stop = self.code.len() as u32;
        self.load(&Literal::Integer(0), how, site);
        self.catch(start, stop, how, purpose);
        self.here(begin);
        let through = self.cleanups.pop().map(|own| own.through);
        after(self);
        self.emit(Instruction::Finish(how), site);
        for (index, (to, cleanups)) in through.unwrap_or_default().into_iter().enumerate() {
            let past = self.mark();
            let number = self.in_register(&Operand::Literal(Literal::Integer(index as i64 + 1)));
            self.emit(Instruction::JumpEqual(0, how, number, 0), site);
            self.to(past);
            self.leave(to, cleanups, site);
            self.here(past);
        }
        if let Want::Into(register) = inner {
            self.give(core, register, want);
        }
        self.top = top;
    }
}

/// Whether a piece of Core sets what another one then just reads.
fn has_set(set: &Core, read: &Core) -> bool {
    match (&set.kind, &read.kind) {
        (K::Write(own, ..), K::Read(other, _)) => own == other,
        _ => false,
    }
}
