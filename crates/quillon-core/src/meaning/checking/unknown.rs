//! What a meaning mentions and nothing is called: each once, with the number of its other places.

use super::MeaningChecker;
use super::kinds::misfits;
use crate::definition::{Name, Template};
use crate::diagnostic::{codes, nearest, plural, quote};
use crate::operations::{Arity, Operation, meant};
use crate::source::Span;

impl MeaningChecker<'_> {
    /// Checks a whole meaning.
    pub(super) fn whole(&mut self, means: &Template) {
        self.template(means);
        let misfits = misfits(self.definition, self.form, means);
        self.diagnostics.extend(misfits);
        for (at, others) in std::mem::take(&mut self.unknown).into_values() {
            if others > 0 {
                let places = plural(others, "other place");
                let why = format!("it is mentioned in {places}, too");
                self.diagnostics[at].why.push(why);
            }
        }
    }

    /// An error at a cell, which stands nowhere in a program.
    pub(super) fn no_place(&mut self, cell: &Name) {
        let text = quote(&cell.text);
        let message = format!("{text} is a cell of the state, and stands nowhere in a program");
        self.error(codes::DEFINITION_FIELD, message, cell.span)
            .remedies
            .push("say the error at a field, or at a name made by `let`; without `at` it is said at the form".to_owned());
    }

    pub(super) fn unknown(&mut self, name: &str, span: Span) {
        if self.definition.unread.contains(name) {
            return;
        }
        if let Some((_, others)) = self.unknown.get_mut(name) {
            *others += 1;
            return;
        }
        self.unknown
            .insert(name.to_owned(), (self.diagnostics.len(), 0));
        let mut known: Vec<String> = self.locals.iter().map(|l| l.name.clone()).collect();
        known.extend(
            self.definition
                .state
                .iter()
                .map(|cell| cell.name.text.clone()),
        );
        known.extend(["nothing", "true", "false"].map(str::to_owned));
        let (message, why) = match self.form {
            Some(form) => {
                known.extend(form.fields.iter().map(|f| f.name.text.clone()));
                let listed: Vec<String> = form.fields.iter().map(|f| quote(&f.name.text)).collect();
                (
                    format!(
                        "form {} has no field {}",
                        quote(&form.name.text),
                        quote(name)
                    ),
                    if listed.is_empty() {
                        "its `written` clause names no fields".to_owned()
                    } else {
                        format!("its fields are {}", listed.join(", "))
                    },
                )
            }
            None => (
                format!("nothing here is called {}", quote(name)),
                "only its parameters are known here".to_owned(),
            ),
        };
        let near = nearest(name, known.iter().map(String::as_str)).map(str::to_owned);
        let error = self.error(codes::DEFINITION_FIELD, message, span);
        error.why.push(why);
        if let Some(near) = near {
            error
                .remedies
                .push(format!("did you mean {}?", quote(&near)));
        }
    }

    pub(super) fn apply(&mut self, name: &Name, count: usize) {
        let helper = self.definition.helper(&name.text);
        let (arity, word) = if let Some(helper) = helper {
            let params = helper.params.len();
            let arity = Arity {
                least: params,
                most: Some(params),
            };
            (arity, "operand")
        } else if let Some(operation) = Operation::named(&name.text) {
            (operation.arity(), "operand")
        } else {
            let known: Vec<&str> = Operation::ALL
                .iter()
                .map(|o| o.name())
                .chain(self.definition.helpers.iter().map(|h| h.name.text.as_str()))
                .collect();
            if self.definition.unread.contains(&name.text) {
                return;
            }
            let meant = meant(&name.text).map(Operation::name);
            let near = meant
                .or_else(|| nearest(&name.text, known))
                .map(str::to_owned);
            let message = format!("there is no helper or operation {}", quote(&name.text));
            let is_value = self.is_local(&name.text) || self.field_of(&name.text).is_some();
            let error = self.error(codes::DEFINITION_NAME, message, name.span);
            if is_value {
                let args = if count == 0 { "" } else { " with …" };
                let way = quote(&format!("call {}{args}", name.text));
                error.remedies.push(format!("write {way}"));
            } else if let Some(near) = near {
                error
                    .remedies
                    .push(format!("did you mean {}?", quote(&near)));
            }
            return;
        };
        if !arity.fits(count) {
            let message = format!(
                "{} takes {}, and gets {count}",
                quote(&name.text),
                arity.described(word)
            );
            self.error(codes::DEFINITION_MEANING, message, name.span);
        }
    }
}
