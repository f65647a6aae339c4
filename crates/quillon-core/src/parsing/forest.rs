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

/// Another reading of a derivation.
#[derive(Clone, Copy, Debug)]
struct Other {
    reading: Ref,
    /// Whether no third one could be better than both.
    is_last: bool,
}

/// So many readings beside one are kept. Two show that there is more than one; but as long as parts of them are not
/// settled, the right one may be any.
const MOST_OTHERS: usize = 8;

/// All derivations made.
#[derive(Clone, Debug, Default)]
pub(crate) struct Forest {
    derivations: Vec<Derivation>,
    children: Vec<Ref>,
    /// Other readings of derivations, none of which is better than another as far as is known.
    others: FxHashMap<Ref, Vec<Other>>,
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
        let mut known = self.others.get(&node).into_iter().flatten();
        if same(node, other) || known.any(|known| same(known.reading, other)) {
            return;
        }
        let comparison = grammar.compare(self, [node, other]);
        match comparison.winner {
            Winner::First => {}
            Winner::Second => {
                self.derivations[node.0 as usize] = self.derivations[other.0 as usize];
                // What was as good as the one before need not be as good as this one.
                for known in self.others.remove(&node).unwrap_or_default() {
                    self.also(grammar, node, known.reading);
                }
            }
            Winner::Neither => {
                let others = self.others.entry(node).or_default();
                if others.len() < MOST_OTHERS {
                    others.push(Other {
                        reading: other,
                        is_last: grammar.wins.is_empty() && !comparison.is_open,
                    });
                }
            }
        }
    }

    /// Compares the readings again that were compared before all parts of them were settled: what was
    /// wrong in one of them may have given way since.
    pub fn compare_again(&mut self, grammar: &Grammar) {
        loop {
            let open = |others: &[Other]| others.iter().any(|other| !other.is_last);
            let nodes = self.others.iter().filter(|(_, others)| open(others));
            let mut nodes: Vec<Ref> = nodes.map(|(node, _)| *node).collect();
            // What is inside of another was there before it.
            nodes.sort_unstable();
            let mut has_changed = false;
            for node in nodes {
                let others = self.others.remove(&node).unwrap_or_default();
                let count = others.len();
                for other in others {
                    self.also(grammar, node, other.reading);
                }
                has_changed |= self.others.get(&node).map_or(0, Vec::len) != count;
            }
            if !has_changed {
                break;
            }
        }
    }

    /// Another reading of a node, if it has one.
    pub fn other(&self, node: Ref) -> Option<Ref> {
        let others = self.others.get(&node)?;
        others.first().map(|other| other.reading)
    }

    /// Whether nothing can come of further readings of a node: it has two, and neither goes
    /// against the precedence table, or could lose to a third.
    pub fn is_settled(&self, node: Ref) -> bool {
        let others = self.others.get(&node).into_iter().flatten();
        others.into_iter().any(|other| other.is_last)
    }

    /// Some node with two readings, if there is one.
    pub fn ambiguity(&self) -> Option<[Ref; 2]> {
        let node = self.others.keys().copied().min()?;
        Some([node, self.other(node)?])
    }
}
