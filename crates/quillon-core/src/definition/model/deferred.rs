//! Which fields of a form a meaning mentions, and which of them run in a function: later, if at
//! all.

use rustc_hash::FxHashSet;

use super::Form;
use super::template::{Template, TemplateKind as T, Wanted};

/// The fields of a form that a template mentions.
pub(crate) fn mentioned(template: &Template, form: &Form) -> FxHashSet<usize> {
    let mut out = FxHashSet::default();
    collect_mentioned(template, form, &mut out);
    out
}

fn collect_mentioned(template: &Template, form: &Form, out: &mut FxHashSet<usize>) {
    let mut add = |name: &str| out.extend(form.bound_index(name));
    match &template.kind {
        T::Name(name) => add(name),
        T::Set(name, _) | T::Given(name) | T::All(name) | T::Taking(name, _) => {
            add(&name.field.text);
        }
        T::Member(name, _) | T::With(name, ..) => add(&name.text),
        T::Fits(_, Wanted::Part(owner, _), _) => add(&owner.text),
        T::Function(head, _) => head.params.iter().for_each(|p| add(&p.field.text)),
        _ => {}
    }
    template.each_part(&mut |part| collect_mentioned(part, form, out));
}

/// The fields that belong to a `function` of the template: what is bound under them
/// belongs to the function's own run.
pub(crate) fn fields_in_functions(template: &Template, form: &Form) -> FxHashSet<usize> {
    let mut out = FxHashSet::default();
    if let T::Function(head, body) = &template.kind {
        out = mentioned(body, form);
        out.extend(
            head.params
                .iter()
                .filter_map(|p| form.bound_index(&p.field.text)),
        );
        return out;
    }
    template.each_part(&mut |part| out.extend(fields_in_functions(part, form)));
    out
}
