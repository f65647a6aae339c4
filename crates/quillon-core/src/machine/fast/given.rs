//! The handlers of what a function does with a list that it was given and that may have come as its items: where the
//! register has no value, the number of them is in the next one, and they come after it.
// A handler is a few machine instructions; a call inside one would cost more than it does.
#![allow(clippy::inline_always)]

use super::{Handler, next, over, position};
use crate::bytecode::Op;
use crate::machine::raw::{Pc, Row};
use crate::machine::{Exit, Machine, slow};
use crate::values::Value;

/// The handlers, with those that are made here.
pub(super) const fn with(mut all: [Handler; 256]) -> [Handler; 256] {
    all[Op::GivenLength as usize] = given_length;
    all[Op::GivenTake as usize] = given_take;
    all[Op::TryGiven as usize] = try_given;
    all[Op::GivenItem as usize] = given_item;
    all
}

/// An item that came in a register, if there are so many.
#[inline(always)]
fn item_given(given: Row, index: usize) -> Option<Value> {
    let count = given.get(1);
    let is_there = matches!(count, Value::Integer(count) if (index as i64) < count);
    is_there.then(|| given.get(2 + index as u16))
}

handlers! {
    fn given_length(m, pc, regs, constants) {
        let given = regs.window(pc.b());
        let length = match (given.get(0), given.get(1)) {
            (Value::Unset, Value::Integer(count)) => (count - i64::from(pc.c_number())).max(0),
            (Value::List(list), _) => list.len() as i64,
            _ => return slow::carry_out(m, pc, regs, constants),
        };
        regs.put(pc.a(), Value::Integer(length));
        next(m, pc.plus(1), regs, constants)
    }

    fn given_take(m, pc, regs, constants) {
        let given = regs.window(pc.b());
        if matches!(given.get(0), Value::Unset)
            && let Some(item) = item_given(given, usize::from(pc.c_number()))
        {
            regs.put(pc.a(), item);
            return next(m, pc.plus(1), regs, constants);
        }
        slow::carry_out(m, pc, regs, constants)
    }

    fn try_given(m, pc, regs, constants) {
        let given = regs.window(pc.b());
        if matches!(given.get(0), Value::Unset)
            && let Some(item) = item_given(given, usize::from(pc.c_number()))
        {
            regs.put(pc.a(), item);
            return over(m, pc, regs, constants);
        }
        next(m, pc.plus(2), regs, constants)
    }

    fn given_item(m, pc, regs, constants) {
        let given = regs.window(pc.b());
        let index = position(i64::from(pc.c_number()), pc.x());
        let item = match given.get(0) {
            Value::Unset => item_given(given, index),
            Value::List(list) => list.items.get(index),
            _ => None,
        };
        if let Some(item) = item {
            regs.put(pc.a(), item);
            return next(m, pc.plus(1), regs, constants);
        }
        slow::carry_out(m, pc, regs, constants)
    }
}
