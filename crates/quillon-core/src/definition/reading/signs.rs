//! What is written of signs that programs declare: the clause that declares one, and the lines of
//! precedence tables, of which one may be theirs.

use super::cursor::Cursor;
use super::lexer::Word;
use crate::definition::model::{
    DeclaredRank, DeclaredSide, Declares, Fixity, Grouping, Level, Name, Ranks,
};
use crate::diagnostic::codes;

const GROUPINGS: [Grouping; 5] = [
    Grouping::Left,
    Grouping::Right,
    Grouping::None,
    Grouping::Prefix,
    Grouping::Suffix,
];

impl Grouping {
    /// The grouping of a word.
    pub(crate) fn of_word(word: &str) -> Option<Grouping> {
        GROUPINGS.into_iter().find(|known| known.word() == word)
    }
}

/// The level of a line: `left Plus, Minus`, `left Times at 7`, `declared Infix from 1 to 9`.
pub(in crate::definition) fn level(cursor: &mut Cursor<'_>) -> Option<Level> {
    let mut known = GROUPINGS.map(Grouping::word).to_vec();
    known.push("declared");
    let word = cursor.clause(&known, || "`precedence`".to_owned())?;
    let mut forms = vec![cursor.name("a form")?];
    while cursor.eat_sign(",") {
        forms.push(cursor.name("a form")?);
    }
    let mut level = Level {
        grouping: Grouping::of_word(word).unwrap_or(Grouping::None),
        forms,
        ranks: None,
        rank: None,
    };
    if word == "declared" {
        level.ranks = Some(ranks(cursor)?);
    } else if cursor.eat_word("at") {
        level.rank = Some(rank(cursor)?.0);
    }
    cursor.finish()?;
    Some(level)
}

/// `from 1 to 9`; nothing where there is one rank only.
fn ranks(cursor: &mut Cursor<'_>) -> Option<Ranks> {
    if !cursor.eat_word("from") {
        return Some(Ranks { from: 1, to: 1 });
    }
    let (from, start) = rank(cursor)?;
    cursor.expect_word("to")?;
    let (to, end) = rank(cursor)?;
    let count = to.checked_sub(from);
    if count.is_none_or(|count| !(0..Ranks::MOST).contains(&count)) {
        let message = format!(
            "from {from} to {to} are not between 1 and {} ranks",
            Ranks::MOST
        );
        cursor.error(
            codes::DEFINITION_PRECEDENCE,
            message,
            start.span.to(end.span),
        );
        return None;
    }
    Some(Ranks { from, to })
}

/// A rank, and where it stands.
fn rank(cursor: &mut Cursor<'_>) -> Option<(i64, Name)> {
    let &Word::Integer(rank) = cursor.peek() else {
        cursor.unexpected("a rank, as an integer");
        return None;
    };
    let span = cursor.advance();
    let text = rank.to_string();
    Some((rank, Name { text, span }))
}

/// `declares SIGN SIDE at RANK`
pub(super) fn declares(cursor: &mut Cursor<'_>) -> Option<Declares> {
    let sign = cursor.name("the field that has the sign")?;
    let word =
        cursor.name("`left`, `right`, `none`, `prefix`, `suffix` or the field that says which")?;
    let side = match Grouping::of_word(&word.text) {
        Some(side) => DeclaredSide::Always(side),
        None => DeclaredSide::Field(word),
    };
    let rank = match (cursor.eat_word("at"), cursor.peek()) {
        (false, _) => None,
        (true, Word::Integer(_)) => {
            let (rank, at) = rank(cursor)?;
            Some(DeclaredRank::Always(rank, at))
        }
        (true, _) => Some(DeclaredRank::Field(
            cursor.name("the field that has the rank")?,
        )),
    };
    Some(Declares { sign, side, rank })
}

/// `left at 6`, behind a built-in name that is a sign.
pub(super) fn fixity(cursor: &mut Cursor<'_>) -> Option<Fixity> {
    let side = side_at(cursor)?;
    cursor.advance();
    cursor.expect_word("at")?;
    let (rank, _) = rank(cursor)?;
    Some(Fixity { side, rank })
}

/// The side whose word comes next, if one does.
pub(super) fn side_at(cursor: &Cursor<'_>) -> Option<Grouping> {
    match cursor.peek() {
        Word::Name(word) => Grouping::of_word(word),
        _ => None,
    }
}
