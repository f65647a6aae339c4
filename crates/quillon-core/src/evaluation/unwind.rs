//! Going out of what is under way: jumps to landings, and failures to what catches them.

use std::rc::Rc;
use std::sync::Arc;

use super::stacks::{Activation, Called, Continuation, Going};
use super::walk::{Walker, operand};
use crate::diagnostic::{Place, codes};
use crate::meaning::{Core, CoreKind as K, CorePart, FunctionCore, Label, Variable};
use crate::operations::Operation;
use crate::runtime::{Culprit, Failure, OfCall, Passed, Problem, not_caught};
use crate::values::Value;

impl Walker<'_> {
    /// Goes out to a landing of the running function.
    pub(super) fn jump(&mut self, label: Label, value: Value) -> Going {
        while let Some(continuation) = self.stacks.continuations.pop() {
            let (core, at, height) = match continuation {
                Continuation::Node(core, at, height) => (core, at, height),
                Continuation::Rebound(held) => {
                    self.restore(held);
                    continue;
                }
                Continuation::Leave
                | Continuation::Each(_)
                | Continuation::Calling(_)
                | Continuation::After(_)
                | Continuation::Bottom => continue,
            };
            match &core.kind {
                K::Landing(own, _) if *own == label => {
                    self.stacks.operands.truncate(height as usize);
                    return Going::Give(value);
                }
                K::Mark(marked, _) => self.tell_end(*marked, None),
                K::Cleanup([_, after]) if at == 0 => {
                    self.stacks.operands.truncate(height as usize);
                    let after = Rc::clone(after);
                    return self.then(Going::Jump(label, value), after);
                }
                _ => {}
            }
        }
        // Landings are found when Core is made, so no jump gets this far.
        Going::Give(value)
    }

    /// Goes out with a failure, up to what catches it; an error when nothing does.
    pub(super) fn unwind(&mut self, mut failure: Box<Failure>) -> Result<Going, Box<Failure>> {
        loop {
            let Some(continuation) = self.stacks.continuations.pop() else {
                return Err(failure);
            };
            match continuation {
                Continuation::Leave => self.leave_failed(&mut failure),
                Continuation::Bottom => self.end_coroutine(),
                Continuation::Rebound(held) => self.restore(held),
                Continuation::Node(core, at, height) => match &core.kind {
                    K::Attempt(slot, [_, rescue]) if at == 0 && failure.is_catchable() => {
                        self.stacks.operands.truncate(height as usize);
                        let caught = failure.caught(self.memory.wording.as_deref());
                        self.set_slot(*slot, caught);
                        let rescue = Rc::clone(rescue);
                        // What is caught is made, too.
                        return Ok(match self.made(Value::Nothing, &rescue) {
                            Going::Give(_) => Going::Run(rescue),
                            other @ (Going::Run(_) | Going::Jump(..) | Going::Fail(_)) => other,
                        });
                    }
                    K::Mark(marked, _) => self.tell_end(*marked, None),
                    K::Cleanup([_, after]) if at == 0 && failure.is_catchable() => {
                        self.stacks.operands.truncate(height as usize);
                        let after = Rc::clone(after);
                        return Ok(self.then(Going::Fail(failure), after));
                    }
                    _ => {}
                },
                Continuation::Calling(calling) => {
                    // A program that has failed may be asked for again.
                    if let Some(name) = calling.program() {
                        self.memory.modules.shift_remove(name);
                    }
                }
                Continuation::Each(_) | Continuation::After(_) => {}
            }
        }
    }

    /// Leaves a function with a failure, which notes the call.
    fn leave_failed(&mut self, failure: &mut Failure) {
        let Some(Activation {
            closure,
            from,
            replaced,
            ..
        }) = self.leave()
        else {
            return;
        };
        note_call(failure, closure.core(), &from);
        if let Some(replaced) = replaced {
            note_call(failure, &replaced.0, &replaced.1);
        }
    }

    /// Runs a cleanup, and goes on as it was going after that.
    pub(super) fn then(&mut self, going: Going, after: CorePart) -> Going {
        let waiting = Continuation::After(Box::new(going));
        self.stacks.continuations.push(waiting);
        Going::Run(after)
    }

    /// Stops with a value that can be caught.
    pub(super) fn raise(&mut self, value: Value, core: &CorePart) -> Going {
        let mut failure = failure(*not_caught(&value), core, self.stacks.function());
        failure.raised = Some(value);
        Going::Fail(failure)
    }

    /// What a fault comes to: in a program that is looked at before it runs, it is noted.
    pub(super) fn refuse(&mut self, problem: Problem, core: &CorePart) -> Going {
        let failure = failure(problem, core, self.stacks.function());
        let Some(refused) = &mut self.memory.refused else {
            return Going::Fail(failure);
        };
        let mut told = failure.diagnostic();
        told.code = codes::RULE_BROKEN;
        refused.push(told);
        Going::Give(Value::Nothing)
    }

    /// The failure that a problem with a piece of Core makes.
    #[cold]
    pub(super) fn fail(&mut self, problem: Problem, core: &CorePart) -> Going {
        Going::Fail(failure(problem, core, self.stacks.function()))
    }
}

/// The failure that a problem with a piece of Core in a function makes.
#[cold]
pub(super) fn failure(problem: Problem, core: &Core, function: &FunctionCore) -> Box<Failure> {
    let culprit = match problem.culprit {
        Culprit::Operand(index) => operand(core, index).unwrap_or(core),
        Culprit::Whole => core,
    };
    let param = param_of(culprit, function);
    let is_of_call = function.built_in || problem.blames_argument && param.is_some();
    let place = Place::new(&function.source, culprit.span);
    Failure::new(problem, place, is_of_call.then_some(OfCall { param }))
}

/// The parameter of a running function that a piece of Core just reads.
fn param_of(arg: &Core, function: &FunctionCore) -> Option<u32> {
    match arg.kind {
        K::Read(Variable::Slot(slot) | Variable::Cell(slot), _) => function
            .params
            .iter()
            .position(|param| param.slot == slot)
            .map(|index| index as u32),
        _ => None,
    }
}

/// Notes the call of a function that is left.
fn note_call(failure: &mut Failure, function: &FunctionCore, from: &Called) {
    let Called {
        at: call, caller, ..
    } = from;
    let place = Place::new(&caller.source, call.span);
    let Some(OfCall { param }) = failure.belongs_to_call.take() else {
        let left = Passed {
            function: function.name.as_deref(),
            is_built_in: function.built_in,
            from_built_in: caller.built_in,
        };
        failure.passed(left, place);
        return;
    };
    // The program knows nothing of what is inside: its own text is at fault, the
    // argument where that is known.
    let arg = param.and_then(|param| match &call.kind {
        K::Call(_, args) => args.get(param as usize).map(|arg| &**arg),
        K::Apply(Operation::ListCall, parts) => parts[0].listed().nth(param as usize),
        _ => None,
    });
    failure.place.source = Arc::clone(&caller.source);
    failure.place.span = arg.map_or(call.span, |arg| arg.span);
    if caller.built_in {
        failure.belongs_to_call = Some(OfCall {
            param: arg.and_then(|arg| param_of(arg, caller)),
        });
    }
}
