//! Operations on texts. A character is what a person takes for one: a grapheme
//! cluster.

use crate::source::{ceiling, floor};
use unicode_width::UnicodeWidthStr;

use super::clusters::{self, Clusters};
use super::growing::{Growing, Items};
use super::{bounded, integer, list, no_index, position, text};
use crate::metering::Stopped;
use crate::runtime::number::Outcome;
use crate::values::{Heap, Reading, Ref, Text, Value, shown, spend};

pub(super) fn length(args: &[Value]) -> Outcome {
    Ok(Value::Integer(count(text(args, 0)?)? as i64))
}

pub(super) fn upper(args: &[Value]) -> Outcome {
    turned(&text(args, 0)?, str::to_uppercase)
}

pub(super) fn lower(args: &[Value]) -> Outcome {
    turned(&text(args, 0)?, str::to_lowercase)
}

pub(super) fn trim(args: &[Value]) -> Outcome {
    let subject = text(args, 0)?;
    spend(subject.len())?;
    let trimmed = subject.trim();
    bounded(trimmed.len())?;
    Ok(Value::text(trimmed))
}

pub(super) fn contains(args: &[Value]) -> Outcome {
    let found = first_place(&text(args, 0)?, &text(args, 1)?)?;
    Ok(Value::Truth(found.is_some()))
}

pub(super) fn find(args: &[Value]) -> Outcome {
    let subject = text(args, 0)?;
    in_characters(&subject, first_place(&subject, &text(args, 1)?)?)
}

pub(super) fn find_last(args: &[Value]) -> Outcome {
    let subject = text(args, 0)?;
    in_characters(&subject, last_place(&subject, &text(args, 1)?)?)
}

/// A place in bytes as one in characters.
fn in_characters(subject: &str, place: Option<usize>) -> Outcome {
    Ok(match place {
        Some(at) => Value::Integer(clusters::count(&subject[..at])? as i64),
        None => Value::Nothing,
    })
}

pub(super) fn repeat(args: &[Value]) -> Outcome {
    let subject = text(args, 0)?;
    let times = usize::try_from(integer(args, 1)?).unwrap_or(0);
    bounded(subject.len().saturating_mul(times))?;
    Ok(Value::text(subject.repeat(times)))
}

pub(super) fn starts(args: &[Value]) -> Outcome {
    let (subject, part) = (text(args, 0)?, text(args, 1)?);
    spend(part.len() / 8)?;
    Ok(Value::Truth(subject.starts_with(&**part)))
}

pub(super) fn ends(args: &[Value]) -> Outcome {
    let (subject, part) = (text(args, 0)?, text(args, 1)?);
    spend(part.len() / 8)?;
    Ok(Value::Truth(subject.ends_with(&**part)))
}

pub(super) fn format(args: &[Value]) -> Outcome {
    super::forms::format(&text(args, 0)?, &args[1])
}

/// The character at a place.
pub(super) fn at(args: &[Value]) -> Outcome {
    let subject = text(args, 0)?;
    if let Ok(place) = usize::try_from(integer(args, 1)?) {
        let found = if subject.is_plain()? {
            let letter = subject.as_bytes().get(place);
            letter.and_then(|byte| Heap::with(|heap| heap.letter(*byte)))
        } else {
            let from = place_of(subject, place)?;
            let mut clusters = Clusters::from(&subject, from.at);
            clusters.next()?.map(Text::made)
        };
        if let Some(found) = found {
            return Ok(Value::Text(found));
        }
    }
    Err(no_index(args, 1, count(subject)?, 0, "character")?)
}

/// How many characters a text has.
fn count(subject: Ref<Text>) -> Result<usize, Stopped> {
    if subject.is_plain()? {
        return Ok(subject.len());
    }
    let known = reading(subject);
    if let Some(count) = known.count {
        return Ok(count);
    }
    let mut clusters = Clusters::from(&subject, known.at);
    let count = known.character + clusters.skip(usize::MAX)?;
    Heap::with(|heap| {
        heap.set_reading(Reading {
            count: Some(count),
            ..known
        });
    });
    Ok(count)
}

/// Where a character of a text begins, or the end of the text if it has fewer.
fn place_of(subject: Ref<Text>, character: usize) -> Result<Reading, Stopped> {
    let mut found = reading(subject);
    if subject.is_plain()? {
        found.at = character.min(subject.len());
        found.character = found.at;
        return Ok(found);
    }
    if found.character > character {
        (found.character, found.at) = (0, 0);
    }
    let mut clusters = Clusters::from(&subject, found.at);
    found.character += clusters.skip(character - found.character)?;
    found.at = clusters.at();
    Heap::with(|heap| heap.set_reading(found));
    Ok(found)
}

/// Where characters of a text were looked for last, so that who asks for one after the other goes
/// over the text once.
fn reading(subject: Ref<Text>) -> Reading {
    let known = Heap::with(|heap| heap.reading(subject));
    known.unwrap_or(Reading {
        text: subject,
        character: 0,
        at: 0,
        count: None,
    })
}

