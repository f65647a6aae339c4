//! The `written`, `binds`, `uses` and other short clauses of a form.

use super::cursor::Cursor;
use super::lexer::Word;
use crate::definition::model::{Binds, Name, Offers, Opens, Part, Reach, Repeat, Thing, Uses};
use crate::diagnostic::codes;

/// A `written` clause: alternatives of sequences of parts.
pub(in crate::definition) fn written(cursor: &mut Cursor<'_>) -> Option<Part> {
    cursor.enter()?;
    let mut choices = vec![sequence(cursor)?];
    while cursor.eat_sign("|") {
        choices.push(sequence(cursor)?);
    }
    cursor.leave();
    Some(if choices.len() == 1 {
        choices.remove(0)
    } else {
        Part::Choice(choices)
    })
}

fn sequence(cursor: &mut Cursor<'_>) -> Option<Part> {
    let mut parts = Vec::new();
    while matches!(cursor.peek(), Word::Text(_) | Word::Name(_))
        || cursor.at_sign("(")
        || cursor.at_sign("~")
    {
        parts.push(repeated(cursor)?);
    }
    cursor.could_be_text();
    match parts.len() {
        0 => {
            cursor.unexpected("a part (a quoted text, `field:Sort`, or parts in parentheses)");
            None
        }
        1 => parts.pop(),
        _ => Some(Part::Sequence(parts)),
    }
}

fn repeated(cursor: &mut Cursor<'_>) -> Option<Part> {
    let part = single(cursor)?;
    if cursor.eat_sign("?") {
        return Some(Part::Optional(Box::new(part)));
    }
    let at_least_one = cursor.at_sign("+");
    if !at_least_one && !cursor.at_sign("*") {
        return Some(part);
    }
    cursor.advance();
    let names_field = matches!(cursor.peek_second(), Word::Sign(":"));
    let by = if cursor.at_word("by") && !names_field {
        cursor.advance();
        Some(separator(cursor)?)
    } else {
        None
    };
    let trailing = by.is_some() && cursor.eat_word("trailing");
    Some(Part::Repeat(Box::new(Repeat {
        part,
        at_least_one,
        by,
        trailing,
    })))
}

fn separator(cursor: &mut Cursor<'_>) -> Option<Part> {
    if cursor.eat_sign("(") {
        let inner = written(cursor)?;
        cursor.expect_sign(")")?;
        return Some(inner);
    }
    match cursor.peek() {
        Word::Text(_) => cursor.text("a separator").and_then(|t| literal(cursor, t)),
        Word::Name(_) => cursor.name("a separator").map(Part::Unnamed),
        _ => {
            cursor.could_be_text();
            cursor.unexpected("the separator, as in `by \",\"`");
            None
        }
    }
}

fn literal(cursor: &mut Cursor<'_>, text: Name) -> Option<Part> {
    visible(cursor, text).map(Part::Literal)
}

/// A quoted text that can be seen in a program.
fn visible(cursor: &mut Cursor<'_>, text: Name) -> Option<Name> {
    if text.text.is_empty() {
        cursor.error(
            codes::DEFINITION_SYNTAX,
            "an empty text cannot be seen in a program; what may be left out is written `(…)?`",
            text.span,
        );
        return None;
    }
    Some(text)
}

fn single(cursor: &mut Cursor<'_>) -> Option<Part> {
    if cursor.at_sign("~") {
        return Some(Part::Tight(cursor.advance()));
    }
    if cursor.eat_sign("(") {
        let inner = written(cursor)?;
        cursor.expect_sign(")")?;
        return Some(inner);
    }
    if let Word::Text(_) = cursor.peek() {
        let text = cursor.text("a text")?;
        let is_field = matches!(cursor.peek_second(), Word::Sign(":"));
        let part = literal(cursor, text)?;
        return Some(match part {
            Part::Literal(name) if !is_field && cursor.eat_word("soft") => Part::Soft(name),
            part => part,
        });
    }
    let name = cursor.name("a field or a sort")?;
    if cursor.eat_sign(":") {
        return Some(Part::Field(name, things(cursor)?));
    }
    Some(Part::Unnamed(name))
}

fn things(cursor: &mut Cursor<'_>) -> Option<Vec<Thing>> {
    if !cursor.eat_sign("(") {
        return Some(vec![thing(cursor)?]);
    }
    let mut things = vec![thing(cursor)?];
    while cursor.eat_sign("|") {
        things.push(thing(cursor)?);
    }
    cursor.expect_sign(")")?;
    Some(things)
}

fn thing(cursor: &mut Cursor<'_>) -> Option<Thing> {
    if let Word::Text(_) = cursor.peek() {
        let text = cursor.text("a text")?;
        return visible(cursor, text).map(Thing::Literal);
    }
    cursor
        .name("a sort, a token or a quoted text")
        .map(Thing::Named)
}

/// `opens scope`, `opens scope around FIELD, …`.
pub(in crate::definition) fn opens(cursor: &mut Cursor<'_>) -> Option<Opens> {
    cursor.expect_word("scope")?;
    let mut around = Vec::new();
    if cursor.eat_word("around") {
        around.push(cursor.name("a field")?);
        while cursor.eat_sign(",") {
            around.push(cursor.name("a field")?);
        }
    }
    Some(Opens { around })
}

