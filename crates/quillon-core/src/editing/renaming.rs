//! A name exchanged everywhere where it means the same.

use super::Looked;
use crate::diagnostic::quote;
use crate::scoping::{BindingId, Names};
use crate::source::{SourceText, Span, exchanged};
use crate::tree::Tree;

impl Looked {
    /// The name at a place, if it can be exchanged: its stretch.
    ///
    /// # Errors
    /// Why it cannot, as a sentence.
    pub fn renamable(&self, offset: u32) -> Result<Span, String> {
        let (Some((tree, names)), Some(here)) = (self.named(), self.mention_at(offset)) else {
            return Err("no name stands here".to_owned());
        };
        let binding = names.binding(here.binding);
        if binding.span.is_none() {
            return Err(format!(
                "{} belongs to the language, and not to this program",
                quote(&binding.name)
            ));
        }
        if let Some(error) = self.examined.diagnostics.iter().find(|one| one.is_error()) {
            return Err(format!(
                "the program has to be right before: {}",
                error.message
            ));
        }
        Ok(tree.node(here.node).span)
    }

    /// The stretches where a new name is to be put for the one at a place.
    ///
    /// # Errors
    /// Why it cannot be put there, as a sentence.
    pub fn renamed(&self, offset: u32, name: &str) -> Result<Vec<Span>, String> {
        let old = self.renamable(offset)?;
        self.is_such_a_name(old, name)?;
        let places: Vec<Span> = self.standings(offset).iter().map(|one| one.span).collect();
        let text = exchanged(
            self.source.text(),
            places.iter().map(|place| (*place, name)),
        );
        let source = SourceText::new(self.source.name(), text);
        let after = self.language.examined(&source);
        let in_core = self.language.wrong_in_core(&after);
        let mut found = after.diagnostics.iter().chain(&in_core);
        if let Some(error) = found.find(|one| one.is_error()) {
            return Err(format!("the program would be wrong: {}", error.message));
        }
        let (Some((tree, names)), Some(new_tree), Some(new_names)) =
            (self.named(), &after.tree, &after.names)
        else {
            return Err("the program could not be read any more".to_owned());
        };
        let before = meanings(tree, names);
        let now = meanings(new_tree, new_names);
        if before.len() != now.len() {
            return Err("the program would be read otherwise".to_owned());
        }
        let changed = before
            .iter()
            .zip(&now)
            .find(|(one, other)| one.1 != other.1);
        match changed {
            None => Ok(places),
            Some((one, _)) => {
                let line = self.source.line_of(one.0.start);
                Err(format!(
                    "{} in line {line} would mean something else: another {} is in sight there",
                    quote(self.source.slice(one.0)),
                    quote(name)
                ))
            }
        }
    }

    /// Whether a text is one token of the kind of another.
    fn is_such_a_name(&self, old: Span, name: &str) -> Result<(), String> {
        let lexer = self.language.lexer();
        let kind = self.token_at(old.start).map(|token| token.kind);
        let source = SourceText::new("name", name);
        let tokens = lexer.tokens(&source);
        let found = tokens.value.filter(|_| tokens.diagnostics.is_empty());
        let whole = Span::new(0, name.len());
        let first = found.and_then(|found| found.tokens.first().copied());
        match first {
            Some(token) if token.span == whole && Some(token.kind) == kind => Ok(()),
            Some(token) if token.span == whole && lexer.kind(token.kind).is_literal() => {
                Err(format!("{} is a word of the language", quote(name)))
            }
            _ => Err(format!("{} is no name in this language", quote(name))),
        }
    }
}

/// What every name of a text means: each binding by the number of the first name that has it.
fn meanings(tree: &Tree, names: &Names) -> Vec<(Span, usize)> {
    let mut first: rustc_hash::FxHashMap<BindingId, usize> = rustc_hash::FxHashMap::default();
    let mentions = names.mentions(tree).into_iter().enumerate();
    mentions
        .map(|(number, mention)| {
            let known = *first.entry(mention.binding).or_insert(number);
            (tree.node(mention.node).span, known)
        })
        .collect()
}
