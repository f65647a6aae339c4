//! Checks of what a meaning makes names for: parameters, children that are set, landings.

use super::{MeaningChecker, local};
use crate::definition::template::{FunctionHead, NamePart, Target};
use crate::definition::{Count, FieldPath, Form, Name, Reach, Template, TemplateKind as T};
use crate::diagnostic::{Diagnostic, codes, nearest, quote};
use crate::meaning::mentions::mentions;

impl MeaningChecker<'_> {
    /// A function: its parameters are fields that are bound here, or names of its own.
    pub(super) fn function(&mut self, head: &FunctionHead, body: &Template) {
        for part in &head.called {
            match part {
                NamePart::Field(field) => self.field(field, &[], ""),
                NamePart::Text(_) => {}
            }
        }
        let depth = self.locals.len();
        for path in &head.params {
            if let Some(part) = &path.part {
                self.part_that_is_bound(path, part);
                continue;
            }
            let param = &path.field;
            if self.field_of(&param.text).is_some() || self.is_unwritten(&param.text) {
                self.variable(param, true);
            } else {
                self.locals.push(local(param));
                self.misspelt(param, body);
            }
        }
        self.template(body);
        self.locals.truncate(depth);
    }

    /// A parameter that is no field, that nothing in its function uses, and that reads much
    /// like a field.
    pub(super) fn misspelt(&mut self, param: &Name, body: &Template) {
        let fields = self.form.into_iter().flat_map(|form| &form.fields);
        let near = nearest(&param.text, fields.map(|field| field.name.text.as_str()));
        let Some(near) = near.filter(|_| !mentions(body, &param.text)) else {
            return;
        };
        let remedy = format!("did you mean {}?", quote(near));
        let message = format!("nothing in this function uses {}", quote(&param.text));
        let error = self.error(codes::DEFINITION_FIELD, message, param.span);
        error.remedies.push(remedy);
    }

    /// Jumps that would leave a helper which is a function of its own.
    pub(super) fn leaving<'a>(
        &mut self,
        body: &'a Template,
        helper: &str,
        landings: &mut Vec<&'a str>,
    ) {
        if let T::Jump(Target { name, .. }, _) = &body.kind
            && !landings.contains(&name.text.as_str())
        {
            let message = format!("`jump {}` cannot leave helper {}", name.text, quote(helper));
            let error = self.error(codes::DEFINITION_MEANING, message, name.span);
            let why = "a helper that uses itself is a function of its own";
            error.why.push(why.to_owned());
        }
        let depth = landings.len();
        if let T::Landing(target, _) = &body.kind {
            landings.push(&target.name.text);
        }
        let mut parts = Vec::new();
        body.each_part(&mut |part| parts.push(part));
        for part in parts {
            self.leaving(part, helper, landings);
        }
        landings.truncate(depth);
    }

    /// `each`: over the children of a field, or over a list.
    pub(super) fn each(&mut self, name: &Name, list: &Template, body: &Template) {
        let is_many = |n| self.field_of(n).is_some_and(|f| f.count == Count::Many);
        let child = match &list.kind {
            T::Name(n) => !self.is_local(n) && is_many(n),
            // What a child has there may be children or a list.
            T::Member(owner, field) => {
                self.member(owner, field);
                true
            }
            _ => false,
        };
        // Each child of a field is run where the body says so, not here.
        if !child {
            self.template(list);
        }
        self.within(name, child, body);
    }

    /// `OWNER.PART` as a variable that is set.
    pub(super) fn variable_of_child(&mut self, path: &FieldPath, part: &Name) {
        let before = self.diagnostics.len();
        self.member(&path.field, part);
        let part = &part.text;
        let forms = &self.definition.forms;
        let binds_part = self.form.is_some_and(|form| {
            let mut binds = form.binds.iter();
            binds.any(|b| matches!(&b.reach, Reach::Part(p) if p.text == *part))
        });
        let is_variable = binds_part || forms.iter().any(|form| form.is_name_field(part));
        if !is_variable && self.diagnostics.len() == before {
            let text = path.text();
            let message = format!("{} is not a variable: nothing binds it", quote(&text));
            self.error(codes::DEFINITION_MEANING, message, path.span())
                .remedies
                .push(format!(
                    "add `binds FIELD.{part} in …`, FIELD being the one that has such children"
                ));
        }
    }

    /// A field that stands for a variable here.
    pub(super) fn variable(&mut self, name: &Name, repeated: bool) {
        let Some(form) = self.form else {
            self.error(
                codes::DEFINITION_MEANING,
                format!("{} is no variable here", quote(&name.text)),
                name.span,
            );
            return;
        };
        if self.is_unwritten(&name.text) {
            return;
        }
        let Some(field) = self.field_of(&name.text) else {
            self.unknown(&name.text, name.span);
            return;
        };
        if field.count == Count::Many && !repeated {
            let message = format!(
                "{} is repeated: one variable is needed here",
                quote(&name.text)
            );
            self.error(codes::DEFINITION_MEANING, message, name.span);
        } else if !form.is_name_field(&name.text) && names_fields(form) {
            let name_text = quote(&name.text);
            let form_name = quote(&form.name.text);
            let (message, remedy) = match bound_in(form, &name.text) {
                Some(part) => (
                    format!("{name_text} is not a variable: form {form_name} binds `{part}`"),
                    format!("write `{part}`"),
                ),
                None => (
                    format!(
                        "{name_text} is not a variable: no clause of form {form_name} binds or uses it"
                    ),
                    format!("add `binds {0} …` or `uses {0} to change`", name.text),
                ),
            };
            self.error(codes::DEFINITION_MEANING, message, name.span)
                .remedies
                .push(remedy);
        }
    }

    /// A field that a meaning sets: a use of it has to say so.
    pub(super) fn changed(&mut self, name: &Name) {
        let Some(form) = self.form else { return };
        let binds = form
            .binds
            .iter()
            .any(|clause| clause.field.text == name.text);
        let mut uses = form.uses.iter().filter(|uses| uses.field.text == name.text);
        let Some(only) = uses.next().filter(|uses| !binds && !uses.to_change) else {
            return;
        };
        let text = quote(&name.text);
        let message = format!("this changes {text}, and `uses` does not say `to change`");
        let place = only.field.span;
        let source = &self.definition.source;
        self.diagnostics.push(
            Diagnostic::error(codes::DEFINITION_MEANING, message)
                .at(source, name.span)
                .related(source, place, "used here")
                .why("what is fixed or built-in could be changed without a word")
                .remedy(format!("write `uses {} to change`", name.text)),
        );
    }
}

/// Whether all that a form binds and uses are fields of it: where one is misspelt, it may be any.
fn names_fields(form: &Form) -> bool {
    let binds = form
        .binds
        .iter()
        .filter(|clause| clause.reach != Reach::Unwritten);
    let named = binds.map(|clause| &clause.field);
    let mut all = named.chain(form.uses.iter().map(|uses| &uses.field));
    all.all(|field| form.field_index(&field.text).is_some())
}

/// What is bound of the forms that a field has, as meanings write it.
fn bound_in(form: &Form, field: &str) -> Option<String> {
    form.binds.iter().find_map(|binds| match &binds.reach {
        Reach::Part(part) if binds.field.text == field => Some(format!("{field}.{}", part.text)),
        Reach::Part(_) | Reach::Itself | Reach::Offered | Reach::Unwritten => None,
    })
}
