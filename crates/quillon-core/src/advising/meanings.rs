//! Meanings that do something else than they seem to.

use crate::definition::template::BinaryOperator;
use crate::definition::{Definition, Form, Template, TemplateKind as T};
use crate::diagnostic::{Diagnostic, codes, quote};
use crate::operations::Operation;

pub(super) fn advice(definition: &Definition) -> Vec<Diagnostic> {
    let mut search = Search {
        definition,
        form: None,
        found: Vec::new(),
    };
    for form in definition.forms.iter().filter(|form| !form.damaged) {
        search.form = Some(form);
        let of_form = form.means.iter().chain(&form.checks);
        of_form.for_each(|means| search.look_at(means));
    }
    search.form = None;
    for helper in &definition.helpers {
        search.look_at(&helper.body);
        if Operation::named(&helper.name.text).is_some() {
            let message = format!(
                "{} hides the operation of that name",
                quote(&helper.name.text)
            );
            search.found.push(
                Diagnostic::warning(codes::CHECK_MEANING, message)
                    .at(&definition.source, helper.name.span)
                    .remedy("give the helper another name"),
            );
        }
    }
    for provided in &definition.provides {
        search.look_at(&provided.means);
    }
    search.found
}

struct Search<'a> {
    definition: &'a Definition,
    form: Option<&'a Form>,
    found: Vec<Diagnostic>,
}

impl Search<'_> {
    fn look_at(&mut self, template: &Template) {
        match &template.kind {
            T::Let(name, _) => {
                let field = self.form.and_then(|form| form.field_index(&name.text));
                if field.is_some() {
                    let name_text = quote(&name.text);
                    let message = format!("this hides the field {name_text}");
                    self.found.push(
                        Diagnostic::warning(codes::CHECK_MEANING, message)
                            .at(&self.definition.source, name.span)
                            .why("from here on the name is that of the value, and the field cannot be reached")
                            .remedy("give the value another name"),
                    );
                }
            }
            T::Block(parts) => {
                let most = parts.len().saturating_sub(1);
                parts[..most].iter().for_each(|part| self.thrown_away(part));
            }
            T::Call(_, args) => args
                .iter()
                .for_each(|arg| self.last_of_many(arg, "argument")),
            T::List(items) => items
                .iter()
                .for_each(|item| self.last_of_many(item, "item")),
            _ => {}
        }
        template.each_part(&mut |part| self.look_at(part));
    }

    /// The last value of a repeated field, where all of them may be meant.
    fn last_of_many(&mut self, part: &Template, what: &str) {
        let T::All(field) = &part.kind else {
            return;
        };
        let all = quote(&format!("all {}", field.text()));
        let message = format!("{all} is one {what} here, the last value");
        let remedy = format!(
            "where each value is to be one, write {}",
            quote(&field.text())
        );
        self.found.push(
            Diagnostic::note(codes::CHECK_MEANING, message)
                .at(&self.definition.source, part.span)
                .remedy(remedy),
        );
    }

    /// A comparison of which nothing is made.
    fn thrown_away(&mut self, part: &Template) {
        let T::Binary(BinaryOperator::Equal, left, _) = &part.kind else {
            return;
        };
        if !matches!(left.kind, T::Name(_) | T::Member(..)) {
            return;
        }
        let message = "the result of this comparison is not used";
        self.found.push(
            Diagnostic::warning(codes::CHECK_MEANING, message)
                .at(&self.definition.source, part.span)
                .remedy("to set a variable, write `:=` instead of `=`"),
        );
    }
}
