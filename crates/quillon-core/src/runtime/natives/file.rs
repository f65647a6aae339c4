//! Files, where the run may reach them.

use super::{Around, most, text};
use crate::diagnostic::codes;
use crate::runtime::number::Outcome;
use crate::values::Value;

pub(super) fn read(args: &[Value], around: &mut Around<'_, '_>) -> Outcome {
    let path = text(args, 0)?;
    let read = around.host.read_file(&path, most());
    let read = read.map_err(|problem| problem.problem(0, codes::RUN_FILE))?;
    Ok(Value::text(read))
}

pub(super) fn write(args: &[Value], around: &mut Around<'_, '_>) -> Outcome {
    let path = text(args, 0)?;
    let written = around.host.write_file(&path, &text(args, 1)?);
    written.map_err(|refused| refused.problem(0, codes::RUN_FILE))?;
    Ok(Value::Nothing)
}

pub(super) fn exists(args: &[Value], around: &mut Around<'_, '_>) -> Outcome {
    let exists = around.host.has_file(&text(args, 0)?);
    let exists = exists.map_err(|refused| refused.problem(0, codes::RUN_FILE))?;
    Ok(Value::Truth(exists))
}
