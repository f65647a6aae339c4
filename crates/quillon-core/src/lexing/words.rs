//! Literals that a pattern matches as well: keywords, mostly. They are not part of the
//! automaton, which would have to spell each of them out; a token is looked up once it is
//! whole, in a table without collisions.

use serde::{Deserialize, Serialize};

use super::KindId;

/// What a word is.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub(super) struct Word {
    /// The literal's kind.
    pub kind: KindId,
    /// Whether it is only so where the grammar wants it.
    pub soft: bool,
}

#[derive(Clone, Copy, Debug, Default, Serialize, Deserialize)]
struct Slot {
    /// The first eight bytes, as many as there are.
    head: u64,
    length: u32,
    /// The number of the word, plus one; zero for none.
    word: u32,
    /// The kind of its literal, where it always is that; zero where it may be.
    kind: u16,
    /// The kind of its literal, where it may be that; zero where it always is.
    also: u16,
}

/// A table of words.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(super) struct Words {
    all: Vec<(String, Word)>,
    /// Whether they are the same in capital and in small letters: then they are small here.
    ignores_case: bool,
    slots: Vec<Slot>,
    factor: u64,
    shift: u32,
    longest: usize,
}

impl Words {
    /// The table of some words, each with what it is.
    pub fn new(mut words: Vec<(String, Word)>, ignores_case: bool) -> Words {
        if ignores_case {
            for (text, _) in &mut words {
                *text = text.to_lowercase();
            }
        }
        let mut table = Words {
            longest: words.iter().map(|(text, _)| text.len()).max().unwrap_or(0),
            all: words,
            ignores_case,
            ..Words::default()
        };
        // Words that begin alike in eight bytes and are of one length share a slot: the
        // first stands there, and the others are looked for one by one.
        let mut bits = (table.all.len() * 2)
            .next_power_of_two()
            .trailing_zeros()
            .max(1);
        loop {
            for attempt in 0..64u64 {
                table.factor = 0x9e37_79b9_7f4a_7c15u64
                    .wrapping_add(attempt.wrapping_mul(0x5851_f42d_4c95_7f2e))
                    | 1;
                table.shift = 64 - bits;
                if table.fill(1 << bits) {
                    return table;
                }
            }
            bits += 1;
        }
    }

    /// Puts every word in its slot; false where two of different heads meet.
    fn fill(&mut self, size: usize) -> bool {
        self.slots = vec![Slot::default(); size];
        for (index, (text, _)) in self.all.iter().enumerate() {
            let (head, length) = (head(text.as_bytes()), text.len() as u32);
            let at = self.place(head, length);
            let slot = &mut self.slots[at];
            if slot.word == 0 {
                let word = self.all[index].1;
                let [kind, also] = if word.soft {
                    [0, word.kind.0]
                } else {
                    [word.kind.0, 0]
                };
                *slot = Slot {
                    head,
                    length,
                    word: index as u32 + 1,
                    kind,
                    also,
                };
            } else if (slot.head, slot.length) != (head, length) {
                return false;
            }
        }
        true
    }

    /// The kind of a token of some bytes, of which eight more than its own can be looked at, and the
    /// soft literal that it may be as well.
    #[expect(
        clippy::inline_always,
        reason = "the loop over all tokens is a tenth slower without"
    )]
    #[inline(always)]
    pub fn called(&self, bytes: &[u8], length: usize, kind: KindId) -> (KindId, Option<KindId>) {
        if self.ignores_case || length > 8 {
            return self.called_any(bytes, 0, length, kind);
        }
        let first = bytes.first_chunk::<8>().copied().unwrap_or_default();
        let head = u64::from_le_bytes(first) & (u64::MAX >> (64 - 8 * length));
        let slot = &self.slots[self.place(head, length as u32)];
        // A slot without a word has no length.
        let is_it = slot.head == head && slot.length == length as u32;
        let own = if is_it { slot.kind } else { 0 };
        let also = if is_it { slot.also } else { 0 };
        let kind = if own == 0 { kind.0 } else { own };
        (KindId(kind), (also != 0).then_some(KindId(also)))
    }

    /// The same of a token from `start` to `end`, whatever stands behind it.
    #[inline(never)]
    pub fn called_any(
        &self,
        bytes: &[u8],
        start: usize,
        end: usize,
        kind: KindId,
    ) -> (KindId, Option<KindId>) {
        match self.find(bytes, start, end) {
            Some(word) if word.soft => (kind, Some(word.kind)),
            Some(word) => (word.kind, None),
            None => (kind, None),
        }
    }

    #[inline]
    fn place(&self, head: u64, length: u32) -> usize {
        ((head ^ u64::from(length) << 56).wrapping_mul(self.factor) >> self.shift) as usize
    }

    /// What the text from `start` to `end` is, if it is one of the words.
    #[expect(
        clippy::inline_always,
        reason = "the loop over all tokens is a tenth slower without"
    )]
    #[inline(always)]
    pub fn find(&self, bytes: &[u8], start: usize, end: usize) -> Option<Word> {
        let length = end - start;
        if length > self.longest {
            return None;
        }
        if self.ignores_case {
            return self.find_in_any_case(&bytes[start..end]);
        }
        let head = match bytes[start..].first_chunk::<8>() {
            Some(chunk) => u64::from_le_bytes(*chunk) & (u64::MAX >> (64 - 8 * length.min(8))),
            None => head(&bytes[start..end]),
        };
        let slot = self.slots[self.place(head, length as u32)];
        if slot.head != head || slot.length != length as u32 || slot.word == 0 {
            return None;
        }
        if length <= 8 {
            return Some(self.all[slot.word as usize - 1].1);
        }
        self.find_long(&bytes[start..end])
    }

    #[inline(never)]
    fn find_in_any_case(&self, text: &[u8]) -> Option<Word> {
        let text = std::str::from_utf8(text).ok()?.to_lowercase();
        let slot = self.slots[self.place(head(text.as_bytes()), text.len() as u32)];
        let found = &self.all[(slot.word as usize).checked_sub(1)?];
        if found.0 == text {
            return Some(found.1);
        }
        self.find_long(text.as_bytes())
    }

    #[inline(never)]
    fn find_long(&self, text: &[u8]) -> Option<Word> {
        self.all
            .iter()
            .find(|(word, _)| word.as_bytes() == text)
            .map(|(_, word)| *word)
    }
}

/// The first eight bytes of a text as a number.
fn head(text: &[u8]) -> u64 {
    let mut chunk = [0; 8];
    let length = text.len().min(8);
    chunk[..length].copy_from_slice(&text[..length]);
    u64::from_le_bytes(chunk)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_are_found_and_others_are_not() {
        let texts = ["if", "iffy", "otherwise", "otherwist", "a", "abcdefgh", "é"];
        let words = (1u16..)
            .zip(texts)
            .map(|(at, text)| {
                let word = Word {
                    kind: KindId(at),
                    soft: at == 3,
                };
                (text.to_owned(), word)
            })
            .collect();
        let table = Words::new(words, false);
        let find = |text: &str, tail: &str| {
            let all = format!("{text}{tail}");
            table.find(all.as_bytes(), 0, text.len()).map(|w| w.kind.0)
        };
        for tail in ["", " and more text"] {
            for (at, text) in (1..).zip(texts) {
                assert_eq!(find(text, tail), Some(at), "{text}");
            }
            for other in ["i", "ifx", "otherwisf", "abcdefgi", "abcdefghi", "e"] {
                assert_eq!(find(other, tail), None, "{other}");
            }
        }
    }
}
