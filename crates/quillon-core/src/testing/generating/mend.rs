//! Mends what in a made-up text breaks the rules of names: a name that nothing binds becomes
//! one that is bound, one that is bound twice another, and what cannot stand where it does
//! gives way to something smaller. In a language with types, what does not fit becomes
//! something that does; and so does what fails when the text is run, if that is asked for.

use std::cell::Cell;
use std::ops::Range;

use fastrand::Rng;

use super::derive::Derivation;
use super::tokens::Taste;
use super::{offset, source};
use crate::diagnostic::{Diagnostic, codes};
use crate::language::{Language, Prepared, Reading};
use crate::metering::Limits;
use crate::scoping::{Around, Names};
use crate::session::Engine;
use crate::source::Span;
use crate::testing::engines::Trial;
use crate::tree::{NodeId, Tree, What};

/// More changes than this no text is worth.
const MOST_CHANGES: usize = 60;

/// So many names are tried in place of what does not fit.
const MOST_NAMES: usize = 12;

/// How far a text is run.
const LIMITS: Limits = Limits {
    steps: Some(2_000),
    depth: 1_000,
    time: None,
    output: Some(1 << 16),
    memory: Some(1 << 24),
};

/// So many things are tried in place of one that fails when it is run.
const MOST_TRIED: usize = 24;

#[derive(Debug)]
pub(super) struct Mender<'a> {
    pub language: &'a Language,
    /// Whether texts are run, and what fails then is mended as well.
    is_run: bool,
}

/// A text with what is known of it.
struct Draft<'t> {
    text: &'t str,
    tree: &'t Tree,
    names: &'t Names,
}

