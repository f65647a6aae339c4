//! Tokens made up from their patterns.

use fastrand::Rng;

use crate::definition::{CharSet, Holds, Pattern};
use crate::lexing::{KindId, Lexer};

/// How many texts there are to choose from for each kind.
const CHOICES: usize = 12;

/// Words that read well, where a kind takes them.
const WORDS: [&str; 10] = [
    "boat", "gate", "level", "lock", "toll", "n", "a", "b", "keeper", "wharf",
];

/// Numbers that people write.
const NUMBERS: [&str; 9] = ["2", "1", "3", "5", "10", "0", "100", "0.5", "2.5"];

/// Numbers that find mistakes.
const ODD_NUMBERS: [&str; 12] = [
    "0",
    "1",
    "2",
    "3",
    "7",
    "10",
    "100",
    "0.5",
    "2.5",
    "1.0",
    "9223372036854775807",
    "255",
];

/// Which programs are wanted.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Taste {
    /// Such as a person could have written.
    Plausible,
    /// Such as find mistakes.
    Odd,
}

/// Several texts of a kind, each one token of it.
pub(super) fn texts(lexer: &Lexer, kind: KindId, taste: Taste, rng: &mut Rng) -> Vec<String> {
    let own = lexer.kind(kind);
    let mut found: Vec<String> = Vec::new();
    if let Some(pattern) = own.pattern() {
        let written = |words: &[&str]| words.iter().map(|word| (*word).to_owned()).collect();
        let ready: Vec<String> = match (own.holds, taste) {
            (Some(Holds::Integer | Holds::Number), Taste::Plausible) => written(&NUMBERS),
            (Some(Holds::Integer | Holds::Number), Taste::Odd) => written(&ODD_NUMBERS),
            (Some(Holds::Text), Taste::Plausible) => quoted(pattern),
            (Some(Holds::Text), Taste::Odd) => Vec::new(),
            (None, _) => written(&WORDS),
        };
        found.extend(ready.into_iter().filter(|text| lexer.is_one(kind, text)));
        // Names are few, so that programs use what they bind.
        let enough = match (found.is_empty(), taste) {
            (true, _) => CHOICES,
            (false, Taste::Plausible) => found.len(),
            (false, Taste::Odd) => found.len().max(8),
        };
        for _ in 0..4 * CHOICES {
            if found.len() >= enough {
                break;
            }
            let mut text = String::new();
            write(pattern, rng, &mut text);
            if !found.contains(&text) && lexer.is_one(kind, &text) {
                found.push(text);
            }
        }
    }
    if found.is_empty() {
        found.extend(lexer.sample(kind));
    }
    found
}

/// Words between what a pattern of texts begins and ends with.
fn quoted(pattern: &Pattern) -> Vec<String> {
    let Some((open, _, close)) = pattern.delimited() else {
        return Vec::new();
    };
    let words = WORDS.iter().filter(|word| word.len() > 1);
    words.map(|word| format!("{open}{word}{close}")).collect()
}

/// Adds a text of a pattern. What is left out of a pattern by `-` is not looked at: who asks
/// finds out whether the text is a token of the kind.
fn write(pattern: &Pattern, rng: &mut Rng, out: &mut String) {
    match pattern {
        Pattern::Literal(text) => out.push_str(text),
        Pattern::Class(set) => out.extend(pick(set, rng)),
        Pattern::Sequence(parts) => parts.iter().for_each(|part| write(part, rng, out)),
        Pattern::Choice(parts) => {
            if let Some(part) = rng.choice(parts.iter()) {
                write(part, rng, out);
            }
        }
        Pattern::Optional(part) => {
            if rng.bool() {
                write(part, rng, out);
            }
        }
        Pattern::Star(part) => (0..rng.usize(0..4)).for_each(|_| write(part, rng, out)),
        Pattern::Plus(part) => (0..rng.usize(1..4)).for_each(|_| write(part, rng, out)),
        Pattern::Except(part, _) => write(part, rng, out),
        Pattern::Nested(open, close) => {
            out.push_str(open);
            out.push_str(close);
        }
    }
}

/// A character of a class, one that can be typed if there is any.
fn pick(set: &CharSet, rng: &mut Rng) -> Option<char> {
    for _ in 0..30 {
        let c = char::from(rng.u8(b' '..=b'~'));
        let c = if rng.u8(0..3) > 0 {
            c.to_ascii_lowercase()
        } else {
            c
        };
        if set.contains(c) {
            return Some(c);
        }
    }
    let (first, last) = *rng.choice(set.ranges())?;
    (0..10).find_map(|_| char::from_u32(rng.u32(first..=last)))
}
