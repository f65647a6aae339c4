//! The names in a meaning: fields, fields of children, landings.

use super::Name;
use super::cursor::Cursor;
use super::read_meaning::fresh_name;
use super::template::Target;

/// `FIELD`, or `FIELD.SUB`.
pub(super) fn field(cursor: &mut Cursor<'_>, what: &str) -> Option<Name> {
    let first = cursor.name(what)?;
    if cursor.eat_sign(".") {
        let second = cursor.name("a field")?;
        return Some(dotted(&first, &second));
    }
    Some(first)
}

pub(super) fn dotted(owner: &Name, part: &Name) -> Name {
    Name {
        text: format!("{}.{}", owner.text, part.text),
        span: owner.span.to(part.span),
    }
}

/// `NAME`, or `NAME called FIELD`, of a landing.
pub(super) fn target(c: &mut Cursor<'_>) -> Option<Target> {
    let name = fresh_name(c)?;
    let label = if c.eat_word("called") {
        Some(c.name("a field")?)
    } else {
        None
    };
    Some(Target { name, label })
}
