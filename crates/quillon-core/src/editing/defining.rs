//! What an editor asks of a definition: its items, whatever is wrong in them.

use std::sync::Arc;

use crate::definition;
use crate::source::{SourceText, Span};

/// An item of a definition, or a line of one that names something.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Item {
    /// What it is called: the name of a form, or the words that the item begins with.
    pub name: String,
    /// Whether it is a form.
    pub is_form: bool,
    /// All of it.
    pub span: Span,
    /// The name.
    pub at: Span,
    /// The names in it: tokens, built-in functions, helpers, cells.
    pub inside: Vec<Item>,
}

/// The items of a definition, in the order of the text.
pub fn items(source: &Arc<SourceText>) -> Vec<Item> {
    let all = definition::outlined(source).into_iter();
    all.map(|(head, clauses)| item(source, head, &clauses))
        .collect()
}

fn item(source: &Arc<SourceText>, head: Span, clauses: &[Span]) -> Item {
    let text = source.slice(head);
    let word = definition::first_word(text);
    let is_form = word == "form";
    let at = if is_form {
        let rest = &text[word.len()..];
        let start = head.start as usize + word.len() + (rest.len() - rest.trim_start().len());
        let name = definition::first_word(rest.trim_start());
        Span::new(start, start + name.len())
    } else {
        head
    };
    let lists = ["tokens", "provides", "state", "define", "types"].contains(&word);
    let named = clauses.iter().filter(|_| lists).filter_map(|clause| {
        let name = definition::first_word(source.slice(*clause));
        let start = clause.start as usize;
        (!name.is_empty()).then(|| Item {
            name: name.to_owned(),
            is_form: false,
            span: *clause,
            at: Span::new(start, start + name.len()),
            inside: Vec::new(),
        })
    });
    Item {
        name: source.slice(at).to_owned(),
        is_form,
        span: clauses.last().map_or(head, |last| head.to(*last)),
        at,
        inside: named.collect(),
    }
}
