//! Operations on texts. A character is what a person takes for one: a grapheme
//! cluster.

use crate::source::{ceiling, floor};
use unicode_width::UnicodeWidthStr;

use super::clusters::{self, Clusters};
use super::growing::{Growing, Items};
use super::{bounded, integer, list_room, no_index, position};
use crate::diagnostic::codes;
use crate::meaning::Operation;
use crate::metering::Stopped;
use crate::runtime::failure::{Culprit, Problem};
use crate::runtime::number::Outcome;
use crate::values::{Ref, Text, Value, described, shown, spend};

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
        O::TextLength => Value::Integer(clusters::count(&subject)? as i64),
        O::TextAt => return at(args, &subject),
        O::TextSlice => return slice(args, &subject),
        O::TextUpper => turned(&subject, str::to_uppercase)?,
        O::TextLower => turned(&subject, str::to_lowercase)?,
        O::TextTrim => {
            spend(subject.len())?;
            let trimmed = subject.trim();
            bounded(trimmed.len())?;
            Value::text(trimmed)
        }
        O::TextContains => Value::Truth(find(&subject, &text(args, 1)?)?.is_some()),
        O::TextReplace => return replace(args, subject),
        O::TextRepeat => {
            let times = usize::try_from(integer(args, 1)?).unwrap_or(0);
            bounded(subject.len().saturating_mul(times))?;
            Value::text(subject.repeat(times))
        }
        O::TextSplit => return split(&subject, &text(args, 1)?),
        O::TextFind | O::TextFindLast => {
            let part = text(args, 1)?;
            let at = match operation {
                O::TextFind => find(&subject, &part)?,
                _ => find_last(&subject, &part)?,
            };
            match at {
                Some(at) => Value::Integer(clusters::count(&subject[..at])? as i64),
                None => Value::Nothing,
            }
        }
        O::TextStarts | O::TextEnds => {
            let part = text(args, 1)?;
            spend(part.len() / 8)?;
            Value::Truth(match operation {
                O::TextStarts => subject.starts_with(&**part),
                _ => subject.ends_with(&**part),
            })
        }
        O::TextFormat => super::forms::format(&subject, &args[1])?,
        O::TextPadLeft | O::TextPadRight => pad(operation, args)?,
        O::TextReverse => reverse(&subject)?,
        O::TextLines => lines(&subject)?,
        O::TextPoints => {
            spend(subject.len())?;
            let count = subject.chars().count();
            list_room(count)?;
            let mut points = Vec::with_capacity(count);
            points.extend(
                subject
                    .chars()
                    .map(|c| Value::Integer(i64::from(u32::from(c)))),
            );
            Value::list(points)
        }
        O::TextBytes => {
            list_room(subject.len())?;
            Value::list(
                subject
                    .bytes()
                    .map(|b| Value::Integer(i64::from(b)))
                    .collect(),
            )
        }
        _ => return spelt(operation, args),
    })
}

/// The character at a place.
fn at(args: &[Value], subject: &str) -> Outcome {
    let asked = integer(args, 1)?;
    let mut clusters = Clusters::new(subject);
    if let Ok(place) = usize::try_from(asked) {
        clusters.skip(place)?;
        if let Some(found) = clusters.next()? {
            return Ok(Value::text(found));
        }
    }
    Err(no_index(
        args,
        1,
        clusters::count(subject)?,
        0,
        "character",
    )?)
}

/// The characters between two places.
fn slice(args: &[Value], subject: &str) -> Outcome {
    let (from, to) = (integer(args, 1)?, integer(args, 2)?);
    let mut clusters = Clusters::new(subject);
    let place = |asked: i64| usize::try_from(asked).unwrap_or(usize::MAX);
    let passed = clusters.skip(place(from))?;
    let start = clusters.at();
    let further = place(to).saturating_sub(place(from));
    let taken = clusters.skip(further)?;
    if passed < place(from) || passed + taken < place(to) {
        let length = clusters::count(subject)?;
        position(args, 1, length)?;
        position(args, 2, length)?;
    }
    let cut = &subject[start..clusters.at()];
    bounded(cut.len())?;
    Ok(Value::text(cut))
}

