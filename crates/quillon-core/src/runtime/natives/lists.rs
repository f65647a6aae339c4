//! Operations on lists.

use super::{cut, index, integer, list, list_room};
use crate::diagnostic::codes;
use crate::metering::Stopped;
use crate::runtime::failure::{Culprit, Problem};
use crate::runtime::number::{Outcome, as_double};
use crate::values::{LARGEST, List, Ref, Value, ValueRow, described, equal, spend};

pub(super) fn length(args: &[Value]) -> Outcome {
    Ok(Value::Integer(list(args)?.len() as i64))
}

pub(super) fn at(args: &[Value]) -> Outcome {
    counted_from(0, args)
}

pub(super) fn item(args: &[Value]) -> Outcome {
    counted_from(1, args)
}

fn counted_from(base: i64, args: &[Value]) -> Outcome {
    let list = list(args)?;
    let at = index(args, 1, list.len(), base, "item")?;
    Ok(list.items.get(at).unwrap_or_default())
}

pub(super) fn put(args: &[Value]) -> Outcome {
    put_counted_from(0, args)
}

pub(super) fn put_item(args: &[Value]) -> Outcome {
    put_counted_from(1, args)
}

fn put_counted_from(base: i64, args: &[Value]) -> Outcome {
    let list = list(args)?;
    let at = index(args, 1, list.len(), base, "item")?;
    list.items.put(at, || args[2]);
    Ok(Value::Nothing)
}

pub(super) fn add(args: &[Value]) -> Outcome {
    let list = list(args)?;
    one_more(list)?;
    list.items.push(args[1]);
    Ok(Value::Nothing)
}

pub(super) fn take(args: &[Value]) -> Outcome {
    let last = list(args)?.items.pop();
    last.ok_or_else(nothing_to_take)
}

pub(super) fn take_first(args: &[Value]) -> Outcome {
    let list = list(args)?;
    let items = &list.items;
    if items.is_empty() {
        return Err(nothing_to_take());
    }
    spend(items.len())?;
    items.remove(0).ok_or_else(nothing_to_take)
}

fn nothing_to_take() -> Box<Problem> {
    Problem::new(
        Culprit::Operand(0),
        codes::RUN_INDEX,
        "there is nothing to take from an empty list",
    )
}

pub(super) fn insert(args: &[Value]) -> Outcome {
    let list = list(args)?;
    let length = list.len();
    let at = index(args, 1, length + 1, 0, "place")?;
    one_more(list)?;
    spend(length - at)?;
    list.items.insert(at, args[2]);
    Ok(Value::Nothing)
}

pub(super) fn remove(args: &[Value]) -> Outcome {
    let list = list(args)?;
    let length = list.len();
    let at = index(args, 1, length, 0, "item")?;
    spend(length - at)?;
    let removed = list.items.remove(at);
    removed.ok_or_else(nothing_to_take)
}

pub(super) fn find(args: &[Value]) -> Outcome {
    let found = place_of(list(args)?, &args[1])?;
    Ok(found.map_or(Value::Nothing, |at| Value::Integer(at as i64)))
}

pub(super) fn contains(args: &[Value]) -> Outcome {
    let found = place_of(list(args)?, &args[1])?;
    Ok(Value::Truth(found.is_some()))
}

pub(super) fn slice(args: &[Value]) -> Outcome {
    let list = list(args)?;
    let cut = cut(args, list.len())?;
    list_room(cut.len())?;
    let items = cut.clone().filter_map(|place| list.items.get(place));
    Ok(Value::gathered(cut.len(), items))
}

pub(super) fn reverse(args: &[Value]) -> Outcome {
    let list = list(args)?;
    list_room(list.len())?;
    Ok(Value::gathered(list.len(), list.items.iter().rev()))
}

pub(super) fn copy(args: &[Value]) -> Outcome {
    let list = list(args)?;
    list_room(list.len())?;
    Ok(Value::list_of(list.items.clone()))
}

pub(super) fn filled(args: &[Value]) -> Outcome {
    let count = usize::try_from(integer(args, 0)?).unwrap_or(0);
    list_room(count)?;
    Ok(Value::gathered(count, std::iter::repeat(args[1])))
}

pub(super) fn range(args: &[Value]) -> Outcome {
    let (from, to) = (integer(args, 0)?, integer(args, 1)?);
    if to < from {
        return Ok(Value::list([]));
    }
    let further = usize::try_from(to.saturating_sub(from)).unwrap_or(usize::MAX);
    let count = further.saturating_add(1);
    list_room(count)?;
    Ok(Value::list_of(ValueRow::counted(from, count)))
}

/// Sorts numbers or texts; the order of equals is kept.
pub(super) fn sort(args: &[Value]) -> Outcome {
    let list = list(args)?;
    list_room(list.len())?;
    let items = list.items.to_vec();
    let kind = |value: &Value| match value {
        Value::Text(_) => Some(true),
        Value::Number(n) if n.is_nan() => None,
        _ => as_double(value).map(|_| false),
    };
    spend(4 * items.len())?;
    if let Some(first) = items.first() {
        let odd = items
            .iter()
            .find(|item| kind(item).is_none() || kind(item) != kind(first));
        if let Some(odd) = odd {
            return Err(Problem::new(
                Culprit::Operand(0),
                codes::RUN_KIND,
                "a list can be sorted when its items are all numbers or all texts",
            )
            .why(format!(
                "its first item is {}, and another is {}",
                described(first),
                described(odd)
            )));
        }
    }
    Ok(Value::list(super::merging::sorted(items)?))
}

/// Asks for room for an item more.
fn one_more(list: Ref<List>) -> Result<(), Stopped> {
    if list.len() >= LARGEST {
        return Err(Stopped::Size);
    }
    list.reserve_one()
}

/// Where the first item is that equals a value.
fn place_of(list: Ref<List>, value: &Value) -> Result<Option<usize>, Stopped> {
    for (at, item) in list.items.iter().enumerate() {
        spend(8)?;
        if equal(&item, value)? {
            return Ok(Some(at));
        }
    }
    Ok(None)
}
