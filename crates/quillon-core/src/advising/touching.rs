//! Forms that begin alike, of which only one wants its next sign to touch: a sign that touches is
//! always that one's, so the others are only read where a blank stands before it.

use crate::definition::{Definition, Form, Name, Part, Thing};
use crate::diagnostic::{Diagnostic, codes, quote};

/// How a form goes on after its first part.
struct Way<'d> {
    form: &'d Form,
    /// What it begins with: a sort, or one form of a sort.
    first: &'d str,
    sign: &'d Name,
    touches: bool,
}

pub(super) fn advice(definition: &Definition) -> Vec<Diagnostic> {
    let mut ways = Vec::new();
    for form in &definition.forms {
        match &*form.written {
            Some(Part::Choice(parts)) => {
                ways.extend(parts.iter().filter_map(|part| way(form, part)));
            }
            Some(part) => ways.extend(way(form, part)),
            None => {}
        }
    }
    let loose = ways.iter().filter(|way| !way.touches);
    let told = loose.filter_map(|way| {
        let touching = ways.iter().find(|other| {
            other.touches && other.first == way.first && other.sign.text == way.sign.text
        })?;
        Some(warning(definition, way, touching))
    });
    told.collect()
}

/// How a form goes on, if that is by a sign after a child.
fn way<'d>(form: &'d Form, part: &'d Part) -> Option<Way<'d>> {
    let Part::Sequence(parts) = part else {
        return None;
    };
    let (first, rest) = parts.split_first()?;
    let first = match first {
        Part::Field(_, things) => match &things[..] {
            [Thing::Named(name)] => name,
            _ => return None,
        },
        Part::Unnamed(name) => name,
        _ => return None,
    };
    let (sign, touches) = match rest {
        [Part::Tight(_), Part::Literal(sign), ..] => (sign, true),
        [Part::Literal(sign), ..] => (sign, false),
        _ => return None,
    };
    Some(Way {
        form,
        first: &first.text,
        sign,
        touches,
    })
}

fn warning(definition: &Definition, way: &Way<'_>, touching: &Way<'_>) -> Diagnostic {
    let [form, other] = [way, touching].map(|way| quote(&way.form.name.text));
    let sign = quote(&way.sign.text);
    let message = format!("form {form} is only read where a blank stands before its {sign}");
    Diagnostic::warning(codes::CHECK_TOKENS, message)
        .at(&definition.source, way.sign.span)
        .why(format!(
            "form {other} begins with {} too, and every {sign} that touches it is taken for that form's",
            quote(way.first)
        ))
        .remedy(format!("write `~` before the {sign} here, too"))
}
