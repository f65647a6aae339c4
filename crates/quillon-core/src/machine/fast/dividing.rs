//! The handlers of divisions with a rest, and of what brings numbers to integers and back.
// A handler is a few machine instructions; a call inside one would cost more than it does.
// And numbers are compared as exactly as programs ask for it.
#![allow(clippy::inline_always, clippy::float_cmp)]

use super::wholes::{EXACT, narrow};
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
    ($name:ident, $result:expr, $others:path) => {
        fn $name(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
            match (regs.see(pc.b()), regs.see(pc.c())) {
                // Divisors above 0 have no special cases.
                (Value::Integer(a), Value::Integer(b)) if *b > 0 => {
                    let divide: fn(i64, i64) -> i64 = $result;
                    regs.put(pc.a(), Value::Integer(divide(*a, *b)));
                    next(m, pc.plus(1), regs, constants)
                }
                _ => $others(m, pc, regs, constants),
            }
        }
    };
}

integer_division!(floor_quotient, narrow_quotient, slow::carry_out);
integer_division!(quotient, |a, b| a / b, slow::carry_out);
integer_division!(modulo, narrow_modulo, of_narrow);
integer_division!(remainder, |a, b| a % b, of_narrow);

/// What is left of a number by another, at once where both are small and whole.
#[inline(always)]
fn of_narrow(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
    match (regs.see(pc.b()), regs.see(pc.c())) {
        (Value::Number(a), Value::Number(b))
            if takes_any(pc)
                && let (Some(a), Some(b @ 1..)) = (narrow(*a), narrow(*b)) =>
        {
            regs.put(pc.a(), Value::Number(f64::from(a % b)));
            next(m, pc.plus(1), regs, constants)
        }
        _ => of_numbers::<false>(m, pc, regs, constants),
    }
}

macro_rules! remainder_by_integer {
    ($name:ident, $result:expr) => {
        fn $name(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
            match regs.see(pc.b()) {
                Value::Integer(a) => {
                    let divide: fn(i64, i64) -> i64 = $result;
                    regs.put(pc.a(), Value::Integer(divide(*a, field(pc).max(1))));
                    next(m, pc.plus(1), regs, constants)
                }
                Value::Number(a)
                    if takes_any(pc)
                        && let Some(a) = narrow(*a) =>
                {
                    let left = a % field(pc).max(1) as u32;
                    regs.put(pc.a(), Value::Number(f64::from(left)));
                    next(m, pc.plus(1), regs, constants)
                }
                _ => of_numbers::<true>(m, pc, regs, constants),
            }
        }
    };
}

remainder_by_integer!(modulo_integer, narrow_modulo);
remainder_by_integer!(remainder_integer, narrow_remainder);

/// Whether what is left is of any numbers, and not only of integers.
#[inline(always)]
fn takes_any(pc: Pc) -> bool {
    pc.x() == 1
}

/// The integer that a number is, if it is one, and not below 0.
fn large(value: &Value) -> Option<i64> {
    let n = match value {
        Value::Integer(n) => *n as f64,
        Value::Number(n) => *n,
        _ => return None,
    };
    let whole = n as i64;
    // What is left of the opposite of 0 is that.
    (n.is_sign_positive() && n < EXACT && whole as f64 == n).then_some(whole)
}

/// What is left where a number is divided that need not be an integer, if both are whole, and the divisor in the field
/// or in a register: the same as of integers. Of two integers, those that come here have no divisor above 0.
#[inline(never)]
fn of_numbers<const BY_FIELD: bool>(
    m: &mut Machine<'_>,
    pc: Pc,
    regs: Row,
    constants: Row,
) -> Exit {
    let divisor = if BY_FIELD {
        Some(field(pc))
    } else {
        large(regs.see(pc.c()))
    };
    match (large(regs.see(pc.b())), divisor) {
        (Some(a), Some(b)) if takes_any(pc) && b > 0 => {
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