/// The characters between two places.
pub(super) fn slice(args: &[Value]) -> Outcome {
    let subject = text(args, 0)?;
    let (from, to) = (integer(args, 1)?, integer(args, 2)?);
    let place = |asked: i64| usize::try_from(asked).unwrap_or(usize::MAX);
    let start = place_of(subject, place(from))?;
    let end = place_of(subject, place(to).max(place(from)))?;
    if start.character < place(from) || end.character < place(to) {
        let length = count(subject)?;
        position(args, 1, length)?;
        position(args, 2, length)?;
    }
    let cut = &subject[start.at..end.at];
    if let [byte] = *cut.as_bytes()
        && let Some(letter) = Heap::with(|heap| heap.letter(byte))
    {
        return Ok(Value::Text(letter));
    }
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
fn first_place(subject: &str, part: &str) -> Result<Option<usize>, Stopped> {
    Matches::new(subject, part).next()
}

/// Where a part last stands in a text.
fn last_place(subject: &str, part: &str) -> Result<Option<usize>, Stopped> {
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

pub(super) fn replace(args: &[Value]) -> Outcome {
    let (subject, old, new) = (text(args, 0)?, text(args, 1)?, text(args, 2)?);
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

pub(super) fn split(args: &[Value]) -> Outcome {
    let (subject, by) = (text(args, 0)?, text(args, 1)?);
    let mut parts = Items::new();
    if by.is_empty() {
        let mut clusters = Clusters::new(&subject);
        while let Some(cluster) = clusters.next()? {
            parts.push(Value::text(cluster))?;
        }
        return Ok(parts.list());
    }
    let mut from = 0;
    let mut places = Matches::new(&subject, &by);
    while let Some(found) = places.next()? {
        bounded(found - from)?;
        parts.push(Value::text(&subject[from..found]))?;
        from = found + by.len();
    }
    bounded(subject.len() - from)?;
    parts.push(Value::text(&subject[from..]))?;
    Ok(parts.list())
}

pub(super) fn lines(args: &[Value]) -> Outcome {
    let subject = text(args, 0)?;
    let mut parts = Items::new();
    for line in subject.lines() {
        bounded(line.len())?;
        spend(line.len())?;
        parts.push(Value::text(line))?;
    }
    Ok(parts.list())
}

pub(super) fn reverse(args: &[Value]) -> Outcome {
    let subject = text(args, 0)?;
    bounded(subject.len())?;
    let mut bytes = vec![0; subject.len()];
    let mut clusters = Clusters::new(&subject);
    let mut end = subject.len();
    while let Some(cluster) = clusters.next()? {
        let start = end - cluster.len();
        bytes[start..end].copy_from_slice(cluster.as_bytes());
        end = start;
    }
    // Whole characters in another order are a text again.
    Ok(Value::text(String::from_utf8(bytes).unwrap_or_default()))
}

pub(super) fn pad_left(args: &[Value]) -> Outcome {
    pad(args, Side::Left)
}

pub(super) fn pad_right(args: &[Value]) -> Outcome {
    pad(args, Side::Right)
}

/// Where a text is filled up.
#[derive(Clone, Copy)]
enum Side {
    Left,
    Right,
}

/// A text made as wide as asked, in columns of a terminal.
fn pad(args: &[Value], side: Side) -> Outcome {
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
    match side {
        Side::Left => {
            fill.push(&mut out)?;
            out.push(&subject)?;
        }
        Side::Right => {
            out.push(&subject)?;
            fill.push(&mut out)?;
        }
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

/// What a text with holes comes to, and other texts whose parts are all written one after the other.
pub(super) fn of(args: &[Value]) -> Outcome {
    let mut out = Growing::new();
    for part in args {
        match part {
            Value::Text(text) => out.push(text)?,
            Value::Integer(n) => out.push_integer(*n)?,
            other => out.push(&shown(other)?)?,
        }
    }
    Ok(out.text())
}

pub(super) fn join(args: &[Value]) -> Outcome {
    let items = list(args)?;
    let by = text(args, 1)?;
    let mut out = Growing::new();
    for (index, item) in items.items.iter().enumerate() {
        if index > 0 {
            out.push(&by)?;
        }
        out.push(&shown(&item)?)?;
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
            assert_eq!(first_place(&text, part), Ok(Some(before)));
            assert_eq!(last_place(&text, part), Ok(Some(before)));
            assert_eq!(first_place(&text, "z"), Ok(None));
            assert_eq!(last_place(&text, "z"), Ok(None));
        }
        assert_eq!(
            (
                first_place("", ""),
                first_place("ab", ""),
                last_place("ab", "")
            ),
            (Ok(Some(0)), Ok(Some(0)), Ok(Some(2)))
        );
        assert_eq!(
            (first_place("", "a"), last_place("", "a")),
            (Ok(None), Ok(None))
        );
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
