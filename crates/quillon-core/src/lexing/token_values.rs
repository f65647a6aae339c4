//! The value that a token's text stands for.

use serde::{Deserialize, Serialize};

use crate::definition::{Holds, Literal, Pattern};

/// Why a token's text is not the value it is said to hold.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub(super) enum NoValue {
    /// A whole number outside 64 bits.
    TooLarge,
    /// No number at all.
    NotANumber,
}

/// What stands for something else inside of a text.
#[derive(Clone, PartialEq, Eq, Default, Debug, Serialize, Deserialize)]
pub(super) struct Escapes {
    /// Whether each text begins with a quotation mark.
    quoted: bool,
    /// Whether a backslash escapes.
    backslash: bool,
    /// The quotation mark, if two of them stand for one.
    doubled: Option<String>,
}

impl Escapes {
    /// What a pattern gives such a role.
    pub fn of(pattern: &Pattern) -> Escapes {
        let doubled = pattern.delimited().and_then(|(open, inner, close)| {
            let is_mark = open == close && mentions(inner, &close.repeat(2));
            is_mark.then_some(close)
        });
        Escapes {
            quoted: begins_with_mark(pattern),
            backslash: mentions_backslash(pattern),
            doubled,
        }
    }
}

/// Whether each text of a pattern begins with a sign that always stands there, or with one of a few that
/// stand at its end, too. What else a text begins with is its own.
fn begins_with_mark(pattern: &Pattern) -> bool {
    match pattern {
        Pattern::Literal(text) => text.starts_with(|c: char| !c.is_alphanumeric()),
        Pattern::Nested(..) => true,
        Pattern::Class(_) => pattern.fixed().is_some(),
        Pattern::Sequence(parts) => match &parts[..] {
            [first @ Pattern::Class(_), .., last] if first == last => true,
            [first, ..] => begins_with_mark(first),
            [] => false,
        },
        Pattern::Choice(parts) => parts.iter().all(begins_with_mark),
        Pattern::Except(part, _) | Pattern::Plus(part) => begins_with_mark(part),
        Pattern::Optional(_) | Pattern::Star(_) => false,
    }
}

/// Whether a pattern has a text among its alternatives or parts.
fn mentions(pattern: &Pattern, text: &str) -> bool {
    if pattern.fixed().as_deref() == Some(text) {
        return true;
    }
    match pattern {
        Pattern::Literal(_) | Pattern::Nested(..) | Pattern::Class(_) => false,
        Pattern::Sequence(parts) | Pattern::Choice(parts) => {
            parts.iter().any(|part| mentions(part, text))
        }
        Pattern::Except(part, _)
        | Pattern::Optional(part)
        | Pattern::Star(part)
        | Pattern::Plus(part) => mentions(part, text),
    }
}

/// Converts a token's text.
pub(super) fn value(
    text: &str,
    holds: Option<Holds>,
    escapes: &Escapes,
) -> Result<Literal, NoValue> {
    match holds {
        None => Ok(Literal::Text(text.to_owned())),
        Some(Holds::Integer) => integer(text).map(Literal::Integer),
        Some(Holds::Number) => number(text).map(Literal::Number),
        Some(Holds::Text) if escapes.quoted => Ok(Literal::Text(unquoted(text, escapes))),
        Some(Holds::Text) => Ok(Literal::Text(inside(text, escapes))),
    }
}

/// Decimal digits, or hexadecimal, octal or binary ones after `0x`, `0o`, `0b`; `_`
/// and `'` between digits are passed over.
fn integer(text: &str) -> Result<i64, NoValue> {
    let digits: String = text.chars().filter(|c| !"_'".contains(*c)).collect();
    let (sign, unsigned) = match digits.strip_prefix('-') {
        Some(rest) => ("-", rest),
        None => ("", digits.strip_prefix('+').unwrap_or(&digits)),
    };
    let lower = unsigned.to_ascii_lowercase();
    let (radix, body) = [("0x", 16), ("0o", 8), ("0b", 2)]
        .into_iter()
        .find_map(|(prefix, radix)| Some((radix, lower.strip_prefix(prefix)?)))
        .unwrap_or((10, &lower));
    if body.is_empty() || !body.chars().all(|c| c.is_digit(radix)) {
        return Err(NoValue::NotANumber);
    }
    i64::from_str_radix(&format!("{sign}{body}"), radix).map_err(|_| NoValue::TooLarge)
}

