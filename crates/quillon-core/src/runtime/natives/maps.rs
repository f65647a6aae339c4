//! Operations on maps.

use super::bounded;
use crate::diagnostic::{codes, nearest, quote};
use crate::meaning::Operation;
use crate::runtime::failure::{Culprit, Problem};
use crate::runtime::number::Outcome;
use crate::values::{Key, Map, Ref, Value, written};

fn map(args: &[Value]) -> Result<Ref<Map>, Box<Problem>> {
    match &args[0] {
        Value::Map(map) => Ok(*map),
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
    let map = map(args)?;
    Ok(match operation {
        O::MapGet => {
            let key = key(args)?;
            map.get(&key).ok_or_else(|| unknown(&key, &map.keys()))?
        }
        O::MapFind => map.get(&key(args)?).unwrap_or_default(),
        O::MapPut => {
            bounded(map.len() + 1)?;
            map.put(key(args)?, args[2]);
            Value::Nothing
        }
        O::MapHas => Value::Truth(map.has(&key(args)?)),
        O::MapRemove => {
            map.remove(&key(args)?);
            Value::Nothing
        }
        O::MapKeys => Value::list(map.keys().iter().map(Key::value).collect()),
        O::MapValues => Value::list(map.entries().into_iter().map(|(_, v)| v).collect()),
        O::MapCopy => Value::from_map(map.copied()),
        _ => Value::Integer(map.len() as i64),
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
        entries.push((key_at(args, 2 * index)?, pair[1]));
    }
    Ok(Value::map(entries))
}

fn unknown(key: &Key, keys: &[Key]) -> Box<Problem> {
    const MOST_LISTED: usize = 8;
    let problem = Problem::new(
        Culprit::Operand(1),
        codes::RUN_KEY,
        format!("there is no key {}", written(&key.value())),
    );
    let texts: Vec<&str> = keys
        .iter()
        .filter_map(|k| match k {
            Key::Text(text) => Some(&***text),
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
        .map(|k| written(&k.value()))
        .collect();
    if keys.len() > MOST_LISTED {
        listed.push("…".to_owned());
    }
    problem.why(format!("its keys are {}", listed.join(", ")))
}
