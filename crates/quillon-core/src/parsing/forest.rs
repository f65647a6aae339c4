//! What the parser finds out: which production covers which tokens. Where a text can
//! be read in two ways, both readings are kept.

use rustc_hash::FxHashMap;

/// A token or a derivation.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub(crate) struct Ref(u32);

const TOKEN: u32 = 1 << 31;

impl Ref {
    /// The token at an index.
    pub fn token(index: u32) -> Ref {
        Ref(index | TOKEN)
    }

    fn derivation(index: usize) -> Ref {
        Ref(index as u32)
    }

    /// The token's index, if it is one.
    pub fn as_token(self) -> Option<u32> {
        (self.0 & TOKEN != 0).then_some(self.0 & !TOKEN)
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
    /// Further readings of a derivation.
    others: FxHashMap<Ref, Vec<Ref>>,
}

impl Forest {
    /// Adds a derivation; an empty one stands at token `at`.
    pub fn add(&mut self, production: u32, children: &[Ref], at: u32) -> Ref {
        let (start, end) = match children {
            [] => (at, at),
            [first, .., last] => (self.start(*first), self.end(*last)),
            [only] => (self.start(*only), self.end(*only)),
        };
        let first = self.children.len() as u32;
        self.children.extend_from_slice(children);
        self.derivations.push(Derivation {
            production,
            first,
            count: children.len() as u32,
            start,
            end,
        });
        Ref::derivation(self.derivations.len() - 1)
    }

    /// The first token that a node covers.
    pub fn start(&self, node: Ref) -> u32 {
        node.as_token()
            .unwrap_or_else(|| self.derivations[node.0 as usize].start)
    }

    /// One past the last token that a node covers.
    pub fn end(&self, node: Ref) -> u32 {
        node.as_token()
            .map_or_else(|| self.derivations[node.0 as usize].end, |token| token + 1)
    }

    /// The derivation, unless the node is a token.
    pub fn derivation(&self, node: Ref) -> Option<Derivation> {
        node.as_token()
            .is_none()
            .then(|| self.derivations[node.0 as usize])
    }

    /// The children of a derivation.
    pub fn children(&self, derivation: Derivation) -> &[Ref] {
        let first = derivation.first as usize;
        &self.children[first..first + derivation.count as usize]
    }

    /// Notes that the same tokens can also be read as `other`; a reading that is
    /// there already is not noted again.
    pub fn also(&mut self, node: Ref, other: Ref) {
        let same = |a: Ref, b: Ref| match (self.derivation(a), self.derivation(b)) {
            (Some(x), Some(y)) => {
                x.production == y.production && self.children(x) == self.children(y)
            }
            _ => a == b,
        };
        if same(node, other) || self.others(node).iter().any(|&o| same(o, other)) {
            return;
        }
        self.others.entry(node).or_default().push(other);
    }

    /// The other readings of a node.
    pub fn others(&self, node: Ref) -> &[Ref] {
        self.others.get(&node).map_or(&[], Vec::as_slice)
    }
}
