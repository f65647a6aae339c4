//! Values as text.

use std::rc::Rc;

use super::value::{Closure, Key, Value};
use crate::diagnostic::quoted;

/// Deeper lists and maps are shown as an ellipsis.
const DEEPEST: usize = 60;

/// A value as a person reads it: a text stays as it is.
pub fn shown(value: &Value) -> String {
    match value {
        Value::Text(text) => text.to_string(),
        _ => written(value),
    }
}

/// A value as one would write it: texts in quotes, also inside lists and maps.
pub fn written(value: &Value) -> String {
    let mut out = String::new();
    write(value, &mut out, &mut Vec::new());
    out
}

/// A number such that it reads back the same, and is seen not to be an integer.
pub fn number(n: f64) -> String {
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
        Value::Nothing => out.push_str("nothing"),
        Value::Truth(truth) => out.push_str(if *truth { "true" } else { "false" }),
        Value::Integer(n) => out.push_str(&n.to_string()),
        Value::Number(n) => out.push_str(&number(*n)),
        Value::Text(text) => out.push_str(&quoted(text)),
        Value::List(list) => {
            let address = Rc::as_ptr(list).cast::<u8>() as usize;
            if inside.len() >= DEEPEST || inside.contains(&address) {
                out.push_str("[…]");
                return;
            }
            inside.push(address);
            out.push('[');
            for (index, item) in list.0.borrow().iter().enumerate() {
                if index > 0 {
                    out.push_str(", ");
                }
                write(item, out, inside);
            }
            out.push(']');
            inside.pop();
        }
        Value::Map(map) => {
            let address = Rc::as_ptr(map).cast::<u8>() as usize;
            if inside.len() >= DEEPEST || inside.contains(&address) {
                out.push_str("{…}");
                return;
            }
            inside.push(address);
            out.push('{');
            for (index, (key, item)) in map.0.borrow().iter().enumerate() {
                if index > 0 {
                    out.push_str(", ");
                }
                write_key(key, out);
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
    let function = &closure.function;
    let params: Vec<&str> = function.params.iter().map(|(_, _, n)| &**n).collect();
    let name = function
        .name
        .as_deref()
        .map_or(String::new(), |n| format!(" {n}"));
    let rest = if function.rest { "..." } else { "" };
    out.push_str(&format!("function{name}({}{rest})", params.join(", ")));
    let address = std::ptr::from_ref(closure).cast::<u8>() as usize;
    if inside.len() >= DEEPEST || inside.contains(&address) {
        return;
    }
    inside.push(address);
    let mut before = " with ";
    for (capture, cell) in function.captures.iter().zip(&closure.captured) {
        let Some(value) = &*cell.0.borrow() else {
            continue;
        };
        out.push_str(&format!("{before}{} = ", capture.name));
        before = ", ";
        match value {
            Value::Function(_) => out.push_str("function"),
            other => write(other, out, inside),
        }
    }
    inside.pop();
}

fn write_key(key: &Key, out: &mut String) {
    write(&key.value(), out, &mut Vec::new());
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
        let list = Rc::new(super::super::value::List::default());
        list.0.borrow_mut().push(Value::List(Rc::clone(&list)));
        assert_eq!(written(&Value::List(Rc::clone(&list))), "[[…]]");
        list.0.borrow_mut().clear();
    }
}
