//! The handlers of divisions with a rest, and of what brings numbers to integers and back.
// A handler is a few machine instructions; a call inside one would cost more than it does.
// And numbers are compared as exactly as programs ask for it.
#![allow(clippy::inline_always, clippy::float_cmp)]

use super::arithmetic::EXACT;
use super::{Handler, field, next};
use crate::bytecode::Op;
use crate::machine::raw::{Pc, Row};
use crate::machine::{Exit, Machine, slow};
use crate::operations::Operation;
use crate::values::Value;

/// The handlers, with those that are made here.
pub(super) const fn with(mut all: [Handler; 256]) -> [Handler; 256] {
    all[Op::FloorQuotientInteger as usize] = floor_quotient_integer;
    all[Op::ModuloInteger as usize] = modulo_integer;
    all[Op::RemainderInteger as usize] = remainder_integer;
    all[Op::Modulo as usize] = modulo;
    all[Op::FloorQuotient as usize] = floor_quotient;
    all[Op::Remainder as usize] = remainder;
    all[Op::Quotient as usize] = quotient;
    all
}

macro_rules! integer_division {
    ($name:ident, $guard:expr, $result:expr) => {
        fn $name(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
            match (regs.see(pc.b()), regs.see(pc.c())) {
                // Divisors above 0 have no special cases.
                (Value::Integer(a), Value::Integer(b)) if *b > 0 => {
                    let divide: fn(i64, i64) -> i64 = $result;
                    regs.put(pc.a(), Value::Integer(divide(*a, *b)));
                    next(m, pc.plus(1), regs, constants)
                }
                (a, b) => of_numbers(m, pc, regs, constants, whole(a), whole(b)),
            }
        }
    };
}

integer_division!(modulo, b > 0, narrow_modulo);
integer_division!(floor_quotient, b > 0, narrow_quotient);
integer_division!(remainder, b > 0, |a, b| a % b);
integer_division!(quotient, b > 0, |a, b| a / b);

/// The integer that a number is, if it is one, and not below 0.
#[inline(always)]
fn whole(value: &Value) -> Option<i64> {
    let n = match value {
        Value::Integer(n) => *n as f64,
        Value::Number(n) => *n,
        _ => return None,
    };
    let whole = n as i64;
    // What is left of the opposite of 0 is that.
    (n.is_sign_positive() && n < EXACT && whole as f64 == n).then_some(whole)
}

/// What is left where a number is divided that need not be an integer, if both are whole: the same as of integers.
#[inline(never)]
fn of_numbers(
    m: &mut Machine<'_>,
    pc: Pc,
    regs: Row,
    constants: Row,
    a: Option<i64>,
    b: Option<i64>,
) -> Exit {
    // Only what takes any numbers says so.
    match (a, b) {
        (Some(a), Some(b)) if pc.x() == 1 && b > 0 => {
            regs.put(pc.a(), Value::Number(narrow_modulo(a, b) as f64));
            next(m, pc.plus(1), regs, constants)
        }
        _ => slow::carry_out(m, pc, regs, constants),
    }
}

/// Division of small numbers is several times as fast in 32 bits on many processors.
#[inline(always)]
fn narrow_modulo(a: i64, b: i64) -> i64 {
    if (a | b) >> 32 == 0 {
        i64::from(a as u32 % b as u32)
    } else {
        a.rem_euclid(b)
    }
}

#[inline(always)]
fn narrow_remainder(a: i64, b: i64) -> i64 {
    if (a | b) >> 32 == 0 {
        i64::from(a as u32 % b as u32)
    } else {
        a % b
    }
}

#[inline(always)]
fn narrow_quotient(a: i64, b: i64) -> i64 {
    if (a | b) >> 32 == 0 {
        i64::from(a as u32 / b as u32)
    } else {
        a.div_euclid(b)
    }
}

const FLOOR: u8 = Operation::NumberFloor as u8;
const CEILING: u8 = Operation::NumberCeiling as u8;
const TRUNCATE: u8 = Operation::NumberTruncate as u8;

const REAL: u8 = Operation::NumberReal as u8;

/// What an operation gives that makes an integer of a number, or the other way round, if it is one of these, and the
/// number a small one.
#[inline(always)]
pub(super) fn brought(pc: Pc, regs: Row) -> Option<Value> {
    let operation = pc.x();
    // Others may have no operand.
    if !matches!(operation, FLOOR | CEILING | TRUNCATE | REAL) {
        return None;
    }
    let n = match regs.see(pc.b()) {
        Value::Integer(n) if operation == REAL => return Some(Value::Number(*n as f64)),
        Value::Integer(n) => return Some(Value::Integer(*n)),
        Value::Number(n) if n.abs() < EXACT => *n,
        _ => return None,
    };
    let whole = n as i64;
    Some(match operation {
        FLOOR => Value::Integer(whole - i64::from(whole as f64 > n)),
        CEILING => Value::Integer(whole + i64::from((whole as f64) < n)),
        TRUNCATE => Value::Integer(whole),
        _ => Value::Number(n),
    })
}

fn floor_quotient_integer(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
    match regs.see(pc.b()) {
        Value::Integer(a) => {
            regs.put(
                pc.a(),
                Value::Integer(narrow_quotient(*a, field(pc).max(1))),
            );
            next(m, pc.plus(1), regs, constants)
        }
        _ => slow::carry_out(m, pc, regs, constants),
    }
}

fn modulo_integer(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
    match regs.see(pc.b()) {
        Value::Integer(a) => {
            regs.put(pc.a(), Value::Integer(narrow_modulo(*a, field(pc).max(1))));
            next(m, pc.plus(1), regs, constants)
        }
        a => of_numbers(m, pc, regs, constants, whole(a), Some(field(pc))),
    }
}

fn remainder_integer(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
    match regs.see(pc.b()) {
        Value::Integer(a) => {
            regs.put(
                pc.a(),
                Value::Integer(narrow_remainder(*a, field(pc).max(1))),
            );
            next(m, pc.plus(1), regs, constants)
        }
        a => of_numbers(m, pc, regs, constants, whole(a), Some(field(pc))),
    }
}
