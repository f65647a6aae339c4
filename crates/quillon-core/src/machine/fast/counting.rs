//! The handlers that count a loop and decide at once whether it goes on.
// A handler is a few machine instructions; a call inside one would cost more than it does.
#![allow(clippy::inline_always)]

use super::arithmetic::add_integer;
use super::{Handler, field, jump_by, next};
use crate::bytecode::Op;
use crate::machine::raw::{Pc, Row};
use crate::machine::slow;
use crate::machine::{Exit, Machine};
use crate::values::Value;

/// The handlers, with those that are made here.
pub(super) const fn with(mut all: [Handler; 256]) -> [Handler; 256] {
    all[Op::CountBegin as usize] = count_begin;
    all[Op::CountNext as usize] = count_next;
    all[Op::AddThenLess as usize] = add_then_less;
    all[Op::AddThenLessOrEqual as usize] = add_then_less_or_equal;
    all[Op::AddThenLessInteger as usize] = add_then_less_integer;
    all[Op::AddThenLessOrEqualInteger as usize] = add_then_less_or_equal_integer;
    all[Op::AddThenLessConstant as usize] = add_then_less_constant;
    all[Op::AddThenLessOrEqualConstant as usize] = add_then_less_or_equal_constant;
    all
}

/// A handler for integers; everything else is added, and compared by the instruction after it.
/// `$limit` says what the sum is compared with, by the place of that instruction.
macro_rules! counting {
    ($name:ident, $sign:tt, ($pc:ident, $regs:ident, $constants:ident) $limit:expr) => {
        fn $name(m: &mut Machine<'_>, at: Pc, $regs: Row, $constants: Row) -> Exit {
            let $pc = at.plus(1);
            let sum = match $regs.see(at.b()) {
                Value::Integer(n) => n.checked_add(field(at)),
                _ => None,
            };
            let (Some(sum), Some(limit)) = (sum, $limit) else {
                return add_integer(m, at, $regs, $constants);
            };
            $regs.put(at.a(), Value::Integer(sum));
            if sum $sign limit {
                return jump_by(m, $pc, i32::from($pc.c_number() as i16), $regs, $constants);
            }
            next(m, $pc.plus(1), $regs, $constants)
        }
    };
}

#[inline(always)]
fn integer(value: &Value) -> Option<i64> {
    match value {
        Value::Integer(n) => Some(*n),
        _ => None,
    }
}

counting!(add_then_less, <, (pc, regs, constants) integer(regs.see(pc.b())));
counting!(add_then_less_or_equal, <=, (pc, regs, constants) integer(regs.see(pc.b())));
counting!(add_then_less_integer, <, (pc, regs, constants) Some(i64::from(pc.b_number() as i16)));
counting!(add_then_less_or_equal_integer, <=, (pc, regs, constants) Some(i64::from(pc.b_number() as i16)));
counting!(add_then_less_constant, <, (pc, regs, constants) integer(constants.constant(u32::from(pc.b_number()))));
counting!(add_then_less_or_equal_constant, <=, (pc, regs, constants) integer(constants.constant(u32::from(pc.b_number()))));

fn count_begin(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
    match (regs.see(pc.a()), regs.see(pc.b())) {
        (Value::Integer(from), Value::Integer(to)) if from <= to => {
            next(m, pc.plus(1), regs, constants)
        }
        _ => slow::carry_out(m, pc, regs, constants),
    }
}

fn count_next(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
    if let (Value::Integer(at), Value::Integer(to)) = (regs.see(pc.a()), regs.see(pc.b()))
        && at < to
    {
        let after = Value::Integer(at + 1);
        regs.put(pc.a(), after);
        return jump_by(m, pc, i32::from(pc.c_number() as i16), regs, constants);
    }
    next(m, pc.plus(1), regs, constants)
}
