//! `laid out FIELD WAY, …`: where lines end when a tree is printed.

use super::Name;
use super::cursor::Cursor;
use super::lexer::Word;

/// How a field is laid out when it is printed.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Lay {
    /// On the line where it comes.
    Inline,
    /// Each child on a line of its own.
    Lines,
    /// The same, one step deeper than what is around.
    Deeper,
    /// Each child on a line of its own, with an empty line between two.
    Apart,
}

/// The ways with their words in the notation.
const WAYS: [(&str, Lay); 4] = [
    ("inline", Lay::Inline),
    ("lines", Lay::Lines),
    ("deeper", Lay::Deeper),
    ("apart", Lay::Apart),
];

/// How one field, or a text, is laid out.
#[derive(Clone, Debug)]
pub struct LaidOut {
    /// The field, or the text.
    pub what: Name,
    /// Whether it is a text that is not in the tree.
    pub literal: bool,
    /// How.
    pub lay: Lay,
}

/// `laid out steps deeper, "else" lines`: after the first word.
pub(super) fn laid_out(cursor: &mut Cursor<'_>) -> Option<Vec<LaidOut>> {
    cursor.expect_word("out")?;
    let mut all = Vec::new();
    loop {
        let literal = matches!(cursor.peek(), Word::Text(_));
        let what = if literal {
            cursor.text("a text")?
        } else {
            cursor.name("the field that is laid out")?
        };
        let Some((_, lay)) = WAYS.into_iter().find(|(word, _)| cursor.eat_word(word)) else {
            cursor.unexpected_word(&WAYS.map(|(word, _)| word));
            return None;
        };
        all.push(LaidOut { what, literal, lay });
        if !cursor.eat_sign(",") {
            return Some(all);
        }
    }
}
