//! Operations on integers that are neither signs of the notation nor divisions.

use super::integer;
use crate::diagnostic::codes;
use crate::meaning::Operation;
use crate::runtime::failure::{Culprit, Problem};
use crate::runtime::number::Outcome;
use crate::values::Value;

pub(super) fn apply(operation: Operation, args: &[Value]) -> Outcome {
    use Operation as O;
    let a = integer(args, 0)?;
    let b = || integer(args, 1);
    Ok(match operation {
        O::IntegerWrapped | O::IntegerClamped => return within(operation, args),
        O::IntegerInBase => in_base(a, base(args)?),
        O::IntegerBitsNot => Value::Integer(!a),
        O::IntegerAddWrapping => Value::Integer(a.wrapping_add(b()?)),
        O::IntegerSubtractWrapping => Value::Integer(a.wrapping_sub(b()?)),
        O::IntegerMultiplyWrapping => Value::Integer(a.wrapping_mul(b()?)),
        O::IntegerAddSaturating => Value::Integer(a.saturating_add(b()?)),
        O::IntegerSubtractSaturating => Value::Integer(a.saturating_sub(b()?)),
        O::IntegerMultiplySaturating => Value::Integer(a.saturating_mul(b()?)),
        O::IntegerBitsAnd => Value::Integer(a & b()?),
        O::IntegerBitsOr => Value::Integer(a | b()?),
        O::IntegerBitsXor => Value::Integer(a ^ b()?),
        O::IntegerShiftLeft => Value::Integer(a << places(args)?),
        O::IntegerShiftRight => Value::Integer(a >> places(args)?),
        _ => return exact_quotient(a, b()?),
    })
}

fn exact_quotient(a: i64, b: i64) -> Outcome {
    let quotient = super::number::integer_division(
        super::Division::Quotient,
        &Value::Integer(a),
        &Value::Integer(b),
    )?;
    if b != -1 && a % b != 0 {
        return Err(Problem::new(
            Culprit::Whole,
            codes::RUN_DOMAIN,
            format!("{a} cannot be divided by {b} without a rest"),
        )
        .why(format!("{} is left", a % b)));
    }
    Ok(quotient)
}

/// A number brought between two others.
fn within(operation: Operation, args: &[Value]) -> Outcome {
    let (n, low, high) = (integer(args, 0)?, integer(args, 1)?, integer(args, 2)?);
    if high < low {
        return Err(Problem::new(
            Culprit::Operand(2),
            codes::RUN_DOMAIN,
            format!("nothing lies between {low} and {high}"),
        )
        .why("the lower bound comes first"));
    }
    if operation == Operation::IntegerClamped {
        return Ok(Value::Integer(n.clamp(low, high)));
    }
    // Wide enough for the distance of any two integers.
    let (wide, floor) = (i128::from(n), i128::from(low));
    let span = i128::from(high) - floor + 1;
    Ok(Value::Integer(
        (floor + (wide - floor).rem_euclid(span)) as i64,
    ))
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

fn in_base(n: i64, base: u32) -> Value {
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
    Value::text(digits.iter().rev().collect::<String>())
}
