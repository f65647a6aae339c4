//! Sorts and forms that no program has, and those that no program can end.

use rustc_hash::FxHashSet;

use crate::definition::{Definition, Form, Part, Thing};
use crate::diagnostic::{Diagnostic, codes, nearest, quote};

pub(super) fn advice(definition: &Definition) -> Vec<Diagnostic> {
    let mut found = unused(definition);
    found.extend(endless(definition));
    found.extend(narrow_start(definition));
    found
}

/// The sort of a whole program.
pub(super) fn start(definition: &Definition) -> Option<&str> {
    let said = definition.starts.as_ref().map(|name| name.text.as_str());
    said.or_else(|| definition.forms.first().map(Form::sort_name))
}

/// What the `written` clause of a form mentions.
fn mentioned<'d>(part: &'d Part, found: &mut Vec<&'d str>) {
    match part {
        Part::Sequence(parts) | Part::Choice(parts) => {
            parts.iter().for_each(|part| mentioned(part, found));
        }
        Part::Field(_, things) => found.extend(things.iter().filter_map(|thing| match thing {
            Thing::Named(name) => Some(name.text.as_str()),
            Thing::Literal(_) => None,
        })),
        Part::Unnamed(name) => found.push(&name.text),
        Part::Optional(inner) => mentioned(inner, found),
        Part::Repeat(repeat) => {
            mentioned(&repeat.part, found);
            if let Some(by) = &repeat.by {
                mentioned(by, found);
            }
        }
        Part::Literal(_) | Part::Soft(_) | Part::Tight(_) => {}
    }
}

/// The forms, by index, that texts of some sorts can have in them.
fn reached(definition: &Definition, from: &[&str]) -> FxHashSet<usize> {
    let mut reached = FxHashSet::default();
    let mut waiting: Vec<&str> = from.to_vec();
    let mut seen: FxHashSet<&str> = waiting.iter().copied().collect();
    while let Some(name) = waiting.pop() {
        for (index, form) in definition.forms.iter().enumerate() {
            if (form.sort_name() != name && form.name.text != name) || !reached.insert(index) {
                continue;
            }
            let mut inside = Vec::new();
            form.written
                .iter()
                .for_each(|part| mentioned(part, &mut inside));
            // A text with holes has what stands in them.
            let holes = definition.tokens.iter().filter(|rule| {
                let name = rule.name.text.as_str();
                inside
                    .iter()
                    .any(|inner| *inner == name || inner.starts_with(name))
            });
            let holes: Vec<&str> = holes
                .filter_map(|rule| Some(rule.holes.as_ref()?.sort.text.as_str()))
                .collect();
            inside.extend(holes);
            waiting.extend(inside.into_iter().filter(|name| seen.insert(name)));
        }
    }
    reached
}

/// Sorts that nothing uses, and forms that no program reaches.
fn unused(definition: &Definition) -> Vec<Diagnostic> {
    let Some(start) = start(definition) else {
        return Vec::new();
    };
    let mut roots = vec![start];
    roots.extend(definition.entries.iter().map(|entry| entry.text.as_str()));
    let reached = reached(definition, &roots);
    let mut mentions = Vec::new();
    for form in &definition.forms {
        form.written
            .iter()
            .for_each(|part| mentioned(part, &mut mentions));
    }
    let mentions: FxHashSet<&str> = mentions.into_iter().collect();
    let mut told: FxHashSet<&str> = FxHashSet::default();
    let mut found = Vec::new();
    for (index, form) in definition.forms.iter().enumerate() {
        // What others are made of only is not written.
        if reached.contains(&index) || form.written.is_none() || form.damaged {
            continue;
        }
        let sort = form.sort_name();
        let is_mentioned = mentions.contains(sort) || mentions.contains(form.name.text.as_str());
        if is_mentioned {
            let message = format!("no program can have form {} in it", quote(&form.name.text));
            found.push(
                Diagnostic::warning(codes::CHECK_SORTS, message)
                    .at(&definition.source, form.name.span)
                    .why(format!("what uses it is not in {} either", quote(start)))
                    .remedy(format!(
                        "use {} in a form that {} has",
                        quote(sort),
                        quote(start)
                    )),
            );
        } else if told.insert(sort) {
            let place = form.sort.as_ref().unwrap_or(&form.name);
            let near = nearest(sort, mentions.iter().copied());
            let message = format!("nothing uses the sort {}", quote(sort));
            let mut warning = Diagnostic::warning(codes::CHECK_SORTS, message)
                .at(&definition.source, place.span)
                .did_you_mean(near);
            if near.is_none() {
                let remedy =
                    format!("use it in a `written` clause, or add it to `entries`: {sort}");
                warning = warning.remedy(remedy);
            }
            found.push(warning);
        }
    }
    found
}

