//! How far the walking evaluator may go.

use std::rc::Rc;

use super::stacks::Going;
use super::unwind::failure;
use super::walk::Walker;
use crate::meaning::CorePart;
use crate::metering::Stopped;
use crate::runtime::{Failure, Problem};
use crate::values::Value;

impl Walker<'_> {
    /// Looks whether a limit is reached, when a slice of steps is used up, and begins the
    /// next one.
    #[cold]
    pub(super) fn over_a_limit(&mut self, core: &CorePart) -> Option<Box<Failure>> {
        // A limit that has struck strikes again at the next step.
        self.steps = 1;
        match self.memory.heap.meter.slice() {
            Ok(steps) => self.steps = steps,
            Err(stopped) => {
                let problem = Box::<Problem>::from(stopped);
                return Some(failure(*problem, core, self.stacks.function()));
            }
        }
        let problem = self.clean_up()?;
        Some(failure(*problem, core, self.stacks.function()))
    }

    /// Gives a value that has been made, unless it is too much for the memory.
    pub(super) fn made(&mut self, value: Value, core: &CorePart) -> Going {
        if !self.memory.heap.is_full() {
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

    /// Does something that asks for room, and once more after a collection if there was none.
    pub(super) fn with_room<T>(
        &mut self,
        mut what: impl FnMut(&mut Self) -> Result<T, Box<Problem>>,
    ) -> Result<T, Box<Problem>> {
        match what(self) {
            Err(problem) if problem.may_be_tried_again => {
                self.measure();
                self.collect();
                what(self)
            }
            done => done,
        }
    }

    /// Tells the meter how large the stacks are.
    pub(super) fn measure(&self) {
        let meter = &self.memory.heap.meter;
        meter.set_stacks(self.size(), self.calls());
    }

    /// The bytes of all stacks.
    pub(super) fn size(&self) -> usize {
        let outer: usize = self.outer.iter().map(|(stacks, _)| stacks.size()).sum();
        let waiting = self.waiting.map_or(0, |waiting| waiting.stacks);
        self.stacks.size() + outer + waiting
    }

    /// Calls under way, the program itself not among them.
    pub(super) fn calls(&self) -> u32 {
        let waiting = self.waiting.map_or(0, |waiting| waiting.calls);
        self.depth.saturating_sub(1) + waiting
    }

    /// Frees what is out of use.
    pub(super) fn collect(&mut self) {
        let heap = Rc::clone(&self.memory.heap);
        heap.collect(self);
        self.stacks.counted = 0;
        for (outer, _) in &mut self.outer {
            outer.counted = 0;
        }
    }

    /// Frees what is out of use, if it is time, and looks whether the rest is too much.
    fn clean_up(&mut self) -> Option<Box<Problem>> {
        self.measure();
        let heap = &self.memory.heap;
        if heap.is_full() || heap.is_too_large() {
            self.collect();
        }
        self.memory
            .heap
            .is_too_large()
            .then(|| Stopped::Memory.into())
    }
}
