//! Loops: as long as something holds, over items, over integers.

use super::folding::Choice;
use super::kinds::Kinds;
use super::{Builder, Home, Register, Want};
use crate::bytecode::instruction::Instruction;
use crate::definition::template::ValueKind;
use crate::meaning::{Core, CoreKind as K, CorePart, Variable};
use crate::operations::{Gives, Operation as O};

impl Builder<'_, '_> {
    pub(super) fn repeat(&mut self, core: &Core, test: &Core, body: &Core, want: Want) {
        let site = self.site(core, &[]);
        let (again, check) = (self.mark(), self.mark());
        if self.folded_truth(test) != Some(true) {
            self.jump(check, site);
        }
        self.here(again);
        self.generate(body, Want::Effect);
        self.here(check);
        self.branch(test, true, again);
        self.give_nothing(core, want);
    }

    pub(super) fn each(
        &mut self,
        core: &Core,
        slot: u32,
        [list, body]: [&CorePart; 2],
        want: Want,
    ) {
        if let Some(items) = self.items_of_loop(list) {
            for item in items {
                self.scope().homes[slot as usize] = Home::Register(item);
                self.generate(body, Want::Effect);
            }
            self.give_nothing(core, want);
            return;
        }
        if self.each_inside(core, slot, [list, body], want) {
            return;
        }
        let top = self.top;
        let over = self.operand_register(list);
        let turns = self.register();
        let site = self.site(core, &[list]);
        self.emit(Instruction::EachBegin(turns, over), site);
        let item = self.register();
        self.scope().homes[slot as usize] = Home::Register(item);
        self.begin_local(slot, item);
        self.turns(turns, item, site, |builder| {
            builder.generate(body, Want::Effect);
        });
        self.end_locals(top);
        self.top = top;
        self.give_nothing(core, want);
    }

    /// A loop over what something comes to after variables have been made, or in the only arm of a match, or over a
    /// copy of a list, which is one over the list: the loop has its own. Whether it is made so.
    fn each_inside(
        &mut self,
        core: &Core,
        slot: u32,
        [list, body]: [&CorePart; 2],
        want: Want,
    ) -> bool {
        match &list.kind {
            K::Fresh(slots, inside) => {
                let K::Sequence(parts) = &inside.kind else {
                    return false;
                };
                let Some((rest, sets)) = parts.split_last() else {
                    return false;
                };
                self.within_fresh(list, slots, |builder| {
                    for set in sets {
                        builder.generate(set, Want::Effect);
                    }
                    builder.each(core, slot, [rest, body], Want::Effect);
                });
            }
            K::Match(subject, arms) => {
                let possible = self.possible(list, arms);
                let [Choice { arm, asked: None }] = &possible[..] else {
                    return false;
                };
                let top = self.top;
                let register = self.choices(list, subject, arms).register;
                self.move_to_arm(list, arm, register);
                self.each(core, slot, [&arm.body, body], Want::Effect);
                self.top = top;
            }
            K::Apply(O::ListCopy, args) => match &args[..] {
                [list] if self.is_list(list) => self.each(core, slot, [list, body], Want::Effect),
                _ => return false,
            },
            _ => return false,
        }
        self.give_nothing(core, want);
        true
    }

    /// Whether it is a list that something gives.
    fn is_list(&self, core: &Core) -> bool {
        match &core.kind {
            K::Read(Variable::Slot(slot), _) => {
                self.kinds_of(*slot).is_within(Kinds::of(ValueKind::List))
            }
            K::Apply(operation, _) => operation.gives() == Gives::List,
            K::List(_) => true,
            _ => false,
        }
    }

    /// A loop over items: each goes into a register before the body.
    pub(super) fn turns(
        &mut self,
        turns: Register,
        item: Register,
        site: u32,
        body: impl FnOnce(&mut Self),
    ) {
        let (again, next) = (self.mark(), self.mark());
        self.jump(next, site);
        self.here(again);
        body(self);
        self.here(next);
        self.emit(Instruction::EachNext(turns, item, 0), site);
        self.to(again);
        self.emit(Instruction::EachCheck(turns, 0), site);
        self.to(again);
    }

    /// A loop over the integers from one up to another.
    pub(super) fn count(
        &mut self,
        core: &Core,
        slot: u32,
        [from, to, body]: [&CorePart; 3],
        want: Want,
    ) {
        let top = self.top;
        let at = self.register();
        self.generate(from, Want::Into(at));
        // What the bound is found by may change; the bound does not.
        let last = self.register();
        self.generate(to, Want::Into(last));
        let site = self.site(core, &[from, to]);
        let (again, end) = (self.mark(), self.mark());
        self.emit(Instruction::CountBegin(at, last, 0), site);
        self.to(end);
        self.here(again);
        let facts = self.facts(slot);
        // Set at each turn, and nowhere else: it is what is counted.
        let is_counted = facts.writes == 2 && !facts.shared;
        let item = if is_counted { at } else { self.register() };
        self.scope().homes[slot as usize] = Home::Register(item);
        self.begin_local(slot, item);
        self.give(core, at, Want::Into(item));
        self.generate(body, Want::Effect);
        self.emit(Instruction::CountNext(at, last, 0), site);
        self.to(again);
        self.here(end);
        self.end_locals(top);
        self.top = top;
        self.give_nothing(core, want);
    }
}
