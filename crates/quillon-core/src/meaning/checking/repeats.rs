//! Fields that a meaning mentions more than once, where that makes programs grow: what is in
//! such a field is made at each mention, and again at each mention around that.

use crate::definition::{Count, Definition, Field, Form, Template, TemplateKind as T};
use crate::diagnostic::{Diagnostic, codes, quote};
use crate::source::Span;

/// A note for each such field that can have a form of its own sort in it.
pub fn repeats(definition: &Definition) -> Vec<Diagnostic> {
    let forms = definition.forms.iter();
    let all = forms.filter_map(|form| Some((form, form.means.as_ref()?)));
    all.flat_map(|(form, means)| {
        let fields = form.fields.iter().filter(move |field| nests(form, field));
        fields.filter_map(move |field| {
            let mentions = mentions(means, &field.name.text);
            (mentions.len() > 1).then(|| note(definition, field, &mentions))
        })
    })
    .collect()
}

/// Whether a field can have forms of the sort that its own form is of.
fn nests(form: &Form, field: &Field) -> bool {
    let own = form.sort_name();
    field.count != Count::Many && field.can_be(own) && !form.is_name_field(&field.name.text)
}

/// Where a field is mentioned in what is made of a node: of an `if given …` only one side is.
fn mentions(template: &Template, field: &str) -> Vec<Span> {
    match &template.kind {
        T::Name(name) if name == field => vec![template.span],
        T::If(test, yes, no) if is_known(test) => {
            let sides = [Some(yes), no.as_ref()].into_iter().flatten();
            let sides = sides.map(|side| mentions(side, field));
            sides.max_by_key(Vec::len).unwrap_or_default()
        }
        _ => {
            let mut found = Vec::new();
            template.each_part(&mut |part| found.extend(mentions(part, field)));
            found
        }
    }
}

/// Whether a condition is decided when Core is made.
fn is_known(test: &Template) -> bool {
    match &test.kind {
        T::Given(_) => true,
        T::Not(inner) => is_known(inner),
        _ => false,
    }
}

fn note(definition: &Definition, field: &Field, mentions: &[Span]) -> Diagnostic {
    let name = &field.name.text;
    let times = mentions.len();
    let message = format!("{} stands {times} times in one meaning", quote(name));
    Diagnostic::note(codes::CHECK_MEANING, message)
        .at(&definition.source, mentions[1])
        .why("what is in it is made at each mention: of programs that nest, each level makes that many more")
        .remedy(format!(
            "name its value, `let v = {name}`; where it may run later or not at all, `let v = function () {{ {name} }}` and `call v`"
        ))
}