/// Forms of which no text ever ends, since each has another in it.
fn endless(definition: &Definition) -> Vec<Diagnostic> {
    let mut ends: FxHashSet<&str> = FxHashSet::default();
    loop {
        let before = ends.len();
        for form in &definition.forms {
            let can_end = form
                .written
                .as_ref()
                .is_none_or(|part| can_end(definition, part, &ends));
            if can_end {
                ends.insert(&form.name.text);
                ends.insert(form.sort_name());
            }
        }
        if ends.len() == before {
            break;
        }
    }
    let endless = definition
        .forms
        .iter()
        .filter(|form| !ends.contains(form.name.text.as_str()));
    endless
        .map(|form| {
            let message = format!("a {} never ends", quote(&form.name.text));
            Diagnostic::warning(codes::CHECK_SORTS, message)
                .at(&definition.source, form.name.span)
                .why("each has another in it, without a choice")
                .remedy("let what is inside be of a sort that has other forms, too, or be optional")
        })
        .collect()
}

fn can_end(definition: &Definition, part: &Part, ends: &FxHashSet<&str>) -> bool {
    let is_token = |name: &str| {
        let is_form = definition.has_sort(name) || definition.form(name).is_some();
        !is_form
    };
    let thing = |name: &str| is_token(name) || ends.contains(name);
    match part {
        Part::Sequence(parts) => parts.iter().all(|part| can_end(definition, part, ends)),
        Part::Choice(parts) => parts.iter().any(|part| can_end(definition, part, ends)),
        Part::Field(_, things) => things.iter().any(|one| match one {
            Thing::Named(name) => thing(&name.text),
            Thing::Literal(_) => true,
        }),
        Part::Unnamed(name) => thing(&name.text),
        Part::Repeat(repeat) => !repeat.at_least_one || can_end(definition, &repeat.part, ends),
        Part::Literal(_) | Part::Soft(_) | Part::Optional(_) | Part::Tight(_) => true,
    }
}

/// Where nothing says what a whole program is, and it is less than it could be.
fn narrow_start(definition: &Definition) -> Option<Diagnostic> {
    let first = definition
        .forms
        .first()
        .filter(|_| definition.starts.is_none())?;
    let own = reached(definition, &[first.sort_name()]).len();
    let all = definition.forms.iter().map(|form| {
        let sort = form.sort_name();
        (reached(definition, &[sort]), sort)
    });
    let (widest, sort) = all.max_by_key(|(reached, _)| reached.len())?;
    let is_wider = widest.len() > own && widest.contains(&0) && sort != first.sort_name();
    is_wider.then(|| {
        let message = format!(
            "a whole program is one {}: nothing says `starts`, and its form stands first",
            quote(first.sort_name())
        );
        Diagnostic::warning(codes::CHECK_SORTS, message)
            .at(&definition.source, first.name.span)
            .why(format!(
                "a {} can have all that it has, and more",
                quote(sort)
            ))
            .remedy(format!("add `starts {sort}` to `language`"))
    })
}
