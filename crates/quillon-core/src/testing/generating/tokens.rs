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

/// Numbers that find mistakes, where a kind takes them.
const NUMBERS: [&str; 12] = [
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

/// Several texts of a kind, each one token of it.
pub(super) fn texts(lexer: &Lexer, kind: KindId, rng: &mut Rng) -> Vec<String> {
    let own = lexer.kind(kind);
    let mut found: Vec<String> = Vec::new();
    if let Some(pattern) = own.pattern() {
        let ready: &[&str] = match own.holds {
            Some(Holds::Integer | Holds::Number) => &NUMBERS,
            Some(Holds::Text) => &[],
            None => &WORDS,
        };
        found.extend(
            ready
                .iter()
                .filter(|text| lexer.is_one(kind, text))
                .map(|text| (*text).to_owned()),
        );
        // Names are few, so that programs use what they bind.
        let enough = if found.is_empty() {
            CHOICES
        } else {
            found.len().max(8)
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
