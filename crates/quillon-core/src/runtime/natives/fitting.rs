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
    let mut left = MOST;
    let mut waiting = vec![(value, pattern)];
    while let Some((value, pattern)) = waiting.pop() {
        let Some(kind) = pattern.first().and_then(|letter| kind_of_letter(*letter)) else {
            continue;
        };
        let found = value.kind();
        let is_number = kind == ValueKind::Number && found == ValueKind::Integer;
        if found != kind && !is_number {
            return Ok(Some(value));
        }
        let inside = &pattern[1..];
        // Whatever is inside fits `any`.
        let looks = left > 0 && inside.first().is_some_and(|l| kind_of_letter(*l).is_some());
        match value {
            Value::List(list) if looks => {
                let seen = list.len().min(left);
                let items = (0..seen).rev().filter_map(|place| list.items.get(place));
                waiting.extend(items.map(|item| (item, inside)));
                left -= seen;
                spend(8 * seen)?;
            }
            Value::Map(map) if looks => {
                let seen = map.first_values(left);
                left -= seen.len();
                spend(8 * seen.len())?;
                waiting.extend(seen.into_iter().map(|item| (item, inside)));
            }
            _ => {}
        }
    }
    Ok(None)
}

/// A value that fits, or what is wrong with it.
pub(super) fn demand(args: &[Value]) -> Outcome {
    let (value, pattern, why) = (args[0], text(args, 1)?, text(args, 2)?);
    let pattern = pattern.as_bytes();
    let Some(misfit) = misfit(value, pattern)? else {
        return Ok(value);
    };
    let wanted = words(pattern);
    let own = pattern.first().and_then(|letter| kind_of_letter(*letter));
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
    let Some(kind) = pattern.first().and_then(|letter| kind_of_letter(*letter)) else {
        return "anything".to_owned();
    };
    let inner = pattern.get(1).and_then(|letter| kind_of_letter(*letter));
    let Some(inner) = inner else {
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
