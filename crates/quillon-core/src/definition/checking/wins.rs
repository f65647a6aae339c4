//! `wins over`: the forms are there, and no two win over each other.

use super::NameChecker;
use super::unknown::Missing;
use crate::definition::model::{Form, Name};
use crate::diagnostic::{codes, quote};

impl NameChecker<'_> {
    pub(super) fn wins(&mut self, form: &Form) {
        let definition = self.definition;
        let forms = definition.forms.iter();
        let known: Vec<&str> = forms.map(|form| form.name.text.as_str()).collect();
        for name in &form.wins {
            let Some(other) = definition.form(&name.text) else {
                self.unknown(Missing::Form, name, &known);
                continue;
            };
            let is_first = other.name.span.start < form.name.span.start;
            let message = if other.name.text == form.name.text {
                "a form cannot win over itself".to_owned()
            } else if is_first && wins_over(other, &form.name) {
                let [one, two] = [other, form].map(|form| quote(&form.name.text));
                format!("forms {one} and {two} win over each other")
            } else {
                continue;
            };
            self.error(codes::DEFINITION_PRECEDENCE, message, name)
                .remedies
                .push("leave one of the two out".to_owned());
        }
    }
}

fn wins_over(form: &Form, other: &Name) -> bool {
    form.wins.iter().any(|name| name.text == other.text)
}
