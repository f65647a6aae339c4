//! Mends what in a made-up text is wrong with its declared signs.

use fastrand::Rng;

use super::derive::Derivation;
use super::mend::{Mender, replaced};
use super::source;
use crate::diagnostic::{Diagnostic, codes};
use crate::language::Reading;
use crate::source::Span;
use crate::tree::{NodeId, Tree};

/// In so many places a declaration is tried.
const MOST_PLACES: usize = 8;

impl Mender<'_> {
    /// The text with a sign that is declared, or a rank that there is, in place of one that is not,
    /// or with something smaller than what has it; nothing where anything else is wrong.
    pub fn with_signs(
        &self,
        text: &str,
        errors: &[Diagnostic],
        reading: Reading<'_>,
        derivation: &Derivation<'_>,
        rng: &mut Rng,
    ) -> Option<String> {
        let is_of_signs = |error: &Diagnostic| error.code == codes::SYNTAX_OPERATOR;
        let first = errors.first().filter(|_| errors.iter().all(is_of_signs))?;
        let span = first.place.as_ref()?.span;
        let helps = |text: &String| {
            let left = self.language.tree(&source(text), reading).diagnostics;
            left.iter().all(is_of_signs) && left.len() < errors.len()
        };
        let definition = self.language.definition();
        let built_in = definition
            .provides
            .iter()
            .filter(|one| one.fixity.is_some());
        let mut others: Vec<String> = built_in.map(|one| one.name.text.clone()).collect();
        let signs = self.signs_of(text).into_iter();
        others.extend(signs.map(|span| text[span.range()].to_owned()));
        others.extend(definition.ranks().map(|ranks| ranks.to.to_string()));
        rng.shuffle(&mut others);
        let mut others = others.into_iter().map(|other| replaced(text, span, &other));
        others.find(helps).or_else(|| {
            let tree = &self.language.readable(&source(text), reading)?;
            let mut declared = self.declared(text, tree, span, derivation).into_iter();
            if let Some(text) = declared.find(helps) {
                return Some(text);
            }
            let path = tree.path(span.start);
            let nodes = path.iter().rev().map(|step| step.node);
            nodes
                .filter_map(|node| self.smaller(text, tree, node, derivation))
                .flatten()
                .find(helps)
        })
    }

    /// Where the tokens of a text are that could be declared signs.
    fn signs_of(&self, text: &str) -> Vec<Span> {
        let Some(tokens) = self.language.tokens(&source(text)).value else {
            return Vec::new();
        };
        let kinds = self.language.definition().sign_kinds();
        let name = |kind| self.language.lexer().kind(kind).name.as_str();
        let tokens = tokens.tokens.iter();
        let signs = tokens.filter(|token| kinds.contains(&name(token.kind)));
        signs.map(|sign| sign.span).collect()
    }

    /// The text with a declaration of a sign in place of something before it.
    fn declared(
        &self,
        text: &str,
        tree: &Tree,
        sign: Span,
        derivation: &Derivation<'_>,
    ) -> Vec<String> {
        let definition = self.language.definition();
        let mut all = Vec::new();
        for (form, _) in definition.declaring() {
            let sort = definition.forms[form].sort_name();
            let Some(made) = derivation.shortest_as(sort, form) else {
                continue;
            };
            let Some(&at) = self.signs_of(&made).first() else {
                continue;
            };
            let made = replaced(&made, at, &text[sign.range()]);
            let before = (0..tree.len() as u32).map(NodeId).filter(|&node| {
                let own = tree
                    .form(node)
                    .map(|form| definition.forms[form].sort_name());
                own == Some(sort) && tree.node(node).span.end <= sign.start
            });
            let places = before.take(MOST_PLACES);
            all.extend(
                places.map(|node| {
                    replaced(text, tree.node(node).span, &format!(" {} ", made.trim()))
                }),
            );
        }
        all
    }
}
