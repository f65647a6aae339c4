//! Going out with a failure, up to what catches it.

use std::sync::Arc;

use super::raw::Pc;
use super::threads::Tail;
use super::{At, Machine, loaded_of};
use crate::bytecode::{Function, Origin, Purpose};
use crate::diagnostic::Place;
use crate::runtime::{Culprit, Failure, OfCall, Passed, Problem, not_caught};
use crate::values::{Closure, Inner, Ref, Value};

impl Machine<'_> {
    /// The failure that a problem with the instruction at fault makes.
    #[inline(never)]
    pub(super) fn failure_of(&self, problem: Problem) -> Box<Failure> {
        let function = &self.loaded().function;
        let origin = origin(function, self.closure, self.culprit, problem.culprit);
        let param = origin.param.map(u32::from);
        let is_of_call = function.built_in || problem.blames_argument && param.is_some();
        let place = Place::new(&function.source, origin.span);
        Failure::new(problem, place, is_of_call.then_some(OfCall { param }))
    }

    /// Stops with a value that can be caught.
    pub(super) fn raise(&mut self, value: Value) -> Result<(), Box<Problem>> {
        let problem = not_caught(&value);
        let mut failure = self.failure_of((*problem).clone());
        failure.raised = Some(value);
        self.failure = Some(failure);
        Err(problem)
    }

    /// After a cleanup: goes on failing if there was a failure.
    pub(super) fn finish(&mut self, how: Value) -> Result<(), Box<Problem>> {
        let Value::Inner(inner) = how else {
            return Ok(());
        };
        let Some(failure) = inner.follow().take_state::<Failure>() else {
            return Ok(());
        };
        let problem = Problem::new(Culprit::Whole, failure.code, "");
        self.failure = Some(failure);
        Err(problem)
    }

    /// Goes out with the failure, up to what catches it; an error when nothing does.
    pub(super) fn unwind(&mut self) -> Result<(), Box<Failure>> {
        let Some(failure) = self.failure.take() else {
            return Ok(());
        };
        let Some(mut failure) = self.failing(failure) else {
            return Ok(());
        };
        if !failure.is_catchable() {
            // What ends here has to end: nothing more is counted, and the first limit is the
            // one that is told.
            self.memory.heap.meter.end();
            self.fuel = 1;
            match &self.struck {
                Some(first) => failure.clone_from(first),
                None => self.struck = Some(failure.clone()),
            }
        }
        loop {
            if self.catch(&mut failure) {
                return Ok(());
            }
            let count = self.top.count(&self.thread.frames);
            if count > 1 {
                self.leave_failed(&mut failure, count);
                continue;
            }
            // The bottom of the thread: what a coroutine was resumed by notes the call.
            let (closure, tails) = (self.closure, self.tails(count));
            if self.end_failed_coroutine() {
                self.note_calls(&mut failure, closure, tails);
                continue;
            }
            self.note_tails(&mut failure, closure, tails);
            return Err(failure);
        }
    }

    /// Goes on at what catches a failure of the running function, if something does.
    fn catch(&mut self, failure: &mut Box<Failure>) -> bool {
        let loaded = loaded_of(self.closure);
        let at = self.culprit.words_from(loaded.start) as u32;
        let catchable = failure.is_catchable();
        let handler = loaded.function.handlers.iter().find(|handler| {
            handler.start <= at
                && at < handler.end
                && (catchable || handler.purpose == Purpose::Restore)
        });
        let Some(handler) = handler else {
            return false;
        };
        self.at = At {
            pc: loaded.start.plus(handler.target as i32),
            ..self.at
        };
        self.at.constants = loaded.constants;
        let caught = match handler.purpose {
            Purpose::Rescue => failure.caught(self.memory.wording.as_deref()),
            Purpose::Cleanup | Purpose::Restore => {
                Value::Inner(Value::inner(Inner::state((**failure).clone())))
            }
        };
        self.set(handler.register, caught);
        true
    }

    /// Leaves a function with a failure.
    fn leave_failed(&mut self, failure: &mut Failure, count: usize) {
        let tails = self.tails(count);
        self.thread.forget_tails(count);
        let frame = *self.top.pop();
        let closure = self.closure;
        self.at.base -= frame.window.register();
        self.closure = frame.closure;
        self.culprit = frame.pc.plus(-1);
        self.at.pc = frame.pc;
        if loaded_of(closure).function.is_program {
            self.not_loaded();
        }
        self.note_calls(failure, closure, tails);
    }

    /// The tail calls that have taken the place of the function of a frame, the last first.
    fn tails(&self, count: usize) -> [Option<Tail>; 2] {
        [self.thread.tail(count), self.thread.tail_before(count)]
    }

    /// Notes the call of a function that is left. Something built-in that was called in tail
    /// position is left together with what called it.
    fn note_calls(
        &self,
        failure: &mut Failure,
        function: Ref<Closure>,
        [last, before]: [Option<Tail>; 2],
    ) {
        self.note_call(failure, function, last);
        if let Some(tail) = last
            && loaded_of(function).function.built_in
        {
            self.note_call(failure, tail.closure, before);
        }
    }

    /// The same for what was called from outside: only tail calls are the run's own.
    fn note_tails(
        &self,
        failure: &mut Failure,
        function: Ref<Closure>,
        [last, before]: [Option<Tail>; 2],
    ) {
        let Some(tail) = last else {
            return;
        };
        self.note_call(failure, function, last);
        if before.is_some() && loaded_of(function).function.built_in {
            self.note_call(failure, tail.closure, before);
        }
    }

    /// Notes a call on the way out of a function: the one at fault, or a tail call in its
    /// place.
    fn note_call(&self, failure: &mut Failure, function: Ref<Closure>, tail: Option<Tail>) {
        let (caller, pc) = match tail {
            Some(tail) => (tail.closure, tail.pc),
            None => (self.closure, self.culprit),
        };
        let code = &loaded_of(caller).function;
        let whole = origin(code, caller, pc, Culprit::Whole);
        let Some(OfCall { param }) = failure.belongs_to_call.take() else {
            let place = Place::new(&code.source, whole.span);
            let left = Passed {
                function: function.code().name(),
                is_built_in: loaded_of(function).function.built_in,
                from_built_in: code.built_in,
            };
            failure.passed(left, place);
            return;
        };
        // The program knows nothing of what is inside: its own text is at fault, the argument
        // where that is known. What is called is the first operand of a call.
        let arg = param.and_then(|param| {
            let at = pc.words_from(loaded_of(caller).start);
            let site = code.site(at)?;
            site.operands.get(param as usize + 1).copied()
        });
        failure.place.source = Arc::clone(&code.source);
        failure.place.span = arg.unwrap_or(whole).span;
        if code.built_in {
            failure.belongs_to_call = Some(OfCall {
                param: arg.and_then(|arg| arg.param).map(u32::from),
            });
        }
    }
}

/// Where the culprit of an instruction comes from.
fn origin(function: &Function, closure: Ref<Closure>, pc: Pc, culprit: Culprit) -> Origin {
    let at = pc.words_from(loaded_of(closure).start);
    let Some(site) = function.site(at) else {
        return Origin {
            span: crate::source::Span::new(0, 0),
            param: None,
        };
    };
    match culprit {
        Culprit::Whole => site.whole,
        Culprit::Operand(index) => site.operands.get(index).copied().unwrap_or(site.whole),
    }
}
