//! What stands in brackets in a meaning: blocks, maps, arguments.

use super::cursor::Cursor;
use super::meaning::{expression, spanned, statement};
use crate::definition::model::Name;
use crate::definition::model::template::{Template, TemplateKind as T};
use crate::source::Span;

/// The operation that a map in braces stands for.
const MAP_OF: &str = "map.of";

pub(super) fn block(cursor: &mut Cursor<'_>) -> Option<Template> {
    let start = cursor.span();
    cursor.expect_sign("{")?;
    rest_of_block(cursor, start, Vec::new())
}

/// The steps of a block that come after some, up to and over its end.
fn rest_of_block(
    cursor: &mut Cursor<'_>,
    start: Span,
    mut parts: Vec<Template>,
) -> Option<Template> {
    while !cursor.at_sign("}") && (parts.is_empty() || cursor.eat_sign(";")) {
        if !cursor.at_sign("}") {
            parts.push(statement(cursor)?);
        }
    }
    cursor.expect_sign("}")?;
    Some(spanned(cursor, start, T::Block(parts)))
}

/// A block, or a map: `{ "tons": 4, "name": name }`.
pub(super) fn braces(cursor: &mut Cursor<'_>) -> Option<Template> {
    let start = cursor.span();
    cursor.expect_sign("{")?;
    if cursor.at_sign("}") {
        return rest_of_block(cursor, start, Vec::new());
    }
    let first = statement(cursor)?;
    if !cursor.at_sign(":") {
        return rest_of_block(cursor, start, vec![first]);
    }
    let mut entries = vec![first];
    loop {
        cursor.expect_sign(":")?;
        entries.push(expression(cursor)?);
        if !cursor.eat_sign(",") || cursor.at_sign("}") {
            break;
        }
        entries.push(expression(cursor)?);
    }
    cursor.expect_sign("}")?;
    let name = Name {
        text: MAP_OF.to_owned(),
        span: start.to(cursor.last_span()),
    };
    Some(spanned(cursor, start, T::Apply(name, entries)))
}

/// Expressions with commas between, up to and over the closing sign.
pub(super) fn arguments(cursor: &mut Cursor<'_>, close: &'static str) -> Option<Vec<Template>> {
    let mut args = Vec::new();
    while !cursor.at_sign(close) {
        args.push(expression(cursor)?);
        if !cursor.eat_sign(",") {
            break;
        }
    }
    cursor.expect_sign(close)?;
    Some(args)
}
