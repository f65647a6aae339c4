//! The names in a meaning: fields, fields of children, landings.

use super::cursor::Cursor;
use super::meaning::fresh_name;
use crate::definition::model::FieldPath;
use crate::definition::model::template::Target;

/// `FIELD`, or `FIELD.SUB`.
pub(in crate::definition) fn field(cursor: &mut Cursor<'_>, what: &str) -> Option<FieldPath> {
    let field = cursor.name(what)?;
    let mut part = None;
    if cursor.eat_sign(".") {
        part = Some(cursor.name("a field")?);
    }
    Some(FieldPath { field, part })
}

/// `NAME`, or `NAME called FIELD`, of a landing.
pub(in crate::definition) fn target(c: &mut Cursor<'_>) -> Option<Target> {
    let name = fresh_name(c)?;
    let label = if c.eat_word("called") {
        Some(c.name("a field")?)
    } else {
        None
    };
    Some(Target { name, label })
}
