//! What the parser finds out where it follows several stacks: which production covers
//! which tokens. Where a text can be read in two ways, both readings are kept.

use rustc_hash::FxHashMap;

use super::grammar::Grammar;
use super::winning::Winner;

/// A token, an entry of the plain stack, or a derivation.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub(crate) struct Ref(u32);

const TOKEN: u32 = 1 << 31;
const PLAIN: u32 = 1 << 30;

/// What a reference is to.
#[derive(Clone, Copy, Debug)]
pub(super) enum Referent {
    /// The token at an index.
    Token(u32),
    /// The entry at a height of the plain stack.
    Plain(u32),
    /// A derivation.
    Derivation(Derivation),
}

impl Ref {
    /// The token at an index.
    pub fn token(index: u32) -> Ref {
        Ref(index | TOKEN)
    }

    /// The entry at a height of the plain stack.
    pub fn plain(height: u32) -> Ref {
        Ref(height | PLAIN)
    }
}

/// A production over a range of tokens.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Derivation {
    pub production: u32,
    first: u32,
    count: u32,
    /// The first token covered.
    pub start: u32,
    /// One past the last token covered.
    pub end: u32,
}

/// All derivations made.
#[derive(Clone, Debug, Default)]
pub(crate) struct Forest {
    derivations: Vec<Derivation>,
    children: Vec<Ref>,
    /// Another reading of a derivation: two are enough to show that there is more than one.
    others: FxHashMap<Ref, Ref>,
    /// The first derivation for which another reading was found.
    ambiguous: Option<Ref>,
}

impl Forest {
    /// Adds a derivation that covers the tokens from `start` up to `end`.
    pub fn add(&mut self, production: u32, children: &[Ref], start: u32, end: u32) -> Ref {
        let first = self.children.len() as u32;
        self.children.extend_from_slice(children);
        self.derivations.push(Derivation {
            production,
            first,
            count: children.len() as u32,
            start,
            end,
        });
        Ref(self.derivations.len() as u32 - 1)
    }

    /// What a reference is to.
    pub fn referent(&self, node: Ref) -> Referent {
        if node.0 & TOKEN != 0 {
            Referent::Token(node.0 & !TOKEN)
        } else if node.0 & PLAIN != 0 {
            Referent::Plain(node.0 & !PLAIN)
        } else {
            Referent::Derivation(self.derivations[node.0 as usize])
        }
    }

    /// The children of a derivation.
    pub fn children(&self, derivation: Derivation) -> &[Ref] {
        let first = derivation.first as usize;
        &self.children[first..first + derivation.count as usize]
    }

    /// Notes that the same tokens can also be read as `other`; a reading that is
    /// there already is not noted again, one that goes against the precedence table gives way to
    /// one that does not, and one with a form that another one wins over to that one.
    pub fn also(&mut self, grammar: &Grammar, node: Ref, other: Ref) {
        let same = |a: Ref, b: Ref| match (self.referent(a), self.referent(b)) {
            (Referent::Derivation(x), Referent::Derivation(y)) => {
                x.production == y.production && self.children(x) == self.children(y)
            }
            _ => a == b,
        };
        if same(node, other) || self.other(node).is_some_and(|known| same(known, other)) {
            return;
        }
        let better = match [node, other].map(|node| grammar.is_misgrouped(self, node)) {
            [false, true] => Winner::First,
            [true, false] => Winner::Second,
            [true, true] | [false, false] => grammar.winner(self, [node, other]),
        };
        match better {
            Winner::First => return,
            Winner::Second => {
                self.derivations[node.0 as usize] = self.derivations[other.0 as usize];
                self.others.remove(&node);
                self.ambiguous = self.others.keys().copied().min();
                return;
            }
            Winner::Neither => {}
        }
        self.others.entry(node).or_insert(other);
        self.ambiguous.get_or_insert(node);
    }

    /// Another reading of a node, if it has one.
    pub fn other(&self, node: Ref) -> Option<Ref> {
        self.others.get(&node).copied()
    }

    /// Whether nothing can come of further readings of a node: it has two, and neither goes
    /// against the precedence table, or could lose to a third.
    pub fn is_settled(&self, grammar: &Grammar, node: Ref) -> bool {
        grammar.wins.is_empty()
            && self.others.contains_key(&node)
            && !grammar.is_misgrouped(self, node)
    }

    /// Some node with two readings, if there is one.
    pub fn ambiguity(&self) -> Option<[Ref; 2]> {
        let node = self.ambiguous?;
        Some([node, self.other(node)?])
    }
}
