//! Jumps that no landing can catch: found when the definition is read, over all forms that
//! a form can stand in.

use std::rc::Rc;

use rustc_hash::FxHashMap;

use crate::definition::template::Target;
use crate::definition::{
    Definition, Field, FieldRef, Form, Name, Shape, Template, TemplateKind as T, Thing,
};
use crate::diagnostic::{Diagnostic, codes, nearest, quote};

/// The landings around something: a bit for each name.
type Landings = u128;

/// Stands for any landing: what is around something is not known yet. So do names of which
/// there are too many for bits of their own.
const ANY: Landings = 1 << 127;

/// Every jump whose landing is in no form that can be around it.
pub(super) fn stray_jumps(definition: &Definition) -> Vec<Diagnostic> {
    let all = all_landings(definition);
    let stray = Survey::of(definition, &all).stray;
    let alone = alone(definition);
    let is_somewhere = |form: &Form| {
        let in_field = |other: &Form| {
            let mut fields = other.fields.iter();
            fields.any(|field| form.is_among(&field.things))
        };
        alone.contains(&form.sort_name()) || definition.forms.iter().any(in_field)
    };
    stray
        .into_iter()
        // That a form stands nowhere is another mistake.
        .filter(|(form, _)| is_somewhere(form))
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

/// The forms that no meaning runs and that cannot stand alone: parts of others, whose fields
/// those others look at.
pub fn only_parts(definition: &Definition) -> Vec<&Form> {
    let all = all_landings(definition);
    let runs = Survey::of(definition, &all).runs;
    let alone = alone(definition);
    let forms = definition.forms.iter().zip(runs);
    forms
        .filter(|(form, runs)| !runs && !alone.contains(&form.sort_name()))
        .map(|(form, _)| form)
        .collect()
}

/// The sorts that can stand alone.
fn alone(definition: &Definition) -> Vec<&str> {
    let first = definition.forms.iter().find(|form| form.written.is_some());
    let first = first
        .map(Form::sort_name)
        .filter(|_| definition.starts.is_none());
    let named = definition.starts.iter().chain(&definition.entries);
    named.map(|name| name.text.as_str()).chain(first).collect()
}

fn all_landings(definition: &Definition) -> Vec<&str> {
    let mut all = Vec::new();
    let forms = definition.forms.iter();
    let templates = forms.filter_map(|form| form.means.as_ref());
    let helpers = definition.helpers.iter().map(|helper| &helper.body);
    templates
        .chain(helpers)
        .for_each(|means| landings_in(means, &mut all));
    all
}

fn landings_in<'a>(template: &'a Template, out: &mut Vec<&'a str>) {
    if let T::Landing(target, _) = &template.kind
        && !out.contains(&target.name.text.as_str())
    {
        out.push(&target.name.text);
    }
    template.each_part(&mut |part| landings_in(part, out));
}

/// Forms, by their indexes in the definition.
type Forms = Rc<[usize]>;

/// The forms that each field of each form can be.
fn fields<'d>(definition: &'d Definition) -> Vec<Vec<Forms>> {
    let forms = definition.forms.iter();
    let index: FxHashMap<*const Form, usize> = forms
        .enumerate()
        .map(|(index, form)| (std::ptr::from_ref(form), index))
        .collect();
    // Most fields can be the same few sorts.
    let mut known: FxHashMap<Vec<&str>, Forms> = FxHashMap::default();
    let mut of_field = |field: &'d Field| {
        let names = field.things.iter().filter_map(|thing| match thing {
            Thing::Named(name) => Some(name.text.as_str()),
            Thing::Literal(_) => None,
        });
        let forms = known.entry(names.collect()).or_insert_with(|| {
            let forms = definition.forms_of(&field.things).into_iter();
            let number = |form: &Form| index.get(&std::ptr::from_ref(form)).copied();
            forms.filter_map(number).collect()
        });
        Rc::clone(forms)
    };
    let of_form = |form: &'d Form| form.fields.iter().map(&mut of_field).collect();
    let mut all: Vec<Vec<Forms>> = definition.forms.iter().map(of_form).collect();
    for (index, form) in definition.forms.iter().enumerate() {
        if let Some(shape) = definition.shape_of(form) {
            place(&shape, index, &mut all);
        }
    }
    all
}

/// Adds what a form that becomes others puts into their fields.
fn place(shape: &Shape, form: usize, fields: &mut [Vec<Forms>]) {
    match shape {
        Shape::Field(_) => {}
        Shape::List(items) => items.iter().for_each(|item| place(item, form, fields)),
        Shape::Form(target, slots) => {
            for (slot, child) in slots {
                let put = put_in(child, form, fields);
                let there = &mut fields[usize::from(*target)][usize::from(*slot)];
                let new = put.into_iter().filter(|form| !there.contains(form));
                *there = there.iter().copied().chain(new).collect();
                place(child, form, fields);
            }
        }
    }
}

