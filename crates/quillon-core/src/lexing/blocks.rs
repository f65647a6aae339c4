//! Tokens by the block: of sixty-four bytes at a time it is worked out at once where tokens begin and
//! end, as far as the bytes tell by themselves; the automaton is asked about the rest. Where a run of
//! bytes ends is found by carries (after Langdale and Lemire 2019, "Parsing gigabytes of JSON per
//! second").

use super::automaton::Automaton;
#[cfg(target_arch = "x86_64")]
use super::byte_sets::wider;
use super::byte_sets::{ByteSet, Bytes, WIDTH};
use super::scan::Scan;
use super::{Care, KindId, Token};
use crate::source::Span;

/// What the bytes of a text tell of its tokens.
#[derive(Clone, Debug)]
pub(super) struct Blocks {
    /// The kind of the token that each byte begins; `ASK` where that takes more than the byte.
    kinds: Box<[u16; 256]>,
    /// What words are made of: a token from the first to the last of such bytes.
    word: ByteSet,
    /// What numbers are made of, which begin as words could.
    number: ByteSet,
    /// What a number may go on with that is in no word.
    after: ByteSet,
    /// What lies between tokens.
    blank: ByteSet,
    /// What signs of several bytes begin with, and go on with.
    pairs: ByteSet,
    /// Whether numbers have nothing but digits in them.
    has_digits: bool,
    /// Whether a word may be one of the language.
    looks_up: bool,
    /// Whether the bytes tell of any token at all.
    tells: bool,
}

/// The kind of a token that the automaton has to be asked about.
const ASK: u16 = u16::MAX;

/// Up to so many decimal digits are always a number that there is room for.
const DIGITS: usize = 18;

impl Blocks {
    /// What the bytes tell that an automaton reads.
    pub fn new(automaton: &Automaton, care: &[Care]) -> Blocks {
        let begins: Vec<Option<Begins>> = (0..128)
            .map(|byte| Begins::new(automaton, care, byte))
            .collect();
        let with = |is: &dyn Fn(&Begins) -> bool| -> Bytes {
            let bytes = begins.iter().zip(0u8..);
            bytes
                .filter(|(begins, _)| begins.as_ref().is_some_and(is))
                .map(|(_, byte)| byte)
                .collect()
        };
        let beginning =
            |stays: Bytes, ignored: bool| with(&|one| one.ignored == ignored && one.stays == stays);
        // The bytes that tokens are made of from the first to the last, of those that the most bytes
        // can begin.
        let whole = |ignored: bool| {
            let mut sets: Vec<Bytes> = Vec::new();
            for (begins, byte) in begins.iter().zip(0u8..) {
                if let Some(begins) = begins
                    && begins.ignored == ignored
                    && begins.goes_on.is_empty()
                    && begins.stays.has(byte)
                    && !sets.contains(&begins.stays)
                {
                    sets.push(begins.stays);
                }
            }
            let set = sets.into_iter();
            let set = set.max_by_key(|stays| beginning(*stays, ignored).len());
            set.unwrap_or_default()
        };
        let (word, blank) = (whole(false), whole(true));
        // Unless each of them can begin it, more than the byte has to be looked at.
        let blank = if beginning(blank, true) == blank && !blank.meets(word) {
            blank
        } else {
            Bytes::default()
        };
        let of_number = begins.iter().zip(0u8..).find_map(|(begins, byte)| {
            let begins = begins.as_ref().filter(|begins| !begins.ignored)?;
            let is_one = begins.stays != word && begins.stays.has(byte) && begins.stays.is_in(word);
            is_one.then_some(begins)
        });
        let number = of_number.map(|begins| begins.stays).unwrap_or_default();
        let after = of_number.map(|begins| begins.goes_on).unwrap_or_default();
        let mut pairs = Bytes::default();
        let mut kinds = Box::new([ASK; 256]);
        for (begins, byte) in begins.iter().zip(0u8..) {
            let Some(begins) = begins.as_ref().filter(|begins| !begins.ignored) else {
                continue;
            };
            let is_known = if word.has(byte) {
                let is_word = begins.stays == word && begins.goes_on.is_empty();
                let is_number = begins.stays == number && begins.goes_on == after;
                is_word || is_number && number.has(byte)
            } else {
                let goes_on = begins.goes_on;
                begins.stays.is_empty()
                    && !begins.goes_on_beyond
                    && !goes_on.meets(word)
                    && !goes_on.meets(blank)
            };
            if is_known {
                kinds[byte as usize] = begins.kind;
            }
            if is_known && !word.has(byte) && !begins.goes_on.is_empty() {
                pairs.insert(byte);
                pairs.extend(begins.goes_on);
            }
        }
        let mut known = kinds.iter().filter(|kind| **kind != ASK).peekable();
        let tells = known.peek().is_some();
        Blocks {
            tells,
            looks_up: known.any(|kind| care[*kind as usize].word),
            kinds,
            has_digits: (0..128).all(|byte| !number.has(byte) || byte.is_ascii_digit()),
            word: ByteSet::new(word),
            number: ByteSet::new(number),
            after: ByteSet::new(after),
            blank: ByteSet::new(blank),
            pairs: ByteSet::new(pairs),
        }
    }
}