impl<'a> Mender<'a> {
    pub fn new(language: &'a Language, taste: Taste) -> Mender<'a> {
        let can_run = language.lacks(crate::Stage::Meaning).is_none();
        Mender {
            language,
            is_run: taste == Taste::Plausible && can_run,
        }
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
        let running = self.is_run.then(|| Prepared::new(self.language));
        let fails = |text: &str| failure(running.as_ref()?, text, reading);
        for _ in 0..MOST_CHANGES {
            let read = self.language.tree(&source(&text), reading);
            let Some(tree) = read.value else {
                text = self.with_signs(&text, &read.diagnostics, reading, derivation, rng)?;
                continue;
            };
            let outcome = self.language.names(&tree, Around::Nothing);
            let names = outcome.value.unwrap_or_default();
            let mut errors: Vec<Diagnostic> = outcome.diagnostics;
            errors.retain(Diagnostic::is_error);
            if errors.is_empty() && self.language.checks_types() {
                errors = self.type_errors(&tree, &names);
            }
            if errors.is_empty() && self.language.lacks(crate::Stage::Meaning).is_none() {
                errors = self.language.core(&tree, &names).diagnostics;
                errors.retain(Diagnostic::is_error);
            }
            let is_right = errors.is_empty();
            if is_right {
                errors.extend(fails(&text));
            }
            let Some(error) = errors.first() else {
                return Some(text);
            };
            if error.code == codes::DEFINITION_LACKS {
                return Some(text);
            }
            let draft = Draft {
                text: &text,
                tree: &tree,
                names: &names,
            };
            if error.code.is_of_types() {
                text = self.retyped(&draft, &errors, reading, derivation, rng)?;
                continue;
            }
            let other =
                is_right.then(|| self.rerun(&draft, error, reading, derivation, rng, fails));
            text = match other.flatten() {
                Some(text) => text,
                None => self.changed(&draft, error, reading, derivation, rng)?,
            };
        }
        None
    }

    /// The text with something else in place of what fails when it is run, or of what is around that.
    fn rerun(
        &self,
        draft: &Draft<'_>,
        error: &Diagnostic,
        reading: Reading<'_>,
        derivation: &Derivation<'_>,
        rng: &mut Rng,
        fails: impl Fn(&str) -> Option<Diagnostic>,
    ) -> Option<String> {
        let left = Cell::new(MOST_TRIED);
        let fits = |text: &str, new: Range<usize>| {
            let more = left.get().checked_sub(1);
            left.set(more.unwrap_or_default());
            let is_sound = more.is_some() && self.misfits(text, reading) == Some(0);
            let fails_at = || fails(text).as_ref().and_then(offset);
            is_sound && fails_at().is_none_or(|at| !new.contains(&(at as usize)))
        };
        self.exchanged(draft, offset(error)?, derivation, rng, fits)
    }

    fn type_errors(&self, tree: &Tree, names: &Names) -> Vec<Diagnostic> {
        let mut errors = self.language.types(tree, names, &[]).diagnostics;
        errors.retain(Diagnostic::is_error);
        errors
    }

    /// How many types do not fit in a text whose names are all right; nothing for any other.
    fn misfits(&self, text: &str, reading: Reading<'_>) -> Option<usize> {
        let tree = self.language.tree(&source(text), reading).value?;
        let names = self.language.names(&tree, Around::Nothing);
        let is_bound = !names.has_errors();
        let names = names.value.filter(|_| is_bound)?;
        Some(self.type_errors(&tree, &names).len())
    }

    /// The text with something of another type in place of what does not fit, or of what is
    /// around it; so that less does not fit.
    fn retyped(
        &self,
        draft: &Draft<'_>,
        errors: &[Diagnostic],
        reading: Reading<'_>,
        derivation: &Derivation<'_>,
        rng: &mut Rng,
    ) -> Option<String> {
        let fits = |text: &str, _: Range<usize>| {
            let left = self.misfits(text, reading);
            left.is_some_and(|left| left < errors.len())
        };
        let at = offset(errors.first()?)?;
        self.exchanged(draft, at, derivation, rng, fits)
    }

    /// The text with a name, or something else of the same sort, in place of what is at an offset or around it: the
    /// first that fits, of the whole text and of where the new thing is in it.
    fn exchanged(
        &self,
        draft: &Draft<'_>,
        at: u32,
        derivation: &Derivation<'_>,
        rng: &mut Rng,
        fits: impl Fn(&str, Range<usize>) -> bool,
    ) -> Option<String> {
        let definition = self.language.definition();
        let path = draft.tree.path(at);
        for step in path.iter().rev() {
            let What::Form(own) = draft.tree.node(step.node).what else {
                continue;
            };
            let sort = definition.forms[own as usize].sort_name();
            let mut others: Vec<usize> = (0..definition.forms.len())
                .filter(|form| definition.forms[*form].sort_name() == sort)
                .collect();
            rng.shuffle(&mut others);
            let text_of = |form: &usize| derivation.shortest_as(sort, *form);
            // A text that cannot be read is told from others only slowly.
            let is_name = |form: &usize| {
                let is_short = |text: String| !text.trim().contains(char::is_whitespace);
                !definition.forms[*form].uses.is_empty() && text_of(form).is_some_and(is_short)
            };
            let mut names: Vec<String> = Vec::new();
            if others.iter().any(is_name) {
                let known = draft.names.bindings.iter();
                names.extend(known.map(|binding| binding.name.clone()).take(MOST_NAMES));
            }
            rng.shuffle(&mut names);
            let made = others.iter().filter_map(text_of);
            let span = draft.tree.node(step.node).span;
            let with = |other: String| {
                let other = format!(" {} ", other.trim());
                let text = replaced(draft.text, span, &other);
                let start = span.start as usize;
                fits(&text, start..start + other.len()).then_some(text)
            };
            if let Some(text) = names.into_iter().chain(made).find_map(with) {
                return Some(text);
            }
        }
        None
    }

    /// The text with one change that does away with an error.
    fn changed(
        &self,
        draft: &Draft<'_>,
        error: &Diagnostic,
        reading: Reading<'_>,
        derivation: &Derivation<'_>,
        rng: &mut Rng,
    ) -> Option<String> {
        let at = offset(error)?;
        let renamed = draft.renamed(error, at, derivation, rng);
        let reads = |text: &String| self.language.tree(&source(text), reading).value.is_some();
        renamed.filter(reads).or_else(|| {
            let path = draft.tree.path(at);
            let nodes = path.iter().rev().map(|step| step.node);
            nodes
                .filter_map(|node| self.smaller(draft.text, draft.tree, node, derivation))
                .flatten()
                .find(reads)
        })
    }

    /// The text with the smallest thing of its sort in place of a node, set close and apart;
    /// one that is no form of the same kind and uses no names.
    pub fn smaller(
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

impl Draft<'_> {
    /// Another name where the error is.
    fn renamed(
        &self,
        error: &Diagnostic,
        at: u32,
        derivation: &Derivation<'_>,
        rng: &mut Rng,
    ) -> Option<String> {
        let (tree, names) = (self.tree, self.names);
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
        Some(replaced(self.text, span, &name))
    }
}

/// How a text fails when it is run, if it does.
fn failure(prepared: &Prepared, text: &str, reading: Reading<'_>) -> Option<Diagnostic> {
    let trial = Trial {
        limits: LIMITS,
        sort: match reading {
            Reading::Sort(sort) => Some(sort),
            Reading::Program | Reading::Entry => None,
        },
        ..Trial::of(prepared, &source(text))
    };
    let mut errors = trial.run(Engine::Machine).errors.into_iter();
    errors.find(|error| error.code != codes::RUN_LEFT && offset(error).is_some())
}

/// A text with something else in place of a stretch.
pub(super) fn replaced(text: &str, span: Span, other: &str) -> String {
    let range = span.range();
    format!("{}{other}{}", &text[..range.start], &text[range.end..])
}
