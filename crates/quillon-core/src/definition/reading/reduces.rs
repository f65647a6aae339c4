//! `is value` and `reduces`, word by word.

use super::cursor::Cursor;
use super::lexer::Word;
use super::meaning::meaning_expression;
use crate::definition::model::Name;
use crate::definition::model::{Condition, Is, Rewrite, RewriteKind as K, Rule};

/// `in fn, then in arg`: the fields that are reduced first, in order.
pub(in crate::definition) fn order(cursor: &mut Cursor<'_>) -> Option<Vec<Name>> {
    let mut fields = Vec::new();
    loop {
        cursor.expect_word("in")?;
        fields.push(cursor.name("the field that is reduced first")?);
        if !cursor.eat_sign(",") {
            return Some(fields);
        }
        cursor.expect_word("then")?;
    }
}

/// `fn is Lambda(x, body), arg is value to body[x := arg]`, in a clause that began before.
pub(in crate::definition) fn rule(cursor: &mut Cursor<'_>) -> Option<Rule> {
    let start = cursor.last_span();
    let mut conditions = Vec::new();
    while !cursor.at_word("to") && !cursor.at_word("when") {
        conditions.push(condition(cursor)?);
        if !cursor.eat_sign(",") {
            break;
        }
    }
    let when = if cursor.eat_word("when") {
        Some(meaning_expression(cursor)?)
    } else {
        None
    };
    cursor.expect_word("to")?;
    let to = rewrite(cursor)?;
    Some(Rule {
        conditions,
        when,
        to,
        span: start.to(cursor.last_span()),
    })
}

fn condition(cursor: &mut Cursor<'_>) -> Option<Condition> {
    let name = cursor.name("a field, as in `left is value`")?;
    cursor.expect_word("is")?;
    let is = if cursor.eat_word("value") {
        Is::Value
    } else if cursor.eat_sign("[") {
        let (names, others) = names(cursor, "]")?;
        Is::List(names, others)
    } else {
        let form = cursor.name("`value`, a form, or `[`")?;
        let names = if cursor.eat_sign("(") {
            names(cursor, ")")?.0
        } else {
            Vec::new()
        };
        Is::Form(form, names)
    };
    Some(Condition { name, is })
}

/// Names with commas between, up to and over the closing sign; the last may be one for all
/// that are left: `rest...`.
fn names(cursor: &mut Cursor<'_>, close: &'static str) -> Option<(Vec<Name>, Option<Name>)> {
    let mut all = Vec::new();
    while !cursor.at_sign(close) {
        let name = cursor.name("a name")?;
        if cursor.eat_sign("...") {
            cursor.expect_sign(close)?;
            return Some((all, Some(name)));
        }
        all.push(name);
        if !cursor.eat_sign(",") {
            break;
        }
    }
    cursor.expect_sign(close)?;
    Some((all, None))
}

/// What takes the form's place.
fn rewrite(cursor: &mut Cursor<'_>) -> Option<Rewrite> {
    cursor.enter()?;
    let start = cursor.span();
    let kind = single(cursor)?;
    let mut made = Rewrite {
        kind,
        span: start.to(cursor.last_span()),
    };
    while cursor.eat_sign("[") {
        cursor.link()?;
        let name = cursor.name("the name that is replaced")?;
        cursor.expect_sign(":=")?;
        let by = rewrite(cursor)?;
        cursor.expect_sign("]")?;
        made = Rewrite {
            kind: K::Replace(Box::new(made), name, Box::new(by)),
            span: start.to(cursor.last_span()),
        };
    }
    cursor.leave();
    Some(made)
}

fn single(cursor: &mut Cursor<'_>) -> Option<K> {
    if cursor.eat_sign("[") {
        let mut items = Vec::new();
        while !cursor.at_sign("]") {
            if let (Word::Name(_), Word::Sign("...")) = (cursor.peek(), cursor.peek_second()) {
                let others = cursor.name("a name")?;
                cursor.advance();
                cursor.expect_sign("]")?;
                return Some(K::List(items, Some(others)));
            }
            items.push(rewrite(cursor)?);
            if !cursor.eat_sign(",") {
                break;
            }
        }
        cursor.expect_sign("]")?;
        return Some(K::List(items, None));
    }
    let Word::Name(name) = cursor.peek().clone() else {
        return meaning_expression(cursor).map(K::Compute);
    };
    let is_form = name.chars().next().is_some_and(char::is_uppercase);
    let alone = match cursor.peek_second() {
        Word::End => true,
        Word::Sign(sign) => [",", ")", "]", "["].contains(sign),
        _ => false,
    };
    if is_form {
        let name = cursor.name("a form")?;
        let mut fields = Vec::new();
        if cursor.eat_sign("(") {
            while !cursor.at_sign(")") {
                let field = if matches!(cursor.peek_second(), Word::Sign(":")) {
                    let field = cursor.name("a field")?;
                    cursor.advance();
                    Some(field)
                } else {
                    None
                };
                fields.push((field, rewrite(cursor)?));
                if !cursor.eat_sign(",") {
                    break;
                }
            }
            cursor.expect_sign(")")?;
        }
        return Some(K::Form(name, fields));
    }
    if alone {
        let name = cursor.name("a field")?;
        return Some(if name.text == "itself" {
            K::Itself
        } else {
            K::Name(name)
        });
    }
    meaning_expression(cursor).map(K::Compute)
}
