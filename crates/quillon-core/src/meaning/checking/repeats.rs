//! Fields that a meaning mentions more than once, where that costs more the deeper programs nest:
//! what runs twice runs twice again at each level, and what stands in surroundings that differ is
//! made for each of them.

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
            let name = &field.name.text;
            let runs = longest(means, name);
            if let [_, second, ..] = runs[..] {
                return Some(runs_again(definition, name, runs.len(), second));
            }
            let mut places = Vec::new();
            surroundings(means, name, &mut 0, 0, &mut places);
            places.sort_by_key(|(region, _)| *region);
            places.dedup_by_key(|(region, _)| *region);
            let [_, (_, second), ..] = places[..] else {
                return None;
            };
            Some(made_again(definition, name, places.len(), second))
        })
    })
    .collect()
}

/// Whether a field can have forms of the sort that its own form is of.
fn nests(form: &Form, field: &Field) -> bool {
    let own = form.sort_name();
    field.count != Count::Many && field.can_be(own) && !form.is_name_field(&field.name.text)
}

/// Where a field is mentioned on the way through a meaning on which it is mentioned most.
fn longest(template: &Template, field: &str) -> Vec<Span> {
    let most = |ways: Vec<&Template>| {
        let ways = ways.into_iter().map(|way| longest(way, field));
        ways.max_by_key(Vec::len).unwrap_or_default()
    };
    let mut found = Vec::new();
    match &template.kind {
        T::Name(name) if name == field => found.push(template.span),
        T::If(test, yes, no) => {
            found.extend(longest(test, field));
            let ways = [Some(yes), no.as_ref()].into_iter().flatten();
            found.extend(most(ways.map(|way| &**way).collect()));
        }
        T::Match(subject, arms) => {
            found.extend(longest(subject, field));
            found.extend(most(arms.iter().map(|arm| &arm.body).collect()));
        }
        // What a function does is done when it is called.
        T::Function(..) => {}
        // A rescue runs only where something has gone wrong.
        T::Attempt(body, _, rescue) => found.extend(most(vec![body, rescue])),
        _ => template.each_part(&mut |part| found.extend(longest(part, field))),
    }
    found
}

/// Where a field is mentioned, each with the number of its surroundings; of an `if given …` only one
/// side is made.
fn surroundings(
    template: &Template,
    field: &str,
    count: &mut u32,
    region: u32,
    found: &mut Vec<(u32, Span)>,
) {
    let mut inside = |part: &Template, found: &mut Vec<(u32, Span)>| {
        *count += 1;
        let region = *count;
        surroundings(part, field, count, region, found);
    };
    match &template.kind {
        T::Name(name) if name == field => found.push((region, template.span)),
        T::If(test, yes, no) if is_known(test) => {
            let sides = [Some(yes), no.as_ref()].into_iter().flatten();
            let sides = sides.map(|side| {
                let mut own = Vec::new();
                surroundings(side, field, count, region, &mut own);
                own
            });
            found.extend(sides.max_by_key(Vec::len).unwrap_or_default());
        }
        T::Landing(_, body) | T::Function(_, body) => inside(body, found),
        T::With(_, value, body) => {
            inside(body, found);
            surroundings(value, field, count, region, found);
        }
        T::Attempt(one, _, two) | T::Always(one, two) => {
            inside(one, found);
            inside(two, found);
        }
        _ => template.each_part(&mut |part| surroundings(part, field, count, region, found)),
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

fn runs_again(definition: &Definition, name: &str, times: usize, at: Span) -> Diagnostic {
    let message = format!("{} runs {times} times in one run of its form", quote(name));
    Diagnostic::note(codes::CHECK_MEANING, message)
        .at(&definition.source, at)
        .why("where such forms stand one inside the other, each level makes that many times more to run")
        .remedy(format!("name its value and use that: `let v = {name}`"))
}

fn made_again(definition: &Definition, name: &str, times: usize, at: Span) -> Diagnostic {
    let message = format!("{} stands in {times} different contexts", quote(name));
    Diagnostic::note(codes::CHECK_MEANING, message)
        .at(&definition.source, at)
        .why("what is in it is made for each `attempt`, `with`, `landing` and `function` around it: of programs that nest, each level makes that many more")
        .remedy(format!(
            "make it once: `let v = function () {{ {name} }}` around them, and `call v` in each"
        ))
}
