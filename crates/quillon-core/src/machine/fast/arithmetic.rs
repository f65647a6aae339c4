//! The handlers of arithmetic and comparison: two integers, or two numbers.
// A handler is a few machine instructions; a call inside one would cost more than it does.
// And numbers are compared as exactly as programs ask for it.
#![allow(clippy::inline_always, clippy::float_cmp)]

use super::wholes::EXACT;
use super::{Handler, field, jump_by, next, over};
use crate::bytecode::Op;
use crate::machine::raw::{Pc, Row};
use crate::machine::{Exit, Machine, slow};
use crate::values::Value;

/// The handlers, with those that are made here.
pub(super) const fn with(mut all: [Handler; 256]) -> [Handler; 256] {
    all[Op::Add as usize] = add;
    all[Op::AddInteger as usize] = add_integer;
    all[Op::TryAdd as usize] = try_add;
    all[Op::TryAddInteger as usize] = try_add_integer;
    all[Op::Negate as usize] = negate;
    all[Op::AddConstant as usize] = add_constant;
    all[Op::Subtract as usize] = subtract;
    all[Op::SubtractInteger as usize] = subtract_integer;
    all[Op::SubtractConstant as usize] = subtract_constant;
    all[Op::SubtractFrom as usize] = subtract_from;
    all[Op::Multiply as usize] = multiply;
    all[Op::MultiplyInteger as usize] = multiply_integer;
    all[Op::MultiplyConstant as usize] = multiply_constant;
    all[Op::Divide as usize] = divide;
    all[Op::DivideConstant as usize] = divide_constant;
    all[Op::DivideFrom as usize] = divide_from;
    all[Op::Equal as usize] = equal;
    all[Op::Unequal as usize] = unequal;
    all[Op::Less as usize] = less;
    all[Op::LessOrEqual as usize] = less_or_equal;
    all[Op::Greater as usize] = greater;
    all[Op::GreaterOrEqual as usize] = greater_or_equal;
    all[Op::JumpEqual as usize] = jump_equal;
    all[Op::JumpLess as usize] = jump_less;
    all[Op::JumpLessOrEqual as usize] = jump_less_or_equal;
    all[Op::JumpGreater as usize] = jump_greater;
    all[Op::JumpGreaterOrEqual as usize] = jump_greater_or_equal;
    all[Op::JumpEqualInteger as usize] = jump_equal_integer;
    all[Op::JumpEqualConstant as usize] = jump_equal_constant;
    all[Op::JumpEqualNumbers as usize] = jump_equal_numbers;
    all[Op::JumpEqualNumbersInteger as usize] = jump_equal_integer;
    all[Op::JumpLessInteger as usize] = jump_less_integer;
    all[Op::JumpLessConstant as usize] = jump_less_constant;
    all[Op::JumpLessOrEqualInteger as usize] = jump_less_or_equal_integer;
    all[Op::JumpLessOrEqualConstant as usize] = jump_less_or_equal_constant;
    all[Op::JumpGreaterInteger as usize] = jump_greater_integer;
    all[Op::JumpGreaterConstant as usize] = jump_greater_constant;
    all[Op::JumpGreaterOrEqualInteger as usize] = jump_greater_or_equal_integer;
    all[Op::JumpGreaterOrEqualConstant as usize] = jump_greater_or_equal_constant;
    all
}

/// A handler for an operator on numbers: `$left` and `$right` say where they are.
macro_rules! on_numbers {
    ($name:ident, $checked:ident, $sign:tt, ($pc:ident, $regs:ident, $constants:ident) $left:expr, $right:expr) => {
        fn $name(m: &mut Machine<'_>, $pc: Pc, $regs: Row, $constants: Row) -> Exit {
            let result = match ($left, $right) {
                (Value::Integer(a), Value::Integer(b)) => match a.$checked(*b) {
                    Some(result) => Value::Integer(result),
                    None => return slow::carry_out(m, $pc, $regs, $constants),
                },
                (Value::Number(a), Value::Number(b)) => Value::Number(a $sign b),
                (Value::Number(a), Value::Integer(b)) => Value::Number(a $sign *b as f64),
                (Value::Integer(a), Value::Number(b)) => Value::Number(*a as f64 $sign b),
                _ => return slow::carry_out(m, $pc, $regs, $constants),
            };
            $regs.put($pc.a(), result);
            next(m, $pc.plus(1), $regs, $constants)
        }
    };
}

