//! Parts of a function that are entered from more than one place: compiled once, behind what enters
//! them. Each entry says by a number where to go on, and the part ends by going there.

use super::emit::Mark;
use super::{Builder, Operand, Register, Want};
use crate::bytecode::instruction::{Instruction, Op};
use crate::definition::Literal;
use crate::meaning::{Core, PartId};

/// A part that is being entered.
pub(super) struct EnteredPart {
    id: PartId,
    /// Where its value is.
    value: Register,
    /// The number of the entry that it goes back to.
    back: Register,
    begin: Mark,
    /// Where to go on after each entry.
    returns: Vec<Mark>,
    /// Where it begins for entries whose value is that of the function.
    tail: Mark,
    is_tail: bool,
    /// The first register that no entry has in use.
    free: usize,
}

impl Builder<'_, '_> {
    /// Compiles what enters parts, and then the parts.
    pub(super) fn with_parts(&mut self, core: &Core, ids: &[PartId], body: &Core, want: Want) {
        let top = self.top;
        for &id in ids {
            let part = EnteredPart {
                id,
                value: self.register(),
                back: self.register(),
                begin: self.mark(),
                returns: Vec::new(),
                tail: self.mark(),
                is_tail: false,
                free: self.top,
            };
            self.scope().parts.push(part);
        }
        self.generate(body, want);
        let end = self.mark();
        if want != Want::Tail && !self.is_unreachable() {
            let site = self.site(core, &[]);
            self.jump(end, site);
        }
        // The parts of a region do not enter each other.
        for _ in ids {
            if let Some(part) = self.scope().parts.pop() {
                self.part(part);
            }
        }
        self.here(end);
        self.top = top;
    }

    /// Enters a part.
    pub(super) fn enter(&mut self, core: &Core, id: PartId, want: Want) {
        let site = self.site(core, &[]);
        let top = self.top;
        let entry = self.mark();
        let Some(part) = self
            .scope()
            .parts
            .iter_mut()
            .rev()
            .find(|part| part.id == id)
        else {
            // It is entered inside the region that has it.
            return;
        };
        part.free = part.free.max(top);
        if want == Want::Tail {
            part.is_tail = true;
            let tail = part.tail;
            self.jump(tail, site);
            return;
        }
        let number = part.returns.len() as i64;
        part.returns.push(entry);
        let (begin, back, value) = (part.begin, part.back, part.value);
        self.load(&Literal::Integer(number), back, site);
        self.jump(begin, site);
        self.here(entry);
        self.give(core, value, want);
    }

    fn part(&mut self, part: EnteredPart) {
        let scope = &self.scopes[self.scopes.len() - 1];
        let Some(core) = scope.core.part(part.id).cloned() else {
            return;
        };
        self.top = part.free;
        if part.returns.is_empty() {
            self.here(part.tail);
            if part.is_tail {
                self.generate(&core, Want::Tail);
            }
            return;
        }
        let mut returns = part.returns;
        let site = self.site(&core, &[]);
        if part.is_tail {
            // It is made for a value elsewhere, and so here: it is not made twice.
            let over = self.mark();
            self.here(part.tail);
            self.load(&Literal::Integer(returns.len() as i64), part.back, site);
            self.jump(part.begin, site);
            self.here(over);
            returns.push(over);
            self.emit(Instruction::Return(part.value), site);
        }
        self.here(part.begin);
        self.generate(&core, Want::Into(part.value));
        if self.is_unreachable() {
            return;
        }
        let Some((last, others)) = returns.split_last() else {
            return;
        };
        for (index, &entry) in others.iter().enumerate() {
            let top = self.top;
            if let Ok(short) = i16::try_from(index) {
                let op = Op::JumpEqualInteger;
                self.emit(Instruction::new(op, 1, part.back, short as u16, 0), site);
            } else {
                let number = Operand::Literal(Literal::Integer(index as i64));
                let number = self.in_register(&number);
                self.emit(Instruction::JumpEqual(1, part.back, number, 0), site);
            }
            self.to(entry);
            self.top = top;
        }
        self.jump(*last, site);
    }
}