fn number(text: &str) -> Result<f64, NoValue> {
    let digits: String = text.chars().filter(|c| !"_'".contains(*c)).collect();
    digits
        .parse::<f64>()
        .ok()
        .filter(|n| n.is_finite())
        .ok_or(NoValue::NotANumber)
}

/// Whether a pattern gives the backslash a role of its own, so that it escapes.
fn mentions_backslash(pattern: &Pattern) -> bool {
    match pattern {
        Pattern::Literal(text) => text.contains('\\'),
        Pattern::Nested(..) => false,
        Pattern::Class(set) => set.ranges() == [('\\' as u32, '\\' as u32)],
        Pattern::Sequence(parts) | Pattern::Choice(parts) => parts.iter().any(mentions_backslash),
        Pattern::Except(part, _) => mentions_backslash(part),
        Pattern::Optional(part) | Pattern::Star(part) | Pattern::Plus(part) => {
            mentions_backslash(part)
        }
    }
}

/// Takes off the quotes: a sign at the front, repeated or not, and its mirror image at
/// the end.
fn unquoted(text: &str, escapes: &Escapes) -> String {
    let Some(open) = text.chars().next().filter(|c| !c.is_alphanumeric()) else {
        return text.to_owned();
    };
    let close = match open {
        '(' => ')',
        '[' => ']',
        '{' => '}',
        '<' => '>',
        '«' => '»',
        '“' => '”',
        '‘' => '’',
        other => other,
    };
    let triple = |c: char| c.to_string().repeat(3);
    let inner = match (text.strip_prefix(&triple(open)), triple(close)) {
        // Where two marks stand for one, the outermost are the quotes.
        (Some(rest), end) if escapes.doubled.is_none() && rest.ends_with(&end) => {
            &rest[..rest.len() - end.len()]
        }
        _ => {
            let rest = &text[open.len_utf8()..];
            rest.strip_suffix(close).unwrap_or(rest)
        }
    };
    inside(inner, escapes)
}

/// What a text without its quotes stands for.
pub(super) fn inside(inner: &str, escapes: &Escapes) -> String {
    let text = match &escapes.doubled {
        Some(mark) => inner.replace(&mark.repeat(2), mark),
        None => inner.to_owned(),
    };
    if escapes.backslash {
        resolved(&text)
    } else {
        text
    }
}

/// Resolves `\n`, `\t`, `\r`, `\0` and `\u{…}`; a backslash before anything else stands
/// for that character.
fn resolved(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    let mut rest = text;
    while let Some(at) = rest.find('\\') {
        out.push_str(&rest[..at]);
        rest = &rest[at + 1..];
        let Some(c) = rest.chars().next() else {
            out.push('\\');
            break;
        };
        rest = &rest[c.len_utf8()..];
        match c {
            'n' => out.push('\n'),
            't' => out.push('\t'),
            'r' => out.push('\r'),
            '0' => out.push('\0'),
            'u' => match code_point(rest) {
                Some((c, length)) => {
                    out.push(c);
                    rest = &rest[length..];
                }
                None => out.push('u'),
            },
            other => out.push(other),
        }
    }
    out.push_str(rest);
    out
}

/// `{41}`, or four hexadecimal digits: the character and the length read. Two times four
/// digits can be one character, as in UTF-16.
fn code_point(text: &str) -> Option<(char, usize)> {
    let four = |text: &str| {
        let hex = text
            .get(..4)
            .filter(|hex| hex.bytes().all(|b| b.is_ascii_hexdigit()))?;
        u16::from_str_radix(hex, 16).ok()
    };
    if let Some(first) = four(text) {
        let second = text.get(4..).and_then(|rest| rest.strip_prefix("\\u"));
        let units = [Some(first), second.and_then(four)];
        let length = if (0xd800..0xdc00).contains(&first) {
            2
        } else {
            1
        };
        let units = units.into_iter().take(length).flatten();
        let c = char::decode_utf16(units).next()?.ok()?;
        return Some((c, if length == 2 { 10 } else { 4 }));
    }
    let end = text.find('}')?;
    let hex = text.get(..end)?.strip_prefix('{')?;
    let c = char::from_u32(u32::from_str_radix(hex, 16).ok()?)?;
    Some((c, end + 1))
}

