//! `checks`: what must hold of a program before it runs.
//!
//! A definition with such clauses has a second meaning, in which a program is looked at and not
//! run: a form does what its clause says, and one without a clause has its children looked at.

use super::template::{Template, TemplateKind as T};
use super::{Count, Definition, Field, FieldPath, Form, Thing};

impl Form {
    /// What it does where it has no clause of its own: all that is in it, one after the other;
    /// with a single child, that gives what the child gives.
    fn looked_at(&self) -> Template {
        let span = self.name.span;
        let mentions = self.fields.iter().filter(|field| self.is_child(field));
        let mut mentions: Vec<Template> = mentions
            .map(|field| {
                let name = field.name.clone();
                let kind = match field.count {
                    Count::Many => T::All(FieldPath {
                        field: name,
                        part: None,
                    }),
                    Count::One | Count::Optional => T::Name(name.text),
                };
                Template { kind, span }
            })
            .collect();
        match (mentions.pop(), mentions.is_empty()) {
            (Some(only), true) => only,
            (last, _) => {
                mentions.extend(last);
                let kind = T::Block(mentions);
                Template { kind, span }
            }
        }
    }

    /// Whether a field has forms in it, or is the name that is all that the form uses.
    fn is_child(&self, field: &Field) -> bool {
        let is = |name: &super::Name| name.text == field.name.text;
        if let ([only], true) = (&self.uses[..], self.fields.len() == 1) {
            return is(&only.field);
        }
        let is_name = self.binds.iter().any(|binds| is(&binds.field))
            || self.uses.iter().any(|uses| is(&uses.field));
        let has_forms = field.things.iter().any(|thing| match thing {
            Thing::Named(_) => true,
            Thing::Literal(_) => false,
        });
        !is_name && has_forms
    }
}

impl Definition {
    /// Whether anything must hold of programs before they run.
    pub(crate) fn has_checks(&self) -> bool {
        self.forms.iter().any(|form| form.checks.is_some())
    }

    /// The definition whose programs do what their forms check, in place of what they mean. What
    /// is built in is nothing in it.
    pub(crate) fn checking(&self) -> Definition {
        let mut other = self.clone();
        for form in other.forms.iter_mut().filter(|f| f.becomes.is_none()) {
            let checks = form.checks.take();
            form.means = Some(checks.unwrap_or_else(|| form.looked_at())).into();
        }
        for provided in &mut other.provides {
            provided.means.kind = T::Literal(super::Literal::Nothing);
        }
        other
    }
}
