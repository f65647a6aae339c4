//! Source text, spans, and what a person calls a line and a column.

use std::sync::{Arc, OnceLock};

use serde::{Deserialize, Serialize};
use unicode_segmentation::UnicodeSegmentation;

mod composed;
mod load;
pub use composed::Composer;
pub use load::{LoadError, from_bytes};

/// A half-open range of byte offsets into one source text.
#[derive(
    Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug, Default, Serialize, Deserialize,
)]
pub struct Span {
    /// Offset of the first byte.
    pub start: u32,
    /// Offset one past the last byte.
    pub end: u32,
}

impl Span {
    /// The span from `start` to `end`, in bytes.
    pub fn new(start: usize, end: usize) -> Span {
        Span {
            start: start as u32,
            end: end as u32,
        }
    }

    /// The smallest span that covers both.
    #[must_use]
    pub fn to(self, other: Span) -> Span {
        Span {
            start: self.start.min(other.start),
            end: self.end.max(other.end),
        }
    }

    /// The empty span at the end of this one.
    #[must_use]
    pub fn after(self) -> Span {
        Span {
            start: self.end,
            end: self.end,
        }
    }

    /// As a range of `usize`, for slicing.
    pub fn range(self) -> std::ops::Range<usize> {
        self.start as usize..self.end as usize
    }

    /// Whether no byte is covered.
    pub fn is_empty(self) -> bool {
        self.start == self.end
    }
}

/// The last place at or before an offset where no character of a text is cut apart.
pub fn floor(text: &str, offset: usize) -> usize {
    let mut at = offset.min(text.len());
    while !text.is_char_boundary(at) {
        at -= 1;
    }
    at
}

/// The first place at or after an offset where no character of a text is cut apart.
pub fn ceiling(text: &str, offset: usize) -> usize {
    let mut at = offset.min(text.len());
    while !text.is_char_boundary(at) {
        at += 1;
    }
    at
}

/// A text with other texts in the place of stretches, which are in order; of two that overlap the
/// second has what the first leaves.
pub(crate) fn exchanged<'t>(
    text: &str,
    edits: impl IntoIterator<Item = (Span, &'t str)>,
) -> String {
    let mut out = String::with_capacity(text.len());
    let mut at = 0;
    for (span, with) in edits {
        let (start, end) = (span.start as usize, span.end as usize);
        out.push_str(&text[at..start.max(at)]);
        out.push_str(with);
        at = end.max(at);
    }
    out + &text[at..]
}

/// Line and column as a person counts them, both from 1. A column is a grapheme
/// cluster: what the reader takes for one character, however many bytes it has.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug, Serialize, Deserialize)]
pub struct Position {
    /// The line, from 1.
    pub line: u32,
    /// The column, in grapheme clusters, from 1.
    pub column: u32,
}

impl std::fmt::Display for Position {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}:{}", self.line, self.column)
    }
}

/// One text with its name. The text is shared, so that diagnostics and compiled
/// functions can keep hold of the text they speak of.
pub struct SourceText {
    name: String,
    text: String,
    line_starts: OnceLock<Box<[u32]>>,
    ascii: bool,
    /// Where on the way through the text which column is, for long lines; made when it is first
    /// asked for.
    columns: OnceLock<Vec<(u32, u32)>>,
    /// Where it comes from, if it has been put together.
    parts: Vec<composed::Stretch>,
}

impl PartialEq for SourceText {
    fn eq(&self, other: &SourceText) -> bool {
        std::ptr::eq(self, other)
            || (&self.name, &self.text, &self.parts) == (&other.name, &other.text, &other.parts)
    }
}

impl Eq for SourceText {}

impl std::fmt::Debug for SourceText {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "SourceText({}, {} bytes)", self.name, self.text.len())
    }
}

impl SourceText {
    /// Takes a text under a name (a path, or a word such as `entry`). A byte order
    /// mark at the front is dropped; offsets count from after it.
    pub fn new(name: impl Into<String>, text: impl Into<String>) -> Arc<SourceText> {
        SourceText::with_parts(name.into(), text.into(), Vec::new())
    }

    /// A text of nothing, where there is no text yet.
    pub(crate) fn none() -> Arc<SourceText> {
        SourceText::new("", "")
    }

    fn with_parts(
        name: String,
        mut text: String,
        parts: Vec<composed::Stretch>,
    ) -> Arc<SourceText> {
        if text.starts_with('\u{feff}') {
            text.drain(..'\u{feff}'.len_utf8());
        }
        Arc::new(SourceText {
            name,
            ascii: text.is_ascii(),
            text,
            line_starts: OnceLock::new(),
            columns: OnceLock::new(),
            parts,
        })
    }

    /// Where lines start, looked for when somebody asks.
    fn line_starts(&self) -> &[u32] {
        self.line_starts.get_or_init(|| {
            let mut starts = vec![0];
            for (at, byte) in (1..).zip(self.text.as_bytes()) {
                if *byte == b'\n' {
                    starts.push(at);
                }
            }
            starts.into()
        })
    }

