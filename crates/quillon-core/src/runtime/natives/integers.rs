//! Operations on integers that are no signs of the notation.

use super::integer;
use crate::diagnostic::codes;
use crate::runtime::failure::{Culprit, Problem};
use crate::runtime::number::{Division, Outcome, integer_division};
use crate::values::Value;

pub(super) fn quotient(args: &[Value]) -> Outcome {
    integer_division(Division::Quotient, &args[0], &args[1])
}

pub(super) fn remainder(args: &[Value]) -> Outcome {
    integer_division(Division::Remainder, &args[0], &args[1])
}

pub(super) fn floor_quotient(args: &[Value]) -> Outcome {
    integer_division(Division::FloorQuotient, &args[0], &args[1])
}

pub(super) fn modulo(args: &[Value]) -> Outcome {
    integer_division(Division::Modulo, &args[0], &args[1])
}

pub(super) fn exact_quotient(args: &[Value]) -> Outcome {
    let (a, b) = (integer(args, 0)?, integer(args, 1)?);
    let quotient = quotient(args)?;
    if b != -1 && a % b != 0 {
        return Err(Problem::new(
            Culprit::Whole,
            codes::RUN_DOMAIN,
            format!("{a} cannot be divided by {b} without a remainder"),
        )
        .why(format!("{} is left", a % b)));
    }
    Ok(quotient)
}

/// An operation on two integers that always gives one.
fn both(args: &[Value], operation: fn(i64, i64) -> i64) -> Outcome {
    Ok(Value::Integer(operation(
        integer(args, 0)?,
        integer(args, 1)?,
    )))
}

pub(super) fn add_wrapping(args: &[Value]) -> Outcome {
    both(args, i64::wrapping_add)
}

pub(super) fn subtract_wrapping(args: &[Value]) -> Outcome {
    both(args, i64::wrapping_sub)
}

pub(super) fn multiply_wrapping(args: &[Value]) -> Outcome {
    both(args, i64::wrapping_mul)
}

pub(super) fn add_saturating(args: &[Value]) -> Outcome {
    both(args, i64::saturating_add)
}

pub(super) fn subtract_saturating(args: &[Value]) -> Outcome {
    both(args, i64::saturating_sub)
}

pub(super) fn multiply_saturating(args: &[Value]) -> Outcome {
    both(args, i64::saturating_mul)
}

pub(super) fn bits_and(args: &[Value]) -> Outcome {
    both(args, |a, b| a & b)
}

pub(super) fn bits_or(args: &[Value]) -> Outcome {
    both(args, |a, b| a | b)
}

pub(super) fn bits_xor(args: &[Value]) -> Outcome {
    both(args, |a, b| a ^ b)
}

pub(super) fn bits_not(args: &[Value]) -> Outcome {
    Ok(Value::Integer(!integer(args, 0)?))
}

pub(super) fn shift_left(args: &[Value]) -> Outcome {
    Ok(Value::Integer(integer(args, 0)? << places(args)?))
}

pub(super) fn shift_right(args: &[Value]) -> Outcome {
    Ok(Value::Integer(integer(args, 0)? >> places(args)?))
}

pub(super) fn clamped(args: &[Value]) -> Outcome {
    let Range { n, low, high } = range(args)?;
    Ok(Value::Integer(n.clamp(low, high)))
}

pub(super) fn wrapped(args: &[Value]) -> Outcome {
    let Range { n, low, high } = range(args)?;
    // Wide enough for the distance of any two integers.
    let (wide, floor) = (i128::from(n), i128::from(low));
    let span = i128::from(high) - floor + 1;
    Ok(Value::Integer(
        (floor + (wide - floor).rem_euclid(span)) as i64,
    ))
}

/// A number to be brought between two others.
struct Range {
    n: i64,
    low: i64,
    high: i64,
}

fn range(args: &[Value]) -> Result<Range, Box<Problem>> {
    let (n, low, high) = (integer(args, 0)?, integer(args, 1)?, integer(args, 2)?);
    if high < low {
        return Err(Problem::new(
            Culprit::Operand(2),
            codes::RUN_DOMAIN,
            format!("nothing lies between {low} and {high}"),
        )
        .why("the lower bound comes first"));
    }
    Ok(Range { n, low, high })
}

fn places(args: &[Value]) -> Result<u32, Box<Problem>> {
    let asked = integer(args, 1)?;
    u32::try_from(asked)
        .ok()
        .filter(|&places| places < 64)
        .ok_or_else(|| {
            Problem::new(
                Culprit::Operand(1),
                codes::RUN_DOMAIN,
                format!("bits cannot be shifted by {asked} places"),
            )
            .why("an integer has 64 bits: 0 to 63 places can be meant")
        })
}

/// The base that an operand asks for.
pub(super) fn base(args: &[Value]) -> Result<u32, Box<Problem>> {
    let asked = integer(args, 1)?;
    u32::try_from(asked)
        .ok()
        .filter(|base| (2..=36).contains(base))
        .ok_or_else(|| {
            Problem::new(
                Culprit::Operand(1),
                codes::RUN_DOMAIN,
                format!("there is no base {asked}"),
            )
            .why("bases go from 2 to 36: ten digits and the letters after them")
        })
}

pub(super) fn in_base(args: &[Value]) -> Outcome {
    let (n, base) = (integer(args, 0)?, base(args)?);
    let mut digits = Vec::new();
    let mut left = n.unsigned_abs();
    loop {
        let digit = (left % u64::from(base)) as u32;
        digits.push(char::from_digit(digit, base).unwrap_or('0'));
        left /= u64::from(base);
        if left == 0 {
            break;
        }
    }
    if n < 0 {
        digits.push('-');
    }
    Ok(Value::text(digits.iter().rev().collect::<String>()))
}
