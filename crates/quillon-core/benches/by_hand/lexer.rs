//! The lexer by hand.

/// Kinds of token: keywords and signs by number, after the four with a text of their own.
pub type Kind = u16;

pub const NAME: Kind = 0;
pub const WHOLE: Kind = 1;
pub const DECIMAL: Kind = 2;
pub const TEXT: Kind = 3;

/// The keywords, in the order of their numbers.
pub const WORDS: &[&str] = &[
    "let",
    "be",
    "change",
    "to",
    "say",
    "do",
    "when",
    "otherwise",
    "while",
    "forever",
    "count",
    "from",
    "by",
    "each",
    "in",
    "stop",
    "skip",
    "alarm",
    "attempt",
    "mend",
    "way",
    "gives",
    "answer",
    "then",
    "or",
    "and",
    "not",
    "yes",
    "no",
    "nothing",
];

/// The signs, longer ones first.
pub const SIGNS: &[&str] = &[
    "<>", "<=", ">=", "//", "{", "}", "(", ")", "[", "]", ",", "#", ".", ":", "=", "<", ">", "&",
    "+", "-", "*", "/", "%", "^",
];

/// The number of a keyword or sign.
pub fn kind_of(text: &str) -> Kind {
    let at = WORDS.iter().chain(SIGNS).position(|w| *w == text);
    4 + at.expect("a known word") as Kind
}

/// A token: its kind, whether it touches the one before, and where it is.
#[derive(Clone, Copy)]
pub struct Token {
    pub kind: Kind,
    pub tight: bool,
    pub start: u32,
    pub end: u32,
}

/// All tokens of a text that has no mistakes: of sixty-four bytes at a time it is worked out where they begin and end,
/// and what is rarer stands apart.
pub fn tokens(text: &str) -> Vec<Token> {
    // Behind the text stand enough bytes for whoever looks ahead.
    let mut padded = Vec::with_capacity(text.len() + 2 * WIDTH);
    padded.extend_from_slice(text.as_bytes());
    padded.resize(text.len() + 2 * WIDTH, b' ');
    let keywords = Keywords::new();
    let mut out = Vec::with_capacity(text.len() / 4);
    let (mut at, mut tight) = (0, false);
    while at < text.len() {
        let block = Block::of(padded[at..].first_chunk().expect("padding"));
        let (mut starts, mut ends) = (block.starts, block.ends);
        out.reserve(WIDTH);
        while starts != 0 {
            let (start, end) = (starts.trailing_zeros(), ends.trailing_zeros() + 1);
            starts &= starts - 1;
            ends &= ends - 1;
            let from = at + start as usize;
            out.push(Token {
                kind: keywords.kind(&padded[from..], (end - start) as usize),
                tight: if start == 0 {
                    tight
                } else {
                    block.touches(start)
                },
                start: from as u32,
                end: (at as u32) + end,
            });
        }
        tight = match block.length {
            0 => tight,
            64 => block.touches_next,
            length => block.touches(length),
        };
        at += block.length as usize;
        if block.is_odd {
            (at, tight) = odd_token(&padded, at, text.len(), tight, &keywords, &mut out);
        }
    }
    // Of what was put behind the text nothing is one.
    while out
        .last()
        .is_some_and(|last| last.start as usize >= text.len())
    {
        out.pop();
    }
    out
}

/// So many bytes are looked at together.
const WIDTH: usize = 64;

/// Where the tokens of a block are, up to the first that takes more than a look.
struct Block {
    starts: u64,
    ends: u64,
    length: u32,
    is_odd: bool,
    blank: u64,
    touches_next: bool,
}

