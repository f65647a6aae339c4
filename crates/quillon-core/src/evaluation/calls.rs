//! Calling functions, and leaving them.

use std::rc::Rc;

use super::stacks::{Activation, Called, Continuation, Going};
use super::unwind::failure;
use super::walk::Walker;
use crate::meaning::{CoreKind as K, CorePart, FunctionCore};
use crate::runtime::{Failure, Problem, too_deep, wrong_count};
use crate::values::{Closure, Code, Ref, Value};

/// How many continuations above a call are looked at to see whether its value is the
/// function's own: beyond, a call is an ordinary one.
const TAIL: usize = 24;

impl Walker<'_> {
    /// Calls what waits below its arguments.
    pub(super) fn call(&mut self, core: &CorePart, count: usize) -> Going {
        let from = self.stacks.operands.len() - count;
        let function = match &self.stacks.operands[from - 1] {
            Value::Function(function) => *function,
            other => {
                let problem = Problem::kind(0, "a function", other);
                self.stacks.operands.truncate(from - 1);
                return self.fail(*problem, core);
            }
        };
        let caller = self.stacks.function_kept();
        if let Some(failure) = self.refusal(function.core(), count, core, &caller) {
            return Going::Fail(failure);
        }
        // The place of the function itself among the operands is given up with those of
        // the arguments.
        self.stacks.operands.remove(from - 1);
        if let Some(top) = self.tail().filter(|_| !core.is_among_built_in(&caller)) {
            self.give_up(top);
            self.replace(function, count, core, caller);
            return Going::Run(Rc::clone(&self.stacks.function().body));
        }
        self.activate(function, count, core, caller)
    }

    /// Gives up continuations that have nothing left to do.
    fn give_up(&mut self, top: usize) {
        while self.watcher.is_some() && self.stacks.continuations.len() > top {
            if let Some(Continuation::Node(core, ..)) = self.stacks.continuations.pop()
                && let K::Mark(marked, _) = &core.kind
            {
                self.tell_end(*marked, None);
            }
        }
        self.stacks.continuations.truncate(top);
    }

    /// Calls a function with some arguments, for a built-in operation.
    pub(super) fn call_back(
        &mut self,
        function: Ref<Closure>,
        args: Vec<Value>,
        core: &CorePart,
    ) -> Going {
        let caller = self.stacks.function_kept();
        if let Some(failure) = self.refusal(function.core(), args.len(), core, &caller) {
            return Going::Fail(failure);
        }
        let count = args.len();
        self.stacks.operands.extend(args);
        self.activate(function, count, core, caller)
    }

    /// Begins a function whose arguments are the topmost operands.
    pub(super) fn activate(
        &mut self,
        closure: Ref<Closure>,
        count: usize,
        call: &CorePart,
        caller: Rc<FunctionCore>,
    ) -> Going {
        let base = self.stacks.slots.len();
        self.fill_slots(closure.core(), base, count);
        let body = Rc::clone(&closure.core().body);
        self.stacks.frames.push(Activation {
            closure,
            base: base as u32,
            height: self.stacks.operands.len() as u32,
            from: Called {
                at: Rc::clone(call),
                caller,
                is_resumption: false,
            },
            replaced: None,
        });
        self.depth += 1;
        // The program itself is not called by anything.
        if self.depth > 1 {
            self.stacks.continuations.push(Continuation::Leave);
        }
        Going::Run(body)
    }

    /// Puts a function in the place of the one that runs, which has nothing left to do.
    fn replace(
        &mut self,
        closure: Ref<Closure>,
        count: usize,
        call: &CorePart,
        caller: Rc<FunctionCore>,
    ) {
        let last = self.stacks.frames.len() - 1;
        let frame = &self.stacks.frames[last];
        let (base, height) = (frame.base, frame.height);
        let replaced = closure.core().built_in.then(|| {
            let function = frame.closure.core_kept();
            Box::new((function, frame.from.clone()))
        });
        let args = self.stacks.operands.len() - count;
        self.stacks.operands.drain(height as usize..args);
        self.stacks.slots.truncate(base as usize);
        self.fill_slots(closure.core(), base as usize, count);
        self.stacks.frames[last] = Activation {
            closure,
            base,
            height,
            from: Called {
                at: Rc::clone(call),
                caller,
                is_resumption: false,
            },
            replaced,
        };
    }

    /// Makes slots for a function, the topmost operands in those of its parameters.
    fn fill_slots(&mut self, function: &FunctionCore, base: usize, count: usize) {
        let stacks = &mut self.stacks;
        let first = stacks.operands.len() - count;
        if function.rest {
            let fixed = function.params.len() - 1;
            let rest = stacks.operands.split_off(first + fixed);
            stacks.operands.push(Value::list(rest));
        }
        stacks.slots.extend(stacks.operands.drain(first..));
        stacks
            .slots
            .resize(base + function.slots as usize, Value::Unset);
        // Parameters that functions inside share become cells. A parameter's slot is its
        // number: parameters are the first variables a function gets.
        for param in &function.params {
            if param.is_cell {
                let place = &mut stacks.slots[base + param.slot as usize];
                *place = Value::Variable(Value::variable(*place));
            }
        }
    }

    /// Leaves the running function.
    pub(super) fn leave(&mut self) -> Option<Activation> {
        let frame = self.stacks.frames.pop()?;
        self.stacks.slots.truncate(frame.base as usize);
        self.stacks.operands.truncate(frame.height as usize);
        self.depth -= 1;
        Some(frame)
    }

    /// Where the continuations end that a call in tail position leaves nothing to do for:
    /// its value is that of the running function.
    fn tail(&self) -> Option<usize> {
        let continuations = &self.stacks.continuations;
        // The landing that a jump on the way leads to: what is passed over is given up.
        let mut sought = None;
        for top in (1..=continuations.len()).rev().take(TAIL) {
            match &continuations[top - 1] {
                Continuation::Leave => return sought.is_none().then_some(top),
                Continuation::Node(core, ..) => match &core.kind {
                    K::Attempt(..) | K::Cleanup(_) => return None,
                    K::Landing(label, _) if sought == Some(*label) => sought = None,
                    K::Landing(..) | K::Mark(..) => {}
                    K::Jump(label, _) if sought.is_none() => sought = Some(*label),
                    _ if sought.is_some() => {}
                    _ => return None,
                },
                Continuation::Each(_) | Continuation::After(_) if sought.is_some() => {}
                Continuation::Each(_)
                | Continuation::Calling(_)
                | Continuation::After(_)
                | Continuation::Rebound(_)
                | Continuation::Bottom => return None,
            }
        }
        None
    }

    /// Why a function cannot be called with so many arguments, if it cannot.
    pub(super) fn refusal(
        &self,
        function: &FunctionCore,
        count: usize,
        core: &CorePart,
        caller: &Rc<FunctionCore>,
    ) -> Option<Box<Failure>> {
        let signature = function.signature();
        if !signature.takes(count) {
            let problem = wrong_count(&signature, count);
            return Some(failure(*problem, core, caller));
        }
        // The program itself is no call.
        let calls = self.calls();
        if calls < self.limits.depth {
            return None;
        }
        Some(failure(*too_deep(calls), core, caller))
    }
}
