//! Names that are bound, used, landed on or kept for nothing.

use rustc_hash::FxHashSet;

use crate::definition::template::Target;
use crate::definition::{
    Binds, Definition, Form, Name, Reach, Template, TemplateKind as T, Thing, Uses,
};
use crate::diagnostic::{Diagnostic, codes, quote};

pub(super) fn advice(definition: &Definition) -> Vec<Diagnostic> {
    let meanings = Meanings::of(definition);
    let mut found = spaces(definition);
    found.extend(own_texts(definition));
    found.extend(unset(definition, &meanings));
    found.extend(unused_landings(definition, &meanings));
    found.extend(unused_cells(definition, &meanings));
    found
}

/// What the meanings of a definition mention.
#[derive(Default)]
struct Meanings<'d> {
    jumps: FxHashSet<&'d str>,
    landings: Vec<&'d Name>,
    /// Names, and parts of children.
    names: FxHashSet<&'d str>,
    parts: FxHashSet<&'d str>,
}

impl<'d> Meanings<'d> {
    fn of(definition: &'d Definition) -> Meanings<'d> {
        let mut meanings = Meanings::default();
        let forms = definition
            .forms
            .iter()
            .flat_map(|form| form.means.iter().chain(&form.checks));
        let helpers = definition.helpers.iter().map(|helper| &helper.body);
        let provided = definition.provides.iter().map(|provided| &provided.means);
        let cells = definition.state.iter().map(|cell| &cell.initial);
        for template in forms.chain(helpers).chain(provided).chain(cells) {
            meanings.look_at(template);
        }
        meanings
    }

    fn look_at(&mut self, template: &'d Template) {
        match &template.kind {
            T::Jump(Target { name, .. }, _) => {
                self.jumps.insert(&name.text);
            }
            T::Landing(Target { name, .. }, _) => self.landings.push(name),
            T::Name(name) => {
                self.names.insert(name);
            }
            T::Member(owner, part) => {
                self.names.insert(&owner.text);
                self.parts.insert(&part.text);
            }
            T::Set(path, _) => {
                self.names.insert(&path.field.text);
                self.parts
                    .extend(path.part.iter().map(|part| part.text.as_str()));
            }
            T::Function(head, _) => {
                self.names.extend(head.fields_called());
                let parts = head.params.iter().filter_map(|path| path.part.as_ref());
                self.parts.extend(parts.map(|part| part.text.as_str()));
            }
            _ => {}
        }
        template.each_part(&mut |part| self.look_at(part));
    }
}

/// Name spaces in which names are bound and never used, or used and never bound.
fn spaces<'a>(definition: &'a Definition) -> Vec<Diagnostic> {
    let binds = definition.forms.iter().flat_map(|form| &form.binds);
    let forms = definition.forms.iter();
    let uses = forms.flat_map(|form| form.uses.iter().map(move |one| (form, one)));
    let of_binds: Vec<&Name> = binds.filter_map(|clause| clause.space.as_ref()).collect();
    let space = |(_, clause): (&Form, &'a Uses)| clause.space.as_ref();
    let of_uses: Vec<&Name> = uses.clone().filter_map(space).collect();
    let unbound: Vec<&Name> = uses
        .filter(|(form, clause)| !can_be_built_in(definition, form, &clause.field.text))
        .filter_map(space)
        .collect();
    let mut found = Vec::new();
    let mut told: FxHashSet<&str> = FxHashSet::default();
    for (these, others, word) in [
        (&of_binds[..], &of_uses, "uses"),
        (&unbound[..], &of_binds, "binds"),
    ] {
        for space in these {
            let name = &space.text;
            if others.iter().any(|other| other.text == *name) || !told.insert(name) {
                continue;
            }
            let message = format!("nothing {word} the {name}");
            let remedy = format!("add a clause `{word} … as {name}`, or leave out `as {name}`");
            found.push(
                Diagnostic::warning(codes::CHECK_NAMES, message)
                    .at(&definition.source, space.span)
                    .remedy(remedy),
            );
        }
    }
    found
}

/// Whether something built-in, which is found in every name space, can be what a form uses: a
/// function where the form calls it, and a constant where it does not.
fn can_be_built_in(definition: &Definition, form: &Form, field: &str) -> bool {
    fn calls(template: &Template, field: &str) -> bool {
        let is_call = matches!(&template.kind, T::Call(callee, _)
            if matches!(&callee.kind, T::Name(name) if name == field));
        let mut found = is_call;
        template.each_part(&mut |part| found = found || calls(part, field));
        found
    }
    let is_called = form.means.as_ref().is_some_and(|means| calls(means, field));
    let mut provided = definition.provides.iter();
    provided.any(|one| one.params.is_some() == is_called)
}

/// Meanings that are just a name which the form neither binds nor uses: it is its own text there.
fn own_texts(definition: &Definition) -> Vec<Diagnostic> {
    let clauses = definition.forms.iter().flat_map(|form| {
        let binds = form.binds.iter().map(|clause| &clause.field);
        let uses = form.uses.iter().map(|clause| &clause.field);
        binds.chain(uses).map(move |field| (form, field))
    });
    // The tokens that are names of variables elsewhere.
    let tokens: FxHashSet<&str> = clauses
        .filter_map(|(form, field)| only_token(form, &field.text))
        .collect();
    let mut found = Vec::new();
    for form in definition.forms.iter().filter(|form| !form.damaged) {
        let Some(means) = &*form.means else { continue };
        let T::Name(name) = &means.kind else { continue };
        let is_name = only_token(form, name).is_some_and(|token| tokens.contains(token));
        if !is_name || form.is_name_field(name) {
            continue;
        }
        let text = quote(name);
        let message = format!("{text} is its own text here, and no variable");
        found.push(
            Diagnostic::warning(codes::CHECK_NAMES, message)
                .at(&definition.source, means.span)
                .why(format!(
                    "no clause of form {} binds or uses it",
                    quote(&form.name.text)
                ))
                .remedy(format!(
                    "add `uses {name}`, or write `spelling of {name}` if the text is meant"
                )),
        );
    }
    found
}

/// The token that a field always is.
fn only_token<'f>(form: &'f Form, field: &str) -> Option<&'f str> {
    let field = form.fields.iter().find(|own| own.name.text == field)?;
    match &field.things[..] {
        [Thing::Named(name)] => Some(&name.text),
        _ => None,
    }
}

