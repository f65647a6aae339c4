//! `function` and `call` of the meaning notation.

use super::brackets::block;
use super::cursor::Cursor;
use super::lexer::Word;
use super::meaning::{boxed, expression, fresh_name, primary};
use crate::definition::model::FieldPath;
use crate::definition::model::template::{FunctionHead, NamePart, TemplateKind as T};

pub(super) fn function(cursor: &mut Cursor<'_>) -> Option<T> {
    let mut called = Vec::new();
    if cursor.eat_word("called") {
        while called.is_empty() || !cursor.at_sign("(") {
            called.push(if matches!(cursor.peek(), Word::Text(_)) {
                NamePart::Text(cursor.text("a text")?.text)
            } else {
                NamePart::Field(cursor.name("a field or a text")?)
            });
        }
    }
    cursor.expect_sign("(")?;
    let mut params = Vec::new();
    while !cursor.at_sign(")") {
        let field = fresh_name(cursor)?;
        let mut part = None;
        if cursor.eat_sign(".") {
            part = Some(cursor.name("a field of its forms")?);
        }
        params.push(FieldPath { field, part });
        if !cursor.eat_sign(",") {
            break;
        }
    }
    cursor.expect_sign(")")?;
    Some(T::Function(
        FunctionHead { called, params },
        boxed(block(cursor))?,
    ))
}

pub(super) fn calling(cursor: &mut Cursor<'_>) -> Option<T> {
    let callee = boxed(primary(cursor))?;
    let mut args = Vec::new();
    if cursor.eat_word("with") {
        args.push(expression(cursor)?);
        while cursor.eat_sign(",") {
            args.push(expression(cursor)?);
        }
    }
    Some(T::Call(callee, args))
}
