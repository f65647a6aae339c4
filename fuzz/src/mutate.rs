//! Changing texts and bytes at random.

use fastrand::Rng;

/// Words and signs that are put in here and there.
const ODD: [&str; 28] = [
    "(",
    ")",
    "[",
    "]",
    "{",
    "}",
    "\"",
    "'",
    "\\",
    "*",
    "+",
    "?",
    "|",
    "~",
    ":",
    ":=",
    ",",
    ";",
    "\n",
    "\t",
    "\r\n",
    "\u{9b}",
    "e\u{301}",
    "水",
    "\u{202e}",
    "9223372036854775808",
    "-- ",
    "\u{feff}",
];

/// A text with some changes: pieces left out, doubled, moved, taken from another text, or put in.
pub fn text(random: &mut Rng, text: &str, other: &str) -> String {
    let mut pieces = pieces(text);
    let others = self::pieces(other);
    for _ in 0..random.usize(1..6) {
        if pieces.is_empty() {
            pieces.push(" ");
        }
        let at = random.usize(..pieces.len());
        let length = random.usize(1..12).min(pieces.len() - at);
        match random.u32(..7) {
            0 => {
                pieces.drain(at..at + length);
            }
            1 => {
                let copy: Vec<&str> = pieces[at..at + length].to_vec();
                pieces.splice(at..at, copy);
            }
            2 => {
                let taken: Vec<&str> = pieces.drain(at..at + length).collect();
                let to = random.usize(..=pieces.len());
                pieces.splice(to..to, taken);
            }
            3 | 4 if !others.is_empty() => {
                let from = random.usize(..others.len());
                let count = random.usize(1..20).min(others.len() - from);
                pieces.splice(at..at, others[from..from + count].iter().copied());
            }
            5 => pieces[at] = ODD[random.usize(..ODD.len())],
            _ => pieces.insert(at, ODD[random.usize(..ODD.len())]),
        }
    }
    pieces.concat()
}

/// Words, signs and blanks, each a piece.
fn pieces(text: &str) -> Vec<&str> {
    let kind = |c: char| match c {
        c if c.is_alphanumeric() || c == '_' => 0,
        ' ' => 1,
        _ => 2,
    };
    let mut pieces = Vec::new();
    let mut start = 0;
    let mut last = None;
    for (at, c) in text.char_indices() {
        if last.is_some_and(|last| last != kind(c) || last == 2) {
            pieces.push(&text[start..at]);
            start = at;
        }
        last = Some(kind(c));
    }
    pieces.push(&text[start..]);
    pieces
}

/// Bytes with some changes.
pub fn bytes(random: &mut Rng, bytes: &mut Vec<u8>) {
    for _ in 0..random.usize(1..8) {
        if bytes.is_empty() {
            bytes.push(0);
        }
        let at = random.usize(..bytes.len());
        match random.u32(..5) {
            0 => bytes[at] ^= 1 << random.u32(..8),
            1 => bytes[at] = random.u8(..),
            2 => bytes.truncate(at),
            3 => bytes.insert(at, random.u8(..)),
            _ => {
                bytes.remove(at);
            }
        }
    }
}