on_numbers!(add, checked_add, +, (pc, regs, constants) regs.see(pc.b()), regs.see(pc.c()));
on_numbers!(subtract, checked_sub, -, (pc, regs, constants) regs.see(pc.b()), regs.see(pc.c()));
on_numbers!(multiply, checked_mul, *, (pc, regs, constants) regs.see(pc.b()), regs.see(pc.c()));
on_numbers!(add_constant, checked_add, +, (pc, regs, constants) regs.see(pc.b()), constants.constant(u32::from(pc.c_number())));
on_numbers!(subtract_constant, checked_sub, -, (pc, regs, constants) regs.see(pc.b()), constants.constant(u32::from(pc.c_number())));
on_numbers!(multiply_constant, checked_mul, *, (pc, regs, constants) regs.see(pc.b()), constants.constant(u32::from(pc.c_number())));
on_numbers!(subtract_from, checked_sub, -, (pc, regs, constants) constants.constant(u32::from(pc.b_number())), regs.see(pc.c()));

/// The same with an integer in the field `c`.
macro_rules! with_integer {
    ($name:ident, $checked:ident, $sign:tt) => {
        pub(super) fn $name(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
            let n = field(pc);
            let result = match regs.see(pc.b()) {
                Value::Integer(a) => match a.$checked(n) {
                    Some(result) => Value::Integer(result),
                    None => return slow::carry_out(m, pc, regs, constants),
                },
                Value::Number(a) => Value::Number(a $sign n as f64),
                _ => return slow::carry_out(m, pc, regs, constants),
            };
            regs.put(pc.a(), result);
            next(m, pc.plus(1), regs, constants)
        }
    };
}

with_integer!(add_integer, checked_add, +);
with_integer!(subtract_integer, checked_sub, -);
with_integer!(multiply_integer, checked_mul, *);

handlers! {
    fn try_add(m, pc, regs, constants) {
        let sum = match (regs.see(pc.b()), regs.see(pc.c())) {
            (Value::Integer(a), Value::Integer(b)) => a.checked_add(*b).map(Value::Integer),
            (Value::Number(a), Value::Number(b)) => Some(Value::Number(a + b)),
            _ => None,
        };
        let Some(sum) = sum else {
            return next(m, pc.plus(2), regs, constants);
        };
        regs.put(pc.a(), sum);
        over(m, pc, regs, constants)
    }

    fn negate(m, pc, regs, constants) {
        let opposite = match regs.see(pc.b()) {
            Value::Integer(n) => n.checked_neg().map(Value::Integer),
            Value::Number(n) => Some(Value::Number(-n)),
            _ => None,
        };
        let Some(opposite) = opposite else {
            return slow::carry_out(m, pc, regs, constants);
        };
        regs.put(pc.a(), opposite);
        next(m, pc.plus(1), regs, constants)
    }

    fn try_add_integer(m, pc, regs, constants) {
        let n = field(pc);
        let sum = match regs.see(pc.b()) {
            Value::Integer(a) => a.checked_add(n).map(Value::Integer),
            Value::Number(a) => Some(Value::Number(a + n as f64)),
            _ => None,
        };
        let Some(sum) = sum else {
            return next(m, pc.plus(2), regs, constants);
        };
        regs.put(pc.a(), sum);
        over(m, pc, regs, constants)
    }
}

/// A value as a number, if it is one or an integer.
#[inline(always)]
fn number(value: &Value) -> Option<f64> {
    match value {
        Value::Number(n) => Some(*n),
        Value::Integer(n) => Some(*n as f64),
        _ => None,
    }
}

macro_rules! division {
    ($name:ident, ($pc:ident, $regs:ident, $constants:ident) $left:expr, $right:expr) => {
        fn $name(m: &mut Machine<'_>, $pc: Pc, $regs: Row, $constants: Row) -> Exit {
            match (number($left), number($right)) {
                (Some(a), Some(b)) if b != 0.0 => {
                    $regs.put($pc.a(), Value::Number(a / b));
                    next(m, $pc.plus(1), $regs, $constants)
                }
                _ => slow::carry_out(m, $pc, $regs, $constants),
            }
        }
    };
}

