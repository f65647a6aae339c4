//! `typed` clauses that are choices, where the second takes what the first was to refuse.

use crate::definition::{Definition, Form, Subject, TypeTerm, TypeTermKind, Typed};
use crate::diagnostic::{Diagnostic, codes, quote};

/// Clauses for a field that is there, or is not, beside a later one that counts then as well and
/// says nothing of the field: what does not fit the first would go by the second.
pub(super) fn advice(definition: &Definition) -> Vec<Diagnostic> {
    let forms = definition.forms.iter().filter(|form| !form.damaged);
    forms.flat_map(|form| of_form(definition, form)).collect()
}

fn of_form(definition: &Definition, form: &Form) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    for (at, later) in form.typed.iter().enumerate() {
        let undone = form.typed[..at].iter().find_map(|earlier| {
            let mut given = earlier.given.iter();
            let condition = given.find(|(name, _)| !mentions(later, &name.text))?;
            Some((earlier, condition))
        });
        let Some((earlier, (field, is_there))) = undone else {
            continue;
        };
        let (when, other) = match is_there {
            true => ("is there", "not given"),
            false => ("is not there", "given"),
        };
        let field = &field.text;
        let message = format!(
            "this counts as well where {} {when}, and takes what does not fit the clause before",
            quote(field)
        );
        found.push(
            Diagnostic::warning(codes::CHECK_TYPES, message)
                .at(&definition.source, later.span)
                .related(&definition.source, earlier.span, "the clause before")
                .remedy(format!("begin it with `{other} {field}`")),
        );
    }
    found
}

/// Whether a clause speaks of a field.
fn mentions(typed: &Typed, field: &str) -> bool {
    let is_given = typed.given.iter().any(|(name, _)| name.text == field);
    let mut judgments = typed.judgments.iter();
    let is_subject = judgments.any(|judgment| {
        let subjects = judgment.subjects.iter();
        subjects.map(Subject::name).any(|name| name.text == field)
    });
    is_given || is_subject || typed.terms().any(|term| is_in(term, field))
}

fn is_in(term: &TypeTerm, field: &str) -> bool {
    let mut waiting = vec![term];
    while let Some(term) = waiting.pop() {
        if let TypeTermKind::TypeOf(name) | TypeTermKind::Named(name, _) = &term.kind
            && name.text == field
        {
            return true;
        }
        term.each_part(&mut |part| waiting.push(part));
    }
    false
}
