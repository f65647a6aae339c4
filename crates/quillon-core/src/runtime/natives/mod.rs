//! The operations of the meaning notation on values.

use super::Metered;
use super::failure::{Culprit, Problem};
use super::number::{self, Division, Outcome};
use crate::diagnostic::codes;
use crate::meaning::Operation;
use crate::metering::Stopped;
use crate::values::{Closure, LARGEST, Ref, Value, ask, same, shown, spend, written};

mod clusters;
mod fitting;
mod forms;
mod growing;
mod integers;
mod lists;
mod maps;
mod merging;
mod numbers;
mod outside;
mod texts;

pub(crate) use outside::takes_input;

/// The items of a list, to be the arguments of a function, and that function.
pub(crate) fn spread(
    list: Value,
    function: Value,
) -> Result<(Vec<Value>, Ref<Closure>), Box<Problem>> {
    const MOST: usize = 10_000;
    // Where a call goes wrong is the call.
    let whole = |problem: Box<Problem>| {
        let mut problem = problem;
        problem.culprit = Culprit::Whole;
        problem
    };
    let Value::List(list) = list else {
        return Err(whole(Problem::kind(0, "a list", &list)));
    };
    let Value::Function(function) = function else {
        return Err(whole(Problem::kind(1, "a function", &function)));
    };
    if list.len() > MOST {
        let message = format!(
            "a call has at most {MOST} arguments, and here are {}",
            list.len()
        );
        return Err(Problem::new(Culprit::Whole, codes::RUN_SIZE, message));
    }
    list_room(list.len())?;
    Ok((list.copied(), function))
}

/// Asks for room for a text of so many bytes.
pub(crate) fn bounded(size: usize) -> Result<(), Stopped> {
    if size > LARGEST {
        return Err(Stopped::Size);
    }
    spend(size / 8)?;
    ask(size)
}

/// Asks for room for a list of so many items.
pub(crate) fn list_room(count: usize) -> Result<(), Stopped> {
    if count > LARGEST {
        return Err(Stopped::Size);
    }
    spend(4 * count)?;
    ask(count * size_of::<Value>())
}

/// An operand that must be an integer.
fn integer(args: &[Value], index: usize) -> Result<i64, Box<Problem>> {
    match &args[index] {
        Value::Integer(n) => Ok(*n),
        other => Err(Problem::kind(index, "an integer", other)),
    }
}

/// An index from 0 into something with a length. `base` is what the program counts from.
fn index(
    args: &[Value],
    operand: usize,
    length: usize,
    base: i64,
    what: &str,
) -> Result<usize, Box<Problem>> {
    let asked = integer(args, operand)?;
    let position = asked
        .checked_sub(base)
        .and_then(|i| usize::try_from(i).ok());
    if let Some(position) = position.filter(|&p| p < length) {
        return Ok(position);
    }
    Err(no_index(args, operand, length, base, what)?)
}

/// The problem of an index where nothing is.
fn no_index(
    args: &[Value],
    operand: usize,
    length: usize,
    base: i64,
    what: &str,
) -> Result<Box<Problem>, Box<Problem>> {
    let asked = integer(args, operand)?;
    let why = if length == 0 {
        "there are none".to_owned()
    } else {
        format!(
            "there {}, counted from {base} to {}",
            if length == 1 {
                "is 1".to_owned()
            } else {
                format!("are {length}")
            },
            base + length as i64 - 1
        )
    };
    Ok(Problem::new(
        Culprit::Operand(operand),
        codes::RUN_INDEX,
        format!("there is no {what} {asked}"),
    )
    .why(why))
}

/// A position, from 0 and at most the length of what it is in.
fn position(args: &[Value], operand: usize, length: usize) -> Result<usize, Box<Problem>> {
    let asked = integer(args, operand)?;
    usize::try_from(asked)
        .ok()
        .filter(|&p| p <= length)
        .ok_or_else(|| {
            Problem::new(
                Culprit::Operand(operand),
                codes::RUN_INDEX,
                format!("there is no position {asked}"),
            )
            .why(format!("positions go from 0 to {length}"))
        })
}

/// Two positions that cut something out, both from 0 and at most its length.
fn cut(args: &[Value], length: usize) -> Result<std::ops::Range<usize>, Box<Problem>> {
    let (from, to) = (position(args, 1, length)?, position(args, 2, length)?);
    Ok(from..to.max(from))
}

/// Carries out an operation. The number of operands has been checked with the
/// definition.
pub(crate) fn apply(
    operation: Operation,
    args: &[Value],
    host: &mut Metered<'_>,
    random: &mut fastrand::Rng,
) -> Outcome {
    use Operation as O;
    let all = args;
    Ok(match operation {
        O::Shown => Value::Text(shown(&all[0])?),
        O::Quoted => Value::Text(written(&all[0])?),
        O::Kind => Value::text(all[0].kind().word()),
        O::Fits => Value::Truth(fitting::fits(all[0], texts::text(all, 1)?.as_bytes())?),
        O::Demand => {
            let why = texts::text(all, 2)?;
            fitting::demand(all[0], texts::text(all, 1)?.as_bytes(), &why)?
        }
        O::FaultAt => return Err(Problem::fault(Culprit::Operand(0), &all[1])),
        O::Same => Value::Truth(same(&all[0], &all[1])?),
        O::CoroutineMake => match all[0] {
            Value::Function(function) => Value::coroutine(function),
            _ => return Err(Problem::kind(0, "a function", &all[0])),
        },
        O::CoroutineEnded => match all[0] {
            Value::Coroutine(coroutine) => Value::Truth(coroutine.has_ended()),
            _ => return Err(Problem::kind(0, "a coroutine", &all[0])),
        },
        O::IntegerQuotient => number::integer_division(Division::Quotient, &all[0], &all[1])?,
        O::IntegerRemainder => number::integer_division(Division::Remainder, &all[0], &all[1])?,
        O::IntegerFloorQuotient => {
            number::integer_division(Division::FloorQuotient, &all[0], &all[1])?
        }
        O::IntegerModulo => number::integer_division(Division::Modulo, &all[0], &all[1])?,
        _ => return by_module(operation, all, host, random),
    })
}

/// Operations of the modules.
fn by_module(
    operation: Operation,
    args: &[Value],
    host: &mut Metered<'_>,
    random: &mut fastrand::Rng,
) -> Outcome {
    use Operation as O;
    let is_in =
        |first: O, last: O| (first as usize..=last as usize).contains(&(operation as usize));
    // The table of operations goes module by module.
    if is_in(O::NumberRoot, O::NumberLargest) {
        numbers::apply(operation, args)
    } else if is_in(O::IntegerQuotient, O::IntegerInBase) {
        integers::apply(operation, args)
    } else if is_in(O::TextLength, O::TextToNumber) {
        texts::apply(operation, args)
    } else if is_in(O::ListLength, O::ListCopy) {
        lists::apply(operation, args)
    } else if is_in(O::MapNew, O::MapLength) {
        maps::apply(operation, args)
    } else {
        outside::apply(operation, args, host, random)
    }
}
