//! The program as something that is started with arguments and leaves with an exit status.

use super::{Around, integer};
use crate::diagnostic::codes;
use crate::runtime::failure::{Culprit, Problem};
use crate::runtime::number::Outcome;
use crate::values::Value;

pub(super) fn arguments(_: &[Value], around: &mut Around<'_, '_>) -> Outcome {
    let arguments = around.host.arguments().into_iter();
    super::list_room(arguments.len())?;
    Ok(Value::gathered(arguments.len(), arguments.map(Value::text)))
}

pub(super) fn leave(args: &[Value], around: &mut Around<'_, '_>) -> Outcome {
    let status = integer(args, 0)?;
    let Ok(status) = u8::try_from(status) else {
        let message = format!("an exit status is a number from 0 to 255, and this is {status}");
        return Err(Problem::new(
            Culprit::Operand(0),
            codes::RUN_DOMAIN,
            message,
        ));
    };
    around.host.leave(status);
    let message = format!("the program leaves here, with the exit status {status}");
    Err(Problem::new(Culprit::Whole, codes::RUN_LEFT, message))
}
