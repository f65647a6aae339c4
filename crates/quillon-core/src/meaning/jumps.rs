//! Jumps that no landing can catch: found when the definition is read, over all forms that
//! a form can stand in.

use std::collections::BTreeSet;

use rustc_hash::FxHashMap;

use crate::definition::{Definition, Form, Name, Template, TemplateKind as T, Thing};
use crate::diagnostic::{Diagnostic, codes, nearest, quote};

/// The landings around something.
type Landings<'a> = BTreeSet<&'a str>;

/// Stands for any landing: what is around something is not known yet.
const ANY: &str = "";

/// Every jump whose landing is in no form that can be around it.
pub(super) fn stray_jumps(definition: &Definition) -> Vec<Diagnostic> {
    let mut all = Landings::new();
    let templates = definition
        .forms
        .iter()
        .filter_map(|form| form.means.as_ref());
    let helpers = definition.helpers.iter().map(|helper| &helper.body);
    templates
        .chain(helpers)
        .for_each(|means| landings_in(means, &mut all));
    let mut survey = Survey {
        definition,
        around: vec![Landings::new(); definition.forms.len()],
        changed: true,
        stray: Vec::new(),
    };
    while std::mem::take(&mut survey.changed) {
        survey.stray.clear();
        for index in 0..definition.forms.len() {
            survey.form(index);
        }
    }
    let stray = std::mem::take(&mut survey.stray);
    stray
        .into_iter()
        .map(|(form, name)| {
            let message = format!(
                "no form that form {} can stand in lands {}",
                quote(&form.name.text),
                quote(&name.text)
            );
            Diagnostic::error(codes::DEFINITION_MEANING, message)
                .at(&definition.source, name.span)
                .label("so this jump can never end anywhere")
                .remedy(format!(
                    "put `landing {} {{ … }}` around the field that has it",
                    name.text
                ))
                .did_you_mean(nearest(&name.text, all.iter().copied()))
        })
        .collect()
}

fn landings_in<'a>(template: &'a Template, out: &mut Landings<'a>) {
    if let T::Landing(name, _) = &template.kind {
        out.insert(&name.text);
    }
    template.each_part(&mut |part| landings_in(part, out));
}

struct Survey<'a> {
    definition: &'a Definition,
    /// The landings that can be around each form.
    around: Vec<Landings<'a>>,
    changed: bool,
    /// Jumps without a landing, as far as is known now.
    stray: Vec<(&'a Form, &'a Name)>,
}

/// Children that a meaning has a name for.
type Children<'a> = FxHashMap<&'a str, Vec<&'a Form>>;

impl<'a> Survey<'a> {
    fn form(&mut self, index: usize) {
        let form = &self.definition.forms[index];
        let around = self.around[index].clone();
        match &form.means {
            Some(means) if form.sugar.is_none() => {
                self.template(form, means, &around, &mut Children::default());
            }
            // Where its fields will be run is not known yet: anything can be around them.
            _ => {
                let fields = form.fields.iter();
                let inner: Vec<&Form> = fields
                    .flat_map(|f| self.definition.forms_of(&f.things))
                    .collect();
                self.run(&inner, &Landings::from([ANY]));
            }
        }
    }

    /// The forms are run with these landings around them.
    fn run(&mut self, forms: &[&'a Form], around: &Landings<'a>) {
        for form in forms {
            let index = self
                .definition
                .forms
                .iter()
                .position(|f| std::ptr::eq(f, *form));
            let Some(known) = index.map(|index| &mut self.around[index]) else {
                continue;
            };
            let before = known.len();
            known.extend(around);
            self.changed |= known.len() > before;
        }
    }

    /// The forms that a name of a meaning can stand for.
    fn forms(&self, form: &'a Form, name: &str, children: &Children<'a>) -> Vec<&'a Form> {
        if let Some(children) = children.get(name) {
            return children.clone();
        }
        match form.field_index(name) {
            Some(index) => self.definition.forms_of(&form.fields[index].things),
            None => Vec::new(),
        }
    }

    fn template(
        &mut self,
        form: &'a Form,
        template: &'a Template,
        around: &Landings<'a>,
        children: &mut Children<'a>,
    ) {
        match &template.kind {
            T::Name(name) => self.run(&self.forms(form, name, children), around),
            T::All(name) => self.run(&self.forms(form, &name.text, children), around),
            T::Taking(name, value) => {
                self.run(&self.forms(form, &name.text, children), around);
                self.template(form, value, around, children);
            }
            T::Member(owner, field) => {
                let owners = self.forms(form, &owner.text, children);
                let things: Vec<&[Thing]> = owners
                    .iter()
                    .filter_map(|o| Some(&o.fields[o.field_index(&field.text)?].things[..]))
                    .collect();
                for things in things {
                    self.run(&self.definition.forms_of(things), around);
                }
            }
            T::Each(name, list, body) => {
                let before = if let T::Name(field) = &list.kind {
                    let forms = self.forms(form, field, children);
                    children.insert(&name.text, forms)
                } else {
                    self.template(form, list, around, children);
                    None
                };
                self.template(form, body, around, children);
                children.remove(name.text.as_str());
                children.extend(before.map(|before| (name.text.as_str(), before)));
            }
            T::Landing(name, body) => {
                let mut around = around.clone();
                around.insert(&name.text);
                self.template(form, body, &around, children);
            }
            T::Function(_, body) => self.template(form, body, &Landings::new(), children),
            T::Jump(name, value) => {
                if !around.contains(name.text.as_str()) && !around.contains(ANY) {
                    self.stray.push((form, name));
                }
                if let Some(value) = value {
                    self.template(form, value, around, children);
                }
            }
            _ => {
                let mut parts = Vec::new();
                template.each_part(&mut |part| parts.push(part));
                for part in parts {
                    self.template(form, part, around, children);
                }
            }
        }
    }
}
