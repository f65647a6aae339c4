//! Mends what in a made-up text breaks the rules of names: a name that nothing binds becomes
//! one that is bound, one that is bound twice another, and what cannot stand where it does
//! gives way to something smaller.

use fastrand::Rng;

use super::derive::Derivation;
use super::{offset, source};
use crate::diagnostic::{Diagnostic, codes};
use crate::language::{Language, Reading};
use crate::scoping::{Around, Names};
use crate::source::Span;
use crate::tree::{NodeId, Tree, What};

/// More changes than this no text is worth.
const MOST_CHANGES: usize = 60;

#[derive(Debug)]
pub(super) struct Mender<'a> {
    language: &'a Language,
}

impl<'a> Mender<'a> {
    pub fn new(language: &'a Language) -> Mender<'a> {
        Mender { language }
    }

    /// The text with everything mended; nothing if that cannot be done, or if the text is
    /// not in the language at all.
    pub fn mended(
        &self,
        text: &str,
        reading: Reading<'_>,
        derivation: &Derivation<'_>,
        rng: &mut Rng,
    ) -> Option<String> {
        let mut text = text.to_owned();
        for _ in 0..MOST_CHANGES {
            let tree = self.language.tree(&source(&text), reading).value?;
            let outcome = self.language.names(&tree, Around::Nothing);
            let names = outcome.value.unwrap_or_default();
            let mut errors: Vec<Diagnostic> = outcome.diagnostics;
            errors.retain(Diagnostic::is_error);
            if errors.is_empty() && self.language.lacks(crate::Stage::Meaning).is_none() {
                errors = self.language.core(&tree, &names).diagnostics;
                errors.retain(Diagnostic::is_error);
            }
            let Some(error) = errors.first() else {
                return Some(text);
            };
            if error.code == codes::DEFINITION_LACKS {
                return Some(text);
            }
            text = self.changed(&text, &tree, &names, error, reading, derivation, rng)?;
        }
        None
    }

    /// The text with one change that does away with an error.
    #[expect(clippy::too_many_arguments, reason = "all that is known of the text")]
    fn changed(
        &self,
        text: &str,
        tree: &Tree,
        names: &Names,
        error: &Diagnostic,
        reading: Reading<'_>,
        derivation: &Derivation<'_>,
        rng: &mut Rng,
    ) -> Option<String> {
        let at = offset(error)?;
        let renamed = self.renamed(text, tree, names, error, at, derivation, rng);
        let reads = |text: &String| self.language.tree(&source(text), reading).value.is_some();
        renamed.filter(reads).or_else(|| {
            let path = tree.path(at);
            let nodes = path.iter().rev().map(|step| step.node);
            nodes
                .filter_map(|node| self.replaced(text, tree, node, derivation))
                .flatten()
                .find(reads)
        })
    }

    /// Another name where the error is.
    #[expect(clippy::too_many_arguments, reason = "all that is known of the text")]
    fn renamed(
        &self,
        text: &str,
        tree: &Tree,
        names: &Names,
        error: &Diagnostic,
        at: u32,
        derivation: &Derivation<'_>,
        rng: &mut Rng,
    ) -> Option<String> {
        let leaf = tree.path(at).last()?.node;
        let span = tree.node(leaf).span;
        let own = tree.text(leaf);
        let name = if error.code == codes::NAME_UNBOUND {
            let mut missing = names.missing.iter();
            let (_, visible) = missing.find(|(node, _)| *node == leaf)?;
            rng.choice(visible.iter())?.clone()
        } else if error.code == codes::NAME_FIXED {
            let known = names.bindings.iter();
            let free: Vec<&String> = known
                .filter(|binding| !binding.fixed && binding.name != own)
                .map(|binding| &binding.name)
                .collect();
            (*rng.choice(free.iter())?).clone()
        } else if error.code == codes::NAME_DUPLICATE {
            let taken = |name: &str| names.bindings.iter().any(|b| b.name == name);
            let mut others = (0..).map_while(|number| derivation.other_text(own, number));
            others.find(|name| !taken(name))?.to_owned()
        } else {
            return None;
        };
        Some(replaced(text, span, &name))
    }

    /// The text with the smallest thing of its sort in place of a node, set close and apart;
    /// one that is no form of the same kind and uses no names.
    fn replaced(
        &self,
        text: &str,
        tree: &Tree,
        node: NodeId,
        derivation: &Derivation<'_>,
    ) -> Option<[String; 2]> {
        let What::Form(own) = tree.node(node).what else {
            return None;
        };
        let definition = self.language.definition();
        let sort = definition.forms[own as usize].sort_name();
        let unwanted =
            |form: usize| form == own as usize || !definition.forms[form].uses.is_empty();
        let other = derivation.shortest(sort, &unwanted)?;
        let other = other.trim();
        let span = tree.node(node).span;
        (tree.text(node) != other).then(|| {
            [
                replaced(text, span, other),
                replaced(text, span, &format!(" {other} ")),
            ]
        })
    }
}

/// A text with something else in place of a stretch.
pub(super) fn replaced(text: &str, span: Span, other: &str) -> String {
    let range = span.range();
    format!("{}{other}{}", &text[..range.start], &text[range.end..])
}
