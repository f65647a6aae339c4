//! Checks of what a meaning makes names for: parameters, children that are set, landings.

use super::{MeaningChecker, local};
use crate::definition::template::Target;
use crate::definition::{Count, FieldPath, Name, Reach, Template, TemplateKind as T};
use crate::diagnostic::{codes, nearest, quote};
use crate::meaning::mentions::mentions;

impl MeaningChecker<'_> {
    /// A function: its parameters are fields that are bound here, or names of its own.
    pub(super) fn function(&mut self, params: &[FieldPath], body: &Template) {
        let depth = self.locals.len();
        for path in params {
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
}
