//! The operations of the meaning notation on values.

use super::failure::{Culprit, Problem};
use super::number::{self, Division, Outcome};
use super::value::{Value, same};
use super::{Metered, show};
use crate::diagnostic::codes;
use crate::meaning::Operation;

mod lists;
mod maps;
mod numbers;
mod texts;

/// No text grows beyond this many bytes, and no list beyond this many items.
const LARGEST: usize = 1 << 28;

/// Refuses a size beyond the limit.
pub(super) fn bounded(size: usize) -> Result<(), Box<Problem>> {
    if size <= LARGEST {
        return Ok(());
    }
    Err(
        Problem::new(Culprit::Whole, codes::RUN_SIZE, "this would grow too large").why(format!(
            "a text has at most {LARGEST} bytes and a list at most {LARGEST} items"
        )),
    )
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
    Err(Problem::new(
        Culprit::Operand(operand),
        codes::RUN_INDEX,
        format!("there is no {what} {asked}"),
    )
    .why(why))
}

/// Two positions that cut something out, both from 0 and at most its length.
fn cut(args: &[Value], length: usize) -> Result<std::ops::Range<usize>, Box<Problem>> {
    let position = |operand: usize| {
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
    };
    let (from, to) = (position(1)?, position(2)?);
    Ok(from..to.max(from))
}

/// Carries out an operation. The number of operands has been checked with the
/// definition.
pub(super) fn apply(operation: Operation, args: &[Value], host: &mut Metered<'_>) -> Outcome {
    use Operation as O;
    let all = args;
    Ok(match operation {
        O::Shown => match &all[0] {
            Value::Text(text) => Value::Text(std::rc::Rc::clone(text)),
            other => Value::text(&show::shown(other)),
        },
        O::Quoted => Value::text(&show::written(&all[0])),
        O::Kind => Value::text(all[0].kind().word()),
        O::Same => Value::Truth(same(&all[0], &all[1])),
        O::Output => {
            for value in all {
                match value {
                    Value::Text(text) => host.output(text)?,
                    other => host.output(&show::shown(other))?,
                }
            }
            Value::Nothing
        }
        O::Input => host
            .input()
            .map_or(Value::Nothing, |line| Value::text(&line)),
        O::IntegerQuotient => number::integer_division(Division::Quotient, &all[0], &all[1])?,
        O::IntegerRemainder => number::integer_division(Division::Remainder, &all[0], &all[1])?,
        O::IntegerFloorQuotient => {
            number::integer_division(Division::FloorQuotient, &all[0], &all[1])?
        }
        O::IntegerModulo => number::integer_division(Division::Modulo, &all[0], &all[1])?,
        O::NumberRoot
        | O::NumberPower
        | O::NumberAbsolute
        | O::NumberRound
        | O::NumberFloor
        | O::NumberCeiling
        | O::NumberTruncate
        | O::NumberReal
        | O::NumberLeast
        | O::NumberLargest => numbers::apply(operation, all)?,
        O::TextLength
        | O::TextAt
        | O::TextSlice
        | O::TextUpper
        | O::TextLower
        | O::TextTrim
        | O::TextContains
        | O::TextReplace
        | O::TextRepeat
        | O::TextSplit
        | O::TextJoin
        | O::TextToInteger
        | O::TextToNumber => texts::apply(operation, all)?,
        O::ListLength
        | O::ListAt
        | O::ListItem
        | O::ListPut
        | O::ListPutItem
        | O::ListAdd
        | O::ListTake
        | O::ListTakeFirst
        | O::ListSlice
        | O::ListContains
        | O::ListReverse
        | O::ListSort
        | O::ListRange
        | O::ListCopy => lists::apply(operation, all)?,
        O::MapNew
        | O::MapGet
        | O::MapFind
        | O::MapPut
        | O::MapHas
        | O::MapRemove
        | O::MapKeys
        | O::MapLength => maps::apply(operation, all)?,
    })
}
