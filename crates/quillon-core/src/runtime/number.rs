//! Arithmetic and comparison: integers stay integers, and overflow is an error.

use std::cmp::Ordering;

use super::failure::{Culprit, Problem};
use crate::definition::template::BinaryOperator;
use crate::diagnostic::codes;
use crate::values::{Value, compare, described, equal, join as joined};

/// The result of an operation, or what it has against its operands.
pub type Outcome = Result<Value, Box<Problem>>;

/// A value as a double, if it is an integer or a number.
pub fn as_double(value: &Value) -> Option<f64> {
    match value {
        Value::Integer(n) => Some(*n as f64),
        Value::Number(n) => Some(*n),
        _ => None,
    }
}

/// An operator on two values.
pub fn binary(operator: BinaryOperator, a: &Value, b: &Value) -> Outcome {
    use BinaryOperator as B;
    match operator {
        B::Add => arithmetic(operator, a, b, i64::checked_add, |x, y| x + y),
        B::Subtract => arithmetic(operator, a, b, i64::checked_sub, |x, y| x - y),
        B::Multiply => arithmetic(operator, a, b, i64::checked_mul, |x, y| x * y),
        B::Divide => divide(a, b),
        B::Join => join(a, b),
        B::Equal | B::Unequal => Ok(Value::Truth(equal(a, b)? == (operator == B::Equal))),
        B::Less => order(a, b, Ordering::is_lt),
        B::LessOrEqual => order(a, b, Ordering::is_le),
        B::Greater => order(a, b, Ordering::is_gt),
        B::GreaterOrEqual => order(a, b, Ordering::is_ge),
    }
}

/// The kind fault of a pair of operands: the first that is no number, naming the other.
fn not_numbers(a: &Value, b: &Value) -> Box<Problem> {
    if as_double(a).is_none() {
        Problem::kind(0, "a number", a).why(format!("the other side is {}", described(b)))
    } else {
        Problem::kind(1, "a number", b).why(format!("the other side is {}", described(a)))
    }
}

fn overflow(a: i64, sign: &str, b: i64) -> Box<Problem> {
    Problem::new(
        Culprit::Whole,
        codes::RUN_OVERFLOW,
        format!("{a} {sign} {b} is too large for an integer"),
    )
    .why(format!("integers go from {} to {}", i64::MIN, i64::MAX))
}

/// An operator on two numbers: how it is done on integers, where it may overflow, and on others.
fn arithmetic(
    operator: BinaryOperator,
    a: &Value,
    b: &Value,
    integers: impl Fn(i64, i64) -> Option<i64>,
    numbers: impl Fn(f64, f64) -> f64,
) -> Outcome {
    if let (Value::Integer(a), Value::Integer(b)) = (a, b) {
        return integers(*a, *b)
            .map(Value::Integer)
            .ok_or_else(|| overflow(*a, operator.sign(), *b));
    }
    let (Some(x), Some(y)) = (as_double(a), as_double(b)) else {
        return Err(not_numbers(a, b));
    };
    Ok(Value::Number(numbers(x, y)))
}

pub(crate) fn division_by_zero() -> Box<Problem> {
    Problem::new(
        Culprit::Operand(1),
        codes::RUN_DIVISION,
        "this is zero, and nothing can be divided by zero",
    )
}

/// Division of numbers; the result is a number, also for two integers.
fn divide(a: &Value, b: &Value) -> Outcome {
    let (Some(x), Some(y)) = (as_double(a), as_double(b)) else {
        return Err(not_numbers(a, b));
    };
    if y == 0.0 {
        return Err(division_by_zero());
    }
    Ok(Value::Number(x / y))
}

/// Texts or lists one after the other.
fn join(a: &Value, b: &Value) -> Outcome {
    match (a, b) {
        (Value::Text(x), Value::Text(y)) => Ok(Value::Text(joined(*x, *y)?)),
        (Value::List(x), Value::List(y)) => {
            let count = x.len() + y.len();
            super::natives::list_room(count)?;
            let items = x.items.iter().chain(y.items.iter());
            Ok(Value::gathered(count, items))
        }
        (Value::Text(_), _) => {
            Err(Problem::kind(1, "a text", b).why(format!("the other side is {}", described(a))))
        }
        (Value::List(_), _) => {
            Err(Problem::kind(1, "a list", b).why(format!("the other side is {}", described(a))))
        }
        _ => Err(Problem::kind(0, "a text or a list", a)),
    }
}

