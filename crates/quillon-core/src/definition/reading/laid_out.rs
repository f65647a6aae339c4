//! `laid out FIELD WAY, …`: where lines end, and where blanks stand, when a tree is printed.

use super::cursor::Cursor;
use super::lexer::Word;
use crate::definition::model::{BLANKS, LaidOut, Printed, WAYS};

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
        let how = printed(cursor)?;
        all.push(LaidOut { what, literal, how });
        if !cursor.eat_sign(",") {
            return Some(all);
        }
    }
}

/// `deeper`, or `close before`.
fn printed(cursor: &mut Cursor<'_>) -> Option<Printed> {
    if let Some((_, lay)) = WAYS.into_iter().find(|(word, _)| cursor.eat_word(word)) {
        return Some(Printed::Laid(lay));
    }
    let Some((_, blank)) = BLANKS.into_iter().find(|(word, _)| cursor.eat_word(word)) else {
        let ways = WAYS.map(|(word, _)| word).into_iter();
        let words: Vec<&str> = ways.chain(BLANKS.map(|(word, _)| word)).collect();
        cursor.unexpected_word(&words);
        return None;
    };
    Some(Printed::Blanks(if cursor.eat_word("before") {
        [Some(blank), None]
    } else if cursor.eat_word("after") {
        [None, Some(blank)]
    } else {
        [Some(blank), Some(blank)]
    }))
}
