//! Texts and what spells them: code points, bytes, digits.

use super::{bounded, integer, integers, list, list_room, no_index, text};
use crate::diagnostic::codes;
use crate::runtime::failure::{Culprit, Problem};
use crate::runtime::number::Outcome;
use crate::values::{Value, described, spend};

pub(super) fn points(args: &[Value]) -> Outcome {
    let subject = text(args, 0)?;
    spend(subject.len())?;
    let count = subject.chars().count();
    list_room(count)?;
    let points = subject.chars().map(|c| i64::from(u32::from(c)));
    Ok(Value::gathered(count, points.map(Value::Integer)))
}

pub(super) fn bytes(args: &[Value]) -> Outcome {
    let subject = text(args, 0)?;
    list_room(subject.len())?;
    let bytes = subject.bytes().map(|byte| Value::Integer(byte.into()));
    Ok(Value::gathered(subject.len(), bytes))
}

pub(super) fn byte_length(args: &[Value]) -> Outcome {
    Ok(Value::Integer(text(args, 0)?.len() as i64))
}

pub(super) fn byte_at(args: &[Value]) -> Outcome {
    let subject = text(args, 0)?;
    let asked = integer(args, 1)?;
    let byte = usize::try_from(asked).ok();
    match byte.and_then(|place| subject.as_bytes().get(place)) {
        Some(&byte) => Ok(Value::Integer(i64::from(byte))),
        None => Err(no_index(args, 1, subject.len(), 0, "byte")?),
    }
}

/// The items of a list of integers, each turned into something.
fn each_integer<T>(
    args: &[Value],
    what: &str,
    turn: impl Fn(i64) -> Option<T>,
) -> Result<Vec<T>, Box<Problem>> {
    let list = list(args)?;
    let items = &list.items;
    spend(4 * items.len())?;
    bounded(items.len().saturating_mul(size_of::<T>()))?;
    let mut out = Vec::with_capacity(items.len());
    for item in items.iter() {
        let turned = match item {
            Value::Integer(n) => turn(n),
            _ => None,
        };
        let message = || format!("an item of the list is no {what}: {}", described(&item));
        out.push(
            turned
                .ok_or_else(|| Problem::new(Culprit::Operand(0), codes::RUN_DOMAIN, message()))?,
        );
    }
    Ok(out)
}

pub(super) fn from_points(args: &[Value]) -> Outcome {
    let turn = |n: i64| char::from_u32(u32::try_from(n).ok()?);
    let chars = each_integer(args, "code point", turn)?;
    let size = chars.iter().map(|c| c.len_utf8()).sum();
    bounded(size)?;
    let mut all = String::with_capacity(size);
    all.extend(chars);
    Ok(Value::text(all))
}

pub(super) fn from_bytes(args: &[Value]) -> Outcome {
    let bytes = each_integer(args, "byte", |n| u8::try_from(n).ok())?;
    Ok(String::from_utf8(bytes).map_or(Value::Nothing, Value::text))
}

/// The text of a number, without the blanks around it.
fn spelt<T>(
    args: &[Value],
    read: impl Fn(&str) -> Result<Option<T>, Box<Problem>>,
) -> Result<Option<T>, Box<Problem>> {
    let spelt = text(args, 0)?;
    spend(4 * spelt.len())?;
    read(spelt.trim())
}

pub(super) fn to_integer(args: &[Value]) -> Outcome {
    let read = spelt(args, |text| Ok(text.parse().ok()))?;
    Ok(read.map_or(Value::Nothing, Value::Integer))
}

pub(super) fn to_integer_in(args: &[Value]) -> Outcome {
    let read = spelt(args, |text| {
        Ok(i64::from_str_radix(text, integers::base(args)?).ok())
    })?;
    Ok(read.map_or(Value::Nothing, Value::Integer))
}

pub(super) fn to_number(args: &[Value]) -> Outcome {
    let read = spelt(args, |text| {
        let numeric = text.starts_with(|c: char| c.is_ascii_digit() || "+-.".contains(c));
        let number = text.parse().ok();
        Ok(number.filter(|n: &f64| numeric && n.is_finite()))
    })?;
    Ok(read.map_or(Value::Nothing, Value::Number))
}