impl Block {
    #[inline]
    fn of(bytes: &[u8; WIDTH]) -> Block {
        let [word, digit, blank, quote, pair, point] = masks(bytes);
        let words = word & !(word << 1);
        let alone = !(word | blank);
        let starts = words | alone;
        let ends = word & !(word >> 1) | alone;
        let behind = (words & digit).wrapping_add(digit) & !digit;
        let odd = quote | pair & (pair >> 1) | (behind & (point | word)) >> 1;
        let at = odd.trailing_zeros();
        let before = if at < 64 {
            u64::MAX >> (63 - at)
        } else {
            u64::MAX
        };
        let is_cut = at < 64 || (word | pair) >> 63 == 1;
        let open = starts & before;
        let length = if is_cut && open != 0 {
            open.ilog2()
        } else {
            64
        };
        let below = if length == 64 {
            u64::MAX
        } else {
            (1 << length) - 1
        };
        Block {
            starts: starts & below,
            ends: ends & below,
            length,
            is_odd: at < 64 || length == 0,
            blank,
            touches_next: blank >> 63 == 0,
        }
    }

    fn touches(&self, at: u32) -> bool {
        self.blank >> (at - 1) & 1 == 0
    }
}

/// A token that takes more than a look at the block, or what lies between two: where it ends, and whether the next
/// would touch it.
#[inline(never)]
fn odd_token(
    padded: &[u8],
    start: usize,
    length: usize,
    tight: bool,
    keywords: &Keywords,
    out: &mut Vec<Token>,
) -> (usize, bool) {
    let run = |from: usize, is: &dyn Fn(u8) -> bool| {
        let rest = &padded[from..length];
        from + rest.iter().take_while(|byte| is(**byte)).count()
    };
    let digits = |from: usize| run(from, &|byte| byte.is_ascii_digit());
    let (kind, end) = match padded[start] {
        b'~' => return (run(start, &|byte| byte != b'\n'), false),
        b'"' => {
            let mut at = start + 1;
            while padded[at] != b'"' {
                at += if padded[at] == b'\\' { 2 } else { 1 };
            }
            (TEXT, at + 1)
        }
        byte if byte.is_ascii_digit() => match digits(start) {
            end if padded[end] == b'.' && padded[end + 1].is_ascii_digit() => {
                (DECIMAL, digits(end + 1))
            }
            end => (WHOLE, end),
        },
        byte if byte.is_ascii_alphabetic() || byte == b'_' => {
            let end = run(start, &|byte| byte.is_ascii_alphanumeric() || byte == b'_');
            (keywords.kind(&padded[start..], end - start), end)
        }
        byte => {
            let two = matches!(&padded[start..start + 2], b"<>" | b"<=" | b">=" | b"//");
            let more = if two {
                100 * u16::from(padded[start + 1])
            } else {
                0
            };
            (200 + u16::from(byte) + more, start + 1 + usize::from(two))
        }
    };
    out.push(Token {
        kind,
        tight,
        start: start as u32,
        end: end as u32,
    });
    (end, true)
}

/// Which bytes are of words, digits, blanks, the beginning of what is rarer, of signs of two bytes, and points.
#[cfg(target_arch = "x86_64")]
#[allow(unsafe_code)]
#[inline]
fn masks(bytes: &[u8; WIDTH]) -> [u64; 6] {
    use std::arch::x86_64::{
        _mm_cmpeq_epi8, _mm_loadu_si128, _mm_min_epu8, _mm_movemask_epi8, _mm_or_si128,
        _mm_set1_epi8, _mm_sub_epi8,
    };
    let mut masks = [0; 6];
    for part in 0..4 {
        // SAFETY: every processor of this kind has these instructions, and the block has so many bytes.
        let found = unsafe {
            let x = _mm_loadu_si128(bytes.as_ptr().add(16 * part).cast());
            let is = |byte: u8| _mm_cmpeq_epi8(x, _mm_set1_epi8(byte as i8));
            let within = |x, first: u8, more: u8| {
                let from = _mm_sub_epi8(x, _mm_set1_epi8(first as i8));
                _mm_cmpeq_epi8(_mm_min_epu8(from, _mm_set1_epi8(more as i8)), from)
            };
            let or = |one, other| _mm_or_si128(one, other);
            let digit = within(x, b'0', 9);
            let letter = within(or(x, _mm_set1_epi8(0x20)), b'a', 25);
            [
                or(or(letter, digit), is(b'_')),
                digit,
                or(within(x, b'\t', 4), is(b' ')),
                or(is(b'"'), is(b'~')),
                or(or(is(b'<'), is(b'>')), or(is(b'/'), is(b'='))),
                is(b'.'),
            ]
            .map(|found| _mm_movemask_epi8(found) as u16)
        };
        for (mask, found) in masks.iter_mut().zip(found) {
            *mask |= u64::from(found) << (16 * part);
        }
    }
    masks
}

