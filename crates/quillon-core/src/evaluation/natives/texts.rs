//! Operations on texts. A character is what a person takes for one: a grapheme
//! cluster.

use std::rc::Rc;

use unicode_segmentation::UnicodeSegmentation;

use super::super::failure::Problem;
use super::super::number::Outcome;
use super::super::show;
use super::super::value::Value;
use super::{bounded, cut, index, integer};
use crate::meaning::Operation;

fn text(args: &[Value], operand: usize) -> Result<&Rc<str>, Box<Problem>> {
    match &args[operand] {
        Value::Text(text) => Ok(text),
        other => Err(Problem::kind(operand, "a text", other)),
    }
}

pub(super) fn apply(operation: Operation, args: &[Value]) -> Outcome {
    use Operation as O;
    if operation == O::TextJoin {
        return join(args);
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
                return Ok(Value::Text(Rc::clone(subject)));
            }
            let times = subject.matches(&**old).count();
            bounded(
                subject
                    .len()
                    .saturating_add(times.saturating_mul(new.len())),
            )?;
            Value::text(&subject.replace(&**old, new))
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
        O::TextToInteger => subject
            .trim()
            .parse()
            .map_or(Value::Nothing, Value::Integer),
        _ => {
            let spelt = subject.trim();
            let numeric = spelt.starts_with(|c: char| c.is_ascii_digit() || "+-.".contains(c));
            match spelt.parse::<f64>() {
                Ok(n) if numeric && n.is_finite() => Value::Number(n),
                _ => Value::Nothing,
            }
        }
    })
}

fn join(args: &[Value]) -> Outcome {
    let Value::List(items) = &args[0] else {
        return Err(Problem::kind(0, "a list", &args[0]));
    };
    let by = text(args, 1)?;
    let parts: Vec<String> = items.0.borrow().iter().map(show::shown).collect();
    let size: usize = parts.iter().map(|part| part.len() + by.len()).sum();
    bounded(size)?;
    Ok(Value::text(&parts.join(by)))
}