impl Blocks {
    /// The sets of bytes, in the order of their masks.
    #[inline]
    fn sets(&self) -> [&ByteSet; SETS] {
        [
            &self.word,
            &self.blank,
            &self.number,
            &self.after,
            &self.pairs,
        ]
    }
}

/// What a byte begins, if it is a token.
struct Begins {
    kind: u16,
    ignored: bool,
    /// What the same token can go on with any number of times.
    stays: Bytes,
    /// What else it can go on with.
    goes_on: Bytes,
    /// Whether it can go on with more than ASCII.
    goes_on_beyond: bool,
}

impl Begins {
    fn new(automaton: &Automaton, care: &[Care], byte: u8) -> Option<Begins> {
        let state = automaton.after(automaton.start(), byte as char);
        let kind = automaton.accepted(state)?;
        let Care {
            ignored, goes_on, ..
        } = care[kind as usize];
        if goes_on {
            return None;
        }
        let [stays, goes_on] = automaton.bytes_from(state);
        Some(Begins {
            kind,
            ignored,
            stays,
            goes_on,
            goes_on_beyond: automaton.leads_beyond_ascii(state),
        })
    }
}

/// Which bytes of a block are of words, blank, of numbers, of what numbers go on with, of signs of several
/// bytes, and no ASCII.
type Masks = ([u64; SETS], u64);
const SETS: usize = 5;

/// Where the tokens of a block are.
struct Found {
    /// Where they begin, and their last bytes: as many of these as of those.
    starts: u64,
    ends: u64,
    /// The bytes that are blank.
    blank: u64,
    /// How many bytes of the block are read.
    length: usize,
    /// Whether the automaton is to be asked there.
    asks: bool,
}

impl Found {
    #[expect(
        clippy::inline_always,
        reason = "all that the loop over tokens has is at hand then"
    )]
    #[inline(always)]
    fn new(([word, blank, number, after, pairs], beyond): Masks) -> Found {
        let alone = !(word | blank);
        let words = word & !(word << 1);
        let starts = words | alone;
        let ends = word & !(word >> 1) | alone;
        // Behind each number that begins a word: a carry runs through it.
        let behind = (words & number).wrapping_add(number) & !number;
        let asked = pairs & (pairs >> 1) | (beyond >> 1) & ends | (behind & (after | word)) >> 1;
        // What ends with the block may go on behind it.
        let is_cut = (word | pairs) >> (WIDTH - 1) == 1;
        let at = asked.trailing_zeros();
        let asks = at < 64;
        let before = if asks {
            u64::MAX >> (63 - at)
        } else {
            u64::MAX
        };
        let length = match starts & before {
            open if (asks || is_cut) && open != 0 => 63 - open.leading_zeros() as usize,
            _ => WIDTH,
        };
        let below = if length == WIDTH {
            u64::MAX
        } else {
            (1 << length) - 1
        };
        Found {
            starts: starts & below,
            ends: ends & below,
            blank,
            length,
            // A word that fills the block is one for the automaton.
            asks: asks || length == 0,
        }
    }

    /// Whether what begins at a place touches what is before it, where a block touches as `tight` says.
    fn touches(&self, at: usize, tight: bool) -> bool {
        match at.checked_sub(1) {
            Some(before) => self.blank >> before & 1 == 0,
            None => tight,
        }
    }
}

