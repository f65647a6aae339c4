//! Places in a text as editors count them: a line and a character of it, both from 0, where a
//! character is a byte, a unit of UTF-16 or a code point, as has been agreed.

use lsp_types::{Position, PositionEncodingKind, Range};
use quillon_core::source::{Span, floor};

/// What a character is.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Unit {
    Utf8,
    Utf16,
    Utf32,
}

impl Unit {
    /// The best of those that the editor knows.
    pub fn agreed(known: &[PositionEncodingKind]) -> Unit {
        let all = [
            (PositionEncodingKind::UTF8, Unit::Utf8),
            (PositionEncodingKind::UTF32, Unit::Utf32),
        ];
        let best = all.into_iter().find(|(kind, _)| known.contains(kind));
        best.map_or(Unit::Utf16, |(_, unit)| unit)
    }

    /// Its name.
    pub fn kind(self) -> PositionEncodingKind {
        match self {
            Unit::Utf8 => PositionEncodingKind::UTF8,
            Unit::Utf16 => PositionEncodingKind::UTF16,
            Unit::Utf32 => PositionEncodingKind::UTF32,
        }
    }

    fn width(self, c: char) -> usize {
        match self {
            Unit::Utf8 => c.len_utf8(),
            Unit::Utf16 => c.len_utf16(),
            Unit::Utf32 => 1,
        }
    }

    /// How many units a text takes.
    pub fn length(self, text: &str) -> u32 {
        match self {
            Unit::Utf8 => text.len() as u32,
            Unit::Utf16 | Unit::Utf32 if text.is_ascii() => text.len() as u32,
            Unit::Utf16 | Unit::Utf32 => text.chars().map(|c| self.width(c)).sum::<usize>() as u32,
        }
    }
}

/// Where the lines of a text begin: behind each `\n`, `\r\n` and `\r`.
#[derive(Debug)]
pub struct Lines {
    starts: Vec<u32>,
    unit: Unit,
}

impl Lines {
    pub fn new(text: &str, unit: Unit) -> Lines {
        let bytes = text.as_bytes();
        let ends = bytes.iter().enumerate().filter(|(at, byte)| {
            **byte == b'\n' || **byte == b'\r' && bytes.get(at + 1) != Some(&b'\n')
        });
        let behind = ends.map(|(at, _)| at as u32 + 1);
        Lines {
            starts: std::iter::once(0).chain(behind).collect(),
            unit,
        }
    }

    fn line<'t>(&self, text: &'t str, line: usize) -> &'t str {
        let start = self.starts[line] as usize;
        let end = self
            .starts
            .get(line + 1)
            .map_or(text.len(), |end| *end as usize);
        text[start..end].trim_end_matches(['\n', '\r'])
    }

    /// The place of an offset.
    pub fn position(&self, text: &str, offset: u32) -> Position {
        let offset = floor(text, offset as usize);
        let line = self
            .starts
            .partition_point(|start| *start as usize <= offset)
            - 1;
        let start = self.starts[line] as usize;
        Position {
            line: line as u32,
            character: self.unit.length(&text[start..offset]),
        }
    }

    /// The place where a line ends.
    pub fn end_of(&self, text: &str, line: u32) -> Position {
        let length = self.unit.length(self.line(text, line as usize));
        Position {
            line,
            character: length,
        }
    }

    /// The range of a span.
    pub fn range(&self, text: &str, span: Span) -> Range {
        Range {
            start: self.position(text, span.start),
            end: self.position(text, span.end),
        }
    }

    /// The offset of a place; of one behind the end of its line, the end; of one inside a character,
    /// where that begins.
    pub fn offset(&self, text: &str, position: Position) -> u32 {
        let line = position.line as usize;
        let Some(start) = self.starts.get(line) else {
            return text.len() as u32;
        };
        let mut left = position.character as usize;
        let mut at = *start;
        for c in self.line(text, line).chars() {
            let width = self.unit.width(c);
            if left < width {
                break;
            }
            left -= width;
            at += c.len_utf8() as u32;
        }
        at
    }

    /// The span of a range, whichever end comes first.
    pub fn span(&self, text: &str, range: Range) -> Span {
        let (one, other) = (self.offset(text, range.start), self.offset(text, range.end));
        Span {
            start: one.min(other),
            end: one.max(other),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn places_go_to_offsets_and_back_in_every_unit() {
        let text = "a😀b\r\n\récluse\n😀";
        for unit in [Unit::Utf8, Unit::Utf16, Unit::Utf32] {
            let lines = Lines::new(text, unit);
            assert_eq!(lines.starts.len(), 4);
            for (offset, _) in text.char_indices().filter(|(at, _)| *at != 7) {
                let position = lines.position(text, offset as u32);
                assert_eq!(
                    lines.offset(text, position),
                    offset as u32,
                    "{unit:?} {position:?}"
                );
            }
        }
    }

    #[test]
    fn places_that_are_none_become_near_ones() {
        let text = "a😀b\nend";
        let lines = Lines::new(text, Unit::Utf16);
        let at = |line, character| lines.offset(text, Position { line, character });
        assert_eq!(at(0, 2), 1, "half of a character");
        assert_eq!(at(0, 99), 6, "behind the end of the line");
        assert_eq!(at(7, 0), 10, "behind the last line");
    }
}
