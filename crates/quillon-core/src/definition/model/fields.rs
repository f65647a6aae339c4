//! The fields of a form, found in its `written` clause.

use super::{Count, Field, Part};

/// Every field of a `written` clause, in order of first mention.
pub(in crate::definition) fn fields_of(part: &Part) -> Vec<Field> {
    let mut fields = Vec::new();
    collect(part, &mut fields);
    for field in &mut fields {
        let (least, most) = occurrences(part, &field.name.text);
        field.count = match (least, most) {
            (_, 2..) => Count::Many,
            (0, _) => Count::Optional,
            _ => Count::One,
        };
    }
    fields
}

fn collect(part: &Part, fields: &mut Vec<Field>) {
    match part {
        Part::Sequence(parts) | Part::Choice(parts) => {
            parts.iter().for_each(|p| collect(p, fields));
        }
        Part::Optional(inner) => collect(inner, fields),
        Part::Repeat(repeat) => {
            collect(&repeat.part, fields);
            repeat.by.iter().for_each(|by| collect(by, fields));
        }
        Part::Field(name, things) => match fields.iter_mut().find(|f| f.name.text == name.text) {
            Some(field) => {
                for thing in things {
                    if !field.things.iter().any(|t| same_thing(t, thing)) {
                        field.things.push(thing.clone());
                    }
                }
            }
            None => fields.push(Field {
                name: name.clone(),
                count: Count::One,
                things: things.clone(),
            }),
        },
        Part::Literal(_) | Part::Soft(_) | Part::Unnamed(_) | Part::Tight(_) => {}
    }
}

fn same_thing(a: &super::Thing, b: &super::Thing) -> bool {
    use super::Thing::{Literal, Named};
    match (a, b) {
        (Named(a), Named(b)) | (Literal(a), Literal(b)) => a.text == b.text,
        _ => false,
    }
}

/// The least and the largest number of times a field can occur (two stands for many).
fn occurrences(part: &Part, name: &str) -> (u32, u32) {
    match part {
        Part::Sequence(parts) => parts
            .iter()
            .map(|p| occurrences(p, name))
            .fold((0, 0), |a, b| ((a.0 + b.0).min(2), (a.1 + b.1).min(2))),
        Part::Choice(parts) => parts
            .iter()
            .map(|p| occurrences(p, name))
            .reduce(|a, b| (a.0.min(b.0), a.1.max(b.1)))
            .unwrap_or((0, 0)),
        Part::Optional(inner) => (0, occurrences(inner, name).1),
        Part::Repeat(repeat) => {
            let inside = occurrences(&repeat.part, name).1
                + repeat.by.as_ref().map_or(0, |by| occurrences(by, name).1);
            (0, if inside > 0 { 2 } else { 0 })
        }
        Part::Field(field, _) => {
            let here = u32::from(field.text == name);
            (here, here)
        }
        Part::Literal(_) | Part::Soft(_) | Part::Unnamed(_) | Part::Tight(_) => (0, 0),
    }
}
