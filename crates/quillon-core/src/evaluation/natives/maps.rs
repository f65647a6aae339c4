//! Operations on maps.

use std::rc::Rc;

use super::super::failure::{Culprit, Problem};
use super::super::number::Outcome;
use super::super::show;
use super::super::value::{Key, Map, Value};
use super::bounded;
use crate::diagnostic::{codes, nearest, quote};
use crate::meaning::Operation;

fn map(args: &[Value]) -> Result<&Rc<Map>, Box<Problem>> {
    match &args[0] {
        Value::Map(map) => Ok(map),
        other => Err(Problem::kind(0, "a map", other)),
    }
}

fn key(args: &[Value]) -> Result<Key, Box<Problem>> {
    key_at(args, 1)
}

fn key_at(args: &[Value], index: usize) -> Result<Key, Box<Problem>> {
    args[index].key().ok_or_else(|| {
        Problem::kind(index, "a key", &args[index])
            .why("a key is a text, a number, a truth value or nothing")
    })
}

pub(super) fn apply(operation: Operation, args: &[Value]) -> Outcome {
    use Operation as O;
    match operation {
        O::MapNew => return Ok(Value::map([])),
        O::MapOf => return of(args),
        _ => {}
    }
    let cell = &map(args)?.0;
    Ok(match operation {
        O::MapGet => {
            let key = key(args)?;
            let found = cell.borrow().get(&key).cloned();
            found
                .ok_or_else(|| unknown(&key, &cell.borrow().keys().cloned().collect::<Vec<_>>()))?
        }
        O::MapFind => cell.borrow().get(&key(args)?).cloned().unwrap_or_default(),
        O::MapPut => {
            bounded(cell.borrow().len() + 1)?;
            // The old value is dropped after the borrow: it may hold this very map.
            let old = cell.borrow_mut().insert(key(args)?, args[2].clone());
            drop(old);
            map(args)?.recount();
            Value::Nothing
        }
        O::MapHas => Value::Truth(cell.borrow().contains_key(&key(args)?)),
        O::MapRemove => {
            let old = cell.borrow_mut().shift_remove(&key(args)?);
            drop(old);
            Value::Nothing
        }
        O::MapKeys => Value::list(cell.borrow().keys().map(Key::value).collect()),
        O::MapValues => Value::list(cell.borrow().values().cloned().collect()),
        O::MapCopy => Value::map(cell.borrow().iter().map(|(k, v)| (k.clone(), v.clone()))),
        _ => Value::Integer(cell.borrow().len() as i64),
    })
}

/// A map of keys and values that take turns.
fn of(args: &[Value]) -> Outcome {
    if args.len() % 2 == 1 {
        return Err(Problem::new(
            Culprit::Operand(args.len() - 1),
            codes::RUN_ARITY,
            "this key has no value",
        ));
    }
    let mut entries = Vec::with_capacity(args.len() / 2);
    for (index, pair) in args.chunks_exact(2).enumerate() {
        entries.push((key_at(args, 2 * index)?, pair[1].clone()));
    }
    Ok(Value::map(entries))
}

fn unknown(key: &Key, keys: &[Key]) -> Box<Problem> {
    const MOST_LISTED: usize = 8;
    let problem = Problem::new(
        Culprit::Operand(1),
        codes::RUN_KEY,
        format!("there is no key {}", show::written(&key.value())),
    );
    let texts: Vec<&str> = keys
        .iter()
        .filter_map(|k| match k {
            Key::Text(text) => Some(&**text),
            _ => None,
        })
        .collect();
    if let Key::Text(text) = key
        && let Some(near) = nearest(text, texts)
    {
        return problem.why(format!("there is a key {}", quote(near)));
    }
    if keys.is_empty() {
        return problem.why("the map is empty");
    }
    let mut listed: Vec<String> = keys
        .iter()
        .take(MOST_LISTED)
        .map(|k| show::written(&k.value()))
        .collect();
    if keys.len() > MOST_LISTED {
        listed.push("…".to_owned());
    }
    problem.why(format!("its keys are {}", listed.join(", ")))
}
