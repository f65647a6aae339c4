//! `laid out FIELD WAY, …`: where lines end when a tree is printed.

use super::cursor::Cursor;
use super::lexer::Word;
use crate::definition::model::{LaidOut, WAYS};

/// `laid out steps deeper, "else" lines`: after the first word.
pub(in crate::definition) fn laid_out(cursor: &mut Cursor<'_>) -> Option<Vec<LaidOut>> {
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