/// `binds FIELD onward`, `binds FIELD throughout`, `binds FIELD in FIELD, …`, with commas
/// between; `as SPACE`, `dynamic`, `general` and `fixed` at the end, and after a comma another
/// binding. `FIELD.PART` is a field of the field's forms, `names of FIELD` what those offer, and
/// `"NAME"` a name that is not written.
pub(in crate::definition) fn binds(cursor: &mut Cursor<'_>) -> Option<Vec<Binds>> {
    let mut all = Vec::new();
    loop {
        let (binding, goes_on) = binding(cursor)?;
        all.push(binding);
        if !goes_on && !cursor.eat_comma() {
            return Some(all);
        }
    }
}

/// Whether what follows a comma is another binding, and no further region of the one before.
fn at_binding(cursor: &Cursor<'_>) -> bool {
    match (cursor.peek(), cursor.peek_second()) {
        (Word::Text(_), _) => true,
        (Word::Name(region), _) if ["onward", "throughout", "in"].contains(&region.as_str()) => {
            false
        }
        (Word::Name(_), Word::Name(after)) => {
            ["onward", "throughout", "in", "of"].contains(&after.as_str())
        }
        (_, after) => matches!(after, Word::Sign(".")),
    }
}

/// One binding, and whether a comma after it has been read and another one follows.
fn binding(cursor: &mut Cursor<'_>) -> Option<(Binds, bool)> {
    let (field, reach) = match cursor.peek() {
        Word::Text(_) => (cursor.text("a name")?, Reach::Unwritten),
        _ => reaching(cursor, "the field that is bound")?,
    };
    let mut binds = Binds {
        field,
        reach,
        onward: false,
        throughout: false,
        first: false,
        inside: Vec::new(),
        fixed: false,
        general: false,
        dynamic: false,
        space: None,
    };
    loop {
        if cursor.eat_word("onward") {
            binds.onward = true;
        } else if cursor.eat_word("throughout") {
            binds.throughout = true;
            binds.first = cursor.eat_word("first");
        } else if cursor.eat_word("in") || !binds.inside.is_empty() {
            binds.inside.push(cursor.name("the field it is bound in")?);
        } else {
            cursor.unexpected_word(&["onward", "throughout", "in"]);
            return None;
        }
        if !cursor.eat_sign(",") {
            break;
        }
        if at_binding(cursor) {
            return Some((binds, true));
        }
    }
    binds.space = space(cursor);
    binds.dynamic = cursor.eat_word("dynamic");
    binds.general = cursor.eat_word("general");
    binds.fixed = cursor.eat_word("fixed");
    Some((binds, false))
}

/// `wins over FORM, …`.
pub(in crate::definition) fn wins(cursor: &mut Cursor<'_>) -> Option<Vec<Name>> {
    cursor.expect_word("over")?;
    let mut all = vec![cursor.name("a form")?];
    while cursor.eat_comma() {
        all.push(cursor.name("a form")?);
    }
    Some(all)
}

/// A field, a part of it, or `names of` it.
fn reaching(cursor: &mut Cursor<'_>, what: &str) -> Option<(Name, Reach)> {
    if cursor.at_word("names") && matches!(cursor.peek_second(), Word::Name(of) if of == "of") {
        cursor.eat_word("names");
        cursor.eat_word("of");
        return Some((cursor.name(what)?, Reach::Offered));
    }
    let field = cursor.name(what)?;
    let reach = if cursor.eat_sign(".") {
        Reach::Part(cursor.name("a field of its forms")?)
    } else {
        Reach::Itself
    };
    Some((field, reach))
}

/// `offers FIELD`, `offers names of FIELD`, with commas between.
pub(in crate::definition) fn offers(cursor: &mut Cursor<'_>) -> Option<Vec<Offers>> {
    let mut all = Vec::new();
    loop {
        let (field, reach) = reaching(cursor, "the field that is offered")?;
        all.push(Offers { field, reach });
        if !cursor.eat_sign(",") {
            return Some(all);
        }
    }
}

/// `uses FIELD`, `uses FIELD or free`, `uses FIELD to change`, `uses FIELD to change or binds it`; `as SPACE` at
/// the end; after a comma another use.
pub(in crate::definition) fn uses(cursor: &mut Cursor<'_>) -> Option<Vec<Uses>> {
    let mut all = vec![using(cursor)?];
    while cursor.eat_comma() {
        all.push(using(cursor)?);
    }
    Some(all)
}

fn using(cursor: &mut Cursor<'_>) -> Option<Uses> {
    let field = cursor.name("the field that names a variable")?;
    let to_change = cursor.eat_word("to");
    if to_change {
        cursor.expect_word("change")?;
    }
    let is_optional = cursor.eat_word("or");
    if is_optional && to_change {
        cursor.expect_word("binds")?;
        cursor.expect_word("it")?;
    } else if is_optional {
        cursor.expect_word("free")?;
    }
    Some(Uses {
        field,
        to_change,
        or_binds: is_optional && to_change,
        or_free: is_optional && !to_change,
        space: space(cursor),
    })
}

/// `as SPACE`, if it is there; a mistake in it is reported.
fn space(cursor: &mut Cursor<'_>) -> Option<Name> {
    cursor
        .eat_word("as")
        .then(|| cursor.name("the name space"))
        .flatten()
}
