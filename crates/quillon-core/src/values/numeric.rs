//! How numbers compare, and which are integers.

use std::cmp::Ordering;

use super::{Value, spend};
use crate::metering::Stopped;

/// The integer that a number is equal to, if there is one.
pub(crate) fn exact_integer(n: f64) -> Option<i64> {
    // 2^63 as a double; the largest i64 is not one.
    const LIMIT: f64 = 9_223_372_036_854_775_808.0;
    (n.fract() == 0.0 && (-LIMIT..LIMIT).contains(&n)).then_some(n as i64)
}

/// Compares two numbers or two texts, exactly also between integer and number; `None`
/// for anything else and for what is not a number.
pub(crate) fn compare(a: &Value, b: &Value) -> Result<Option<Ordering>, Stopped> {
    match (a, b) {
        (Value::Text(a), Value::Text(b)) => {
            spend(a.len().min(b.len()) / 8)?;
            Ok(Some(a.cmp(b)))
        }
        _ => Ok(compare_numbers(a, b)),
    }
}

/// Compares two numbers, exactly also between integer and number; `None` for anything else
/// and for what is not a number.
pub(crate) fn compare_numbers(a: &Value, b: &Value) -> Option<Ordering> {
    match (a, b) {
        (Value::Integer(a), Value::Integer(b)) => Some(a.cmp(b)),
        (Value::Number(a), Value::Number(b)) => a.partial_cmp(b),
        (Value::Integer(a), Value::Number(b)) => integer_against(*a, *b),
        (Value::Number(a), Value::Integer(b)) => integer_against(*b, *a).map(Ordering::reverse),
        _ => None,
    }
}

fn integer_against(a: i64, b: f64) -> Option<Ordering> {
    if b.is_nan() {
        return None;
    }
    match exact_integer(b.floor()) {
        Some(floor) => Some(a.cmp(&floor).then(if b.fract() == 0.0 {
            Ordering::Equal
        } else {
            Ordering::Less
        })),
        None => Some(if b > 0.0 {
            Ordering::Less
        } else {
            Ordering::Greater
        }),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn comparison_between_integer_and_number_is_exact() {
        let big = 9_007_199_254_740_993;
        let order = compare_numbers(
            &Value::Integer(big),
            &Value::Number(9_007_199_254_740_992.0),
        );
        assert_eq!(order, Some(Ordering::Greater));
        assert_eq!(
            compare_numbers(&Value::Integer(-1), &Value::Number(-0.5)),
            Some(Ordering::Less)
        );
        assert_eq!(
            compare_numbers(&Value::Integer(i64::MAX), &Value::Number(1e19)),
            Some(Ordering::Less)
        );
    }
}
