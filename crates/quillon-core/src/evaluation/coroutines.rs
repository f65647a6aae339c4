//! Functions that can be suspended and resumed. Each has stacks of its own; to resume it is
//! to change stacks.

use std::any::Any;

use super::stacks::{Continuation, Going, Stacks};
use super::walk::Walker;
use crate::diagnostic::codes;
use crate::meaning::CorePart;
use crate::runtime::{Culprit, Problem, too_deep};
use crate::values::{Coroutine, Progress, Ref, Value, ask};

impl Walker<'_> {
    /// Resumes a coroutine: what it was suspended by gives the value.
    pub(super) fn resume(
        &mut self,
        coroutine: Ref<Coroutine>,
        value: Value,
        core: &CorePart,
    ) -> Going {
        let state = coroutine.set(Progress::Running);
        match state {
            Progress::Fresh(function) => {
                let caller = self.stacks.function_kept();
                if let Some(failure) = self.refusal(function.core(), 0, core, &caller) {
                    coroutine.set(Progress::Ended);
                    return Going::Fail(failure);
                }
                let inner = Stacks {
                    continuations: vec![Continuation::Bottom],
                    ..Stacks::default()
                };
                let outer = std::mem::replace(&mut self.stacks, inner);
                self.outer.push((outer, coroutine));
                let going = self.activate(function, 0, core, caller);
                if let Some(first) = self.stacks.frames.first_mut() {
                    first.from.is_resumption = true;
                }
                going
            }
            Progress::Waiting(suspended) => {
                // Each session keeps to one engine.
                let suspended: Box<dyn Any> = suspended;
                let inner = suspended.downcast::<Stacks>();
                let mut inner = inner.map(|stacks| *stacks).unwrap_or_default();
                let calls = self.calls();
                let more = inner.frames.len() as u32;
                if calls + more > self.limits.depth {
                    coroutine.set(Progress::Waiting(Box::new(inner)));
                    return self.fail(*too_deep(calls), core);
                }
                self.depth += more;
                inner.resumed(core, &self.stacks.function_kept());
                let outer = std::mem::replace(&mut self.stacks, inner);
                self.outer.push((outer, coroutine));
                Going::Give(value)
            }
            Progress::Running => {
                let problem = Problem::new(
                    Culprit::Operand(0),
                    codes::RUN_COROUTINE,
                    "this coroutine is running already",
                );
                self.fail(*problem, core)
            }
            Progress::Ended => {
                coroutine.set(Progress::Ended);
                let problem = Problem::new(
                    Culprit::Operand(0),
                    codes::RUN_COROUTINE,
                    "this coroutine has come to its end",
                );
                self.fail(*problem, core)
            }
        }
    }

    /// Suspends the coroutine that runs: what resumed it gives the value.
    pub(super) fn suspend(&mut self, value: Value, core: &CorePart) -> Going {
        let more = self.stacks.size().saturating_sub(self.stacks.counted);
        self.stacks.operands.push(value);
        let room = self.with_room(|_| Ok(ask(more)?));
        self.stacks.operands.pop();
        if let Err(problem) = room {
            return self.fail(*problem, core);
        }
        let Some((outer, coroutine)) = self.outer.pop() else {
            let problem = Problem::new(
                Culprit::Whole,
                codes::RUN_SUSPEND,
                "there is no coroutine here that could be suspended",
            );
            return self.fail(*problem, core);
        };
        let mut inner = std::mem::replace(&mut self.stacks, outer);
        // Its calls are not under way while it waits, and its stacks are on the heap.
        self.depth -= inner.frames.len() as u32;
        inner.counted += more;
        self.memory.heap.count(more);
        coroutine.set(Progress::Waiting(Box::new(inner)));
        Going::Give(value)
    }

    /// Goes back to what resumed a coroutine that has come to its end.
    pub(super) fn end_coroutine(&mut self) {
        if let Some((outer, coroutine)) = self.outer.pop() {
            coroutine.set(Progress::Ended);
            self.stacks = outer;
        }
    }
}