fn put_in(shape: &Shape, form: usize, fields: &[Vec<Forms>]) -> Vec<usize> {
    match shape {
        Shape::Field(field) => fields[form][usize::from(*field)].to_vec(),
        Shape::Form(target, _) => vec![usize::from(*target)],
        Shape::List(items) => items
            .iter()
            .flat_map(|item| put_in(item, form, fields))
            .collect(),
    }
}

struct Survey<'a> {
    definition: &'a Definition,
    /// The bit of each landing.
    bits: FxHashMap<&'a str, u32>,
    fields: Vec<Vec<Forms>>,
    /// The landings that can be around each form.
    around: Vec<Landings>,
    changed: bool,
    /// The forms that some meaning runs.
    runs: Vec<bool>,
    /// Jumps without a landing, as far as is known now.
    stray: Vec<(&'a Form, &'a Name)>,
}

/// Children that a meaning has a name for.
type Children<'a> = FxHashMap<&'a str, Forms>;

impl<'a> Survey<'a> {
    /// Goes over all meanings of a definition until nothing more is found.
    fn of(definition: &'a Definition, landings: &[&'a str]) -> Survey<'a> {
        let mut survey = Survey {
            definition,
            bits: (0..)
                .zip(landings)
                .map(|(bit, name)| (*name, bit))
                .collect(),
            fields: fields(definition),
            around: vec![0; definition.forms.len()],
            changed: true,
            runs: vec![false; definition.forms.len()],
            stray: Vec::new(),
        };
        while std::mem::take(&mut survey.changed) {
            survey.stray.clear();
            for index in 0..definition.forms.len() {
                survey.form(index);
            }
        }
        survey
    }

    fn landing(&self, name: &str) -> Landings {
        match self.bits.get(name) {
            Some(bit) if *bit < 127 => 1 << bit,
            Some(_) => ANY,
            None => 0,
        }
    }

    fn form(&mut self, index: usize) {
        let form = &self.definition.forms[index];
        let around = self.around[index];
        if let Some(field) = form.becomes.as_ref() {
            // What stands in its place is run where it would be.
            if let Some(field) = form.field_index(&field.text) {
                let forms = Rc::clone(&self.fields[index][field]);
                self.run(&forms, around);
            }
            return;
        }
        if form.sugar.is_some() {
            // Its fields stand in those of the forms that it becomes, and are run there.
            if let Some(Shape::Form(target, _)) = self.definition.shape_of(form) {
                self.run(&[usize::from(target)], around);
            }
            return;
        }
        match &*form.means {
            Some(means) => self.template(index, means, around, &mut Children::default()),
            // Where its fields will be run is not known yet: anything can be around them.
            None => {
                for field in 0..form.fields.len() {
                    let forms = Rc::clone(&self.fields[index][field]);
                    self.run(&forms, ANY);
                }
            }
        }
    }

    /// The forms are run with these landings around them.
    fn run(&mut self, forms: &[usize], around: Landings) {
        for &form in forms {
            self.runs[form] = true;
            let known = &mut self.around[form];
            self.changed |= *known | around != *known;
            *known |= around;
        }
    }

    /// The forms that a name of a meaning can stand for.
    fn forms(&self, form: usize, path: FieldRef<'_>, children: &Children<'a>) -> Forms {
        let name = path.field;
        if let Some(part) = path.part {
            let owners = self.forms(form, name.into(), children);
            let of = |owner: &usize| {
                let index = self.definition.forms[*owner].field_index(part)?;
                Some(self.fields[*owner][index].to_vec())
            };
            return owners.iter().filter_map(of).flatten().collect();
        }
        if let Some(children) = children.get(name) {
            return Rc::clone(children);
        }
        match self.definition.forms[form].field_index(name) {
            Some(field) => Rc::clone(&self.fields[form][field]),
            None => Forms::from([]),
        }
    }

    fn template(
        &mut self,
        form: usize,
        template: &'a Template,
        around: Landings,
        children: &mut Children<'a>,
    ) {
        match &template.kind {
            T::Name(_) | T::Member(..) => {
                if let Some(path) = template.field_path() {
                    self.run(&self.forms(form, path, children), around);
                }
            }
            T::All(path) => self.run(&self.forms(form, path.into(), children), around),
            T::Taking(path, value) => {
                self.run(&self.forms(form, path.into(), children), around);
                self.template(form, value, around, children);
            }
            T::Each(name, list, body) => {
                let before = if let Some(field) = list.field_path() {
                    let forms = self.forms(form, field, children);
                    // A list that a child gives may be run to be gone over.
                    if field.part.is_some() {
                        self.run(&forms, around);
                    }
                    children.insert(&name.text, forms)
                } else {
                    self.template(form, list, around, children);
                    None
                };
                self.template(form, body, around, children);
                children.remove(name.text.as_str());
                children.extend(before.map(|before| (name.text.as_str(), before)));
            }
            T::Landing(target, body) => {
                let inner = around | self.landing(&target.name.text);
                self.template(form, body, inner, children);
            }
            T::Function(_, body) => self.template(form, body, 0, children),
            T::Jump(Target { name, .. }, value) => {
                if around & (self.landing(&name.text) | ANY) == 0 {
                    self.stray.push((&self.definition.forms[form], name));
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
