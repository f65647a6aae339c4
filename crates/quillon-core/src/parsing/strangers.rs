//! What people write who come from other languages, and what is written here instead.

use crate::definition::Definition;
use crate::lexing::{Kind, KindId, kind_named};
use crate::purposes::{Marks, Purpose, Purposes, is_remark_opener};

/// What is known of a language for those who come from others.
pub(super) struct Strangers {
    purposes: Purposes,
    /// The words of each form that has any, the first of them in front.
    forms: Vec<Vec<String>>,
    pub marks: Marks,
    /// How a variable is made, and how it is changed: the kinds of the tokens up to its value, and
    /// which of them is the name.
    pub binding: Option<Lead>,
    pub assignment: Option<Lead>,
}

/// What stands before the value that a variable is given.
pub(super) struct Lead {
    pub kinds: Vec<KindId>,
    /// The form with the name left open, to be put in.
    pub form: Box<dyn Fn(&str) -> String>,
}

impl Strangers {
    pub fn of(definition: &Definition, kinds: &[Kind]) -> Strangers {
        let purposes = Purposes::of(definition);
        let lead = |changes: bool| {
            let (parts, name) = crate::purposes::lead(definition, changes)?;
            let own: Option<Vec<KindId>> = parts
                .iter()
                .enumerate()
                .map(|(at, part)| kind_named(kinds, part, at != name))
                .collect();
            let form = move |text: &str| {
                let mut words: Vec<&str> = parts.iter().map(String::as_str).collect();
                words[name] = text;
                format!("{} …", words.join(" "))
            };
            Some(Lead {
                kinds: own?,
                form: Box::new(form),
            })
        };
        let written = definition
            .forms
            .iter()
            .filter_map(|form| form.written.as_ref());
        let words = written.map(|part| {
            let mut all = Vec::new();
            part.literals(&mut all);
            all.into_iter().map(str::to_owned).collect()
        });
        Strangers {
            forms: words.collect(),
            binding: lead(false),
            assignment: lead(true),
            marks: Marks::of(definition),
            purposes,
        }
    }

    /// The literals that are written here where other languages write a text, each with what it is
    /// for.
    pub fn instead_of<'k>(
        &'k self,
        text: &'k str,
        kinds: &'k [Kind],
    ) -> impl Iterator<Item = (KindId, Purpose)> + 'k {
        self.purposes
            .meant_by(text)
            .filter_map(move |(purpose, own)| Some((kind_named(kinds, own, true)?, purpose)))
    }

    /// Whether a form that begins with a word has another in it.
    pub fn go_together(&self, head: &str, word: &str) -> bool {
        let mut forms = self.forms.iter();
        forms.any(|words| {
            words.first().is_some_and(|first| first == head) && words[1..].iter().any(|w| w == word)
        })
    }

    /// Whether a word stands for something here.
    pub fn is_own(&self, word: &str) -> bool {
        self.purposes.has(word)
    }

    /// Whether a text begins a remark elsewhere, and not here.
    pub fn begins_remark(&self, text: &str) -> bool {
        let is_own = self.marks.remarks.iter().any(|own| own == text);
        is_remark_opener(text) && !is_own && !self.marks.remarks.is_empty()
    }
}
