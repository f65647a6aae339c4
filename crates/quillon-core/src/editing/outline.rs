//! What a program binds, as an outline.

use super::naming::is_seen_around;
use super::{Looked, What};
use crate::scoping::Mention;
use crate::source::Span;

/// Something that a program binds.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Symbol {
    /// Its name.
    pub name: String,
    /// What it stands for.
    pub what: What,
    /// The form that binds it.
    pub span: Span,
    /// The name itself.
    pub at: Span,
    /// What is bound inside it.
    pub inside: Vec<Symbol>,
}

impl Looked {
    /// What the program binds, each inside what it is a part of; without what only its own form sees.
    pub fn outline(&self) -> Vec<Symbol> {
        let Some((tree, names)) = self.named() else {
            return Vec::new();
        };
        let mentions = names.mentions(tree);
        let bound = mentions.iter().filter(|mention| mention.used.is_none());
        let mut open: Vec<Symbol> = Vec::new();
        let mut all = Vec::new();
        for symbol in bound.filter_map(|mention| self.symbol(mention)) {
            close(&mut open, &mut all, Some(symbol.at));
            open.push(symbol);
        }
        close(&mut open, &mut all, None);
        all
    }

    fn symbol(&self, mention: &Mention) -> Option<Symbol> {
        let (tree, names) = self.named()?;
        let at = tree.node(mention.node).span;
        let (_, clause, node) = self.binder(tree, at)?;
        is_seen_around(clause).then(|| Symbol {
            name: names.binding(mention.binding).name.clone(),
            what: self.what(mention.binding),
            span: tree.node(node).span.to(at),
            at,
            inside: Vec::new(),
        })
    }
}

/// Puts what is over before a place into what it is inside of, or among all.
fn close(open: &mut Vec<Symbol>, all: &mut Vec<Symbol>, next: Option<Span>) {
    while let Some(last) = open.last() {
        if next.is_some_and(|next| next.end <= last.span.end) {
            return;
        }
        let Some(over) = open.pop() else { return };
        match open.last_mut() {
            Some(outer) => outer.inside.push(over),
            None => all.push(over),
        }
    }
}
