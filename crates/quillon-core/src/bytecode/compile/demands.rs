//! Types that values fit or must fit: what a kind alone tells is asked by a jump, and the operation only says
//! what is wrong.

use super::emit::Mark;
use super::kinds::{Kinds, NUMERIC};
use super::{Builder, Register};
use crate::bytecode::instruction::Instruction;
use crate::definition::Literal;
use crate::definition::template::ValueKind;
use crate::meaning::{Core, CoreKind as K, CorePart, kind_of_letter};
use crate::operations::Operation;

impl Builder<'_, '_> {
    /// Jumps to a mark if it is so, or is not so, that a value fits a type; whether that type is nothing but a
    /// kind.
    pub(super) fn branch_fits(
        &mut self,
        core: &Core,
        args: &[CorePart],
        on: bool,
        to: Mark,
    ) -> bool {
        let [value, pattern] = args else {
            return false;
        };
        let K::Literal(pattern) = &pattern.kind else {
            return false;
        };
        let Some(kind) = only_kind(pattern).filter(|_| !self.is_behind(to)) else {
            return false;
        };
        let register = self.operand_register(value);
        let site = self.site(core, &[value]);
        let past = self.mark();
        if kind == ValueKind::Number {
            self.emit(Instruction::JumpNumber(register, 0), site);
            if on {
                self.to(to);
            } else {
                self.to(past);
                self.jump(to, site);
            }
        } else {
            self.emit(
                if on {
                    Instruction::JumpKind(kind as u8, register, 0)
                } else {
                    Instruction::JumpUnlessKind(kind as u8, register, 0)
                },
                site,
            );
            self.to(to);
        }
        self.here(past);
        true
    }

    /// A value that must fit a type, in the register where it is; nothing if that type is more than a kind.
    pub(super) fn demanded(&mut self, core: &Core, args: &[CorePart]) -> Option<Register> {
        let [value, pattern, why] = args else {
            return None;
        };
        let (K::Literal(pattern), K::Literal(why)) = (&pattern.kind, &why.kind) else {
            return None;
        };
        let kind = only_kind(pattern)?;
        let is_sure = self
            .kinds_of_subject(core)
            .is_within(kind_demanded(&args[1])?.0);
        let value = self.operand_register(value);
        if is_sure {
            return Some(value);
        }
        let operands: Vec<&Core> = args.iter().map(|arg| &**arg).collect();
        let site = self.site(core, &operands);
        let fits = self.mark();
        self.emit(
            if kind == ValueKind::Number {
                Instruction::JumpNumber(value, 0)
            } else {
                Instruction::JumpKind(kind as u8, value, 0)
            },
            site,
        );
        self.to(fits);
        let top = self.top;
        let row = self.register();
        self.emit(Instruction::Move(row, value), site);
        for literal in [pattern, why] {
            let register = self.register();
            self.load(literal, register, site);
        }
        let demand = Operation::Demand.number();
        self.emit(Instruction::Apply(demand, row, row, 3), site);
        self.top = top;
        self.here(fits);
        Some(value)
    }
}

/// The kinds that a declared type can fit, and whether all values of them do.
pub(super) fn kind_demanded(pattern: &Core) -> Option<(Kinds, bool)> {
    let K::Literal(literal @ Literal::Text(pattern)) = &pattern.kind else {
        return None;
    };
    let kind = kind_of_letter(pattern.bytes().next()?)?;
    let kinds = match kind {
        // An integer is a number, too.
        ValueKind::Number => NUMERIC,
        other => Kinds::of(other),
    };
    Some((kinds, only_kind(literal).is_some()))
}

/// The kind that fits a pattern, if nothing inside a value matters.
fn only_kind(pattern: &Literal) -> Option<ValueKind> {
    let Literal::Text(pattern) = pattern else {
        return None;
    };
    let mut letters = pattern.bytes().map(kind_of_letter);
    let kind = letters.next()??;
    let has_more = matches!(kind, ValueKind::List | ValueKind::Map);
    let inside = letters.next().flatten();
    (!has_more || inside.is_none()).then_some(kind)
}