    /// The name the text was given.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// The whole text.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// The text that a span covers; empty if the span lies outside the text.
    pub fn slice(&self, span: Span) -> &str {
        self.text.get(span.range()).unwrap_or("")
    }

    /// The number of lines; a text that ends in a line end has an empty last line.
    pub fn line_count(&self) -> usize {
        self.line_starts().len()
    }

    /// The span of a line (counted from 1) without its line end.
    pub fn line_span(&self, line: u32) -> Span {
        let index = (line.max(1) as usize - 1).min(self.line_starts().len() - 1);
        let start = self.line_starts()[index] as usize;
        let end = self
            .line_starts()
            .get(index + 1)
            .map_or(self.text.len(), |&next| next as usize - 1);
        let end = if end > start && self.text.as_bytes()[end - 1] == b'\r' {
            end - 1
        } else {
            end
        };
        Span::new(start, end.max(start))
    }

    /// The line (from 1) that an offset lies on.
    pub fn line_of(&self, offset: u32) -> u32 {
        self.line_starts().partition_point(|&start| start <= offset) as u32
    }

    /// The offset of a line and a column, both counted from 1; the end of a line is a place
    /// on it. Nothing if there is no such place.
    pub fn offset_at(&self, line: u32, column: u32) -> Option<u32> {
        if line == 0 || column == 0 || line as usize > self.line_count() {
            return None;
        }
        let span = self.line_span(line);
        let starts = self
            .slice(span)
            .grapheme_indices(true)
            .map(|(at, _)| at as u32);
        let ends = std::iter::once(span.end - span.start);
        let mut places = starts.chain(ends);
        places
            .nth(column as usize - 1)
            .map(|place| span.start + place)
    }

    /// A place on a line that is not far before an offset, and how many characters of the line
    /// are before that.
    fn column_before(&self, start: usize, offset: usize) -> (usize, usize) {
        const FAR: usize = 1 << 12;
        if offset - start <= 2 * FAR {
            return (start, 0);
        }
        let marks = self.columns.get_or_init(|| {
            let mut marks = Vec::new();
            let (mut column, mut last) = (0, 0);
            for (at, cluster) in self.text.grapheme_indices(true) {
                if at - last >= FAR {
                    marks.push((at as u32, column));
                    last = at;
                }
                column += 1;
                if cluster.ends_with('\n') {
                    column = 0;
                }
            }
            marks
        });
        let next = marks.partition_point(|&(at, _)| at as usize <= offset);
        match next.checked_sub(1).map(|index| marks[index]) {
            Some((at, column)) if at as usize >= start => (at as usize, column as usize),
            _ => (start, 0),
        }
    }

    /// Line and column of an offset. Takes constant time, but for the first time on a text that
    /// is not ASCII and has long lines.
    pub fn position(&self, offset: u32) -> Position {
        let offset = (offset as usize).min(self.text.len());
        let line = self.line_of(offset as u32);
        let start = self.line_starts()[line as usize - 1] as usize;
        let column = if self.ascii {
            offset - start + 1
        } else {
            let (from, passed) = self.column_before(start, offset);
            let before = self.text.get(from..offset).unwrap_or("");
            passed + before.graphemes(true).count() + 1
        };
        Position {
            line,
            column: column as u32,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_and_columns_count_what_a_person_sees() {
        let source = SourceText::new("t", "\u{feff}a\r\nn\u{e9}e\u{301}x\n\ty");
        assert_eq!(source.slice(source.line_span(1)), "a");
        let x = source.text().find('x').unwrap() as u32;
        assert_eq!(source.position(x).to_string(), "2:4");
        let y = source.text().find('y').unwrap() as u32;
        assert_eq!(source.position(y).to_string(), "3:2");
        assert_eq!(source.position(9999).line, 3);
        assert_eq!(source.offset_at(2, 4), Some(x));
        assert_eq!(source.offset_at(3, 2), Some(y));
        assert_eq!(source.offset_at(3, 4), None);
        assert_eq!(source.offset_at(4, 1), None);
    }

    #[test]
    fn columns_of_long_lines_are_those_of_short_ones() {
        let line = "水e\u{301}x".repeat(10_000);
        let source = SourceText::new("t", format!("a\n{line}\n{line}"));
        let starts = [2, 3 + line.len()];
        for (line, start) in (2..).zip(starts) {
            for count in [0, 1, 5_000, 9_999] {
                let at = start + count * "水e\u{301}x".len() + "水".len();
                let position = source.position(at as u32);
                assert_eq!(
                    (position.line, position.column),
                    (line, 3 * count as u32 + 2)
                );
            }
        }
    }

    #[test]
    fn empty_text_has_one_line() {
        let source = SourceText::new("t", "");
        assert_eq!(source.line_count(), 1);
        assert_eq!(source.position(0).to_string(), "1:1");
        assert!(source.line_span(7).is_empty());
    }
}
