//! Meanings that never run, since whoever has such a form inside looks only at its parts.

use super::sorts::start;
use crate::definition::{Count, Definition, Form, Template, TemplateKind as T};
use crate::diagnostic::{Diagnostic, codes, quote};

pub(super) fn advice(definition: &Definition) -> Vec<Diagnostic> {
    let forms = definition.forms.iter();
    forms.filter_map(|form| of_form(definition, form)).collect()
}

/// What is to be said of a form whose meaning never runs.
fn of_form(definition: &Definition, form: &Form) -> Option<Diagnostic> {
    let means = form.means.as_ref().filter(|_| !form.damaged)?;
    // A meaning that is only one of its parts says nothing that is missed.
    if matches!(means.kind, T::Name(_)) || stands_alone(definition, form) {
        return None;
    }
    let mut uses = Uses::default();
    for around in &definition.forms {
        uses.within(around, form);
    }
    let [(first, name), ..] = &uses.parts[..] else {
        return None;
    };
    if uses.runs {
        return None;
    }
    let parts = uses.parts.iter().map(|(_, part)| quote(part));
    let mut parts: Vec<String> = parts.collect();
    parts.sort();
    parts.dedup();
    let message = format!("the meaning of {} is never run", quote(&form.name.text));
    let around = quote(&first.name.text);
    Some(
        Diagnostic::warning(codes::CHECK_MEANING, message)
            .at(&definition.source, means.span)
            .why(format!(
                "{around} looks only at its parts: {}",
                parts.join(", ")
            ))
            .remedy(format!(
                "in {around}, mention the child itself instead of its {}, or make that the meaning",
                quote(name)
            )),
    )
}

/// Whether it is run without a form around it, or from inside of a token.
fn stands_alone(definition: &Definition, form: &Form) -> bool {
    let sort = form.sort_name();
    let in_holes = definition
        .tokens
        .iter()
        .filter_map(|rule| rule.holes.as_ref())
        .any(|holes| holes.sort.text == sort);
    let is_entry = definition.entries.iter().any(|entry| entry.text == sort);
    start(definition) == Some(sort) || in_holes || is_entry
}

/// How forms use another one that they have inside.
#[derive(Default)]
struct Uses<'d> {
    /// Whether one of them runs it, or may.
    runs: bool,
    /// The parts of it that they look at, and who does.
    parts: Vec<(&'d Form, &'d str)>,
}

impl<'d> Uses<'d> {
    /// Looks at what a form does with the other one.
    fn within(&mut self, around: &'d Form, form: &Form) {
        let fields = around.fields.iter();
        for field in fields.filter(|field| form.is_among(&field.things)) {
            let name = field.name.text.as_str();
            let becomes = around.becomes.as_ref().is_some_and(|own| own.text == name);
            // What it is made of has it, too.
            self.runs |= becomes || around.sugar.is_some() || around.damaged;
            let is_many = field.count == Count::Many;
            for template in around.means.iter().chain(around.checks.iter()) {
                self.look_at(around, template, &[name], is_many);
            }
        }
    }

    /// Looks through a meaning in which these names stand for the child, or for all such children.
    fn look_at(&mut self, around: &'d Form, template: &'d Template, names: &[&'d str], many: bool) {
        let is_it = |name: &str| names.contains(&name);
        match Mention::of(template) {
            Some(Mention::Whole(name)) => self.runs |= is_it(name),
            Some(Mention::Part(name, part)) if is_it(name) => self.parts.push((around, part)),
            Some(Mention::Part(..)) | None => {}
        }
        if let T::Each(item, list, body) = &template.kind
            && many
            && matches!(Mention::of(list), Some(Mention::Whole(name)) if is_it(name))
        {
            let all = [names, &[item.text.as_str()]].concat();
            self.look_at(around, body, &all, many);
        } else if !matches!(template.kind, T::Spelling(_)) {
            // A spelling is the text of a child, and not what it comes to.
            template.each_part(&mut |part| self.look_at(around, part, names, many));
        }
    }
}

/// How a meaning mentions something, if it does so itself.
enum Mention<'d> {
    /// All of it.
    Whole(&'d str),
    /// A part of it.
    Part(&'d str, &'d str),
}

impl<'d> Mention<'d> {
    fn of(template: &'d Template) -> Option<Mention<'d>> {
        if let T::Name(name) = &template.kind {
            return Some(Mention::Whole(name));
        }
        if let T::Member(name, part) = &template.kind {
            return Some(Mention::Part(&name.text, &part.text));
        }
        let (T::All(path) | T::Taking(path, _)) = &template.kind else {
            return None;
        };
        let field = path.field.text.as_str();
        Some(match &path.part {
            Some(part) => Mention::Part(field, &part.text),
            None => Mention::Whole(field),
        })
    }
}
