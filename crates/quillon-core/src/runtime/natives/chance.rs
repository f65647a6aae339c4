//! Operations that leave something to chance.

use super::{Around, list, list_room};
use crate::diagnostic::codes;
use crate::runtime::failure::{Culprit, Problem};
use crate::runtime::number::Outcome;
use crate::values::Value;

pub(super) fn integer(args: &[Value], around: &mut Around<'_, '_>) -> Outcome {
    let (low, high) = (super::integer(args, 0)?, super::integer(args, 1)?);
    if high < low {
        return Err(Problem::new(
            Culprit::Operand(1),
            codes::RUN_DOMAIN,
            format!("there is no integer from {low} to {high}"),
        )
        .why("the lower bound comes first"));
    }
    Ok(Value::Integer(around.random.i64(low..=high)))
}

pub(super) fn number(_: &[Value], around: &mut Around<'_, '_>) -> Outcome {
    Ok(Value::Number(around.random.f64()))
}

pub(super) fn shuffle(args: &[Value], around: &mut Around<'_, '_>) -> Outcome {
    let list = list(args)?;
    list_room(list.len())?;
    let mut items = list.items.to_vec();
    around.random.shuffle(&mut items);
    Ok(Value::list(items))
}
