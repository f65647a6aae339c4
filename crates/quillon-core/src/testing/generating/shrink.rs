//! Makes a program smaller while something stays true of it (Hildebrandt and Zeller,
//! "Simplifying and Isolating Failure-Inducing Input", with trees instead of lines).

use super::derive::Derivation;
use super::mend::replaced;
use super::{Generator, source};
use crate::language::{Language, Reading};
use crate::source::Span;
use crate::tree::{Child, NodeId, Tree, What};

/// How often something smaller is tried.
const MOST_TRIES: usize = 3000;

/// The smallest program that can be found from one on, of which `keeps` is still true; the
/// program itself if nothing smaller is.
pub fn shrink(
    generator: &Generator<'_>,
    text: &str,
    mut keeps: impl FnMut(&str) -> bool,
) -> String {
    let language = generator.language();
    let mut best = text.to_owned();
    let mut tries = 0;
    'again: loop {
        let Some(tree) = language.tree(&source(&best), Reading::Entry).value else {
            return best;
        };
        for smaller in candidates(language, generator.derivation(), &tree, &best) {
            tries += 1;
            if tries > MOST_TRIES {
                return best;
            }
            let reads = || {
                language
                    .tree(&source(&smaller), Reading::Entry)
                    .value
                    .is_some()
            };
            if smaller.len() < best.len() && reads() && keeps(&smaller) {
                best = smaller;
                continue 'again;
            }
        }
        return best;
    }
}

/// Of so many parts each is tried in place of the whole.
const MOST_PARTS: usize = 60;

/// Smaller texts, those that leave out most first.
fn candidates(
    language: &Language,
    derivation: &Derivation<'_>,
    tree: &Tree,
    text: &str,
) -> Vec<String> {
    let definition = language.definition();
    let mut found: Vec<(u32, String)> = Vec::new();
    let mut work = vec![tree.root()];
    while let Some(node) = work.pop() {
        let What::Form(form) = tree.node(node).what else {
            continue;
        };
        let form = &definition.forms[form as usize];
        let span = tree.node(node).span;
        // A part in place of the whole; whether it can stand there is seen when it is read.
        let inner = below(tree, node);
        for part in inner.iter().filter(|part| **part != node).take(MOST_PARTS) {
            let own = tree.node(*part).span;
            let saved = span.range().len() - own.range().len();
            found.push((saved as u32, replaced(text, span, tree.text(*part))));
        }
        // The smallest thing of its sort.
        if let Some(least) = derivation.shortest(form.sort_name(), &|_| false) {
            let least = least.trim();
            let saved = span.range().len().saturating_sub(least.len());
            found.push((saved as u32, replaced(text, span, least)));
        }
        for index in 0..form.fields.len() {
            if let Child::Many(items) = tree.field(node, index) {
                found.extend(without_items(tree, text, items));
            }
            if let Child::One(child) = tree.field(node, index) {
                found.extend(without(tree, text, node, child));
            }
        }
        work.extend(
            inner
                .into_iter()
                .filter(|part| *part != node && is_child(tree, node, *part)),
        );
    }
    found.sort_by_key(|(saved, _)| std::cmp::Reverse(*saved));
    found.into_iter().map(|(_, text)| text).collect()
}

/// A node with all forms in it.
fn below(tree: &Tree, node: NodeId) -> Vec<NodeId> {
    let mut found = Vec::new();
    let mut work = vec![node];
    while let Some(node) = work.pop() {
        if tree.form(node).is_some() {
            found.push(node);
            for index in 0..tree.field_count(node) {
                work.extend(tree.children(node, index));
            }
        }
    }
    found
}

fn is_child(tree: &Tree, node: NodeId, part: NodeId) -> bool {
    (0..tree.field_count(node)).any(|index| tree.children(node, index).contains(&part))
}

/// The text without some items of a list: halves, quarters, single ones; with what stands
/// between them and their neighbours.
fn without_items(tree: &Tree, text: &str, items: &[NodeId]) -> Vec<(u32, String)> {
    let mut found = Vec::new();
    let spans: Vec<Span> = items.iter().map(|item| tree.node(*item).span).collect();
    let mut size = spans.len();
    while size > 0 {
        for from in (0..spans.len()).step_by(size) {
            let to = (from + size).min(spans.len());
            let (mut start, mut end) = (spans[from].start, spans[to - 1].end);
            if let Some(next) = spans.get(to) {
                end = next.start;
            } else if from > 0 {
                start = spans[from - 1].end;
            }
            let cut = Span { start, end };
            found.push((end - start, replaced(text, cut, "")));
        }
        size /= 2;
    }
    found
}

/// The text without an optional part: from the end of what is before it to its own end, and
/// without what follows it in the form.
fn without(tree: &Tree, text: &str, node: NodeId, child: NodeId) -> Vec<(u32, String)> {
    let whole = tree.node(node).span;
    let own = tree.node(child).span;
    let before = (0..tree.field_count(node))
        .flat_map(|index| tree.children(node, index))
        .map(|other| tree.node(*other).span.end)
        .filter(|end| *end <= own.start)
        .max();
    let from = before.unwrap_or(own.start);
    let cuts = [
        Span {
            start: from,
            end: own.end,
        },
        Span {
            start: from,
            end: whole.end,
        },
    ];
    cuts.into_iter()
        .map(|cut| (cut.end - cut.start, replaced(text, cut, "")))
        .collect()
}
