//! Operations on numbers.

use std::cmp::Ordering;

use super::integers;
use crate::diagnostic::codes;
use crate::runtime::failure::{Culprit, Problem};
use crate::runtime::number::{Outcome, as_double, division_by_zero, negate};
use crate::values::{Value, compare_numbers, described, exact_integer, told};

/// Makes sure that all operands are numbers.
fn check(args: &[Value]) -> Result<(), Box<Problem>> {
    match args.iter().position(|arg| as_double(arg).is_none()) {
        Some(index) => Err(Problem::kind(index, "a number", &args[index])),
        None => Ok(()),
    }
}

pub(super) fn absolute(args: &[Value]) -> Outcome {
    check(args)?;
    match compare_numbers(&args[0], &Value::Integer(0)) {
        Some(Ordering::Less) => negate(&args[0]),
        _ => Ok(args[0]),
    }
}

pub(super) fn round(args: &[Value]) -> Outcome {
    whole(args, f64::round)
}

pub(super) fn floor(args: &[Value]) -> Outcome {
    whole(args, f64::floor)
}

pub(super) fn ceiling(args: &[Value]) -> Outcome {
    whole(args, f64::ceil)
}

pub(super) fn truncate(args: &[Value]) -> Outcome {
    whole(args, f64::trunc)
}

pub(super) fn real(args: &[Value]) -> Outcome {
    of_double(args, |x| x)
}

pub(super) fn exponential(args: &[Value]) -> Outcome {
    of_double(args, f64::exp)
}

pub(super) fn sine(args: &[Value]) -> Outcome {
    of_double(args, f64::sin)
}

pub(super) fn cosine(args: &[Value]) -> Outcome {
    of_double(args, f64::cos)
}

pub(super) fn angle(args: &[Value]) -> Outcome {
    check(args)?;
    let x = as_double(&args[1]).unwrap_or_default();
    of_double(args, |y| y.atan2(x))
}

pub(super) fn least(args: &[Value]) -> Outcome {
    extreme(args, Ordering::Less)
}

pub(super) fn largest(args: &[Value]) -> Outcome {
    extreme(args, Ordering::Greater)
}

fn of_double(args: &[Value], function: impl Fn(f64) -> f64) -> Outcome {
    check(args)?;
    Ok(Value::Number(function(
        as_double(&args[0]).unwrap_or_default(),
    )))
}

pub(super) fn logarithm(args: &[Value]) -> Outcome {
    check(args)?;
    let value = &args[0];
    if as_double(value).unwrap_or_default() <= 0.0 {
        return Err(Problem::new(
            Culprit::Operand(0),
            codes::RUN_DOMAIN,
            format!(
                "only a number above zero has a logarithm, and this is {}",
                told(value)
            ),
        ));
    }
    of_double(args, f64::ln)
}

/// A number with a fixed count of places after the point.
pub(super) fn fixed(args: &[Value]) -> Outcome {
    const MOST: i64 = 300;
    check(args)?;
    let places = match &args[1] {
        Value::Integer(places @ 0..=MOST) => *places as usize,
        other => {
            return Err(Problem::new(
                Culprit::Operand(1),
                codes::RUN_DOMAIN,
                format!(
                    "there can be 0 to {MOST} places, and this is {}",
                    described(other)
                ),
            ));
        }
    };
    let text = match &args[0] {
        Value::Integer(n) if places == 0 => n.to_string(),
        Value::Integer(n) => format!("{n}.{}", "0".repeat(places)),
        other => format!("{:.places$}", as_double(other).unwrap_or_default()),
    };
    Ok(Value::text(text))
}

pub(super) fn root(args: &[Value]) -> Outcome {
    check(args)?;
    let value = &args[0];
    let x = as_double(value).unwrap_or_default();
    if x < 0.0 {
        return Err(Problem::new(
            Culprit::Operand(0),
            codes::RUN_DOMAIN,
            format!("a negative number has no root, and this is {}", told(value)),
        ));
    }
    Ok(Value::Number(x.sqrt()))
}

pub(super) fn power(args: &[Value]) -> Outcome {
    check(args)?;
    let (base, exponent) = (&args[0], &args[1]);
    if let (Value::Integer(x), Value::Integer(y)) = (base, exponent)
        && *y >= 0
    {
        let overflow = || {
            Problem::new(
                Culprit::Whole,
                codes::RUN_OVERFLOW,
                format!("{x} to the power {y} is too large for an integer"),
            )
        };
        let exponent = match (x, u32::try_from(*y)) {
            (_, Ok(exponent)) => exponent,
            // Only these three stay small however large the exponent.
            (-1..=1, Err(_)) => (y % 2) as u32 + 2,
            _ => return Err(overflow()),
        };
        return x
            .checked_pow(exponent)
            .map(Value::Integer)
            .ok_or_else(overflow);
    }
    let (x, y) = (
        as_double(base).unwrap_or_default(),
        as_double(exponent).unwrap_or_default(),
    );
    if x == 0.0 && y < 0.0 {
        let message = "zero has no negative power: that would be a division by zero";
        return Err(Problem::new(
            Culprit::Operand(0),
            codes::RUN_DOMAIN,
            message,
        ));
    }
    let result = x.powf(y);
    if result.is_nan() && !x.is_nan() && !y.is_nan() {
        return Err(Problem::new(
            Culprit::Operand(0),
            codes::RUN_DOMAIN,
            "a negative number has no power with a fraction",
        ));
    }
    Ok(Value::Number(result))
}

pub(super) fn remainder(args: &[Value]) -> Outcome {
    divided(args, integers::remainder, |x, y| x % y)
}

pub(super) fn modulo(args: &[Value]) -> Outcome {
    divided(args, integers::modulo, |x, y| {
        let left = x % y;
        // What is left has the sign of the divisor; the sum is exact but for rounding at the end.
        if left != 0.0 && (left < 0.0) != (y < 0.0) {
            left + y
        } else {
            left
        }
    })
}

/// What a division leaves: an integer of two integers, and a number otherwise.
fn divided(
    args: &[Value],
    of_integers: fn(&[Value]) -> Outcome,
    of_numbers: fn(f64, f64) -> f64,
) -> Outcome {
    check(args)?;
    if matches!(args, [Value::Integer(_), Value::Integer(_)]) {
        return of_integers(args);
    }
    let [x, y] = [0, 1].map(|index| as_double(&args[index]).unwrap_or_default());
    if y == 0.0 {
        return Err(division_by_zero());
    }
    Ok(Value::Number(of_numbers(x, y)))
}

fn whole(args: &[Value], round: fn(f64) -> f64) -> Outcome {
    check(args)?;
    let value = &args[0];
    let Value::Number(n) = value else {
        return Ok(*value);
    };
    exact_integer(round(*n)).map(Value::Integer).ok_or_else(|| {
        Problem::new(
            Culprit::Operand(0),
            codes::RUN_OVERFLOW,
            format!("{} is no integer of 64 bits", told(value)),
        )
    })
}

fn extreme(args: &[Value], wanted: Ordering) -> Outcome {
    check(args)?;
    let mut best = &args[0];
    for arg in &args[1..] {
        if compare_numbers(arg, best) == Some(wanted) {
            best = arg;
        }
    }
    Ok(*best)
}
