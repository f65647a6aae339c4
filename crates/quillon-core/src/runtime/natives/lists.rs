//! Operations on lists.

use std::cmp::Ordering;

use super::{bounded, cut, index, integer};
use crate::diagnostic::codes;
use crate::meaning::Operation;
use crate::runtime::failure::{Culprit, Problem};
use crate::runtime::number::{Outcome, as_double, compare};
use crate::values::{List, Ref, Value, described, equal};

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
            bounded(count)?;
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
            bounded(cell.borrow().len() + 1)?;
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
                items.remove(0)
            }
        }
        O::ListSlice => {
            let items = cell.borrow();
            Value::list(items[cut(args, items.len())?].to_vec())
        }
        O::ListContains => {
            let found = cell
                .borrow()
                .iter()
                .any(|item| equal(item, &args[1]) == Some(true));
            Value::Truth(found)
        }
        O::ListReverse => Value::list(cell.borrow().iter().rev().copied().collect()),
        O::ListSort => sort(&cell.borrow())?,
        _ => Value::list(list.copied()),
    })
}

/// Operations at one place of a list.
fn inside(operation: Operation, args: &[Value]) -> Outcome {
    let list = list(args)?;
    let cell = &list.items;
    let length = cell.borrow().len();
    Ok(match operation {
        Operation::ListInsert => {
            bounded(length + 1)?;
            let at = index(args, 1, length + 1, 0, "place")?;
            cell.borrow_mut().insert(at, args[2]);
            list.recount();
            Value::Nothing
        }
        Operation::ListRemove => {
            let at = index(args, 1, length, 0, "item")?;
            cell.borrow_mut().remove(at)
        }
        _ => {
            let items = cell.borrow();
            let found = items
                .iter()
                .position(|item| equal(item, &args[1]) == Some(true));
            found.map_or(Value::Nothing, |at| Value::Integer(at as i64))
        }
    })
}

fn range(args: &[Value]) -> Outcome {
    let (from, to) = (integer(args, 0)?, integer(args, 1)?);
    if to < from {
        return Ok(Value::list(Vec::new()));
    }
    bounded(usize::try_from(to.saturating_sub(from)).unwrap_or(usize::MAX))?;
    Ok(Value::list((from..=to).map(Value::Integer).collect()))
}

/// Sorts numbers or texts; the order of equals is kept.
fn sort(items: &[Value]) -> Outcome {
    let kind = |value: &Value| match value {
        Value::Text(_) => Some(true),
        Value::Number(n) if n.is_nan() => None,
        _ => as_double(value).map(|_| false),
    };
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
    let mut sorted = items.to_vec();
    sorted.sort_by(|a, b| compare(a, b).unwrap_or(Ordering::Equal));
    Ok(Value::list(sorted))
}
