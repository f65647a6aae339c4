//! Operations on what a `rescue` gets.

use crate::runtime::number::Outcome;
use crate::values::{Key, Value, told};

/// What a caught error says under a key; nothing where a program raised the value.
fn of_error(value: &Value, key: &str) -> Option<Value> {
    match value {
        Value::Map(map) if map.calls().is_some() => map.get(&Key::text(key)),
        _ => None,
    }
}

pub(super) fn kind(args: &[Value]) -> Outcome {
    Ok(of_error(&args[0], "code").unwrap_or_else(|| Value::text("raised")))
}

pub(super) fn calls(args: &[Value]) -> Outcome {
    let calls = match &args[0] {
        Value::Map(map) => map.calls(),
        _ => None,
    };
    Ok(calls.map_or_else(|| Value::list([]), Value::List))
}

pub(super) fn message(args: &[Value]) -> Outcome {
    Ok(of_error(&args[0], "message").unwrap_or_else(|| Value::text(told(&args[0]))))
}