impl Scan<'_> {
    /// Goes on over the blocks of a text as far as their bytes tell what the tokens are: where the
    /// automaton is to be asked, and whether a token there touches the one before.
    #[inline]
    pub(super) fn by_blocks(&mut self, blocks: &Blocks, at: usize, tight: bool) -> (usize, bool) {
        if !blocks.tells {
            return (at, tight);
        }
        #[cfg(target_arch = "x86_64")]
        if wider::is_there() {
            // SAFETY: it has just been asked.
            #[allow(unsafe_code)]
            return unsafe { self.by_wider_looks(blocks, at, tight) };
        }
        self.by_looks(blocks, at, tight)
    }

    /// The same with instructions that not every processor has.
    #[cfg(target_arch = "x86_64")]
    #[target_feature(enable = "avx2,bmi1,bmi2,lzcnt")]
    #[inline(never)]
    fn by_wider_looks(&mut self, blocks: &Blocks, at: usize, tight: bool) -> (usize, bool) {
        self.over_blocks(blocks, at, tight, |sets, block| wider::masks(sets, block))
    }

    #[inline(never)]
    fn by_looks(&mut self, blocks: &Blocks, at: usize, tight: bool) -> (usize, bool) {
        self.over_blocks(blocks, at, tight, ByteSet::masks)
    }

    #[expect(
        clippy::inline_always,
        reason = "it is compiled for the instructions of each caller"
    )]
    #[inline(always)]
    fn over_blocks(
        &mut self,
        blocks: &Blocks,
        mut at: usize,
        mut tight: bool,
        masks: impl Fn([&ByteSet; SETS], &[u8; WIDTH]) -> Masks,
    ) -> (usize, bool) {
        // Behind the block stand eight bytes more for whoever looks at the beginning of a word.
        while let Some(bytes) = self.source.text().as_bytes().get(at..at + WIDTH + 8)
            && let Some(block) = bytes.first_chunk()
        {
            let found = Found::new(masks(blocks.sets(), block));
            let (mut starts, mut ends) = (found.starts, found.ends);
            self.out.tokens.reserve(WIDTH);
            while starts != 0 {
                let start = starts.trailing_zeros() as usize;
                let end = ends.trailing_zeros() as usize + 1;
                let kind = blocks.kinds[block[start] as usize];
                let touches = found.touches(start, tight);
                if kind == ASK {
                    return (at + start, touches);
                }
                starts &= starts - 1;
                ends &= ends - 1;
                let span = Span::new(at + start, at + end);
                self.short_token(blocks, KindId(kind), span, &bytes[start..], touches);
            }
            tight = found.touches(found.length, tight);
            at += found.length;
            if found.asks {
                break;
            }
        }
        (at, tight)
    }

    /// Puts a token on the list; `bytes` are those from its first on.
    #[expect(
        clippy::inline_always,
        reason = "all that the loop over tokens has is at hand then"
    )]
    #[inline(always)]
    fn short_token(
        &mut self,
        blocks: &Blocks,
        kind: KindId,
        span: Span,
        bytes: &[u8],
        tight: bool,
    ) {
        let length = (span.end - span.start) as usize;
        let (kind, also) = if blocks.looks_up {
            self.lexer.words.called(bytes, length, kind)
        } else {
            (kind, None)
        };
        let token = Token::new(kind, span).with(also, tight);
        if self.lexer.care[kind.0 as usize].is_value && !(blocks.has_digits && length <= DIGITS) {
            self.check_value(token);
        }
        self.out.tokens.push(token);
    }
}
