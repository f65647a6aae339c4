//! How far the walker may go.

use super::stacks::Going;
use super::unwind::failure;
use super::walk::Walker;
use crate::meaning::Part;
use crate::runtime::{Failure, Problem};
use crate::values::Value;

impl Walker<'_> {
    /// Looks whether a limit is reached, when a slice of steps is used up, and begins the
    /// next one.
    #[cold]
    pub(super) fn over_a_limit(&mut self, core: &Part) -> Option<Box<Failure>> {
        match self.budget.slice(&self.host) {
            Ok(steps) => self.steps = steps,
            Err(problem) => return Some(failure(*problem, core, self.stacks.function())),
        }
        let problem = self.clean_up()?;
        Some(failure(*problem, core, self.stacks.function()))
    }

    /// Gives a value that has been made, unless it is too much for the memory.
    pub(super) fn made(&mut self, value: Value, core: &Part) -> Going {
        if !self.memory.heap.is_full() && !self.budget.is_exceeded(self.memory.heap.used()) {
            return Going::Give(value);
        }
        self.stacks.operands.push(value);
        let problem = self.clean_up();
        self.stacks.operands.pop();
        match problem {
            None => Going::Give(value),
            Some(problem) => self.fail(*problem, core),
        }
    }

    /// Frees what is out of use, if it is time, and looks whether the rest is too much.
    fn clean_up(&mut self) -> Option<Box<Problem>> {
        let outer: usize = self.outer.iter().map(|(stacks, _)| stacks.size()).sum();
        let calls = self.stacks.size() + outer;
        let heap = &self.memory.heap;
        if heap.is_full() || self.budget.is_exceeded(heap.used() + calls) {
            heap.collect(self);
        }
        self.budget.too_much(heap.used(), calls, self.depth)
    }
}
