//! Ties the names in `reduces` clauses to fields, forms and each other.

use crate::definition::model::{Count, Definition, Form, Name, Template, TemplateKind as T};
use crate::definition::model::{Is, Rewrite, RewriteKind as K, Rule};
use crate::diagnostic::{Diagnostic, codes, nearest, plural, quote};

/// What is wrong with the rules of a definition.
pub(in crate::definition) fn check(definition: &Definition) -> Vec<Diagnostic> {
    let mut found = Vec::new();
    for form in definition.forms.iter().filter(|form| !form.damaged) {
        let fields: Vec<&str> = form.fields.iter().map(|f| f.name.text.as_str()).collect();
        let mut checker = RuleChecker {
            definition,
            known: fields.clone(),
            found: Vec::new(),
        };
        for field in &form.reduces_in {
            checker.name(field);
        }
        for rule in &form.rules {
            checker.known.clone_from(&fields);
            checker.rule(rule);
        }
        found.extend(checker.found);
    }
    found
}

struct RuleChecker<'a> {
    definition: &'a Definition,
    /// The names that a rule can speak of so far.
    known: Vec<&'a str>,
    found: Vec<Diagnostic>,
}

impl<'a> RuleChecker<'a> {
    fn error(&mut self, message: String, at: &Name, near: Option<&str>) {
        let error = Diagnostic::error(codes::DEFINITION_RULE, message)
            .at(&self.definition.source, at.span)
            .did_you_mean(near);
        self.found.push(error);
    }

    fn name(&mut self, name: &Name) {
        if !self.known.contains(&name.text.as_str()) {
            let near = nearest(&name.text, self.known.iter().copied());
            let message = format!("the rule has no {}", quote(&name.text));
            self.error(message, name, near);
        }
    }

    fn form(&mut self, name: &Name) -> Option<&'a Form> {
        let definition = self.definition;
        let found = definition.form(&name.text);
        if found.is_none() {
            let forms = definition.forms.iter().map(|form| form.name.text.as_str());
            let near = nearest(&name.text, forms);
            self.error(
                format!("there is no form {}", quote(&name.text)),
                name,
                near,
            );
        }
        let form = found?;
        if form.becomes.is_some() || form.sugar.is_some() {
            let message = format!(
                "form {} is in no tree: it becomes another one",
                quote(&name.text)
            );
            self.error(message, name, None);
        }
        Some(form)
    }

    fn rule(&mut self, rule: &'a Rule) {
        for condition in &rule.conditions {
            self.name(&condition.name);
            match &condition.is {
                Is::Value => {}
                Is::Form(name, names) => {
                    let count = self.form(name).map(|form| form.fields.len());
                    if let Some(count) = count.filter(|&count| names.len() > count) {
                        let message = format!(
                            "form {} has {}, and here are names for {}",
                            quote(&name.text),
                            plural(count, "field"),
                            names.len()
                        );
                        self.error(message, name, None);
                    }
                    self.known.extend(names.iter().map(|n| n.text.as_str()));
                }
                Is::List(names, others) => {
                    let names = names.iter().chain(others);
                    self.known.extend(names.map(|n| n.text.as_str()));
                }
            }
        }
        if let Some(when) = &rule.when {
            self.computed(when);
        }
        self.rewrite(&rule.to);
    }

    fn rewrite(&mut self, rewrite: &Rewrite) {
        match &rewrite.kind {
            K::Name(name) => self.name(name),
            K::Itself => {}
            K::Form(name, fields) => {
                if let Some(form) = self.form(name) {
                    self.fields(form, name, fields);
                }
                fields.iter().for_each(|(_, field)| self.rewrite(field));
            }
            K::List(items, others) => {
                items.iter().for_each(|item| self.rewrite(item));
                others.iter().for_each(|others| self.name(others));
            }
            K::Replace(within, name, by) => {
                self.rewrite(within);
                self.name(name);
                self.rewrite(by);
            }
            K::Compute(template) => self.computed(template),
        }
    }

    fn fields(&mut self, form: &Form, name: &Name, given: &[(Option<Name>, Rewrite)]) {
        let mut slots = Vec::new();
        for (position, (field, _)) in given.iter().enumerate() {
            let Some(slot) = form.slot_of(field.as_ref(), position) else {
                let message = format!("form {} has no such field", quote(&name.text));
                self.error(message, field.as_ref().unwrap_or(name), None);
                return;
            };
            slots.push(slot);
        }
        for (index, field) in form.fields.iter().enumerate() {
            if field.count == Count::One && !slots.contains(&index) {
                let message = format!(
                    "field {} of form {} is missing here",
                    quote(&field.name.text),
                    quote(&name.text)
                );
                self.error(message, name, None);
            }
        }
    }

    fn computed(&mut self, template: &Template) {
        if let T::Name(name) = &template.kind {
            self.name(&Name {
                text: name.clone(),
                span: template.span,
            });
        }
        template.each_part(&mut |part| self.computed(part));
    }
}
