//! `becomes Form(…)`: a form that stands for other forms, put together from its fields. No
//! names are made, so none can be captured.

use serde::{Deserialize, Serialize};

use super::{Count, Definition, Form, Name, TreeTerm};
use crate::diagnostic::{Diagnostic, codes, nearest, plural, quote};
use crate::source::Span;

/// What a form becomes, with names as numbers.
#[derive(Clone, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub enum Shape {
    /// The children of a field.
    Field(u16),
    /// A form, with what stands in each of its fields.
    Form(u16, Vec<(u16, Shape)>),
    /// Several things in a row.
    List(Vec<Shape>),
}

impl Definition {
    /// The shape that a form becomes, if it becomes other forms.
    pub(crate) fn shape_of(&self, form: &Form) -> Option<Shape> {
        let (term, _) = form.sugar.as_ref()?;
        self.shape(form, term).ok()
    }

    /// Everything wrong with what a form becomes.
    pub(in crate::definition) fn sugar_mistakes(&self, form: &Form) -> Vec<Diagnostic> {
        let Some((term, span)) = &form.sugar else {
            return Vec::new();
        };
        let error = |message: String| {
            Diagnostic::error(codes::DEFINITION_FIELD, message).at(&self.source, *span)
        };
        let shape = match self.shape(form, term) {
            Ok(shape) => shape,
            Err(problem) => return vec![problem.diagnostic(self, *span)],
        };
        let mut found = Vec::new();
        if let Shape::Form(target, _) = &shape {
            let target = &self.forms[*target as usize];
            if target.sort_name() != form.sort_name() {
                found.push(error(format!(
                    "form {} is in {}, and what it becomes is in {}",
                    quote(&form.name.text),
                    quote(form.sort_name()),
                    quote(target.sort_name())
                )));
            }
        }
        let mut used = Vec::new();
        fields_used(&shape, &mut used);
        for (index, field) in form.fields.iter().enumerate() {
            if used.iter().filter(|u| **u as usize == index).count() > 1 {
                found.push(
                    error(format!(
                        "field {} stands there twice",
                        quote(&field.name.text)
                    ))
                    .why("it would run twice, and bind what it binds twice")
                    .remedy("write a meaning of its own for the form, with `let`"),
                );
            }
        }
        found
    }

    fn shape(&self, form: &Form, term: &TreeTerm) -> Result<Shape, Problem> {
        match term {
            TreeTerm::Word(Name { text: word, .. }) => match form.field_index(word) {
                Some(field) => Ok(Shape::Field(field as u16)),
                None if self.form(word).is_some() => self.form_shape(form, word, &[]),
                None => Err(Problem::Unknown(word.clone(), form.name.text.clone())),
            },
            TreeTerm::Form(name, children) => self.form_shape(form, &name.text, children),
            TreeTerm::List(items, _) => Ok(Shape::List(
                items
                    .iter()
                    .map(|item| self.shape(form, item))
                    .collect::<Result<_, _>>()?,
            )),
            TreeTerm::Value(..) => Err(Problem::Other(
                "a value has no place in a program; use a field".to_owned(),
            )),
        }
    }

    fn form_shape(
        &self,
        form: &Form,
        name: &str,
        children: &[(Option<Name>, TreeTerm)],
    ) -> Result<Shape, Problem> {
        let Some(index) = self.forms.iter().position(|f| f.name.text == name) else {
            return Err(Problem::Unknown(name.to_owned(), form.name.text.clone()));
        };
        let target = &self.forms[index];
        let named = quote(name);
        if target.sugar.is_some() || target.becomes.is_some() {
            return Err(Problem::Other(format!(
                "form {named} is never in a tree: it becomes something else itself"
            )));
        }
        let mut slots: Vec<(u16, Shape)> = Vec::new();
        for (position, (field, child)) in children.iter().enumerate() {
            let Some(slot) = target.slot_of(field.as_ref(), position) else {
                let lack = match field {
                    Some(field) => format!("no field {}", quote(&field.text)),
                    None => format!("only {}", plural(target.fields.len(), "field")),
                };
                return Err(Problem::Other(format!("form {named} has {lack}")));
            };
            slots.push((slot as u16, self.shape(form, child)?));
        }
        let missing = target.fields.iter().enumerate().find(|(slot, field)| {
            field.count == Count::One && !slots.iter().any(|(s, _)| *s as usize == *slot)
        });
        match missing {
            Some((_, field)) => Err(Problem::Other(format!(
                "form {named} needs its field {}",
                quote(&field.name.text)
            ))),
            None => Ok(Shape::Form(index as u16, slots)),
        }
    }
}

/// Why there is no shape.
enum Problem {
    /// A word that is neither a field of the form nor a form.
    Unknown(String, String),
    Other(String),
}

impl Problem {
    fn diagnostic(self, definition: &Definition, span: Span) -> Diagnostic {
        match self {
            Problem::Other(message) => {
                Diagnostic::error(codes::DEFINITION_FIELD, message).at(&definition.source, span)
            }
            Problem::Unknown(word, form) => {
                let fields = definition.form(&form).into_iter().flat_map(|f| &f.fields);
                let known = fields
                    .map(|f| f.name.text.as_str())
                    .chain(definition.forms.iter().map(|f| f.name.text.as_str()));
                let near = nearest(&word, known).map(str::to_owned);
                Diagnostic::error(
                    codes::DEFINITION_FIELD,
                    format!(
                        "{} is neither a field of form {} nor a form",
                        quote(&word),
                        quote(&form)
                    ),
                )
                .at(&definition.source, span)
                .did_you_mean(near.as_deref())
            }
        }
    }
}

fn fields_used(shape: &Shape, out: &mut Vec<u16>) {
    match shape {
        Shape::Field(field) => out.push(*field),
        Shape::Form(_, slots) => slots.iter().for_each(|(_, s)| fields_used(s, out)),
        Shape::List(items) => items.iter().for_each(|s| fields_used(s, out)),
    }
}
