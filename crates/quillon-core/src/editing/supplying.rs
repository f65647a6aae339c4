//! A binding for a name that nothing binds: found by trying what the language has for that.

use super::Looked;
use crate::definition::{Count, Form, Holds, Reach};
use crate::diagnostic::{Diagnostic, codes};
use crate::source::{SourceText, Span, exchanged};

/// No more texts are tried: each is read as a whole.
const MOST_TRIED: usize = 16;

/// In longer texts, in bytes, nothing is tried.
const LONGEST: usize = 1 << 17;

/// Where a statement that binds can be put in.
struct Place {
    /// Before the item that is there.
    at: u32,
    /// What stands between it and that item, the likeliest first.
    between: Vec<String>,
}

impl Looked {
    /// What would bind a name that nothing binds, and where it would stand: it has been tried that there is less
    /// wrong with it. What the name is to be is left to whoever writes the program: the binding has a value
    /// only so that it can be read.
    pub fn supplied(&self, error: &Diagnostic) -> Option<(u32, String)> {
        let place = error.place.as_ref()?;
        if error.code != codes::NAME_UNBOUND || self.source.text().len() > LONGEST {
            return None;
        }
        let name = self.source.slice(place.span);
        let places = self.places(place.span);
        let values = self.values();
        let forms = self.language.definition().forms.iter();
        let written = forms.filter_map(Binder::of).flat_map(|binder| {
            let each = values.iter().map(|value| binder.written(name, value));
            let mut each: Vec<String> = each.collect();
            each.dedup();
            each
        });
        let mut tried = written.flat_map(|written| {
            let texts = places.iter().flat_map(move |place| {
                let written = written.clone();
                let rest = place.between.iter();
                rest.map(move |rest| (place.at, format!("{written}{rest}")))
            });
            texts.collect::<Vec<_>>()
        });
        tried
            .by_ref()
            .take(MOST_TRIED)
            .find(|(at, text)| self.is_better_with(*at, text, error))
    }

    /// Where a statement can be put in before a place, the nearest first.
    fn places(&self, around: Span) -> Vec<Place> {
        let Some(tree) = &self.examined.tree else {
            return Vec::new();
        };
        let definition = self.language.definition();
        let steps = tree.path(around.start);
        let items = steps.windows(2).filter(|pair| pair[1].number.is_some());
        let place = |pair: &[crate::tree::PathStep]| {
            let at = tree.node(pair[1].node).span.start;
            let form = &definition.forms[tree.form(pair[0].node)?];
            let mut separators = Vec::new();
            form.written.as_ref()?.separators(&mut separators);
            let line = self.source.line_span(self.source.line_of(at));
            let before = self.source.slice(Span {
                start: line.start,
                end: at,
            });
            // On a line of its own where the item begins one.
            let gap = if before.trim().is_empty() {
                format!("\n{before}")
            } else {
                " ".to_owned()
            };
            separators.push(String::new());
            let between = separators
                .iter()
                .map(|separator| format!("{separator}{gap}"));
            Some(Place {
                at,
                between: between.collect(),
            })
        };
        items.rev().filter_map(place).collect()
    }

    /// Texts that are values, one of each kind.
    fn values(&self) -> Vec<String> {
        let lexer = self.language.lexer();
        let of = |holds: Holds| {
            let mut kinds = lexer.kinds().iter().zip(0u16..);
            let found = kinds.find(|(kind, _)| kind.holds == Some(holds) && !kind.ignored);
            found.and_then(|(_, at)| lexer.sample(crate::lexing::KindId(at)))
        };
        let kinds = [Holds::Integer, Holds::Number, Holds::Text];
        kinds.into_iter().filter_map(of).collect()
    }

    /// Whether less is wrong with a text put in, and nothing else than before.
    fn is_better_with(&self, at: u32, text: &str, error: &Diagnostic) -> bool {
        let place = Span { start: at, end: at };
        let text = exchanged(self.source.text(), [(place, text)]);
        let source = SourceText::new(self.source.name(), text);
        let now = self.language.examined(&source);
        let is_wrong = |one: &&Diagnostic| one.is_error();
        let messages = |all: &[Diagnostic]| -> Vec<String> {
            let errors = all.iter().filter(is_wrong);
            errors.map(|one| one.message.clone()).collect()
        };
        let before = messages(&self.examined.diagnostics);
        let now = messages(&now.diagnostics);
        !now.contains(&error.message) && now.iter().all(|message| before.contains(message))
    }
}

/// A form that binds one name for what follows.
struct Binder<'d> {
    form: &'d Form,
    field: &'d str,
}

impl<'d> Binder<'d> {
    fn of(form: &'d Form) -> Option<Binder<'d>> {
        let mut clauses = form.binds.iter();
        let clause = clauses.find(|clause| {
            let reaches = clause.onward || clause.throughout;
            reaches && clause.reach == Reach::Itself && clause.space.is_none()
        })?;
        let field = &form.fields[form.field_index(&clause.field.text)?];
        (field.count == Count::One).then_some(Binder {
            form,
            field: &field.name.text,
        })
    }

    /// The form with a name, and a value wherever else something has to stand.
    fn written(&self, name: &str, value: &str) -> String {
        let part = |field: &str, _: &_| if field == self.field { name } else { value }.to_owned();
        let written = self.form.written.as_ref();
        let sketch = written.map_or_else(String::new, |written| written.sketch(&part));
        // The end of its line, which comes behind it anyway.
        sketch.trim_end_matches(" …").to_owned()
    }
}
