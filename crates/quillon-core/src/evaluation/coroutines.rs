//! Functions that can be suspended and resumed. Each has stacks of its own; to resume it is
//! to change stacks.

use std::cell::RefCell;
use std::rc::Rc;

use super::failure::{Culprit, Problem};
use super::stacks::{Continuation, Going, Stacks};
use super::value::{Closure, Value, drop_flat};
use super::walk::Walker;
use crate::diagnostic::codes;
use crate::meaning::Part;

/// A function that can be suspended and resumed.
#[derive(Debug)]
pub struct Coroutine(RefCell<State>);

#[derive(Debug)]
enum State {
    /// Not begun.
    Fresh(Rc<Closure>),
    /// Suspended.
    Waiting(Stacks),
    /// Resumed, and not suspended again.
    Running,
    /// At its end, or failed.
    Ended,
}

impl Coroutine {
    pub(super) fn new(function: Rc<Closure>) -> Coroutine {
        Coroutine(RefCell::new(State::Fresh(function)))
    }

    /// Whether it has come to its end.
    pub fn has_ended(&self) -> bool {
        matches!(*self.0.borrow(), State::Ended)
    }
}

impl Drop for Coroutine {
    fn drop(&mut self) {
        if let State::Waiting(stacks) = self.0.get_mut() {
            drop_flat(stacks.values());
        }
    }
}

impl Walker<'_> {
    /// Resumes a coroutine: what it was suspended by gives the value.
    pub(super) fn resume(&mut self, coroutine: &Rc<Coroutine>, value: Value, core: &Part) -> Going {
        let state = std::mem::replace(&mut *coroutine.0.borrow_mut(), State::Running);
        match state {
            State::Fresh(function) => {
                let caller = Rc::clone(self.stacks.function());
                if let Some(failure) = self.refusal(&function.function, 0, core, &caller) {
                    *coroutine.0.borrow_mut() = State::Ended;
                    return Going::Fail(failure);
                }
                let inner = Stacks {
                    continuations: vec![Continuation::Bottom],
                    ..Stacks::default()
                };
                let outer = std::mem::replace(&mut self.stacks, inner);
                self.outer.push((outer, Rc::clone(coroutine)));
                self.activate(function, 0, core, caller)
            }
            State::Waiting(inner) => {
                let outer = std::mem::replace(&mut self.stacks, inner);
                self.outer.push((outer, Rc::clone(coroutine)));
                Going::Give(value)
            }
            State::Running => {
                let problem = Problem::new(
                    Culprit::Operand(0),
                    codes::RUN_COROUTINE,
                    "this coroutine is running already",
                );
                self.fail(*problem, core)
            }
            State::Ended => {
                *coroutine.0.borrow_mut() = State::Ended;
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
    pub(super) fn suspend(&mut self, value: Value, core: &Part) -> Going {
        let Some((outer, coroutine)) = self.outer.pop() else {
            let problem = Problem::new(
                Culprit::Whole,
                codes::RUN_COROUTINE,
                "there is no coroutine here that could be suspended",
            );
            return self.fail(*problem, core);
        };
        let inner = std::mem::replace(&mut self.stacks, outer);
        *coroutine.0.borrow_mut() = State::Waiting(inner);
        Going::Give(value)
    }

    /// Goes back to what resumed a coroutine that has come to its end.
    pub(super) fn end_coroutine(&mut self) {
        if let Some((outer, coroutine)) = self.outer.pop() {
            *coroutine.0.borrow_mut() = State::Ended;
            self.stacks = outer;
        }
    }
}