division!(divide, (pc, regs, constants) regs.see(pc.b()), regs.see(pc.c()));
division!(divide_constant, (pc, regs, constants) regs.see(pc.b()), constants.constant(u32::from(pc.c_number())));
division!(divide_from, (pc, regs, constants) constants.constant(u32::from(pc.b_number())), regs.see(pc.c()));

/// Whether two values are equal, where that is seen without looking inside: `None` for two
/// lists, two maps, and a large integer and a number.
#[inline(always)]
fn equality(a: &Value, b: &Value) -> Option<bool> {
    Some(match (a, b) {
        (Value::Integer(a), Value::Integer(b)) => a == b,
        (Value::Number(a), Value::Number(b)) => a == b,
        (Value::Nothing, Value::Nothing) => true,
        (Value::Truth(a), Value::Truth(b)) => a == b,
        (Value::Text(a), Value::Text(b)) if a.is(*b) => true,
        (Value::Text(a), Value::Text(b)) => return a.is_equal_at_once(b),
        (Value::Integer(a), Value::Number(b)) => exact(*a)? == *b,
        (Value::Number(a), Value::Integer(b)) => *a == exact(*b)?,
        (
            Value::Nothing | Value::Truth(_) | Value::Text(_) | Value::Integer(_),
            Value::Nothing | Value::Truth(_),
        )
        | (
            Value::List(_) | Value::Map(_),
            Value::Nothing | Value::Truth(_) | Value::Integer(_) | Value::Number(_),
        ) => false,
        _ => return None,
    })
}

/// An integer as a number, if that is exactly the same.
#[inline(always)]
fn exact(n: i64) -> Option<f64> {
    let number = n as f64;
    (number.abs() < EXACT).then_some(number)
}

/// Whether a comparison holds between an integer and a number, if that is exactly seen between two numbers.
#[inline(always)]
fn mixed(a: &Value, b: &Value, holds: fn(f64, f64) -> bool) -> Option<bool> {
    match (a, b) {
        (Value::Integer(a), Value::Number(b)) => Some(holds(exact(*a)?, *b)),
        (Value::Number(a), Value::Integer(b)) => Some(holds(*a, exact(*b)?)),
        _ => None,
    }
}

/// Whether a comparison holds, if both are integers or both numbers.
macro_rules! holds {
    ($sign:tt, $a:expr, $b:expr) => {
        match ($a, $b) {
            (Value::Integer(a), Value::Integer(b)) => Some(a $sign b),
            (Value::Number(a), Value::Number(b)) => Some(a $sign b),
            _ => None,
        }
    };
}

#[inline(always)]
fn is_less(a: &Value, b: &Value) -> Option<bool> {
    holds!(<, a, b)
}

#[inline(always)]
fn is_less_or_equal(a: &Value, b: &Value) -> Option<bool> {
    holds!(<=, a, b)
}

#[inline(always)]
fn is_greater(a: &Value, b: &Value) -> Option<bool> {
    holds!(>, a, b)
}

#[inline(always)]
fn is_greater_or_equal(a: &Value, b: &Value) -> Option<bool> {
    holds!(>=, a, b)
}

/// Longer texts are compared with the meter at hand.
const LONGEST: usize = 1 << 10;

/// Jumps as a comparison says, if it is one of two texts, or of an integer and a number.
#[inline(always)]
fn jump_others(
    m: &mut Machine<'_>,
    pc: Pc,
    regs: Row,
    constants: Row,
    b: &Value,
    numbers: fn(f64, f64) -> bool,
    texts: fn(&str, &str) -> bool,
) -> Exit {
    let truth = match (regs.see(pc.a()), b) {
        // Where the comparison is only tried, texts are left to what comes after it.
        (Value::Text(a), Value::Text(b))
            if a.len() <= LONGEST && b.len() <= LONGEST && !slow::is_only_tried(m, pc) =>
        {
            Some(texts(a, b))
        }
        (a, b) => mixed(a, b, numbers),
    };
    jump_if(m, pc, regs, constants, truth)
}

