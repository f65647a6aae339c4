//! One program under two definitions.

use std::sync::Arc;

use super::engines::{Ran, Trial};
use super::expect::tokens_text;
use super::{Compared, Difference};
use crate::diagnostic::Diagnostic;
use crate::language::Prepared;
use crate::language::{Language, Reading};
use crate::runtime::Limits;
use crate::scoping::{Around, Home};
use crate::session::Engine;
use crate::source::{SourceText, Span};
use crate::tree::one_line;

/// Everything in which a program differs between an old and a new definition: `expected` is
/// what comes of it under the old one, `got` under the new one.
pub fn compare(
    old: &Prepared,
    new: &Prepared,
    program: &Arc<SourceText>,
    limits: Limits,
) -> Vec<Difference> {
    let both = [old, new].map(|prepared| traits(prepared, program, limits));
    let [old, new] = both;
    old.into_iter()
        .zip(new)
        .filter(|((_, old), (_, new))| old != new)
        .map(|((what, expected), (_, got))| Difference {
            what,
            expected,
            got,
            span: Span::default(),
        })
        .collect()
}

/// What comes of a program, stage by stage, as texts.
fn traits(
    prepared: &Prepared,
    program: &Arc<SourceText>,
    limits: Limits,
) -> Vec<(Compared, String)> {
    let language = prepared.language();
    let tokens = language.tokens(program).value;
    let tokens = tokens.map_or_else(String::new, |tokens| tokens_text(language, &tokens));
    let parsed = language.tree(program, Reading::Entry);
    let tree = parsed.value;
    let shown = tree.as_ref().map_or_else(String::new, |tree| {
        one_line(language.definition(), language.lexer(), tree)
    });
    let names = tree
        .as_ref()
        .map_or_else(String::new, |tree| names(language, tree));
    let types = tree
        .as_ref()
        .map_or_else(String::new, |tree| types(language, tree));
    let ran = if language.lacks(crate::Stage::Meaning).is_none() {
        let trial = Trial {
            limits,
            ..Trial::of(prepared, program)
        };
        trial.run(Engine::Machine)
    } else {
        Ran {
            errors: parsed
                .diagnostics
                .into_iter()
                .filter(Diagnostic::is_error)
                .collect(),
            ..Ran::default()
        }
    };
    let error = ran.error().map_or_else(String::new, error);
    vec![
        (Compared::Tokens, tokens),
        (Compared::Tree, shown),
        (Compared::Names, names),
        (Compared::Types, types),
        (Compared::Error, error),
        (Compared::Value, ran.value_text()),
        (Compared::Output, ran.printed.clone()),
        (Compared::State, ran.state_text()),
    ]
}

fn error(error: &Diagnostic) -> String {
    let at = super::expect::position(error).map_or_else(String::new, |at| format!(" at {at}"));
    format!("{}{at}", error.message)
}

/// Each form and binding with its type, in a language that has types.
fn types(language: &Language, tree: &crate::tree::Tree) -> String {
    let names = language.names(tree, Around::Nothing).value;
    let names = names.unwrap_or_default();
    let types = language.types(tree, &names, &[]).value;
    let listed = types.map_or_else(Vec::new, |types| {
        types.listed(language.definition(), tree, &names)
    });
    let lines: Vec<String> = listed
        .iter()
        .map(|one| {
            let at = tree.source().position(one.span.start);
            format!("{} at {at}", one.has.shown(language.definition()))
        })
        .collect();
    lines.join(", ")
}

/// Each mention of a name with what it means.
fn names(language: &Language, tree: &crate::tree::Tree) -> String {
    let names = language
        .names(tree, Around::Nothing)
        .value
        .unwrap_or_default();
    let lines: Vec<String> = names
        .mentions(tree)
        .iter()
        .map(|mention| {
            let binding = names.binding(mention.binding);
            let place = |span: Span| tree.source().position(span.start);
            let at = place(tree.node(mention.node).span);
            let home = match (names.bound_at(tree, mention.binding), binding.home) {
                (Some(place), _) => format!("bound at {place}"),
                (None, Home::BuiltIn(_)) => "built-in".to_owned(),
                (None, _) => "bound before".to_owned(),
            };
            format!("{} at {at} {home}", binding.name)
        })
        .collect();
    lines.join(", ")
}
