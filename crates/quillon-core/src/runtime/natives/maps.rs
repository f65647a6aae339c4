//! Operations on maps.

use super::list_room;
use crate::diagnostic::{codes, nearest, quote};
use crate::metering::Stopped;
use crate::runtime::failure::{Culprit, Problem};
use crate::runtime::number::Outcome;
use crate::values::{Key, LARGEST, Map, Ref, Value, described_key, spend};

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
    // It is looked at in full, and compared with keys of its length.
    if let Value::Text(text) = args[index] {
        spend(text.len())?;
    }
    args[index].key().ok_or_else(|| {
        Problem::kind(index, "a key", &args[index])
            .why("a key is a text, a number, a truth value or nothing")
    })
}

pub(super) fn new(_: &[Value]) -> Outcome {
    Ok(Value::map([]))
}

pub(super) fn get(args: &[Value]) -> Outcome {
    let (map, key) = (map(args)?, key(args)?);
    map.get(&key).ok_or_else(|| unknown(&key, map))
}

pub(super) fn find(args: &[Value]) -> Outcome {
    let (map, key) = (map(args)?, key(args)?);
    Ok(map.get(&key).unwrap_or_default())
}

pub(super) fn put(args: &[Value]) -> Outcome {
    let (map, key) = (map(args)?, key(args)?);
    if map.len() >= LARGEST {
        return Err(Stopped::Size.into());
    }
    map.reserve_one()?;
    map.put(key, args[2]);
    Ok(Value::Nothing)
}

pub(super) fn has(args: &[Value]) -> Outcome {
    let (map, key) = (map(args)?, key(args)?);
    Ok(Value::Truth(map.has(&key)))
}

pub(super) fn remove(args: &[Value]) -> Outcome {
    let (map, key) = (map(args)?, key(args)?);
    spend(4 * map.len())?;
    map.remove(&key);
    Ok(Value::Nothing)
}

pub(super) fn keys(args: &[Value]) -> Outcome {
    let map = map(args)?;
    list_room(map.len())?;
    Ok(Value::list(map.key_values()))
}

pub(super) fn values(args: &[Value]) -> Outcome {
    let map = map(args)?;
    list_room(map.len())?;
    Ok(Value::list(map.values()))
}

pub(super) fn copy(args: &[Value]) -> Outcome {
    let map = map(args)?;
    list_room(4 * map.len())?;
    Ok(Value::from_map(map.copied()))
}

pub(super) fn length(args: &[Value]) -> Outcome {
    Ok(Value::Integer(map(args)?.len() as i64))
}

/// A map of keys and values that take turns.
pub(super) fn of(args: &[Value]) -> Outcome {
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

/// The problem of a key that a map does not have. Of a large map, some of the keys are looked
/// at: an error in a loop must not cost more than what it says.
fn unknown(key: &Key, map: Ref<Map>) -> Box<Problem> {
    const MOST_LISTED: usize = 8;
    const MOST_COMPARED: usize = 256;
    const LONGEST_COMPARED: usize = 64;
    let problem = Problem::new(
        Culprit::Operand(1),
        codes::RUN_KEY,
        format!("there is no key {}", described_key(key)),
    );
    let keys = map.first_keys(MOST_COMPARED);
    let texts: Vec<&str> = keys
        .iter()
        .filter_map(|k| match k {
            Key::Text(text) if text.len() <= LONGEST_COMPARED => Some(&***text),
            Key::Nothing | Key::Truth(_) | Key::Integer(_) | Key::Number(_) | Key::Text(_) => None,
        })
        .collect();
    if let Key::Text(text) = key
        && text.len() <= LONGEST_COMPARED
        && let Some(near) = nearest(text, texts)
    {
        return problem.why(format!("there is a key {}", quote(near)));
    }
    if keys.is_empty() {
        return problem.why("the map is empty");
    }
    let mut listed: Vec<String> = keys.iter().take(MOST_LISTED).map(described_key).collect();
    if keys.len() > MOST_LISTED {
        listed.push("…".to_owned());
    }
    problem.why(format!("its keys are {}", listed.join(", ")))
}
