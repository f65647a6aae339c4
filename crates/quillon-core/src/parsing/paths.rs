//! Ways down from a node of the stacks. There can be as many of a length as that power of the tokens says, so all of them
//! share what they have in common, and no memory is taken for one by itself.

use super::forest::Ref;

/// Where a way has not begun.
const BEGIN: u32 = u32::MAX;

/// A way that is still going down.
#[derive(Clone, Copy, Debug)]
pub(super) struct Going {
    /// The node that it has come to.
    pub node: u32,
    /// What lies on it so far: the last step of a trail.
    trail: u32,
    /// How many steps are left.
    pub left: u32,
    /// Whether it has gone over the link that it has to.
    pub passed: bool,
}

/// Ways of one length.
#[derive(Clone, Default, Debug)]
pub(super) struct Paths {
    ends: Vec<u32>,
    /// What lies on each, lowest first, one after the other.
    values: Vec<Ref>,
    length: usize,
    /// The steps of all ways: the step before, and what it goes over.
    trail: Vec<(u32, Ref)>,
    going: Vec<Going>,
}

impl Paths {
    /// Begins at a node, with so many steps to go.
    pub fn begin(&mut self, node: u32, length: usize, passed: bool) {
        self.ends.clear();
        self.values.clear();
        self.trail.clear();
        self.going.clear();
        self.length = length;
        self.going.push(Going {
            node,
            trail: BEGIN,
            left: length as u32,
            passed,
        });
    }

    /// The next way that goes on.
    pub fn next(&mut self) -> Option<Going> {
        self.going.pop()
    }

    /// A way goes on over a link to a node.
    pub fn go(&mut self, from: Going, to: u32, over: Ref, passed: bool) {
        self.trail.push((from.trail, over));
        self.going.push(Going {
            node: to,
            trail: self.trail.len() as u32 - 1,
            left: from.left - 1,
            passed,
        });
    }

    /// A way has come to its end.
    pub fn end(&mut self, at: Going) {
        self.ends.push(at.node);
        let mut step = at.trail;
        while step != BEGIN {
            let (before, value) = self.trail[step as usize];
            self.values.push(value);
            step = before;
        }
    }

    /// Where each ends, and what lies on it, lowest first.
    pub fn all(&self) -> impl Iterator<Item = (u32, &[Ref])> {
        let values = (0..self.ends.len()).map(|at| &self.values[at * self.length..][..self.length]);
        self.ends.iter().copied().zip(values)
    }
}