/// Names that are bound, and whose variable no meaning gives a value.
fn unset(definition: &Definition, meanings: &Meanings<'_>) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    for form in definition.forms.iter().filter(|form| !form.damaged) {
        let Some(means) = &*form.means else { continue };
        for clause in &form.binds {
            if !is_unset(form, clause, means, meanings) {
                continue;
            }
            let name = &clause.field;
            let message = format!(
                "the variable of {} is never given a value",
                quote(&name.text)
            );
            found.push(
                Diagnostic::warning(codes::CHECK_NAMES, message)
                    .at(&definition.source, name.span)
                    .why(format!(
                        "form {} binds it, and its meaning does not set it",
                        quote(&form.name.text)
                    ))
                    .remedy(format!("write `{} := …` in the meaning", name.text)),
            );
        }
    }
    found
}

fn is_unset(form: &Form, clause: &Binds, means: &Template, meanings: &Meanings<'_>) -> bool {
    let name = clause.field.text.as_str();
    let sets_later = form
        .uses
        .iter()
        .any(|uses| uses.field.text == name && uses.to_change);
    clause.reach == Reach::Itself
        && !sets_later
        && !meanings.parts.contains(name)
        && !sets(means, name)
}

/// Whether a meaning gives the variable of a field a value.
fn sets(template: &Template, name: &str) -> bool {
    let own = match &template.kind {
        T::Set(path, _) => path.field.text == name,
        T::With(field, ..) => field.text == name,
        T::Function(head, _) => head.params.iter().any(|path| path.field.text == name),
        // Each of its names is set in a loop over them.
        T::Each(own, list, body) => {
            matches!(&list.kind, T::Name(field) if field == name) && sets(body, &own.text)
        }
        // That this hides the field is what is wrong then.
        T::Let(own, _) => own.text == name,
        _ => false,
    };
    let mut found = own;
    template.each_part(&mut |part| found |= sets(part, name));
    found
}

fn unused_landings(definition: &Definition, meanings: &Meanings<'_>) -> Vec<Diagnostic> {
    let landings = meanings.landings.iter();
    let unused = landings.filter(|name| !meanings.jumps.contains(name.text.as_str()));
    unused
        .map(|name| {
            let message = format!("nothing jumps to {}", quote(&name.text));
            Diagnostic::warning(codes::CHECK_NAMES, message)
                .at(&definition.source, name.span)
                .remedy(format!(
                    "add a form that means `jump {}`, or leave the landing out",
                    name.text
                ))
        })
        .collect()
}

fn unused_cells(definition: &Definition, meanings: &Meanings<'_>) -> Vec<Diagnostic> {
    let cells = definition.state.iter();
    let unused = cells.filter(|cell| !meanings.names.contains(cell.name.text.as_str()));
    unused
        .map(|cell| {
            let message = format!("nothing uses {}", quote(&cell.name.text));
            Diagnostic::warning(codes::CHECK_NAMES, message)
                .at(&definition.source, cell.name.span)
                .remedy("use it in a meaning, or leave it out")
        })
        .collect()
}
