//! `typed`, `denotes` and the item `types`, word by word.

use super::cursor::Cursor;
use super::lexer::Word;
use crate::definition::model::Name;
use crate::definition::model::template::ValueKind;
use crate::definition::model::{
    Judgment, OwnType, Subject, TypeTerm, TypeTermKind as K, Typed, is_capital,
};
use crate::diagnostic::codes;

/// `given FIELD, left, right : number, … gives TYPE`, in a clause that began before.
pub(in crate::definition) fn typed(cursor: &mut Cursor<'_>) -> Option<Typed> {
    let start = cursor.last_span();
    let (mut conditions, mut judgments) = (Vec::new(), Vec::new());
    if !cursor.at_word("gives") {
        loop {
            let second_is = |cursor: &Cursor<'_>, word: &str| matches!(cursor.peek_second(), Word::Name(name) if name == word);
            let is_judged = matches!(cursor.peek_second(), Word::Sign(":" | "," | "."));
            if cursor.at_word("not") && second_is(cursor, "given") {
                cursor.advance();
                cursor.advance();
                conditions.push((cursor.name("an optional field")?, false));
            } else if cursor.at_word("given") && !is_judged {
                cursor.advance();
                conditions.push((cursor.name("an optional field")?, true));
            } else {
                judgments.push(judgment(cursor)?);
            }
            if !cursor.eat_sign(",") {
                break;
            }
        }
    }
    let gives = if cursor.eat_word("gives") {
        Some(type_term(cursor)?)
    } else {
        None
    };
    Some(Typed {
        given: conditions,
        judgments,
        gives,
        span: start.to(cursor.last_span()),
    })
}

fn judgment(cursor: &mut Cursor<'_>) -> Option<Judgment> {
    let mut subjects = Vec::new();
    loop {
        let name = cursor.name("a field, as in `left, right : number`")?;
        subjects.push(if cursor.eat_sign(".") {
            Subject::Part(name, cursor.name("a field of its forms")?)
        } else {
            Subject::Name(name)
        });
        if !cursor.eat_sign(",") {
            break;
        }
    }
    cursor.expect_sign(":")?;
    let wanted = type_term(cursor)?;
    Some(Judgment { subjects, wanted })
}

/// A type.
pub(in crate::definition) fn type_term(cursor: &mut Cursor<'_>) -> Option<TypeTerm> {
    cursor.enter()?;
    let start = cursor.span();
    let kind = if cursor.eat_sign("(") {
        let inner = type_term(cursor)?;
        cursor.expect_sign(")")?;
        inner.kind
    } else {
        let name = cursor.name("a type")?;
        kind_of(cursor, name)?
    };
    cursor.leave();
    Some(TypeTerm {
        kind,
        span: start.to(cursor.last_span()),
    })
}

fn kind_of(cursor: &mut Cursor<'_>, name: Name) -> Option<K> {
    let simple = [
        ValueKind::Integer,
        ValueKind::Number,
        ValueKind::Text,
        ValueKind::Truth,
        ValueKind::Nothing,
    ];
    if let Some(kind) = simple.into_iter().find(|kind| kind.word() == name.text) {
        return Some(K::Simple(kind));
    }
    match name.text.as_str() {
        "any" => Some(K::Any),
        "list" => {
            cursor.expect_word("of")?;
            Some(K::List(Box::new(type_term(cursor)?)))
        }
        "map" => {
            cursor.expect_word("of")?;
            Some(K::Map(Box::new(type_term(cursor)?)))
        }
        "type" if cursor.at_word("of") => {
            cursor.advance();
            Some(K::TypeOf(cursor.name("a field")?))
        }
        "function" => {
            cursor.expect_sign("(")?;
            let params = terms(cursor)?;
            cursor.expect_word("to")?;
            Some(K::Function(params, Box::new(type_term(cursor)?)))
        }
        text if is_capital(text) => Some(K::Capital(name.text)),
        _ if cursor.eat_word("of") => {
            let parts = if cursor.eat_sign("(") {
                terms(cursor)?
            } else {
                vec![type_term(cursor)?]
            };
            Some(K::Named(name, parts))
        }
        _ => Some(K::Named(name, Vec::new())),
    }
}

/// Types with commas between, up to and over the closing bracket.
fn terms(cursor: &mut Cursor<'_>) -> Option<Vec<TypeTerm>> {
    let mut all = Vec::new();
    while !cursor.at_sign(")") {
        all.push(type_term(cursor)?);
        if !cursor.eat_sign(",") {
            break;
        }
    }
    cursor.expect_sign(")")?;
    Some(all)
}

/// A line of `types`: `metres`, `option of T`, `pair of (A, B)`.
pub(in crate::definition) fn own_type(cursor: &mut Cursor<'_>) -> Option<OwnType> {
    let name = cursor.name("a name for a type")?;
    let mut params = Vec::new();
    if cursor.eat_word("of") {
        let span = cursor.span();
        let bracketed = cursor.eat_sign("(");
        loop {
            let param = cursor.name("a capital")?;
            if !is_capital(&param.text) {
                let message =
                    "what a type has inside is named by single capitals: `pair of (A, B)`";
                cursor.error(codes::DEFINITION_SYNTAX, message, span);
                return None;
            }
            params.push(param);
            if !bracketed || !cursor.eat_sign(",") {
                break;
            }
        }
        if bracketed {
            cursor.expect_sign(")")?;
        }
    }
    Some(OwnType { name, params })
}