/// The same, as the compiler makes it.
#[cfg(not(target_arch = "x86_64"))]
fn masks(bytes: &[u8; WIDTH]) -> [u64; 6] {
    let of = |is: &dyn Fn(u8) -> bool| {
        let bits = bytes.iter().zip(0..);
        bits.fold(0, |mask, (byte, at)| mask | u64::from(is(*byte)) << at)
    };
    [
        of(&|byte| byte.is_ascii_alphanumeric() || byte == b'_'),
        of(&|byte| byte.is_ascii_digit()),
        of(&|byte| byte == b' ' || (b'\t'..=b'\r').contains(&byte)),
        of(&|byte| byte == b'"' || byte == b'~'),
        of(&|byte| b"<>/=".contains(&byte)),
        of(&|byte| byte == b'.'),
    ]
}

/// The kind of what each byte begins, where it is no keyword.
const KINDS: [Kind; 256] = {
    let mut table = [NAME; 256];
    let mut byte = 0;
    while byte < 128 {
        let it = byte as u8;
        table[byte] = if it.is_ascii_alphabetic() || it == b'_' {
            NAME
        } else if it.is_ascii_digit() {
            WHOLE
        } else {
            200 + byte as Kind
        };
        byte += 1;
    }
    table
};

/// The keywords, in a table in which none meets another.
struct Keywords {
    slots: [(u64, u8, Kind); 256],
    factor: u64,
}

impl Keywords {
    fn new() -> Keywords {
        let mut keywords = Keywords {
            slots: [(0, 0, NAME); 256],
            factor: 0x9e37_79b9_7f4a_7c15,
        };
        while !WORDS.iter().all(|word| keywords.put(word)) {
            keywords.slots = [(0, 0, NAME); 256];
            let factor = keywords.factor.wrapping_mul(0x5851_f42d_4c95_7f2d);
            keywords.factor = factor.wrapping_add(2);
        }
        keywords
    }

    /// Whether nothing else stands in its slot.
    fn put(&mut self, word: &str) -> bool {
        let mut bytes = [0; 8];
        let length = word.len().min(8);
        bytes[..length].copy_from_slice(&word.as_bytes()[..length]);
        let head = u64::from_le_bytes(bytes);
        let at = self.place(head, word.len());
        let is_free = self.slots[at].1 == 0;
        self.slots[at] = (head, word.len() as u8, kind_of(word));
        is_free
    }

    #[inline]
    fn place(&self, head: u64, length: usize) -> usize {
        ((head ^ (length as u64) << 56).wrapping_mul(self.factor) >> 56) as usize
    }

    /// The kind of a token: no two keywords begin alike in eight bytes, and only one is longer.
    #[inline]
    fn kind(&self, bytes: &[u8], length: usize) -> Kind {
        let head = u64::from_le_bytes(*bytes.first_chunk().expect("padding"));
        let head = head & (u64::MAX >> (64 - 8 * length.min(8)));
        let (known, long, kind) = self.slots[self.place(head, length)];
        let is_word = known == head && usize::from(long) == length;
        if is_word && length > 8 && &bytes[..length] != b"otherwise" {
            return NAME;
        }
        if is_word {
            kind
        } else {
            KINDS[bytes[0] as usize]
        }
    }
}

/// The kind of a sign of one or two bytes.
pub const fn sign(text: &str) -> Kind {
    let bytes = text.as_bytes();
    let two = if bytes.len() == 2 {
        100 * bytes[1] as Kind
    } else {
        0
    };
    200 + bytes[0] as Kind + two
}
