//! The item of a form: dispatches each of its clauses.

use std::sync::Arc;

use super::example::example;
use super::expectation::tree_term;
use super::form::{binds, offers, opens, uses, written};
use super::item::Reader;
use super::laid_out::laid_out;
use super::lexer::{Mode, Word};
use super::lines::Item;
use super::meaning::meaning;
use super::reduces::{order, rule};
use super::typed::{type_term, typed};
use crate::definition::model::{Definition, Form, title_of};
use crate::diagnostic::{Diagnostic, codes, quote};
use crate::source::Span;

/// The clauses of a form.
const FORM_CLAUSES: [&str; 14] = [
    "written", "opens", "binds", "uses", "offers", "takes", "typed", "denotes", "becomes",
    "laid out", "means", "is", "reduces", "example",
];

impl Reader<'_> {
    pub(in crate::definition) fn form(
        &mut self,
        item: &Item,
        rest: Span,
        definition: &mut Definition,
    ) {
        let mut cursor = self.cursor(rest, Mode::Plain);
        let Some(name) = cursor.name("the form's name") else {
            return;
        };
        let sort = if cursor.eat_word("in") {
            cursor.name("the sort it is a way to write")
        } else {
            None
        };
        cursor.finish();
        let mut form = Form {
            name,
            sort,
            written: None,
            fields: Vec::new(),
            opens: None,
            binds: Vec::new(),
            uses: Vec::new(),
            offers: Vec::new(),
            takes: None,
            becomes: None,
            sugar: None,
            laid_out: Vec::new(),
            typed: Vec::new(),
            denotes: None,
            means: None,
            is_value: false,
            reduces_in: Vec::new(),
            rules: Vec::new(),
            examples: Vec::new(),
            damaged: false,
        };
        let before = self.diagnostics.iter().filter(|d| d.is_error()).count();
        for &span in &item.clauses {
            self.form_clause(span, &mut form);
        }
        form.damaged = self.diagnostics.iter().filter(|d| d.is_error()).count() > before;
        definition.forms.push(form);
    }

    fn form_clause(&mut self, span: Span, form: &mut Form) {
        if let Some(rest) = self.source.slice(span).strip_prefix("example")
            && !rest.starts_with(|c: char| c.is_alphanumeric())
        {
            let title = title_of(&form.name, form.examples.len());
            if let Some(found) = example(self.source, span, title, &mut self.diagnostics) {
                form.examples.push(found);
            }
            return;
        }
        let source = Arc::clone(self.source);
        let Some((word, mut cursor)) = self.clause(span) else {
            return;
        };
        let mut twice = false;
        match word.text.as_str() {
            "written" => {
                twice = form.written.is_some();
                form.written = written(&mut cursor);
            }
            "opens" => {
                twice = form.opens.is_some();
                form.opens = opens(&mut cursor);
            }
            "binds" => form.binds.extend(binds(&mut cursor)),
            "uses" => form.uses.extend(uses(&mut cursor)),
            "offers" => form
                .offers
                .extend(offers(&mut cursor).into_iter().flatten()),
            "takes" => {
                twice = form.takes.is_some();
                form.takes = cursor.name("a name for what it is run on");
            }
            "becomes" => {
                twice = form.becomes.is_some() || form.sugar.is_some();
                if matches!(cursor.peek_second(), Word::Sign("(")) {
                    let start = cursor.span();
                    let term = tree_term(&mut cursor);
                    form.sugar = term.map(|term| (term, start.to(cursor.last_span())));
                } else {
                    form.becomes = cursor.name("the field that takes the form's place");
                }
            }
            "laid" => {
                twice = !form.laid_out.is_empty();
                form.laid_out = laid_out(&mut cursor).unwrap_or_default();
            }
            "is" => {
                twice = form.is_value;
                form.is_value = cursor.expect_word("value").is_some();
            }
            "reduces" if cursor.at_word("in") => {
                twice = !form.reduces_in.is_empty();
                form.reduces_in = order(&mut cursor).unwrap_or_default();
            }
            "reduces" => form.rules.extend(rule(&mut cursor)),
            "means" => {
                twice = form.means.is_some();
                form.means = meaning(&mut cursor);
            }
            "typed" => form.typed.extend(typed(&mut cursor)),
            "denotes" => {
                twice = form.denotes.is_some();
                form.denotes = type_term(&mut cursor);
            }
            _ => {
                let owner = format!("form {}", quote(&form.name.text));
                self.unknown_clause(&word, &FORM_CLAUSES, &owner);
                return;
            }
        }
        if !cursor.has_failed() {
            cursor.finish();
        }
        if twice {
            let message = format!(
                "form {} says {} twice",
                quote(&form.name.text),
                quote(&word.text)
            );
            self.diagnostics.push(
                Diagnostic::error(codes::DEFINITION_DUPLICATE, message)
                    .at(&source, word.span)
                    .remedy(
                        "keep one; alternatives of one form stand in one clause with `|` between",
                    ),
            );
        }
    }
}
