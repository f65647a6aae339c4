//! Values of eight bytes: a number as it is, and in what would be no number a tag of sixteen bits
//! with an integer of forty-eight, or an address.

use super::heap::Head;

#[derive(Clone, Copy, PartialEq, Eq)]
#[repr(transparent)]
pub struct Word(pub u64);

/// The tags; what is below the first is a number. That of integers has every bit, so that one look tells
/// whether two values are both.
pub const SPECIAL: u64 = 0xFFF9;
pub const TEXT: u64 = 0xFFFA;
pub const LIST: u64 = 0xFFFB;
pub const CARD: u64 = 0xFFFC;
pub const FUNC: u64 = 0xFFFD;
/// A shared variable, or an integer of more than forty-eight bits.
pub const OTHER: u64 = 0xFFFE;
pub const INT: u64 = 0xFFFF;

const REST: u64 = (1 << 48) - 1;

impl Word {
    pub const NOTHING: Word = Word(SPECIAL << 48);
    pub const NO: Word = Word(SPECIAL << 48 | 1);
    pub const YES: Word = Word(SPECIAL << 48 | 2);

    #[inline(always)]
    pub fn tag(self) -> u64 {
        self.0 >> 48
    }

    #[inline(always)]
    pub fn is(self, tag: u64) -> bool {
        self.tag() == tag
    }

    #[inline(always)]
    pub fn is_number(self) -> bool {
        self.0 < SPECIAL << 48
    }

    /// An integer that is known to fit.
    #[inline(always)]
    pub fn small(n: i64) -> Word {
        Word(INT << 48 | n as u64 & REST)
    }

    #[inline(always)]
    pub fn fits(n: i64) -> bool {
        n << 16 >> 16 == n
    }

    #[inline(always)]
    pub fn integer(self) -> i64 {
        (self.0 << 16) as i64 >> 16
    }

    /// Both are integers.
    #[inline(always)]
    pub fn are_integers(self, other: Word) -> bool {
        Word(self.0 & other.0).is(INT)
    }

    /// An integer in the upper forty-eight bits, where what is too large for it overflows.
    #[inline(always)]
    pub fn upper(self) -> i64 {
        (self.0 << 16) as i64
    }

    #[inline(always)]
    pub fn of_upper(n: i64) -> Word {
        Word(INT << 48 | n as u64 >> 16)
    }

    #[inline(always)]
    pub fn real(n: f64) -> Word {
        Word(n.to_bits())
    }

    #[inline(always)]
    pub fn number(self) -> f64 {
        f64::from_bits(self.0)
    }

    #[inline(always)]
    pub fn truth(truth: bool) -> Word {
        Word(Word::NO.0 + u64::from(truth))
    }

    #[inline(always)]
    pub fn object<T>(tag: u64, at: *const T) -> Word {
        Word(tag << 48 | at as u64)
    }

    #[inline(always)]
    pub fn at<T>(self) -> *mut T {
        (self.0 & REST) as *mut T
    }

    /// What it leads to, if it leads anywhere.
    pub fn head(self) -> Option<*mut Head> {
        (TEXT..=OTHER).contains(&self.tag()).then(|| self.at())
    }
}
