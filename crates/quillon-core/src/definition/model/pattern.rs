//! Token patterns and sets of characters.

use serde::{Deserialize, Serialize};

// `LETTERS`, `IDENTIFIER_START` and `IDENTIFIER_PART`: see `build.rs`.
include!(concat!(env!("OUT_DIR"), "/classes.rs"));

/// A token pattern: the operators of the W3C's EBNF over characters.
#[derive(Clone, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub enum Pattern {
    /// Exactly this text.
    Literal(String),
    /// One character of a set.
    Class(CharSet),
    /// One after the other.
    Sequence(Vec<Pattern>),
    /// One of several.
    Choice(Vec<Pattern>),
    /// There or not.
    Optional(Box<Pattern>),
    /// Any number of times.
    Star(Box<Pattern>),
    /// Once or more.
    Plus(Box<Pattern>),
    /// From an opening text to the closing one that belongs to it.
    Nested(String, String),
    /// What the first matches, unless the second matches it as well.
    Except(Box<Pattern>, Box<Pattern>),
}

impl Pattern {
    /// The only text that it matches, if there is just one.
    pub(crate) fn only_text(&self) -> Option<String> {
        match self {
            Pattern::Literal(text) => Some(text.clone()),
            Pattern::Class(set) => match set.ranges[..] {
                [(low, high)] if low == high => char::from_u32(low).map(String::from),
                _ => None,
            },
            Pattern::Sequence(parts) => {
                let texts = parts.iter().map(Pattern::only_text);
                texts
                    .collect::<Option<Vec<String>>>()
                    .map(|all| all.concat())
            }
            Pattern::Choice(parts) => {
                let mut texts = parts.iter().map(Pattern::only_text);
                let first = texts.next()??;
                texts
                    .all(|text| text.as_ref() == Some(&first))
                    .then_some(first)
            }
            Pattern::Optional(_)
            | Pattern::Star(_)
            | Pattern::Plus(_)
            | Pattern::Nested(..)
            | Pattern::Except(..) => None,
        }
    }
}

/// A set of code points as sorted ranges that neither touch nor overlap, both ends
/// included.
#[derive(Clone, PartialEq, Eq, Debug, Default, Serialize, Deserialize)]
pub struct CharSet {
    ranges: Vec<(u32, u32)>,
}

/// The last code point.
const LAST: u32 = char::MAX as u32;

impl CharSet {
    /// The set of these ranges, in any order.
    pub fn new(mut ranges: Vec<(u32, u32)>) -> CharSet {
        ranges.sort_unstable();
        let mut merged: Vec<(u32, u32)> = Vec::with_capacity(ranges.len());
        for (low, high) in ranges {
            match merged.last_mut() {
                Some(last) if low <= last.1.saturating_add(1) => last.1 = last.1.max(high),
                _ => merged.push((low, high)),
            }
        }
        CharSet { ranges: merged }
    }

    /// One character.
    pub fn single(c: char) -> CharSet {
        CharSet::new(vec![(c as u32, c as u32)])
    }

    /// A letter as a capital and as a small one.
    pub(crate) fn either_case(c: char) -> CharSet {
        let single =
            |mut others: Box<dyn Iterator<Item = char>>| match (others.next(), others.next()) {
                (Some(one), None) => one,
                _ => c,
            };
        let small = single(Box::new(c.to_lowercase()));
        let capital = single(Box::new(c.to_uppercase()));
        CharSet::new([c, small, capital].map(|c| (c as u32, c as u32)).to_vec())
    }

    /// Every character.
    pub fn any() -> CharSet {
        CharSet::new(vec![(0, LAST)])
    }

    /// The decimal digits of ASCII.
    pub fn digit() -> CharSet {
        CharSet::new(vec![('0' as u32, '9' as u32)])
    }

    /// Every letter of Unicode (the property Alphabetic).
    pub fn letter() -> CharSet {
        CharSet {
            ranges: LETTERS.to_vec(),
        }
    }

    /// The characters with which an identifier can start (XID_Start of Unicode).
    pub fn identifier_start() -> CharSet {
        CharSet {
            ranges: IDENTIFIER_START.to_vec(),
        }
    }

    /// The characters with which an identifier can go on (XID_Continue of Unicode).
    pub fn identifier_part() -> CharSet {
        CharSet {
            ranges: IDENTIFIER_PART.to_vec(),
        }
    }

    /// Everything else.
    #[must_use]
    pub(crate) fn complement(&self) -> CharSet {
        let mut ranges = Vec::with_capacity(self.ranges.len() + 1);
        let mut next = 0;
        for &(low, high) in &self.ranges {
            if low > next {
                ranges.push((next, low - 1));
            }
            next = high + 1;
        }
        if next <= LAST {
            ranges.push((next, LAST));
        }
        CharSet { ranges }
    }

