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
                        && clash(definition, earlier, wanted)
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

/// What a type is at its outside; nothing where that is open.
fn head(definition: &Definition, term: &TypeTerm) -> Option<Con> {
    match &term.kind {
        K::Simple(kind) => Con::of_kind(*kind),
        K::List(_) => Some(Con::List),
        K::Map(_) => Some(Con::Map),
        K::Function(..) => Some(Con::Function { rest: false }),
        K::Named(name, _) => {
            let own = definition.own_type(&name.text);
            own.map(|own| Con::Own(own as u16))
        }
        K::Any | K::Capital(_) | K::TypeOf(_) => None,
    }
}

/// Whether nothing can have both types, whatever is open in them.
fn clash(definition: &Definition, one: &TypeTerm, other: &TypeTerm) -> bool {
    let heads = [one, other].map(|term| head(definition, term));
    let [Some(outer), Some(other_outer)] = heads else {
        return false;
    };
    let number = |con| matches!(con, Con::Integer | Con::Number);
    if outer != other_outer {
        return !(number(outer) && number(other_outer));
    }
    match (&one.kind, &other.kind) {
        (K::List(one), K::List(other)) | (K::Map(one), K::Map(other)) => {
            clash(definition, one, other)
        }
        (K::Named(_, ones), K::Named(_, others)) => {
            let mut pairs = ones.iter().zip(others);
            pairs.any(|(one, other)| clash(definition, one, other))
        }
        // A parameter may stand for several.
        _ => false,
    }
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
    let wanted = &judgment.wanted;
    if !field.things.iter().all(is_sort) || head(definition, wanted).is_none() {
        return None;
    }
    let can_be = |form: &&Form| {
        let gives = |clause: &crate::definition::Typed| match &clause.gives {
            Some(gives) => !clash(definition, gives, wanted),
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
