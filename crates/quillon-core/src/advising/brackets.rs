//! Brackets that a form opens and never closes.

use crate::definition::{Definition, Form, Name, Part};
use crate::diagnostic::{Diagnostic, codes, quote};
use crate::lexing::BRACKETS;

pub(super) fn advice(definition: &Definition) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    for (open, close) in BRACKETS {
        let counts = definition
            .forms
            .iter()
            .map(|form| (form, open_in(form, open, close)));
        let counts: Vec<(&Form, i64)> = counts.collect();
        // Forms may open and close for each other.
        if counts.iter().map(|(_, count)| count).sum::<i64>() == 0 {
            continue;
        }
        for (form, _) in counts.iter().filter(|(_, count)| *count > 0) {
            let mut literals = Vec::new();
            form.written
                .iter()
                .for_each(|part| literals_of(part, &mut literals));
            let Some(first) = literals.into_iter().rfind(|name| name.text == open) else {
                continue;
            };
            let (open, close) = (quote(open), quote(close));
            let message = format!("form {} never closes its {open}", quote(&form.name.text));
            found.push(
                Diagnostic::warning(codes::CHECK_TOKENS, message)
                    .at(&definition.source, first.span)
                    .remedy(format!("add {close} to its `written` clause")),
            );
        }
    }
    found
}

/// How many more brackets a form opens than it closes; of alternatives the last counts.
fn open_in(form: &Form, open: &str, close: &str) -> i64 {
    let part = match &*form.written {
        Some(Part::Choice(parts)) => parts.last(),
        other => other.as_ref(),
    };
    let mut literals = Vec::new();
    part.iter()
        .for_each(|part| literals_of(part, &mut literals));
    let count = |text: &str| literals.iter().filter(|name| name.text == text).count() as i64;
    count(open) - count(close)
}

fn literals_of<'p>(part: &'p Part, found: &mut Vec<&'p Name>) {
    match part {
        Part::Literal(name) | Part::Soft(name) => found.push(name),
        Part::Sequence(parts) | Part::Choice(parts) => {
            parts.iter().for_each(|part| literals_of(part, found));
        }
        Part::Optional(inner) => literals_of(inner, found),
        Part::Repeat(repeat) => literals_of(&repeat.part, found),
        Part::Field(..) | Part::Unnamed(_) | Part::Tight(_) => {}
    }
}
