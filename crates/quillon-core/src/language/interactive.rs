//! Interactive entries: whether one goes on, what could come next in it, and several of them as
//! one program.

use std::sync::Arc;

use super::tree::chosen;
use super::{Language, Reading};
use crate::definition::Thing;
use crate::diagnostic::{codes, has_errors};
use crate::lexing::KindId;
use crate::parsing::Ahead;
use crate::source::SourceText;

impl Language {
    /// Whether more text could make an unfinished entry whole.
    pub fn is_unfinished(&self, source: &Arc<SourceText>) -> bool {
        if self.parser().is_none() {
            return false;
        }
        let tokens = self.lexer().tokens(source);
        let Some(found) = tokens.value.map(|tokens| self.met(tokens)) else {
            return false;
        };
        if found.unfinished {
            // A token that ends with its line is not helped by another line.
            let longer = SourceText::new(source.name(), format!("{}\n", source.text()));
            return self
                .lexer()
                .tokens(&longer)
                .value
                .is_some_and(|t| t.unfinished);
        }
        !has_errors(&tokens.diagnostics)
            && self
                .tree_of(&found, Reading::Entry)
                .diagnostics
                .iter()
                .any(|d| d.code == codes::SYNTAX_UNFINISHED)
    }

    /// Entries of a conversation as one program, if they can be put one after the other:
    /// each on a line of its own, with what separates the parts of a program if need be.
    pub fn joined(&self, entries: &[&str]) -> Option<String> {
        let mut separators = vec![String::new()];
        let forms = self.definition().forms.iter();
        for part in forms.filter_map(|form| form.written.as_ref()) {
            part.separators(&mut separators);
        }
        let reads = |text: &String| {
            let source = SourceText::new("program", text.clone());
            self.tree(&source, Reading::Program).value.is_some()
        };
        let mut program = String::new();
        for entry in entries.iter().map(|entry| entry.trim_end()) {
            // An entry may end in a separator of its own.
            let mut longer = separators.iter().map(|separator| {
                let separator = if program.is_empty() { "" } else { separator };
                format!("{}{separator}\n{entry}\n", program.trim_end())
            });
            let found = longer.find(reads)?;
            found.trim_start().clone_into(&mut program);
        }
        Some(program)
    }

    /// What could come after a text that is the beginning of an entry, and what is open
    /// there. Errors of tokens are passed over.
    pub fn ahead(&self, source: &Arc<SourceText>) -> Ahead {
        let (Some(parser), Some(tokens)) = (self.parser(), self.lexer().tokens(source).value)
        else {
            return Ahead::default();
        };
        let tokens = self.met(tokens);
        let mut all = Ahead::default();
        for entry in chosen(parser, Reading::Entry) {
            if let Some(ahead) = parser.ahead(self.definition(), &tokens, entry) {
                if ahead.open.len() > all.open.len() {
                    all.open = ahead.open;
                }
                if ahead.closing.len() > all.closing.len() {
                    all.closing = ahead.closing;
                }
                let unsure =
                    |kind: &KindId| !ahead.bound.contains(kind) && ahead.kinds.contains(kind);
                all.bound.retain(|kind| !unsure(kind));
                let known = |kind: &KindId| all.kinds.contains(kind) && !all.bound.contains(kind);
                let bound: Vec<KindId> = ahead
                    .bound
                    .into_iter()
                    .filter(|kind| !known(kind))
                    .collect();
                all.bound.extend(bound);
                all.kinds.extend(ahead.kinds);
            }
        }
        all.kinds.sort();
        all.kinds.dedup();
        all
    }

    /// What could come after a text that is the beginning of an entry.
    pub fn possible(&self, before: &Arc<SourceText>) -> Possible {
        let mut possible = Possible::default();
        let ahead = self.ahead(before);
        for kind in ahead.kinds {
            let known = self.lexer().kind(kind);
            if known.is_literal() {
                let is_word = known.name.starts_with(char::is_alphabetic);
                possible.words.extend(is_word.then(|| known.name.clone()));
            } else {
                possible.takes_names |= self.is_name(kind) && !ahead.bound.contains(&kind);
            }
        }
        possible
    }

    /// Whether tokens of a kind stand for variables somewhere in the language.
    pub fn is_name(&self, kind: KindId) -> bool {
        let name = &self.lexer().kind(kind).name;
        let is_kind = |thing: &Thing| matches!(thing, Thing::Named(known) if known.text == *name);
        self.definition().forms.iter().any(|form| {
            let mut fields = form.fields.iter();
            fields.any(|field| {
                form.is_name_field(&field.name.text) && field.things.iter().any(is_kind)
            })
        })
    }
}

/// What could come next in a text.
#[derive(Clone, Debug, Default)]
pub struct Possible {
    /// The words of the language.
    pub words: Vec<String>,
    /// Whether a name could.
    pub takes_names: bool,
}
