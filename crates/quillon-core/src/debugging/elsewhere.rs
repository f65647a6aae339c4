//! Where else the innermost call can go on than where it stands: at another line of its function.
//!
//! The verifier lets code through whichever way it is gone through, so the machine can go on at any
//! instruction. But not everywhere does that mean something: what a loop goes over is made before it, and what
//! has to be ended is begun before. So a loop, or such a stretch, can be left and not be gone into.

use super::lives::Lives;
use super::stops;
use crate::bytecode::{Function, Purpose};
use crate::source::Span;

/// A place where the innermost call can go on.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Elsewhere {
    /// The address of its first instruction.
    pub at: usize,
    /// What is done there.
    pub span: Span,
    /// The line.
    pub line: u32,
}

/// The places in a function that stands at an instruction where it can go on, each line once, in their order.
pub(super) fn places(function: &Function, here: usize, lives: &Lives) -> Vec<Elsewhere> {
    let (loops, stretches) = (lives.loops(function, here), ended_in(function, here));
    let mut found: Vec<Elsewhere> = Vec::new();
    for (line, at) in stops::lines(function) {
        let is_entered = lives
            .loops(function, at)
            .iter()
            .all(|one| loops.contains(one));
        let is_same = ended_in(function, at) == stretches;
        let is_known = found.iter().any(|other| other.line == line);
        let site = function.site(at).map(|site| site.whole.span);
        if let Some(span) = site.filter(|_| is_entered && is_same && !is_known) {
            found.push(Elsewhere { at, span, line });
        }
    }
    found.sort_unstable_by_key(|place| place.line);
    found
}

/// The stretches around an instruction at the end of which something has to be done whatever happens.
fn ended_in(function: &Function, at: usize) -> Vec<usize> {
    let handlers = function.handlers.iter().enumerate();
    let around = handlers.filter(|(_, handler)| match handler.purpose {
        Purpose::Rescue => false,
        // It lasts until what is done at its end is done.
        Purpose::Cleanup | Purpose::Restore => {
            (handler.start as usize..=handler.target as usize).contains(&at)
        }
    });
    around.map(|(number, _)| number).collect()
}
