//! The operations of the meaning notation on values: a function for each row of the table in
//! [`crate::operations`] that no engine carries out itself.
// All functions of the table have one shape.
#![allow(clippy::unnecessary_wraps)]

use super::callback::{CallBack, call_host};
use super::failure::{Culprit, Problem};
use super::host::{Host, Metered};
use super::number::Outcome;
use crate::diagnostic::codes;
use crate::metering::Stopped;
use crate::operations::{EngineOperation, Operation, with_operations};
use crate::values::{Closure, Heap, LARGEST, List, Ref, Text, Value, ask, spend};

mod caught;
mod chance;
mod clock;
mod clusters;
mod file;
mod fitting;
mod forms;
mod general;
mod growing;
mod input;
mod integers;
mod lists;
mod maps;
mod merging;
mod numbers;
mod program;
mod spelling;
mod texts;

pub(crate) use input::takes_input;

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
    Ok((list.items.to_vec(), function))
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
    integer_operand(index, &args[index])
}

/// The operand of a number, which must be an integer.
pub(crate) fn integer_operand(index: usize, value: &Value) -> Result<i64, Box<Problem>> {
    match value {
        Value::Integer(n) => Ok(*n),
        other => Err(Problem::kind(index, "an integer", other)),
    }
}

/// An operand that must be a text.
fn text(args: &[Value], index: usize) -> Result<Ref<Text>, Box<Problem>> {
    match &args[index] {
        Value::Text(text) => Ok(*text),
        other => Err(Problem::kind(index, "a text", other)),
    }
}

/// A first operand that must be a list.
fn list(args: &[Value]) -> Result<Ref<List>, Box<Problem>> {
    match &args[0] {
        Value::List(list) => Ok(*list),
        other => Err(Problem::kind(0, "a list", other)),
    }
}

/// The most that may be read at once: what there is room for.
fn most() -> usize {
    Heap::with(|heap| heap.meter.left(heap.used())).min(LARGEST)
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

/// What an operation can use beside its operands.
pub(crate) struct Around<'r, 'h> {
    /// What the run can do to the outside.
    pub host: &'r mut Metered<'h>,
    /// Where chance comes from.
    pub random: &'r mut fastrand::Rng,
}

/// A function that carries out an operation. The number of operands has been checked with the
/// definition, or by the verifier.
pub(crate) type Native = fn(&[Value], &mut Around<'_, '_>) -> Outcome;

/// A function that carries out an operation with the help of the host.
pub(crate) type ByHost = fn(&[Value], &mut dyn Host, &mut dyn CallBack) -> Outcome;

/// What carries out an operation.
#[derive(Clone, Copy)]
pub(crate) enum CarriedOut {
    /// A function on values.
    Native(Native),
    /// The host, which may call back.
    Host(ByHost),
    /// The engine that runs the program.
    Engine(EngineOperation),
}

macro_rules! ways {
    ($($variant:ident $name:literal ($($operand:ident: $wanted:ident),*) $($least:literal to $most:tt)?
        gives $gives:ident, errors [$($error:ident),*], by $by:ident $way:path, $what:literal;)*) => {
        /// What carries out each operation, by its number.
        static WAYS: &[CarriedOut] = &[$(ways!(@ $by $way)),*];
    };
    (@ values $way:path) => { CarriedOut::Native(|args, _| $way(args)) };
    (@ outside $way:path) => { CarriedOut::Native(|args, around| $way(args, around)) };
    (@ host $way:path) => { CarriedOut::Host($way) };
    (@ engine $way:path) => { CarriedOut::Engine($way) };
}
with_operations!(ways);

/// What carries out an operation: the way its row in the table says.
#[inline]
pub(crate) fn carried_out(operation: Operation) -> CarriedOut {
    WAYS[usize::from(operation.number())]
}
