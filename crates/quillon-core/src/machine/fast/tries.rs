//! The handlers of what is only tried: where it can be done, the jump after it is made with it; where it cannot, the
//! jump is passed over.
// A handler is a few machine instructions; a call inside one would cost more than it does.
#![allow(clippy::inline_always)]

use super::wholes::{WHOLES, whole};
use super::{ABSENT, Handler, field, letter, next, over, position};
use crate::bytecode::Op;
use crate::machine::raw::{Pc, Row};
use crate::machine::{Exit, Machine, slow};
use crate::values::Value;

/// The handlers, with those that are made here.
pub(super) const fn with(mut all: [Handler; 256]) -> [Handler; 256] {
    all[Op::TryLength as usize] = try_length;
    all[Op::TryWhole as usize] = try_whole;
    all[Op::TryItem as usize] = try_item;
    all[Op::TryItemInteger as usize] = try_item_integer;
    all[Op::TryItemWhole as usize] = try_item_whole;
    all[Op::TryLetter as usize] = try_letter;
    all[Op::TryLetterWhole as usize] = try_letter_whole;
    all[Op::TryPutItem as usize] = try_put_item;
    all[Op::TryPutItemWhole as usize] = try_put_item_whole;
    all[Op::TryKey as usize] = try_key;
    all[Op::TryMapGet as usize] = try_map_get;
    all[Op::TryMapPut as usize] = try_map_put;
    all
}

/// The place that a number is equal to, if it is whole; one that nothing has where that is too large.
#[inline(always)]
fn place(value: &Value) -> Option<i64> {
    match value {
        Value::Number(n) => whole(*n),
        Value::Integer(n) => Some(*n),
        _ => None,
    }
}

handlers! {
    fn try_length(m, pc, regs, constants) {
        if let Value::List(list) = regs.see(pc.b()) {
            regs.put(pc.a(), Value::Integer(list.len() as i64));
            return over(m, pc, regs, constants);
        }
        next(m, pc.plus(2), regs, constants)
    }

    fn try_whole(m, pc, regs, constants) {
        let whole = match regs.see(pc.b()) {
            Value::Integer(n) => Some(*n),
            Value::Number(n) => whole(*n).filter(|whole| whole.unsigned_abs() < WHOLES),
            _ => None,
        };
        if let Some(whole) = whole {
            regs.put(pc.a(), Value::Integer(whole));
            return over(m, pc, regs, constants);
        }
        next(m, pc.plus(2), regs, constants)
    }

    fn try_item(m, pc, regs, constants) {
        if let (Value::List(list), Value::Integer(index)) = (regs.see(pc.b()), regs.see(pc.c()))
            && let Some(value) = list.items.get(position(*index, pc.x()))
        {
            regs.put(pc.a(), value);
            return over(m, pc, regs, constants);
        }
        next(m, pc.plus(2), regs, constants)
    }

    fn try_item_integer(m, pc, regs, constants) {
        if let Value::List(list) = regs.see(pc.b())
            && let Some(value) = list.items.get(position(field(pc), pc.x()))
        {
            regs.put(pc.a(), value);
            return over(m, pc, regs, constants);
        }
        next(m, pc.plus(2), regs, constants)
    }

    fn try_item_whole(m, pc, regs, constants) {
        if let (Value::List(list), Some(index)) = (regs.see(pc.b()), place(regs.see(pc.c())))
            && let Some(value) = list.items.get(position(index, pc.x()))
        {
            regs.put(pc.a(), value);
            return over(m, pc, regs, constants);
        }
        next(m, pc.plus(2), regs, constants)
    }

    fn try_letter(m, pc, regs, constants) {
        if let Some(letter) = letter(m, regs.see(pc.b()), regs.see(pc.c()), pc.x()) {
            regs.put(pc.a(), Value::Text(letter));
            return over(m, pc, regs, constants);
        }
        next(m, pc.plus(2), regs, constants)
    }

    fn try_letter_whole(m, pc, regs, constants) {
        if let Some(index) = place(regs.see(pc.c()))
            && let Some(letter) = letter(m, regs.see(pc.b()), &Value::Integer(index), pc.x())
        {
            regs.put(pc.a(), Value::Text(letter));
            return over(m, pc, regs, constants);
        }
        next(m, pc.plus(2), regs, constants)
    }

    fn try_put_item(m, pc, regs, constants) {
        if let (Value::List(list), Value::Integer(index)) = (regs.see(pc.a()), regs.see(pc.b()))
            && list.items.put(position(*index, pc.x()), || regs.take(pc.c()))
        {
            return over(m, pc, regs, constants);
        }
        next(m, pc.plus(2), regs, constants)
    }

    fn try_put_item_whole(m, pc, regs, constants) {
        if let (Value::List(list), Some(index)) = (regs.see(pc.a()), place(regs.see(pc.b())))
            && list.items.put(position(index, pc.x()), || regs.take(pc.c()))
        {
            return over(m, pc, regs, constants);
        }
        next(m, pc.plus(2), regs, constants)
    }

    fn try_key(m, pc, regs, constants) {
        if let Value::Map(map) = regs.see(pc.b())
            && slow::get_key(regs, pc, *map)
        {
            return over(m, pc, regs, constants);
        }
        next(m, pc.plus(2), regs, constants)
    }

    fn try_map_get(m, pc, regs, constants) {
        if let Value::Map(map) = regs.see(pc.b()) {
            let known = pc.plus(1).word();
            if let Some(value) = map.at_place(known as u32, (known >> 32) as u32) {
                regs.put(pc.a(), value);
                return over(m, pc.plus(1), regs, constants);
            }
        }
        try_other_shape(m, pc, regs, constants)
    }

    fn try_map_put(m, pc, regs, constants) {
        if let Value::Map(map) = regs.see(pc.a()) {
            let known = pc.plus(1).word();
            if map.put_at_place(known as u32, (known >> 32) as u32, || regs.take(pc.c())) {
                return over(m, pc.plus(1), regs, constants);
            }
        }
        try_put_elsewhere(m, pc, regs, constants)
    }
}

/// Looks up a key that is a constant in what is no map of the shape that was met before. Not inlined, so that
/// one of that shape does not pay for it.
#[inline(never)]
fn try_other_shape(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
    if let Value::Map(map) = regs.see(pc.b()) {
        let known = pc.plus(1).word();
        let lacks_it = known >> 32 == u64::from(ABSENT) && map.shape() == Some(known as u32);
        if !lacks_it && slow::find_name(regs, constants, pc, *map) {
            return over(m, pc.plus(1), regs, constants);
        }
    }
    next(m, pc.plus(3), regs, constants)
}

/// The same for a value that is to be set.
#[inline(never)]
fn try_put_elsewhere(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
    if let Value::Map(map) = regs.see(pc.a())
        && slow::put_name(regs, constants, pc, *map)
    {
        return over(m, pc.plus(1), regs, constants);
    }
    next(m, pc.plus(3), regs, constants)
}
