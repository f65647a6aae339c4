//! Texts with placeholders.

use super::growing::Growing;
use crate::diagnostic::{codes, quote};
use crate::runtime::failure::{Culprit, Problem};
use crate::runtime::number::Outcome;
use crate::values::shown;
use crate::values::{Key, Value};

/// Fills in the placeholders of a text from a list or a map.
pub(super) fn format(text: &str, values: &Value) -> Outcome {
    let mut out = Growing::new();
    let mut rest = text;
    let mut next = 0;
    while let Some(at) = rest.find(['{', '}']) {
        out.push(&rest[..at])?;
        let sign = &rest[at..=at];
        rest = &rest[at + 1..];
        if rest.starts_with(sign) {
            out.push(sign)?;
            rest = &rest[1..];
            continue;
        }
        let end = rest.find('}').filter(|_| sign == "{");
        let Some(end) = end else {
            return Err(Problem::new(
                Culprit::Operand(0),
                codes::RUN_DOMAIN,
                format!("a {} stands alone in this text", quote(sign)),
            )
            .why(format!(
                "as a sign of its own it is written {}",
                quote(&sign.repeat(2))
            )));
        };
        let value = placed(rest[..end].trim(), values, &mut next)?;
        out.push(&shown(&value)?)?;
        rest = &rest[end + 1..];
    }
    out.push(rest)?;
    Ok(out.text())
}

/// The value for a placeholder.
fn placed(name: &str, values: &Value, next: &mut usize) -> Outcome {
    match values {
        Value::List(list) => {
            let items = &list.items;
            let index = if name.is_empty() {
                *next += 1;
                Some(*next)
            } else {
                name.parse().ok()
            };
            let item = index
                .and_then(|index: usize| index.checked_sub(1))
                .and_then(|index| items.get(index));
            item.ok_or_else(|| {
                missing(name).why(format!(
                    "the values are a list of {}, counted from 1",
                    items.len()
                ))
            })
        }
        Value::Map(map) => {
            let by_text = map.get(&Key::text(name));
            let by_number = || map.get(&Key::Integer(name.parse().ok()?));
            by_text
                .or_else(by_number)
                .ok_or_else(|| missing(name).why("the map has no such key"))
        }
        other => Err(Problem::kind(1, "a list or a map", other)),
    }
}

fn missing(name: &str) -> Box<Problem> {
    Problem::new(
        Culprit::Operand(1),
        codes::RUN_KEY,
        format!("there is no value for {}", quote(&format!("{{{name}}}"))),
    )
}