    /// What is in this set and not in the other.
    #[must_use]
    pub(crate) fn minus(&self, other: &CharSet) -> CharSet {
        let mut outside = self.complement().ranges;
        outside.extend(&other.ranges);
        CharSet::new(outside).complement()
    }

    /// The ranges, sorted.
    pub(crate) fn ranges(&self) -> &[(u32, u32)] {
        &self.ranges
    }

    /// Whether it has no characters.
    pub fn is_empty(&self) -> bool {
        self.ranges.is_empty()
    }

    /// Whether a character is in it.
    pub fn contains(&self, c: char) -> bool {
        let code = c as u32;
        let after = self.ranges.partition_point(|&(low, _)| low <= code);
        after > 0 && self.ranges[after - 1].1 >= code
    }
}

impl Pattern {
    /// The same, with capital and small letters alike in its texts.
    #[must_use]
    pub(crate) fn ignoring_case(&self) -> Pattern {
        let all = |parts: &[Pattern]| parts.iter().map(Pattern::ignoring_case).collect();
        let inner = |part: &Pattern| Box::new(part.ignoring_case());
        match self {
            Pattern::Literal(text)
                if text.chars().any(|c| c.is_lowercase() || c.is_uppercase()) =>
            {
                let either = |c: char| Pattern::Class(CharSet::either_case(c));
                Pattern::Sequence(text.chars().map(either).collect())
            }
            Pattern::Literal(_) | Pattern::Class(_) | Pattern::Nested(..) => self.clone(),
            Pattern::Sequence(parts) => Pattern::Sequence(all(parts)),
            Pattern::Choice(parts) => Pattern::Choice(all(parts)),
            Pattern::Optional(part) => Pattern::Optional(inner(part)),
            Pattern::Star(part) => Pattern::Star(inner(part)),
            Pattern::Plus(part) => Pattern::Plus(inner(part)),
            Pattern::Except(a, b) => Pattern::Except(inner(a), inner(b)),
        }
    }

    /// Whether it matches the empty text.
    pub(crate) fn matches_empty(&self) -> bool {
        match self {
            Pattern::Literal(text) | Pattern::Nested(text, _) => text.is_empty(),
            Pattern::Class(_) => false,
            Pattern::Sequence(parts) => parts.iter().all(Pattern::matches_empty),
            Pattern::Choice(parts) => parts.iter().any(Pattern::matches_empty),
            Pattern::Optional(_) | Pattern::Star(_) => true,
            Pattern::Plus(part) => part.matches_empty(),
            Pattern::Except(part, but) => part.matches_empty() && !but.matches_empty(),
        }
    }

    /// The only text that is matched, if there is only one.
    pub fn fixed(&self) -> Option<String> {
        match self {
            Pattern::Literal(text) => Some(text.clone()),
            Pattern::Class(set) => match set.ranges() {
                [(low, high)] if low == high => char::from_u32(*low).map(String::from),
                _ => None,
            },
            Pattern::Sequence(parts) => parts.iter().map(Pattern::fixed).collect(),
            _ => None,
        }
    }

    /// The opening text, what is repeated up to the closing text, and that: of a pattern
    /// like `'"' [^"]* '"'`.
    pub(crate) fn delimited(&self) -> Option<(String, &Pattern, String)> {
        let Pattern::Sequence(parts) = self else {
            return None;
        };
        let at = parts
            .iter()
            .position(|part| matches!(part, Pattern::Star(_)))?;
        let Pattern::Star(inner) = &parts[at] else {
            return None;
        };
        let fixed =
            |parts: &[Pattern]| -> Option<String> { parts.iter().map(Pattern::fixed).collect() };
        let (open, close) = (fixed(&parts[..at])?, fixed(&parts[at + 1..])?);
        (!open.is_empty() && !close.is_empty()).then_some((open, &**inner, close))
    }
}

#[cfg(test)]
mod tests {
    use super::CharSet;

    #[test]
    fn sets_complement_and_subtract() {
        let digits = CharSet::digit();
        assert!(digits.contains('7') && !digits.contains('a'));
        let rest = digits.complement();
        assert!(!rest.contains('7') && rest.contains('a') && rest.contains('\u{10ffff}'));
        let odd = digits.minus(&CharSet::single('4'));
        assert_eq!(odd.ranges(), &[(48, 51), (53, 57)]);
        assert_eq!(rest.complement(), digits);
    }

    #[test]
    fn the_table_of_letters_has_letters() {
        let letters = CharSet::letter();
        assert_eq!(CharSet::new(letters.ranges().to_vec()), letters);
        for c in (0..0x11_0000).filter_map(char::from_u32) {
            assert!(!letters.contains(c) || c.is_alphabetic(), "{c:?}");
        }
        assert!("aZéßжλ水".chars().all(|c| letters.contains(c)));
    }
}