/// Jumps as a comparison says that has come to this, if it has come to something.
#[inline(always)]
fn jump_if(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row, truth: Option<bool>) -> Exit {
    match truth {
        Some(truth) if u8::from(truth) == pc.x() => {
            jump_by(m, pc, i32::from(pc.c_number() as i16), regs, constants)
        }
        Some(_) => next(m, pc.plus(1), regs, constants),
        None => slow::carry_out(m, pc, regs, constants),
    }
}

macro_rules! comparison {
    ($name:ident, $jump:ident, $jump_others:ident, $with_integer:ident, $with_constant:ident, $sign:tt, $holds:ident) => {
        fn $name(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
            match $holds(regs.see(pc.b()), regs.see(pc.c())) {
                Some(holds) => {
                    regs.put_truth(pc.a(), holds);
                    next(m, pc.plus(1), regs, constants)
                }
                None => slow::carry_out(m, pc, regs, constants),
            }
        }

        fn $jump(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
            match $holds(regs.see(pc.a()), regs.see(pc.b())) {
                Some(holds) if u8::from(holds) == pc.x() => {
                    jump_by(m, pc, i32::from(pc.c_number() as i16), regs, constants)
                }
                Some(_) => next(m, pc.plus(1), regs, constants),
                None => $jump_others(m, pc, regs, constants, regs.see(pc.b())),
            }
        }

        /// Not inlined, so that numbers do not pay for it.
        #[inline(never)]
        fn $jump_others(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row, b: &Value) -> Exit {
            jump_others(m, pc, regs, constants, b, |a, b| a $sign b, |a, b| a $sign b)
        }

        fn $with_constant(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
            let b = constants.constant(u32::from(pc.b_number()));
            match $holds(regs.see(pc.a()), b) {
                Some(holds) if u8::from(holds) == pc.x() => {
                    jump_by(m, pc, i32::from(pc.c_number() as i16), regs, constants)
                }
                Some(_) => next(m, pc.plus(1), regs, constants),
                None => $jump_others(m, pc, regs, constants, b),
            }
        }

        fn $with_integer(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
            let n = i64::from(pc.b_number() as i16);
            let holds = match regs.see(pc.a()) {
                Value::Integer(a) => *a $sign n,
                Value::Number(a) => *a $sign n as f64,
                _ => return slow::carry_out(m, pc, regs, constants),
            };
            if u8::from(holds) == pc.x() {
                return jump_by(m, pc, i32::from(pc.c_number() as i16), regs, constants);
            }
            next(m, pc.plus(1), regs, constants)
        }
    };
}

comparison!(less, jump_less, jump_less_others, jump_less_integer, jump_less_constant, <, is_less);
comparison!(less_or_equal, jump_less_or_equal, jump_less_or_equal_others, jump_less_or_equal_integer, jump_less_or_equal_constant, <=, is_less_or_equal);
comparison!(greater, jump_greater, jump_greater_others, jump_greater_integer, jump_greater_constant, >, is_greater);
comparison!(greater_or_equal, jump_greater_or_equal, jump_greater_or_equal_others, jump_greater_or_equal_integer, jump_greater_or_equal_constant, >=, is_greater_or_equal);
comparison!(equal, jump_equal, jump_equal_others, jump_equal_integer, jump_equal_constant, ==, equality);

fn jump_equal_numbers(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
    let truth = holds!(==, regs.see(pc.a()), regs.see(pc.b()));
    match truth {
        Some(_) => jump_if(m, pc, regs, constants, truth),
        None => jump_equal_mixed(m, pc, regs, constants),
    }
}

/// Not inlined, so that two of the same kind do not pay for it.
#[inline(never)]
fn jump_equal_mixed(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
    let truth = mixed(regs.see(pc.a()), regs.see(pc.b()), |a, b| a == b);
    jump_if(m, pc, regs, constants, truth)
}

fn unequal(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
    match equality(regs.see(pc.b()), regs.see(pc.c())) {
        Some(equal) => {
            regs.put_truth(pc.a(), !equal);
            next(m, pc.plus(1), regs, constants)
        }
        None => slow::carry_out(m, pc, regs, constants),
    }
}
