//! Clauses that nothing can meet: found in the definition alone.

use super::Con;
use crate::definition::{Definition, Form, Judgment, Subject, Thing, TypeTerm, TypeTermKind as K};
use crate::diagnostic::{Diagnostic, codes, quote};

/// A warning for each judgment that no program can meet: nothing that the field can be has
/// the type it needs, or two judgments of one clause contradict each other.
pub(crate) fn impossible(definition: &Definition) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    for form in &definition.forms {
        for clause in &form.typed {
            for judgment in &clause.judgments {
                for subject in &judgment.subjects {
                    found.extend(never(definition, form, subject, judgment));
                }
            }
            let judgments = clause.judgments.iter();
            let said: Vec<(&Subject, &TypeTerm)> = judgments
                .flat_map(|j| j.subjects.iter().map(|subject| (subject, &j.wanted)))
                .collect();
            for (index, (subject, wanted)) in said.iter().enumerate() {
                let other = said[..index].iter().find(|(other, earlier)| {
                    other.name().text == subject.name().text
                        && std::mem::discriminant(*other) == std::mem::discriminant(subject)
                        && clash(head(earlier), head(wanted))
                });
                if let Some((_, earlier)) = other {
                    let source = &definition.source;
                    let message = format!(
                        "{} cannot be both `{}` and `{}`",
                        quote(&subject.name().text),
                        source.slice(earlier.span),
                        source.slice(wanted.span)
                    );
                    found.push(
                        Diagnostic::warning(codes::CHECK_TYPES, message)
                            .at(source, wanted.span)
                            .related(source, earlier.span, "the other"),
                    );
                }
            }
        }
    }
    found
}

/// What a type is at its outside, if that is known.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum Head {
    Known(Con),
    Open,
}

fn head(term: &TypeTerm) -> Head {
    match &term.kind {
        K::Simple(kind) => Con::of_kind(*kind).map_or(Head::Open, Head::Known),
        K::List(_) => Head::Known(Con::List),
        K::Map(_) => Head::Known(Con::Map),
        K::Function(..) => Head::Known(Con::Function { rest: false }),
        K::Any | K::Capital(_) | K::TypeOf(_) | K::Named(..) => Head::Open,
    }
}

fn clash(one: Head, other: Head) -> bool {
    let (Head::Known(one), Head::Known(other)) = (one, other) else {
        return false;
    };
    let number = |con| matches!(con, Con::Integer | Con::Number);
    one != other && !(number(one) && number(other))
}

/// A judgment about a field that none of the forms in it can meet.
fn never(
    definition: &Definition,
    form: &Form,
    subject: &Subject,
    judgment: &Judgment,
) -> Option<Diagnostic> {
    let Subject::Name(name) = subject else {
        return None;
    };
    let field = &form.fields[form.field_index(&name.text)?];
    let is_sort = |thing: &Thing| matches!(thing, Thing::Named(n) if definition.has_sort(&n.text) || definition.form(&n.text).is_some());
    let wanted = head(&judgment.wanted);
    if !field.things.iter().all(is_sort) || wanted == Head::Open {
        return None;
    }
    let can_be = |form: &&Form| {
        let gives = |clause: &crate::definition::Typed| match &clause.gives {
            Some(gives) if matches!(gives.kind, K::Named(..)) => true,
            Some(gives) => !clash(head(gives), wanted),
            None => true,
        };
        form.becomes.is_some()
            || form.sugar.is_some()
            || form.denotes.is_some()
            || form.typed.is_empty()
            || form.typed.iter().any(gives)
    };
    let forms = definition.forms_of(&field.things);
    if forms.is_empty() || forms.iter().any(can_be) {
        return None;
    }
    let source = &definition.source;
    let message = format!(
        "{} can never be `{}`: no form that can stand there gives that",
        quote(&name.text),
        source.slice(judgment.wanted.span)
    );
    Some(
        Diagnostic::warning(codes::CHECK_TYPES, message)
            .at(source, name.span)
            .remedy("write `gives` in the form that should, or another type here"),
    )
}