/// A text turned into another, piece by piece. What a letter becomes can depend on the word it
/// stands in, so a piece ends after a blank.
fn turned(subject: &str, turn: fn(&str) -> String) -> Outcome {
    const PIECE: usize = 1 << 14;
    let mut out = Growing::new();
    let mut rest = subject;
    while !rest.is_empty() {
        let from = rest.len().min(PIECE);
        let blank = rest.as_bytes()[from..]
            .iter()
            .position(|&byte| byte == b' ' || byte == b'\n');
        let end = blank.map_or(rest.len(), |blank| from + blank + 1);
        let (piece, after) = rest.split_at(end);
        spend(16 * piece.len())?;
        out.push(&turn(piece))?;
        rest = after;
    }
    Ok(out.text())
}

/// So many bytes are searched between two looks at the meter.
const SEARCHED: usize = 1 << 20;

/// Where a part stands in a text, from the first place to the last, none inside another.
struct Matches<'t> {
    subject: &'t str,
    part: &'t str,
    piece: std::ops::Range<usize>,
    inside: std::str::MatchIndices<'t, &'t str>,
    /// Where the last one ended.
    after: usize,
}

impl<'t> Matches<'t> {
    fn new(subject: &'t str, part: &'t str) -> Matches<'t> {
        Matches {
            subject,
            part,
            piece: 0..0,
            inside: "".match_indices(part),
            after: 0,
        }
    }

    fn next(&mut self) -> Result<Option<usize>, Stopped> {
        loop {
            if self.piece.end > 0
                && let Some((at, found)) = self.inside.next()
            {
                let at = self.piece.start + at;
                self.after = at + found.len();
                return Ok(Some(at));
            }
            if self.piece.end == self.subject.len() && self.piece.end > 0 {
                return Ok(None);
            }
            self.take_piece()?;
            if self.subject.is_empty() {
                return Ok(self.part.is_empty().then_some(0));
            }
        }
    }

    fn take_piece(&mut self) -> Result<(), Stopped> {
        // What stands across the end of a piece is found in the next.
        let overlap = self.part.len().max(1) - 1;
        let from = self.after.max(self.piece.end.saturating_sub(overlap));
        let from = floor(self.subject, from);
        let end = (from + SEARCHED + 4 * self.part.len()).min(self.subject.len());
        let end = ceiling(self.subject, end);
        spend(2 * (end - from) + self.part.len())?;
        self.piece = from..end;
        self.inside = self.subject[from..end].match_indices(self.part);
        Ok(())
    }
}

/// Where a part first stands in a text.
fn find(subject: &str, part: &str) -> Result<Option<usize>, Stopped> {
    Matches::new(subject, part).next()
}

/// Where a part last stands in a text.
fn find_last(subject: &str, part: &str) -> Result<Option<usize>, Stopped> {
    let mut end = subject.len();
    loop {
        let from = end.saturating_sub(SEARCHED + 4 * part.len());
        let from = floor(subject, from);
        spend(2 * (end - from))?;
        if let Some(found) = subject[from..end].rfind(part) {
            return Ok(Some(from + found));
        }
        if from == 0 {
            return Ok(None);
        }
        end = ceiling(subject, (from + part.len().max(1) - 1).min(subject.len()));
    }
}

fn replace(args: &[Value], subject: Ref<Text>) -> Outcome {
    let (old, new) = (text(args, 1)?, text(args, 2)?);
    if old.is_empty() {
        return Ok(Value::Text(subject));
    }
    let mut out = Growing::new();
    let mut from = 0;
    let mut places = Matches::new(&subject, &old);
    while let Some(found) = places.next()? {
        out.push(&subject[from..found])?;
        out.push(&new)?;
        from = found + old.len();
    }
    out.push(&subject[from..])?;
    Ok(out.text())
}

fn split(subject: &str, by: &str) -> Outcome {
    let mut parts = Items::new();
    if by.is_empty() {
        let mut clusters = Clusters::new(subject);
        while let Some(cluster) = clusters.next()? {
            parts.push(Value::text(cluster))?;
        }
        return Ok(parts.list());
    }
    let mut from = 0;
    let mut places = Matches::new(subject, by);
    while let Some(found) = places.next()? {
        bounded(found - from)?;
        parts.push(Value::text(&subject[from..found]))?;
        from = found + by.len();
    }
    bounded(subject.len() - from)?;
    parts.push(Value::text(&subject[from..]))?;
    Ok(parts.list())
}

fn lines(subject: &str) -> Outcome {
    let mut parts = Items::new();
    for line in subject.lines() {
        bounded(line.len())?;
        spend(line.len())?;
        parts.push(Value::text(line))?;
    }
    Ok(parts.list())
}

