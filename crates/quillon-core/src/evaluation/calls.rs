//! Calling functions.

use std::rc::Rc;

use super::failure::{Culprit, Problem};
use super::value::{Cell, Closure, Value};
use super::walk::{Exit, Frame, Slot, Step, Walker, failed};
use crate::diagnostic::{Place, codes, plural, quote};
use crate::meaning::{Core, FunctionCore};

impl Walker<'_> {
    /// Walks the callee and the arguments, and calls.
    pub(super) fn call(
        &mut self,
        callee: &Core,
        args: &[Core],
        core: &Core,
        frame: &Frame<'_>,
    ) -> Step {
        let function = match self.walk(callee, frame)? {
            Value::Function(function) => function,
            other => {
                let problem = Problem::kind(0, "a function", &other);
                return Err(failed(*problem, &[callee], core, frame));
            }
        };
        let base = self.slots.len();
        // Arguments wait above the slots of the caller, where calls inside them leave
        // everything as it was.
        for arg in args {
            let value = match self.walk(arg, frame) {
                Ok(value) => value,
                Err(exit) => {
                    self.slots.truncate(base);
                    return Err(exit);
                }
            };
            self.slots.push(Slot::Value(value));
        }
        let result = self.enter(&function, base, args, core, frame);
        self.slots.truncate(base);
        result
    }

    /// Runs a function whose arguments are the topmost slots.
    fn enter(
        &mut self,
        closure: &Rc<Closure>,
        base: usize,
        args: &[Core],
        core: &Core,
        caller: &Frame<'_>,
    ) -> Step {
        let function = &*closure.function;
        Self::check_arity(function, args.len(), core, caller)?;
        self.check_depth(core, caller)?;
        if function.rest {
            let fixed = function.params.len() - 1;
            let rest: Vec<Value> = self
                .slots
                .drain(base + fixed..)
                .map(|slot| match slot {
                    Slot::Value(value) => value,
                    _ => Value::Nothing,
                })
                .collect();
            self.slots.push(Slot::Value(Value::list(rest)));
        }
        self.slots
            .resize(base + function.slots as usize, Slot::Unset);
        self.settle_params(function, base);
        let frame = Frame {
            function,
            captured: &closure.captured,
            base,
        };
        self.depth += 1;
        let result = self.walk(&function.body, &frame);
        self.depth -= 1;
        match result {
            Err(Exit::Failed(mut failure)) => {
                let place = Place::new(&caller.function.source, core.span);
                match failure.inside_ready_made.take() {
                    Some(param) => {
                        // The program knows nothing of what is inside: its own text is
                        // at fault, the argument where that is known.
                        let arg = param.and_then(|p| args.get(p as usize));
                        failure.place.source = std::sync::Arc::clone(&caller.function.source);
                        failure.place.span = arg.map_or(core.span, |arg| arg.span);
                        if caller.function.ready_made {
                            failure.inside_ready_made = Some(arg.and_then(|a| param_of(a, caller)));
                        }
                    }
                    None => failure.passed(function.name.as_deref(), place),
                }
                Err(Exit::Failed(failure))
            }
            other => other,
        }
    }

    /// Parameters that functions inside share become cells. A parameter's slot is its
    /// number: parameters are the first variables a function gets.
    fn settle_params(&mut self, function: &FunctionCore, base: usize) {
        for &(slot, cell, _) in &function.params {
            if cell {
                let place = &mut self.slots[base + slot as usize];
                if let Slot::Value(value) = std::mem::replace(place, Slot::Unset) {
                    *place = Slot::Cell(Rc::new(Cell(std::cell::RefCell::new(Some(value)))));
                }
            }
        }
    }

    fn check_arity(
        function: &FunctionCore,
        count: usize,
        core: &Core,
        frame: &Frame<'_>,
    ) -> Result<(), Exit> {
        let params = function.params.len();
        let fits = if function.rest {
            count + 1 >= params
        } else {
            count == params
        };
        if fits {
            return Ok(());
        }
        let who = match &function.name {
            Some(name) => quote(name),
            None => "this function".to_owned(),
        };
        let least = if function.rest { params - 1 } else { params };
        let wanted = format!(
            "{}{}",
            plural(least, "argument"),
            if function.rest { " or more" } else { "" }
        );
        let names: Vec<&str> = function.params.iter().map(|(_, _, n)| &**n).collect();
        let mut problem = Problem::new(
            Culprit::Whole,
            codes::RUN_ARITY,
            format!("{who} takes {wanted}, and gets {count}"),
        )
        .detail("function", who)
        .detail("wanted", wanted)
        .detail("got", count.to_string());
        if !names.is_empty() {
            problem = problem.why(format!("its parameters are {}", names.join(", ")));
        }
        Err(failed(*problem, &[], core, frame))
    }

    fn check_depth(&self, core: &Core, frame: &Frame<'_>) -> Result<(), Exit> {
        let used = self.stack_start.abs_diff(crate::deep::stack_address());
        if self.depth < self.limits.depth && used < self.stack_budget {
            return Ok(());
        }
        let problem = Problem::new(
            Culprit::Whole,
            codes::RUN_DEPTH,
            format!(
                "{} calls are one inside the other, and that is the limit",
                self.depth
            ),
        )
        .why("a function that calls itself must come to an end");
        Err(failed(*problem, &[], core, frame))
    }
}

/// The parameter of a running function that a piece of Core just reads.
pub(super) fn param_of(arg: &Core, caller: &Frame<'_>) -> Option<u32> {
    use crate::meaning::{CoreKind, Variable};
    match arg.kind {
        CoreKind::Read(Variable::Slot(slot), _) => caller
            .function
            .params
            .iter()
            .position(|&(param, ..)| param == slot)
            .map(|index| index as u32),
        _ => None,
    }
}
