//! Operations on texts. A character is what a person takes for one: a grapheme
//! cluster.

use unicode_segmentation::UnicodeSegmentation;
use unicode_width::UnicodeWidthStr;

use super::{bounded, cut, index, integer};
use crate::diagnostic::codes;
use crate::meaning::Operation;
use crate::runtime::failure::{Culprit, Problem};
use crate::runtime::number::Outcome;
use crate::values::shown;
use crate::values::{Ref, Text, Value, described};

pub(super) fn text(args: &[Value], operand: usize) -> Result<Ref<Text>, Box<Problem>> {
    match &args[operand] {
        Value::Text(text) => Ok(*text),
        other => Err(Problem::kind(operand, "a text", other)),
    }
}

pub(super) fn apply(operation: Operation, args: &[Value]) -> Outcome {
    use Operation as O;
    match operation {
        O::TextJoin => return join(args),
        O::TextFromPoints => return from_points(args),
        O::TextFromBytes => return from_bytes(args),
        _ => {}
    }
    let subject = text(args, 0)?;
    Ok(match operation {
        O::TextLength => Value::Integer(if subject.is_ascii() {
            // A line end of two bytes is one cluster.
            (subject.len() - subject.matches("\r\n").count()) as i64
        } else {
            subject.graphemes(true).count() as i64
        }),
        O::TextAt => {
            let clusters: Vec<&str> = subject.graphemes(true).collect();
            Value::text(clusters[index(args, 1, clusters.len(), 0, "character")?])
        }
        O::TextSlice => {
            let clusters: Vec<&str> = subject.graphemes(true).collect();
            Value::text(&clusters[cut(args, clusters.len())?].concat())
        }
        O::TextUpper => Value::text(&subject.to_uppercase()),
        O::TextLower => Value::text(&subject.to_lowercase()),
        O::TextTrim => Value::text(subject.trim()),
        O::TextContains => Value::Truth(subject.contains(&**text(args, 1)?)),
        O::TextReplace => {
            let (old, new) = (text(args, 1)?, text(args, 2)?);
            if old.is_empty() {
                return Ok(Value::Text(subject));
            }
            let times = subject.matches(&**old).count();
            bounded(
                subject
                    .len()
                    .saturating_add(times.saturating_mul(new.len())),
            )?;
            Value::text(&subject.replace(&**old, &new))
        }
        O::TextRepeat => {
            let times = usize::try_from(integer(args, 1)?).unwrap_or(0);
            bounded(subject.len().saturating_mul(times))?;
            Value::text(&subject.repeat(times))
        }
        O::TextSplit => {
            let by = text(args, 1)?;
            let parts = if by.is_empty() {
                subject.graphemes(true).map(Value::text).collect()
            } else {
                subject.split(&**by).map(Value::text).collect()
            };
            Value::list(parts)
        }
        O::TextFind | O::TextFindLast => {
            let part = text(args, 1)?;
            let at = match operation {
                O::TextFind => subject.find(&**part),
                _ => subject.rfind(&**part),
            };
            at.map_or(Value::Nothing, |at| {
                Value::Integer(subject[..at].graphemes(true).count() as i64)
            })
        }
        O::TextStarts => Value::Truth(subject.starts_with(&**text(args, 1)?)),
        O::TextEnds => Value::Truth(subject.ends_with(&**text(args, 1)?)),
        O::TextFormat => super::forms::format(&subject, &args[1])?,
        O::TextPadLeft | O::TextPadRight => pad(operation, args)?,
        O::TextReverse => Value::text(&subject.graphemes(true).rev().collect::<String>()),
        O::TextLines => Value::list(subject.lines().map(Value::text).collect()),
        O::TextPoints => {
            let points = subject
                .chars()
                .map(|c| Value::Integer(i64::from(u32::from(c))));
            Value::list(points.collect())
        }
        O::TextBytes => Value::list(
            subject
                .bytes()
                .map(|b| Value::Integer(i64::from(b)))
                .collect(),
        ),
        _ => return spelt(operation, args),
    })
}

/// The number that a text spells.
fn spelt(operation: Operation, args: &[Value]) -> Outcome {
    let spelt = text(args, 0)?;
    let spelt = spelt.trim();
    Ok(match operation {
        Operation::TextToInteger => spelt.parse().map_or(Value::Nothing, Value::Integer),
        Operation::TextToIntegerIn => i64::from_str_radix(spelt, super::integers::base(args)?)
            .map_or(Value::Nothing, Value::Integer),
        _ => {
            let numeric = spelt.starts_with(|c: char| c.is_ascii_digit() || "+-.".contains(c));
            match spelt.parse::<f64>() {
                Ok(n) if numeric && n.is_finite() => Value::Number(n),
                _ => Value::Nothing,
            }
        }
    })
}

/// A text made as wide as asked, in columns of a terminal.
fn pad(operation: Operation, args: &[Value]) -> Outcome {
    let (subject, with) = (text(args, 0)?, text(args, 2)?);
    let wanted = usize::try_from(integer(args, 1)?).unwrap_or(0);
    bounded(wanted)?;
    let missing = wanted.saturating_sub(subject.width());
    if missing == 0 || with.width() == 0 {
        return Ok(Value::Text(subject));
    }
    let times = missing.div_ceil(with.width());
    let mut fill = String::new();
    let mut left = missing;
    for cluster in with.repeat(times).graphemes(true) {
        if cluster.width() > left {
            break;
        }
        left -= cluster.width();
        fill.push_str(cluster);
    }
    Ok(Value::text(&match operation {
        Operation::TextPadLeft => format!("{fill}{}", &**subject),
        _ => format!("{}{fill}", &**subject),
    }))
}

/// The items of a list of integers, each turned into something.
fn each_integer<T>(
    args: &[Value],
    what: &str,
    turn: impl Fn(i64) -> Option<T>,
) -> Result<Vec<T>, Box<Problem>> {
    let Value::List(list) = &args[0] else {
        return Err(Problem::kind(0, "a list", &args[0]));
    };
    let items = list.items.borrow();
    let mut out = Vec::with_capacity(items.len());
    for item in items.iter() {
        let turned = match item {
            Value::Integer(n) => turn(*n),
            _ => None,
        };
        let message = || format!("an item of the list is no {what}: {}", described(item));
        out.push(
            turned
                .ok_or_else(|| Problem::new(Culprit::Operand(0), codes::RUN_DOMAIN, message()))?,
        );
    }
    Ok(out)
}

fn from_points(args: &[Value]) -> Outcome {
    let turn = |n: i64| char::from_u32(u32::try_from(n).ok()?);
    let chars = each_integer(args, "code point", turn)?;
    Ok(Value::text(&chars.into_iter().collect::<String>()))
}

fn from_bytes(args: &[Value]) -> Outcome {
    let bytes = each_integer(args, "byte", |n| u8::try_from(n).ok())?;
    Ok(String::from_utf8(bytes).map_or(Value::Nothing, |text| Value::text(&text)))
}

fn join(args: &[Value]) -> Outcome {
    let Value::List(items) = &args[0] else {
        return Err(Problem::kind(0, "a list", &args[0]));
    };
    let by = text(args, 1)?;
    let parts: Vec<String> = items.items.borrow().iter().map(shown).collect();
    let size: usize = parts.iter().map(|part| part.len() + by.len()).sum();
    bounded(size)?;
    Ok(Value::text(&parts.join(&**by)))
}