/// Where a token ends that goes on from its opening to a line that has only the last word of that;
/// nothing where no such line comes.
pub(super) fn closing_line(text: &str, start: usize, end: usize) -> Option<usize> {
    let opening = text[start..end].trim_end();
    let is_part = |c: char| c.is_alphanumeric() || c == '_';
    let word = opening.trim_end_matches(|c| !is_part(c));
    let word = &word[word.trim_end_matches(is_part).len()..];
    let mut at = end + text[end..].find('\n')? + 1;
    loop {
        let line = text[at..].split('\n').next().unwrap_or_default();
        if line.trim() == word {
            return Some(at + line.trim_end().len());
        }
        at += line.len() + 1;
        if at > text.len() {
            return None;
        }
    }
}

/// The lines between the first and the last one of a text, with their line ends.
pub(super) fn between_lines(text: &str) -> &str {
    let first = text.find('\n').map_or(text.len(), |at| at + 1);
    let last = text.rfind('\n').map_or(text.len(), |at| at + 1);
    text.get(first..last).unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::definition::CharSet;

    #[test]
    fn code_points_in_escapes() {
        assert_eq!(code_point("{41}b"), Some(('A', 4)));
        assert_eq!(code_point("0041b"), Some(('A', 4)));
        assert_eq!(code_point("d83d\\udea4b"), Some(('\u{1f6a4}', 10)));
        assert_eq!(code_point("d83d"), None);
        assert_eq!(code_point("41"), None);
    }

    #[test]
    fn integers_in_four_bases() {
        assert_eq!(integer("1_000"), Ok(1000));
        assert_eq!(integer("0xff"), Ok(255));
        assert_eq!(integer("9223372036854775808"), Err(NoValue::TooLarge));
        assert_eq!(integer("gate"), Err(NoValue::NotANumber));
    }

    #[test]
    fn texts_lose_quotes_and_escapes() {
        let backslash = |backslash| Escapes {
            quoted: true,
            backslash,
            doubled: None,
        };
        let (with, without) = (&backslash(true), &backslash(false));
        assert_eq!(unquoted(r#""a\n\u{e9}\"""#, with), "a\né\"");
        assert_eq!(unquoted(r#""a\n""#, without), "a\\n");
        assert_eq!(unquoted("\"\"\"a\"\"\"", with), "a");
        assert_eq!(unquoted("'word", with), "word");
        assert_eq!(unquoted("«a»", with), "a");
        assert_eq!(unquoted("\"\"", with), "");
    }

    #[test]
    fn only_what_always_stands_in_front_is_a_quotation_mark() {
        let literal = |text: &str| Pattern::Literal(text.to_owned());
        let word = || Pattern::Plus(Box::new(Pattern::Class(CharSet::letter())));
        let either = || Pattern::Class(CharSet::new(vec![(34, 34), (39, 39)]));
        let rest = || Pattern::Class(CharSet::new(vec![(123, 123)]).complement());
        for (pattern, wanted) in [
            (
                Pattern::Sequence(vec![literal("\""), word(), literal("\"")]),
                true,
            ),
            (Pattern::Sequence(vec![literal("'"), word()]), true),
            (Pattern::Sequence(vec![either(), word(), either()]), true),
            (Pattern::Choice(vec![literal("<a>"), literal("(b)")]), true),
            (Pattern::Nested("(*".into(), "*)".into()), true),
            (Pattern::Choice(vec![literal("<a>"), word()]), false),
            (
                Pattern::Sequence(vec![Pattern::Optional(Box::new(literal("-"))), word()]),
                false,
            ),
            (Pattern::Sequence(vec![either(), word()]), false),
            (Pattern::Plus(Box::new(rest())), false),
            (word(), false),
        ] {
            assert_eq!(begins_with_mark(&pattern), wanted, "{pattern:?}");
        }
    }
}
