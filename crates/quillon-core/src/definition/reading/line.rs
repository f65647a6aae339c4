//! The lines of `tokens`, `provides`, `define` and of short heads.

use super::cursor::Cursor;
use super::lexer::Word;
use super::meaning::{fresh_name, meaning};
use super::pattern::pattern;
use super::signs::{fixity, side_at};
use super::typed::typed;
use crate::definition::model::{Holds, Holes, Layout, Name, Provided, StateCell, TokenRule, Turn};

pub(in crate::definition) fn precedence_head(cursor: &mut Cursor<'_>) -> Option<Name> {
    cursor.expect_word("of")?;
    let sort = cursor.name("a sort")?;
    if cursor.eat_sign(",") {
        cursor.expect_word("loosest")?;
        cursor.expect_word("first")?;
    }
    cursor.finish()?;
    Some(sort)
}

/// File extensions in quotes, with commas between.
pub(in crate::definition) fn extensions(cursor: &mut Cursor<'_>) -> Option<Vec<Name>> {
    names(cursor, |cursor| cursor.text("a file extension in quotes"))
}

/// One or more of the same with commas between, up to the end of the clause.
pub(in crate::definition) fn names(
    cursor: &mut Cursor<'_>,
    one: impl Fn(&mut Cursor<'_>) -> Option<Name>,
) -> Option<Vec<Name>> {
    let mut all = vec![one(cursor)?];
    while cursor.eat_sign(",") {
        all.push(one(cursor)?);
    }
    cursor.finish()?;
    Some(all)
}

/// The least width of a printed line that is worth having.
const NARROWEST: i64 = 20;

/// `width 72`
pub(in crate::definition) fn width(cursor: &mut Cursor<'_>) -> Option<usize> {
    let wide = match cursor.peek() {
        Word::Integer(n) => usize::try_from(*n).ok().filter(|_| *n >= NARROWEST),
        _ => None,
    };
    if wide.is_none() {
        cursor.unexpected(&format!("a number of characters from {NARROWEST} on"));
    }
    cursor.advance();
    wide
}

/// `layout lines` or `layout indentation`.
pub(in crate::definition) fn layout(cursor: &mut Cursor<'_>) -> Option<Layout> {
    if cursor.eat_word("lines") {
        return Some(Layout::Lines);
    }
    if cursor.eat_word("indentation") {
        return Some(Layout::Indentation);
    }
    cursor.unexpected_word(&["lines", "indentation"]);
    None
}

pub(in crate::definition) fn token_rule(cursor: &mut Cursor<'_>) -> Option<TokenRule> {
    let name = cursor.name("the token's name")?;
    let found = pattern(cursor)?;
    let mut rule = TokenRule {
        name,
        pattern: found.into(),
        ignored: false,
        holds: None,
        holes: None,
        piece: false,
        group: None,
        turn: Turn::NONE,
        until_line: false,
    };
    loop {
        if cursor.eat_word("ignored") {
            rule.ignored = true;
        } else if cursor.eat_word("holds") {
            let Word::Name(what) = cursor.peek() else {
                cursor.unexpected_word(&["integer", "number", "text"]);
                return None;
            };
            rule.holds = match what.as_str() {
                "integer" => Some(Holds::Integer),
                "number" => Some(Holds::Number),
                "text" => Some(Holds::Text),
                _ => {
                    cursor.unexpected_word(&["integer", "number", "text"]);
                    return None;
                }
            };
            cursor.advance();
        } else if cursor.eat_word("holes") {
            rule.holes = Some(Holes {
                open: cursor.text("what begins a hole, in quotes")?,
                sort: cursor.name("the sort of what is in the hole")?,
                close: cursor.text("what ends a hole, in quotes")?,
            });
        } else if cursor.eat_word("enters") {
            rule.turn.enters = Some(cursor.name("a group of tokens")?);
        } else if cursor.eat_word("leaves") {
            rule.turn.leaves = true;
        } else if cursor.eat_word("until") {
            cursor.expect_word("line")?;
            rule.until_line = true;
        } else {
            cursor.finish()?;
            return Some(rule);
        }
    }
}

/// `Outside first`: the group whose tokens these are, if it is not the ordinary one, and whether
/// texts begin in it.
pub(in crate::definition) fn group_head(cursor: &mut Cursor<'_>) -> Option<(Option<Name>, bool)> {
    if cursor.at_end() {
        return Some((None, false));
    }
    let name = cursor.name("the group's name")?;
    let is_first = cursor.eat_word("first");
    cursor.finish()?;
    Some((Some(name), is_first))
}

/// `(a, b, rest...)`: the names, and whether the last one takes all that are left.
pub(in crate::definition) fn parameters(cursor: &mut Cursor<'_>) -> Option<(Vec<Name>, bool)> {
    cursor.expect_sign("(")?;
    let mut params = Vec::new();
    let mut rest = false;
    while !cursor.at_sign(")") {
        params.push(fresh_name(cursor)?);
        rest = cursor.eat_sign("...");
        if rest || !cursor.eat_sign(",") {
            break;
        }
    }
    cursor.expect_sign(")")?;
    Some((params, rest))
}

/// `level = 0`, `labels = map.new() for checks`
pub(in crate::definition) fn state_cell(cursor: &mut Cursor<'_>) -> Option<StateCell> {
    let name = fresh_name(cursor)?;
    cursor.expect_sign("=")?;
    let initial = meaning(cursor)?;
    let is_for_checks = cursor.eat_word("for");
    if is_for_checks {
        cursor.expect_word("checks")?;
    }
    Some(StateCell {
        name,
        initial,
        is_for_checks,
    })
}

pub(in crate::definition) fn provided(cursor: &mut Cursor<'_>) -> Option<Provided> {
    // Names that are no words stand in quotes.
    let name = match cursor.peek() {
        Word::Text(_) => cursor.text("the name that programs see")?,
        _ => cursor.name("the name that programs see")?,
    };
    let (params, rest) = if cursor.at_sign("(") {
        let (params, rest) = parameters(cursor)?;
        (Some(params), rest)
    } else {
        (None, false)
    };
    let fixity = match side_at(cursor) {
        Some(_) => Some(fixity(cursor)?),
        None => None,
    };
    let typed = if cursor.eat_word("typed") {
        Some(typed(cursor)?)
    } else {
        None
    };
    cursor.expect_word("means")?;
    let means = meaning(cursor)?;
    Some(Provided {
        name,
        params,
        rest,
        fixity,
        typed,
        means,
        help: String::new(),
    })
}
