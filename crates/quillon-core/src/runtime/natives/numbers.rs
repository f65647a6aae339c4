//! Operations on numbers.

use std::cmp::Ordering;

use crate::diagnostic::codes;
use crate::meaning::Operation;
use crate::runtime::failure::{Culprit, Problem};
use crate::runtime::number::{Outcome, as_double, negate};
use crate::values::{Value, compare_numbers, described, exact_integer, told};

pub(super) fn apply(operation: Operation, args: &[Value]) -> Outcome {
    use Operation as O;
    for (index, arg) in args.iter().enumerate() {
        if as_double(arg).is_none() {
            return Err(Problem::kind(index, "a number", arg));
        }
    }
    let first = &args[0];
    match operation {
        O::NumberRoot => root(first),
        O::NumberPower => power(first, &args[1]),
        O::NumberAbsolute => match compare_numbers(first, &Value::Integer(0)) {
            Some(Ordering::Less) => negate(first),
            _ => Ok(*first),
        },
        O::NumberRound => whole(first, f64::round),
        O::NumberFloor => whole(first, f64::floor),
        O::NumberCeiling => whole(first, f64::ceil),
        O::NumberTruncate => whole(first, f64::trunc),
        O::NumberReal => Ok(Value::Number(as_double(first).unwrap_or_default())),
        O::NumberFixed => fixed(first, &args[1]),
        O::NumberExponential => Ok(real(first, f64::exp)),
        O::NumberSine => Ok(real(first, f64::sin)),
        O::NumberCosine => Ok(real(first, f64::cos)),
        O::NumberAngle => {
            let x = as_double(&args[1]).unwrap_or_default();
            Ok(real(first, |y| y.atan2(x)))
        }
        O::NumberLogarithm => logarithm(first),
        O::NumberLeast => Ok(extreme(args, Ordering::Less)),
        _ => Ok(extreme(args, Ordering::Greater)),
    }
}

fn real(value: &Value, function: impl Fn(f64) -> f64) -> Value {
    Value::Number(function(as_double(value).unwrap_or_default()))
}

fn logarithm(value: &Value) -> Outcome {
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
    Ok(real(value, f64::ln))
}

/// A number with a fixed count of places after the point.
fn fixed(value: &Value, places: &Value) -> Outcome {
    const MOST: i64 = 300;
    let places = match places {
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
    let text = match value {
        Value::Integer(n) if places == 0 => n.to_string(),
        Value::Integer(n) => format!("{n}.{}", "0".repeat(places)),
        other => format!("{:.places$}", as_double(other).unwrap_or_default()),
    };
    Ok(Value::text(text))
}

fn root(value: &Value) -> Outcome {
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

fn power(base: &Value, exponent: &Value) -> Outcome {
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

fn whole(value: &Value, round: fn(f64) -> f64) -> Outcome {
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

fn extreme(args: &[Value], wanted: Ordering) -> Value {
    let mut best = &args[0];
    for arg in &args[1..] {
        if compare_numbers(arg, best) == Some(wanted) {
            best = arg;
        }
    }
    *best
}
