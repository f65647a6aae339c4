//! Values as text.

use super::{Closure, Value};
use crate::definition::template::ValueKind;
use crate::diagnostic::quoted;

/// Deeper lists and maps are shown as an ellipsis.
const DEEPEST: usize = 60;

/// A value as a person reads it: a text stays as it is.
pub(crate) fn shown(value: &Value) -> String {
    match value {
        Value::Text(text) => text.to_string(),
        _ => written(value),
    }
}

/// A value as one would write it: texts in quotes, also inside lists and maps.
pub(crate) fn written(value: &Value) -> String {
    let mut out = String::new();
    write(value, &mut out, &mut Vec::new());
    out
}

/// A number such that it reads back the same, and is seen not to be an integer.
pub(crate) fn number(n: f64) -> String {
    if n.is_nan() {
        "not a number".to_owned()
    } else if n.is_infinite() {
        if n > 0.0 { "infinity" } else { "-infinity" }.to_owned()
    } else {
        format!("{n:?}")
    }
}

/// `inside` holds the addresses of the lists and maps around, to find cycles.
fn write(value: &Value, out: &mut String, inside: &mut Vec<usize>) {
    match value {
        Value::Unset | Value::Nothing | Value::Variable(_) | Value::Inner(_) => {
            out.push_str("nothing");
        }
        Value::Truth(truth) => out.push_str(if *truth { "true" } else { "false" }),
        Value::Integer(n) => out.push_str(&n.to_string()),
        Value::Number(n) => out.push_str(&number(*n)),
        Value::Text(text) => out.push_str(&quoted(text)),
        Value::List(list) => {
            let address = list.address();
            if inside.len() >= DEEPEST || inside.contains(&address) {
                out.push_str("[…]");
                return;
            }
            inside.push(address);
            out.push('[');
            for (index, item) in list.items.borrow().iter().enumerate() {
                if index > 0 {
                    out.push_str(", ");
                }
                write(item, out, inside);
            }
            out.push(']');
            inside.pop();
        }
        Value::Map(map) => {
            let address = map.address();
            if inside.len() >= DEEPEST || inside.contains(&address) {
                out.push_str("{…}");
                return;
            }
            inside.push(address);
            out.push('{');
            for (index, (key, item)) in map.entries().iter().enumerate() {
                if index > 0 {
                    out.push_str(", ");
                }
                write(&key.value(), out, &mut Vec::new());
                out.push_str(": ");
                write(item, out, inside);
            }
            out.push('}');
            inside.pop();
        }
        Value::Function(closure) => write_function(closure, out, inside),
        Value::Coroutine(coroutine) => out.push_str(if coroutine.has_ended() {
            "coroutine at its end"
        } else {
            "coroutine"
        }),
    }
}

/// A function with its name and its parameters, and what it has captured. Functions that
/// are captured are just named: often one of them is the function itself.
fn write_function(closure: &Closure, out: &mut String, inside: &mut Vec<usize>) {
    let code = &closure.code;
    let params = code.params();
    let name = code.name().map_or(String::new(), |n| format!(" {n}"));
    let rest = if code.rest() { "..." } else { "" };
    out.push_str(&format!("function{name}({}{rest})", params.join(", ")));
    let address = std::ptr::from_ref(closure).cast::<u8>() as usize;
    if inside.len() >= DEEPEST || inside.contains(&address) {
        return;
    }
    inside.push(address);
    let mut before = " with ";
    for (index, capture) in code.captures().into_iter().enumerate() {
        let Some(value) = closure.holds(index) else {
            continue;
        };
        out.push_str(&format!("{before}{capture} = "));
        before = ", ";
        match value {
            Value::Function(_) => out.push_str("function"),
            other => write(&other, out, inside),
        }
    }
    inside.pop();
}

/// `an integer: 3`, `nothing`; long values are cut.
pub(crate) fn described(value: &Value) -> String {
    const LONGEST: usize = 40;
    let kind = value.kind().described();
    if value.kind() == ValueKind::Nothing {
        return kind.to_owned();
    }
    let written = written(value);
    let mut shown: String = written.chars().take(LONGEST).collect();
    if shown.len() < written.len() {
        shown.push('…');
    }
    format!("{kind}: {shown}")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_read_back_the_same() {
        assert_eq!(number(3.0), "3.0");
        assert_eq!(number(0.1 + 0.2), "0.30000000000000004");
        assert_eq!(number(1e300), "1e300");
    }

    #[test]
    fn cycles_are_cut() {
        let value = Value::list(Vec::new());
        if let Value::List(list) = value {
            list.items.borrow_mut().push(value);
        }
        assert_eq!(written(&value), "[[…]]");
    }
}
