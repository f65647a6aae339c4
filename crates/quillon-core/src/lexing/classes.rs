//! Character classes: code points that no pattern tells apart share one column of
//! the automaton's table.

use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};

use super::byte_sets::Bytes;
use crate::definition::CharSet;

/// Which class each code point is in.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(from = "Stretches", into = "Stretches")]
pub(super) struct Classes {
    ascii: [u8; 128],
    /// Starts of stretches of one class, sorted.
    starts: Vec<u32>,
    of_start: Vec<u8>,
    count: usize,
    /// Whether each class has characters that are not ASCII.
    is_beyond: Vec<bool>,
}

/// Where stretches of one class start, in order, and the class of each.
type Stretches = (Vec<u32>, Vec<u8>);

impl From<Stretches> for Classes {
    fn from((starts, of_start): Stretches) -> Classes {
        let count = of_start.iter().max().map_or(0, |last| *last as usize + 1);
        let mut classes = Classes {
            ascii: [0; 128],
            count,
            is_beyond: vec![false; count],
            starts,
            of_start,
        };
        let first = classes.starts.partition_point(|&start| start <= 128);
        for class in &classes.of_start[first.saturating_sub(1)..] {
            classes.is_beyond[*class as usize] = true;
        }
        for code in 0..128u8 {
            classes.ascii[code as usize] = classes.search(u32::from(code));
        }
        classes
    }
}

impl From<Classes> for Stretches {
    fn from(classes: Classes) -> Stretches {
        (classes.starts, classes.of_start)
    }
}

/// Sorts the bounds of ranges.
#[expect(
    clippy::stable_sort_primitive,
    reason = "the ranges of a set come in order, and this sort only has to merge them"
)]
fn sort(bounds: &mut [u32]) {
    bounds.sort();
}

impl Classes {
    /// The coarsest classes that keep every one of these sets apart, and for each
    /// set the classes it is made of. Nothing if there are more than 255.
    pub fn new(sets: &[CharSet]) -> Option<(Classes, Vec<Vec<u8>>)> {
        let mut starts: Vec<u32> = vec![0];
        for set in sets {
            for &(low, high) in set.ranges() {
                starts.push(low);
                starts.push(high + 1);
            }
        }
        sort(&mut starts);
        starts.dedup();
        // A row of bits for each start: which sets have the stretch that begins there.
        let words = sets.len().div_ceil(64).max(1);
        let mut memberships: Vec<u64> = vec![0; words * starts.len()];
        for (index, set) in sets.iter().enumerate() {
            for &(low, high) in set.ranges() {
                let first = starts.partition_point(|&s| s < low);
                let last = starts.partition_point(|&s| s <= high);
                for membership in memberships[first * words..last * words].chunks_mut(words) {
                    membership[index / 64] |= 1 << (index % 64);
                }
            }
        }
        let mut known: FxHashMap<&[u64], u8> = FxHashMap::default();
        let mut of_start = Vec::with_capacity(starts.len());
        let rows: Vec<&[u64]> = memberships.chunks(words).collect();
        for (at, &membership) in rows.iter().enumerate() {
            // What belongs to a script and what does not take turns mostly.
            if at >= 2 && rows[at - 2] == membership {
                of_start.push(of_start[at - 2]);
                continue;
            }
            let next = known.len();
            let class = *known.entry(membership).or_insert(u8::try_from(next).ok()?);
            of_start.push(class);
        }
        let mut of_set = vec![Vec::new(); sets.len()];
        for (membership, &class) in &known {
            for (index, classes) in of_set.iter_mut().enumerate() {
                if membership[index / 64] >> (index % 64) & 1 == 1 {
                    classes.push(class);
                }
            }
        }
        Some((Classes::from((starts, of_start)), of_set))
    }

    /// A character of a class, one that can be printed if there is any.
    pub fn example(&self, class: u8) -> char {
        // Letters and digits read best in a message.
        let readable = ('a'..='z')
            .chain('0'..='9')
            .chain('!'..='~')
            .chain(Some(' '));
        readable
            .into_iter()
            .find(|&c| self.of(c) == class)
            .or_else(|| {
                let at = self.of_start.iter().position(|&c| c == class)?;
                (self.starts[at]..).find_map(char::from_u32)
            })
            .unwrap_or('\u{fffd}')
    }

    /// The characters of a class.
    pub fn set(&self, class: u8) -> CharSet {
        let ends = self.starts[1..].iter().copied();
        let ends = ends.chain(Some(char::MAX as u32 + 1));
        let stretches = self.starts.iter().zip(ends).zip(&self.of_start);
        CharSet::new(
            stretches
                .filter(|((start, end), of)| **of == class && start < &end)
                .map(|((start, end), _)| (*start, end - 1))
                .collect(),
        )
    }

    fn search(&self, code: u32) -> u8 {
        self.of_start[self.starts.partition_point(|&s| s <= code) - 1]
    }

    /// The classes of the characters that are not ASCII.
    pub fn beyond_ascii(&self) -> impl Iterator<Item = u8> + '_ {
        (0..self.count as u8).filter(|class| self.is_beyond[*class as usize])
    }

    /// The ASCII bytes of a class.
    pub fn bytes(&self, class: u8) -> Bytes {
        let bytes = (0..128).filter(|byte| self.ascii[*byte as usize] == class);
        bytes.collect()
    }

    /// The number of classes.
    pub fn count(&self) -> usize {
        self.count
    }

    /// The class of an ASCII byte.
    #[inline]
    pub fn of_ascii(&self, byte: u8) -> u8 {
        self.ascii[byte as usize & 127]
    }

    /// The class of any character.
    #[inline]
    pub fn of(&self, c: char) -> u8 {
        if c.is_ascii() {
            self.of_ascii(c as u8)
        } else {
            self.search(c as u32)
        }
    }
}
