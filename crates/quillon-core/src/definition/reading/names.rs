//! The names in a meaning: fields, fields of children, landings.

use super::cursor::Cursor;
use super::meaning::fresh_name;
use crate::definition::model::Name;
use crate::definition::model::template::Target;

/// `FIELD`, or `FIELD.SUB`.
pub(in crate::definition) fn field(cursor: &mut Cursor<'_>, what: &str) -> Option<Name> {
    let first = cursor.name(what)?;
    if cursor.eat_sign(".") {
        let second = cursor.name("a field")?;
        return Some(dotted(&first, &second));
    }
    Some(first)
}

pub(in crate::definition) fn dotted(owner: &Name, part: &Name) -> Name {
    Name {
        text: format!("{}.{}", owner.text, part.text),
        span: owner.span.to(part.span),
    }
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
