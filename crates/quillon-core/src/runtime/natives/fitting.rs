//! Whether a value has a type that the program declares; see `meaning::fitting`.

use super::text;
use crate::definition::template::ValueKind;
use crate::diagnostic::codes;
use crate::meaning::kind_of_letter;
use crate::metering::Stopped;
use crate::runtime::number::Outcome;
use crate::runtime::{Culprit, Problem};
use crate::values::{Value, described, spend};

/// How many values inside others are looked at: lists can be large, and hold themselves.
const MOST: usize = 100_000;

pub(super) fn fits(args: &[Value]) -> Outcome {
    let pattern = text(args, 1)?;
    Ok(Value::Truth(misfit(args[0], pattern.as_bytes())?.is_none()))
}

/// The first value that does not fit: the value itself, or one inside it.
fn misfit(value: Value, pattern: &[u8]) -> Result<Option<Value>, Stopped> {
    let is_looked_into = matches!(value, Value::List(_) | Value::Map(_));
    if is_looked_into
        && pattern
            .get(1..)
            .is_some_and(|inside| kind_of(inside).is_some())
    {
        return misfit_inside(value, pattern);
    }
    Ok((!is_of_kind(value, pattern)).then_some(value))
}

/// The same where values inside others are looked at.
fn misfit_inside(value: Value, pattern: &[u8]) -> Result<Option<Value>, Stopped> {
    let mut left = MOST;
    let mut waiting = vec![(value, pattern)];
    while let Some((value, pattern)) = waiting.pop() {
        if !is_of_kind(value, pattern) {
            return Ok(Some(value));
        }
        let inside = pattern.get(1..).unwrap_or_default();
        // Whatever is inside fits `any`.
        let looks = left > 0 && kind_of(inside).is_some();
        let before = waiting.len();
        match value {
            Value::List(list) if looks => {
                let seen = list.len().min(left);
                let items = (0..seen).rev().filter_map(|place| list.items.get(place));
                waiting.extend(items.map(|item| (item, inside)));
            }
            Value::Map(map) if looks => {
                let seen = map.first_values(left);
                waiting.extend(seen.into_iter().map(|item| (item, inside)));
            }
            _ => {}
        }
        let seen = waiting.len() - before;
        left -= seen;
        spend(8 * seen)?;
    }
    Ok(None)
}

/// The kind of values that a pattern is for; nothing for all.
fn kind_of(pattern: &[u8]) -> Option<ValueKind> {
    kind_of_letter(*pattern.first()?)
}

/// Whether a value is of the kind that a pattern begins with.
fn is_of_kind(value: Value, pattern: &[u8]) -> bool {
    let found = value.kind();
    kind_of(pattern).is_none_or(|kind| {
        found == kind || kind == ValueKind::Number && found == ValueKind::Integer
    })
}

/// A value that fits, or what is wrong with it.
pub(super) fn demand(args: &[Value]) -> Outcome {
    let (value, pattern, why) = (args[0], text(args, 1)?, text(args, 2)?);
    let pattern = pattern.as_bytes();
    let Some(misfit) = misfit(value, pattern)? else {
        return Ok(value);
    };
    let wanted = words(pattern);
    let own = kind_of(pattern);
    let found = described(&misfit);
    let message = if own == Some(value.kind()) {
        format!("{wanted} is needed here, and in this one there is {found}")
    } else {
        format!("{wanted} is needed here, and this is {found}")
    };
    let mut problem = Problem::new(Culprit::Operand(0), codes::RUN_KIND, message)
        .detail("wanted", wanted)
        .detail("got", found);
    problem.blames_argument = true;
    Err(if why.is_empty() {
        problem
    } else {
        problem.why(&**why)
    })
}

/// A pattern in words: `a list of texts`.
fn words(pattern: &[u8]) -> String {
    let Some(kind) = kind_of(pattern) else {
        return "anything".to_owned();
    };
    let Some(inner) = pattern.get(1..).and_then(kind_of) else {
        return kind.described().to_owned();
    };
    let inside = words(&pattern[1..]);
    let bare = inside
        .split_once(' ')
        .map_or(inside.as_str(), |(_, rest)| rest);
    match inner {
        ValueKind::Nothing => format!("{} of nothing", kind.described()),
        ValueKind::List | ValueKind::Map => {
            let (word, rest) = bare.split_once(' ').unwrap_or((bare, ""));
            format!("{} of {word}s {rest}", kind.described())
                .trim_end()
                .to_owned()
        }
        _ => format!("{} of {bare}s", kind.described()),
    }
}
