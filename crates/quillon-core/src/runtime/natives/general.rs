//! Operations on values of any kind.

use crate::runtime::failure::{Culprit, Problem};
use crate::runtime::number::Outcome;
use crate::values::{self, Value};

pub(super) fn shown(args: &[Value]) -> Outcome {
    Ok(Value::Text(values::shown(&args[0])?))
}

pub(super) fn quoted(args: &[Value]) -> Outcome {
    Ok(Value::Text(values::written(&args[0])?))
}

pub(super) fn kind(args: &[Value]) -> Outcome {
    Ok(Value::text(args[0].kind().word()))
}

pub(super) fn fault_at(args: &[Value]) -> Outcome {
    Err(Problem::fault(Culprit::Operand(0), &args[1]))
}

pub(super) fn same(args: &[Value]) -> Outcome {
    Ok(Value::Truth(values::same(&args[0], &args[1])?))
}

pub(super) fn coroutine_make(args: &[Value]) -> Outcome {
    match args[0] {
        Value::Function(function) => Ok(Value::coroutine(function)),
        _ => Err(Problem::kind(0, "a function", &args[0])),
    }
}

pub(super) fn coroutine_ended(args: &[Value]) -> Outcome {
    match args[0] {
        Value::Coroutine(coroutine) => Ok(Value::Truth(coroutine.has_ended())),
        _ => Err(Problem::kind(0, "a coroutine", &args[0])),
    }
}