fn reverse(subject: &str) -> Outcome {
    bounded(subject.len())?;
    let mut bytes = vec![0; subject.len()];
    let mut clusters = Clusters::new(subject);
    let mut end = subject.len();
    while let Some(cluster) = clusters.next()? {
        let start = end - cluster.len();
        bytes[start..end].copy_from_slice(cluster.as_bytes());
        end = start;
    }
    // Whole characters in another order are a text again.
    Ok(Value::text(String::from_utf8(bytes).unwrap_or_default()))
}

/// The number that a text spells.
fn spelt(operation: Operation, args: &[Value]) -> Outcome {
    let spelt = text(args, 0)?;
    spend(4 * spelt.len())?;
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
    spend(16 * (subject.len() + with.len()))?;
    let missing = wanted.saturating_sub(subject.width());
    let columns = with.width();
    if missing == 0 || columns == 0 {
        return Ok(Value::Text(subject));
    }
    let fill = Fill {
        with: &with,
        times: missing / columns,
        left: missing % columns,
    };
    let mut out = Growing::new();
    if operation == Operation::TextPadLeft {
        fill.push(&mut out)?;
        out.push(&subject)?;
    } else {
        out.push(&subject)?;
        fill.push(&mut out)?;
    }
    Ok(out.text())
}

/// What fills a text up: another so many times, and what fits of it into the columns left.
struct Fill<'t> {
    with: &'t str,
    times: usize,
    left: usize,
}

impl Fill<'_> {
    fn push(&self, out: &mut Growing) -> Result<(), Stopped> {
        for _ in 0..self.times {
            out.push(self.with)?;
        }
        let mut left = self.left;
        let mut clusters = Clusters::new(self.with);
        while let Some(cluster) = clusters.next()? {
            let width = cluster.width();
            if width > left {
                break;
            }
            left -= width;
            out.push(cluster)?;
        }
        Ok(())
    }
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
    spend(4 * items.len())?;
    bounded(items.len().saturating_mul(size_of::<T>()))?;
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
    let size = chars.iter().map(|c| c.len_utf8()).sum();
    bounded(size)?;
    let mut all = String::with_capacity(size);
    all.extend(chars);
    Ok(Value::text(all))
}

fn from_bytes(args: &[Value]) -> Outcome {
    let bytes = each_integer(args, "byte", |n| u8::try_from(n).ok())?;
    Ok(String::from_utf8(bytes).map_or(Value::Nothing, Value::text))
}

fn join(args: &[Value]) -> Outcome {
    let Value::List(items) = &args[0] else {
        return Err(Problem::kind(0, "a list", &args[0]));
    };
    let by = text(args, 1)?;
    let mut out = Growing::new();
    for (index, item) in items.items.borrow().iter().enumerate() {
        if index > 0 {
            out.push(&by)?;
        }
        out.push(&shown(item)?)?;
    }
    Ok(out.text())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_part_is_found_wherever_it_stands_in_a_long_text() {
        let part = "水門";
        for before in [
            0,
            1,
            SEARCHED - 7,
            SEARCHED - 3,
            SEARCHED,
            SEARCHED + 25,
            3 * SEARCHED,
        ] {
            let text = format!("{}{part}{}", "x".repeat(before), "y".repeat(before % 5000));
            assert_eq!(find(&text, part), Ok(Some(before)));
            assert_eq!(find_last(&text, part), Ok(Some(before)));
            assert_eq!(find(&text, "z"), Ok(None));
            assert_eq!(find_last(&text, "z"), Ok(None));
        }
        assert_eq!(
            (find("", ""), find("ab", ""), find_last("ab", "")),
            (Ok(Some(0)), Ok(Some(0)), Ok(Some(2)))
        );
        assert_eq!((find("", "a"), find_last("", "a")), (Ok(None), Ok(None)));
    }

    #[test]
    fn places_are_those_of_one_search() {
        let text = "aaab".repeat(SEARCHED / 2);
        let mut places = Matches::new(&text, "aa");
        for (at, _) in text.match_indices("aa") {
            assert_eq!(places.next(), Ok(Some(at)));
        }
        assert_eq!(places.next(), Ok(None));
    }

    #[test]
    fn letters_that_depend_on_their_word_are_turned_right_in_pieces() {
        let text = "ΟΔΟΣ ΚΑΙ ΣΑΣ ".repeat(5000);
        assert!(
            matches!(turned(&text, str::to_lowercase), Ok(Value::Text(t)) if **t == *text.to_lowercase())
        );
    }
}
