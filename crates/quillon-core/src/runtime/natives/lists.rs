//! Operations on lists.

use super::{cut, index, integer, list_room};
use crate::diagnostic::codes;
use crate::meaning::Operation;
use crate::metering::Stopped;
use crate::runtime::failure::{Culprit, Problem};
use crate::runtime::number::{Outcome, as_double};
use crate::values::{LARGEST, List, Ref, Value, described, equal, spend};

fn list(args: &[Value]) -> Result<Ref<List>, Box<Problem>> {
    match &args[0] {
        Value::List(list) => Ok(*list),
        other => Err(Problem::kind(0, "a list", other)),
    }
}

pub(super) fn apply(operation: Operation, args: &[Value]) -> Outcome {
    use Operation as O;
    match operation {
        O::ListRange => return range(args),
        O::ListFilled => {
            let count = usize::try_from(integer(args, 0)?).unwrap_or(0);
            list_room(count)?;
            return Ok(Value::list(vec![args[1]; count]));
        }
        O::ListInsert | O::ListRemove | O::ListFind => return inside(operation, args),
        _ => {}
    }
    let list = list(args)?;
    let cell = &list.items;
    Ok(match operation {
        O::ListLength => Value::Integer(cell.borrow().len() as i64),
        O::ListAt | O::ListItem => {
            let base = i64::from(operation == O::ListItem);
            let items = cell.borrow();
            items[index(args, 1, items.len(), base, "item")?]
        }
        O::ListPut | O::ListPutItem => {
            let base = i64::from(operation == O::ListPutItem);
            let length = cell.borrow().len();
            let at = index(args, 1, length, base, "item")?;
            cell.borrow_mut()[at] = args[2];
            Value::Nothing
        }
        O::ListAdd => {
            one_more(list)?;
            cell.borrow_mut().push(args[1]);
            list.recount();
            Value::Nothing
        }
        O::ListTake | O::ListTakeFirst => {
            let mut items = cell.borrow_mut();
            if items.is_empty() {
                return Err(Problem::new(
                    Culprit::Operand(0),
                    codes::RUN_INDEX,
                    "there is nothing to take from an empty list",
                ));
            }
            if operation == O::ListTake {
                items.pop().unwrap_or_default()
            } else {
                spend(items.len())?;
                items.remove(0)
            }
        }
        O::ListSlice => {
            let items = cell.borrow();
            let cut = cut(args, items.len())?;
            list_room(cut.len())?;
            Value::list(items[cut].to_vec())
        }
        O::ListContains => Value::Truth(place_of(&cell.borrow(), &args[1])?.is_some()),
        O::ListReverse => {
            list_room(list.len())?;
            Value::list(cell.borrow().iter().rev().copied().collect())
        }
        O::ListSort => sort(&cell.borrow())?,
        _ => {
            list_room(list.len())?;
            Value::list(list.copied())
        }
    })
}

/// Asks for room for an item more.
fn one_more(list: Ref<List>) -> Result<(), Stopped> {
    if list.len() >= LARGEST {
        return Err(Stopped::Size);
    }
    list.reserve_one()
}

/// Where the first item is that equals a value.
fn place_of(items: &[Value], value: &Value) -> Result<Option<usize>, Stopped> {
    for (at, item) in items.iter().enumerate() {
        spend(8)?;
        if equal(item, value)? {
            return Ok(Some(at));
        }
    }
    Ok(None)
}

/// Operations at one place of a list.
fn inside(operation: Operation, args: &[Value]) -> Outcome {
    let list = list(args)?;
    let cell = &list.items;
    let length = cell.borrow().len();
    Ok(match operation {
        Operation::ListInsert => {
            let at = index(args, 1, length + 1, 0, "place")?;
            one_more(list)?;
            spend(length - at)?;
            cell.borrow_mut().insert(at, args[2]);
            list.recount();
            Value::Nothing
        }
        Operation::ListRemove => {
            let at = index(args, 1, length, 0, "item")?;
            spend(length - at)?;
            cell.borrow_mut().remove(at)
        }
        _ => {
            let found = place_of(&cell.borrow(), &args[1])?;
            found.map_or(Value::Nothing, |at| Value::Integer(at as i64))
        }
    })
}

fn range(args: &[Value]) -> Outcome {
    let (from, to) = (integer(args, 0)?, integer(args, 1)?);
    if to < from {
        return Ok(Value::list(Vec::new()));
    }
    let further = usize::try_from(to.saturating_sub(from)).unwrap_or(usize::MAX);
    let count = further.saturating_add(1);
    list_room(count)?;
    let mut items = Vec::with_capacity(count);
    items.extend((from..=to).map(Value::Integer));
    Ok(Value::list(items))
}

/// Sorts numbers or texts; the order of equals is kept.
fn sort(items: &[Value]) -> Outcome {
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
