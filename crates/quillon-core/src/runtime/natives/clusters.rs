//! The characters of a text as a person takes them, grapheme clusters, gone over piece by
//! piece: so that a long text is stopped by a limit in the middle, and nothing is made of it.

use crate::source::ceiling;
use unicode_segmentation::{GraphemeCursor, GraphemeIncomplete};

use crate::metering::Stopped;
use crate::values::spend;

/// So many bytes at the most are looked at between two looks at the meter, and so many at first.
const PIECE: usize = 1 << 16;
const FIRST: usize = 64;

/// What a byte costs, in units of the meter.
const BYTE: usize = 8;

/// The characters of a text, from the first to the last.
pub(super) struct Clusters<'t> {
    text: &'t str,
    /// Whether one byte is one character, line ends of two bytes apart.
    is_plain: bool,
    cursor: GraphemeCursor,
    /// Where the next character begins, and how far the text has been paid for.
    at: usize,
    paid: usize,
    size: usize,
}

impl<'t> Clusters<'t> {
    pub fn new(text: &'t str) -> Clusters<'t> {
        Clusters::in_pieces(text, FIRST)
    }

    /// From where a character begins.
    pub fn from(text: &'t str, at: usize) -> Clusters<'t> {
        Clusters {
            text,
            is_plain: false,
            cursor: GraphemeCursor::new(at, text.len(), true),
            at,
            paid: at,
            size: FIRST,
        }
    }

    fn in_pieces(text: &'t str, size: usize) -> Clusters<'t> {
        Clusters {
            text,
            is_plain: text.is_ascii(),
            cursor: GraphemeCursor::new(0, text.len(), true),
            at: 0,
            paid: 0,
            size,
        }
    }

    /// Where the next character begins.
    pub fn at(&self) -> usize {
        self.at
    }

    /// The next character, if there is one.
    pub fn next(&mut self) -> Result<Option<&'t str>, Stopped> {
        if self.at == self.text.len() {
            return Ok(None);
        }
        let from = self.at;
        self.at = if self.is_plain {
            self.plain_end()?
        } else {
            self.end()?
        };
        Ok(Some(&self.text[from..self.at]))
    }

    /// Passes over so many characters; how many there were.
    pub fn skip(&mut self, count: usize) -> Result<usize, Stopped> {
        for passed in 0..count {
            if self.next()?.is_none() {
                return Ok(passed);
            }
        }
        Ok(count)
    }

    fn plain_end(&mut self) -> Result<usize, Stopped> {
        if self.at >= self.paid {
            self.pay()?;
        }
        let is_line_end = self.text.as_bytes()[self.at..].starts_with(b"\r\n");
        Ok(self.at + 1 + usize::from(is_line_end))
    }

    /// Where the character ends that begins at `at`.
    fn end(&mut self) -> Result<usize, Stopped> {
        loop {
            // All that has been paid for, so that what comes before is always there to be seen.
            match self.cursor.next_boundary(&self.text[..self.paid], 0) {
                Ok(boundary) => return Ok(boundary.unwrap_or(self.text.len())),
                Err(GraphemeIncomplete::NextChunk) => self.pay()?,
                // None is asked for: the piece begins with the text, and the cursor is in it.
                Err(
                    GraphemeIncomplete::PreContext(_)
                    | GraphemeIncomplete::PrevChunk
                    | GraphemeIncomplete::InvalidOffset,
                ) => return Ok(self.text.len()),
            }
        }
    }

    fn pay(&mut self) -> Result<(), Stopped> {
        let end = (self.paid + self.size).min(self.text.len());
        let end = ceiling(self.text, end);
        spend(BYTE * (end - self.paid))?;
        self.paid = end;
        self.size = (2 * self.size).min(PIECE);
        Ok(())
    }
}

/// How many characters a text has.
pub(super) fn count(text: &str) -> Result<usize, Stopped> {
    if text.is_ascii() {
        spend(text.len())?;
        // A line end of two bytes is one character.
        return Ok(text.len() - text.matches("\r\n").count());
    }
    let mut clusters = Clusters::new(text);
    clusters.skip(usize::MAX)
}

#[cfg(test)]
mod tests {
    use super::*;
    use unicode_segmentation::UnicodeSegmentation;

    #[test]
    fn pieces_of_any_size_give_the_same_characters() {
        let parts = [
            "a",
            "\r",
            "\n",
            "e\u{301}",
            "\u{1f1e6}",
            "\u{1f468}\u{200d}",
            "\u{1f33e}",
            "\u{600}",
            "\u{915}\u{94d}",
            "\u{1100}",
            "\u{1161}",
            "\u{11a8}",
            "水",
            "\u{200d}",
            "\u{fe0f}",
        ];
        let mut random = fastrand::Rng::with_seed(7);
        for _ in 0..2000 {
            let text: String = (0..random.usize(..20))
                .map(|_| parts[random.usize(..parts.len())])
                .collect();
            let expected: Vec<&str> = text.graphemes(true).collect();
            for size in [1, 2, 3, 5, 8, 1000] {
                let mut clusters = Clusters::in_pieces(&text, size);
                let mut found = Vec::new();
                while let Some(cluster) = clusters.next().unwrap() {
                    found.push(cluster);
                }
                assert_eq!(found, expected, "{text:?} in pieces of {size}");
            }
            assert_eq!(count(&text).unwrap(), expected.len());
            let mut at = 0;
            for passed in 0..expected.len() {
                let mut rest = Clusters::from(&text, at);
                for cluster in &expected[passed..] {
                    assert_eq!(rest.next().unwrap(), Some(*cluster), "{text:?} from {at}");
                }
                at += expected[passed].len();
            }
        }
    }
}
