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

/// All tokens of a text that has no mistakes.
pub fn tokens(text: &str) -> Vec<Token> {
    let bytes = text.as_bytes();
    let words: std::collections::HashMap<&[u8], Kind> = WORDS
        .iter()
        .map(|word| (word.as_bytes(), kind_of(word)))
        .collect();
    let mut out = Vec::with_capacity(bytes.len() / 4);
    let mut at = 0;
    let mut tight = false;
    while at < bytes.len() {
        let start = at;
        let kind = match bytes[at] {
            b' ' | b'\t' | b'\r' | b'\n' => {
                while at < bytes.len() && matches!(bytes[at], b' ' | b'\t' | b'\r' | b'\n') {
                    at += 1;
                }
                tight = false;
                continue;
            }
            b'~' => {
                while at < bytes.len() && bytes[at] != b'\n' {
                    at += 1;
                }
                tight = false;
                continue;
            }
            b'a'..=b'z' | b'A'..=b'Z' | b'_' => {
                at += 1;
                at += name_length(&bytes[at..]);
                // Keywords are short: longer names need no look-up.
                if at - start <= 9 {
                    words.get(&bytes[start..at]).copied().unwrap_or(NAME)
                } else {
                    NAME
                }
            }
            b'0'..=b'9' => {
                while at < bytes.len() && bytes[at].is_ascii_digit() {
                    at += 1;
                }
                if at + 1 < bytes.len() && bytes[at] == b'.' && bytes[at + 1].is_ascii_digit() {
                    at += 1;
                    while at < bytes.len() && bytes[at].is_ascii_digit() {
                        at += 1;
                    }
                    DECIMAL
                } else {
                    WHOLE
                }
            }
            b'"' => {
                at += 1;
                while bytes[at] != b'"' {
                    at += if bytes[at] == b'\\' { 2 } else { 1 };
                }
                at += 1;
                TEXT
            }
            first => {
                let second = bytes.get(at + 1).copied().unwrap_or(0);
                let two = matches!(
                    (first, second),
                    (b'<', b'>' | b'=') | (b'>', b'=') | (b'/', b'/')
                );
                at += if two { 2 } else { 1 };
                SIGN_KINDS[first as usize] + u16::from(two) * 100 * u16::from(second)
            }
        };
        out.push(Token {
            kind,
            tight,
            start: start as u32,
            end: at as u32,
        });
        tight = true;
    }
    out
}

/// The bytes that a name goes on with.
const IN_NAME: [bool; 256] = {
    let mut table = [false; 256];
    let mut byte = 0;
    while byte < 128 {
        table[byte] = (byte as u8).is_ascii_alphanumeric() || byte as u8 == b'_';
        byte += 1;
    }
    table
};

/// How far a name goes on: eight bytes at a time, without a branch between.
fn name_length(bytes: &[u8]) -> usize {
    let mut length = 0;
    for eight in bytes.chunks_exact(8) {
        let mut inside = 0u32;
        for (at, byte) in eight.iter().enumerate() {
            inside |= u32::from(IN_NAME[*byte as usize]) << at;
        }
        let run = inside.trailing_ones() as usize;
        length += run;
        if run < 8 {
            return length;
        }
    }
    let rest = &bytes[length..];
    length + rest.iter().take_while(|b| IN_NAME[**b as usize]).count()
}

/// The kind of each one-byte sign; two-byte signs add to it.
const SIGN_KINDS: [Kind; 128] = {
    let mut table = [0; 128];
    let mut byte = 0;
    while byte < 128 {
        table[byte] = 200 + byte as Kind;
        byte += 1;
    }
    table
};

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
