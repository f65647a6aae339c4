//! Printing, and taking input.

use super::{Around, most};
use crate::metering::Stopped;
use crate::operations::Operation;
use crate::runtime::failure::Problem;
use crate::runtime::host::Amount;
use crate::runtime::number::Outcome;
use crate::values::{Value, shown};

pub(super) fn output(args: &[Value], around: &mut Around<'_, '_>) -> Outcome {
    for value in args {
        around.host.output(&shown(value)?)?;
    }
    Ok(Value::Nothing)
}

pub(super) fn line(_: &[Value], around: &mut Around<'_, '_>) -> Outcome {
    Ok(read(around, Amount::Line)?.unwrap_or_default())
}

pub(super) fn character(_: &[Value], around: &mut Around<'_, '_>) -> Outcome {
    Ok(read(around, Amount::Character)?.unwrap_or_default())
}

pub(super) fn all(_: &[Value], around: &mut Around<'_, '_>) -> Outcome {
    Ok(read(around, Amount::All)?.unwrap_or_else(|| Value::text("")))
}

fn read(around: &mut Around<'_, '_>, amount: Amount) -> Result<Option<Value>, Box<Problem>> {
    let read = around.host.input(amount, most()).map_err(|_| {
        // What has been read of it is gone.
        let mut problem = Box::<Problem>::from(Stopped::Memory);
        problem.may_be_tried_again = false;
        problem
    });
    Ok(read?.map(Value::text))
}

/// Whether an operation takes something that cannot be taken again: there should be room for it.
pub(crate) fn takes_input(operation: Operation) -> bool {
    use Operation as O;
    matches!(operation, O::Input | O::InputCharacter | O::InputAll)
}