/// Whether two values stand in an order; numbers that have none (no number among them) do not.
fn order(a: &Value, b: &Value, wanted: impl Fn(Ordering) -> bool) -> Outcome {
    let ordering = compare(a, b)?;
    let comparable = matches!((a, b), (Value::Text(_), Value::Text(_)))
        || (as_double(a).is_some() && as_double(b).is_some());
    if !comparable {
        return Err(match a {
            Value::Text(_) => Problem::kind(1, "a text", b),
            _ if as_double(a).is_some() => Problem::kind(1, "a number", b),
            _ => Problem::kind(0, "a number or a text", a),
        }
        .why("numbers are compared with numbers and texts with texts"));
    }
    Ok(Value::Truth(ordering.is_some_and(wanted)))
}

/// The opposite of a number.
pub fn negate(value: &Value) -> Outcome {
    match value {
        Value::Integer(n) => n.checked_neg().map(Value::Integer).ok_or_else(|| {
            Problem::new(
                Culprit::Operand(0),
                codes::RUN_OVERFLOW,
                format!("the opposite of {n} is too large for an integer"),
            )
        }),
        Value::Number(n) => Ok(Value::Number(-n)),
        _ => Err(Problem::kind(0, "a number", value)),
    }
}

/// How an integer division rounds, and whether its quotient or rest is wanted.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Division {
    /// Toward zero.
    Quotient,
    /// What the quotient leaves.
    Remainder,
    /// Down.
    FloorQuotient,
    /// What the floor quotient leaves.
    Modulo,
}

/// Division of integers.
pub fn integer_division(division: Division, a: &Value, b: &Value) -> Outcome {
    let (Value::Integer(x), Value::Integer(y)) = (a, b) else {
        let culprit = usize::from(matches!(a, Value::Integer(_)));
        return Err(Problem::kind(culprit, "an integer", [a, b][culprit]));
    };
    if *y == 0 {
        return Err(division_by_zero());
    }
    let result = match division {
        Division::Quotient => x.checked_div(*y),
        Division::Remainder => Some(x.wrapping_rem(*y)),
        Division::FloorQuotient => x.checked_div(*y).map(|q| {
            if x.wrapping_rem(*y) != 0 && (*x < 0) != (*y < 0) {
                q - 1
            } else {
                q
            }
        }),
        Division::Modulo => {
            let rest = x.wrapping_rem(*y);
            Some(if rest != 0 && (rest < 0) != (*y < 0) {
                rest + y
            } else {
                rest
            })
        }
    };
    result
        .map(Value::Integer)
        .ok_or_else(|| overflow(*x, "divided by", *y))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn four_ways_to_divide_integers() {
        let of = |division| {
            let value = integer_division(division, &Value::Integer(-7), &Value::Integer(2));
            match value {
                Ok(Value::Integer(n)) => n,
                other => panic!("{other:?}"),
            }
        };
        assert_eq!(of(Division::Quotient), -3);
        assert_eq!(of(Division::Remainder), -1);
        assert_eq!(of(Division::FloorQuotient), -4);
        assert_eq!(of(Division::Modulo), 1);
        assert!(
            integer_division(
                Division::Quotient,
                &Value::Integer(i64::MIN),
                &Value::Integer(-1)
            )
            .is_err()
        );
    }

    #[test]
    fn faults_name_the_operand_and_the_other_side() {
        let problem = binary(BinaryOperator::Add, &Value::Integer(1), &Value::Truth(true));
        let problem = problem.unwrap_err();
        assert_eq!(problem.culprit, Culprit::Operand(1));
        assert!(problem.message.contains("this is a truth value: true"));
        assert_eq!(
            problem.why.as_deref(),
            Some("the other side is an integer: 1")
        );
    }
}
