//! The walking evaluator.

use std::rc::Rc;
use std::time::Instant;

use super::failure::{Culprit, Failure, Problem};
use super::value::{Cell, Closure, Value};
use super::{Host, Limits, Memory, Metered, natives, number};
use crate::definition::Literal;
use crate::definition::template::BinaryOperator;
use crate::diagnostic::{Place, codes, quote};
use crate::meaning::{Core, CoreKind as K, FunctionCore, Label, Variable};

/// After so many steps the limits are looked at: often enough for a limit on time, and
/// rarely enough to cost nothing.
const SLICE: u64 = 1 << 14;

/// Why a piece of Core did not give a value.
pub(super) enum Exit {
    /// On the way to a landing; the value waits in the walker.
    Jump(Label),
    /// On the way out of the run, or to a `rescue`.
    Failed(Box<Failure>),
}

pub(super) type Step = Result<Value, Exit>;

/// A slot of a running function.
#[derive(Clone, Debug)]
pub(super) enum Slot {
    Unset,
    Value(Value),
    Cell(Rc<Cell>),
}

/// A running function: its code, what it captured, where its slots begin.
#[derive(Clone, Copy)]
pub(super) struct Frame<'f> {
    pub function: &'f FunctionCore,
    pub captured: &'f [Rc<Cell>],
    pub base: usize,
}

pub(super) struct Walker<'a> {
    pub memory: &'a mut Memory,
    pub host: Metered<'a>,
    pub limits: Limits,
    pub slots: Vec<Slot>,
    pub depth: u32,
    /// Steps until the limits are looked at again, and those after that.
    steps: u64,
    steps_left: u64,
    started: Instant,
    /// What a jump on its way brings.
    carried: Value,
    /// Where the native stack stood at the start, and how much of it may be used.
    pub stack_start: usize,
    pub stack_budget: usize,
}

impl<'a> Walker<'a> {
    pub fn new(memory: &'a mut Memory, limits: Limits, host: &'a mut dyn Host) -> Walker<'a> {
        Walker {
            memory,
            host: Metered::new(host, limits),
            limits,
            slots: Vec::new(),
            depth: 0,
            // The first step finds the slice used up, and begins the first real one.
            steps: 1,
            steps_left: limits.steps.unwrap_or(u64::MAX),
            started: Instant::now(),
            carried: Value::Nothing,
            stack_start: crate::deep::stack_address(),
            stack_budget: crate::deep::stack_budget(),
        }
    }

    /// Runs a whole program.
    pub fn program(mut self, program: &Rc<FunctionCore>) -> Result<Value, Box<Failure>> {
        self.slots = vec![Slot::Unset; program.slots as usize];
        let frame = Frame {
            function: program,
            captured: &[],
            base: 0,
        };
        match self.walk(&program.body, &frame) {
            Ok(value) => Ok(value),
            Err(Exit::Failed(failure)) => Err(failure),
            // Landings are found when Core is made, so no jump gets this far.
            Err(Exit::Jump(_)) => Ok(std::mem::take(&mut self.carried)),
        }
    }

    /// Walks a piece of Core.
    pub fn walk(&mut self, core: &Core, frame: &Frame<'_>) -> Step {
        self.steps = self.steps.wrapping_sub(1);
        if self.steps == 0 {
            return self.out_of_steps(core, frame);
        }
        match &core.kind {
            K::Literal(literal) => Ok(constant(literal)),
            K::Read(variable, name) => self.read(*variable, name, core, frame),
            K::Write(variable, value) => {
                let value = self.walk(value, frame)?;
                self.write(*variable, value, frame);
                Ok(Value::Nothing)
            }
            K::Fresh(slots, body) => {
                self.freshen(slots, frame);
                self.walk(body, frame)
            }
            K::Sequence(parts) => self.sequence(parts, frame),
            K::If(parts) => {
                let [test, yes, no] = &**parts;
                if self.truth(test, frame)? {
                    self.walk(yes, frame)
                } else {
                    self.walk(no, frame)
                }
            }
            K::While(parts) => {
                let [test, body] = &**parts;
                while self.truth(test, frame)? {
                    self.walk(body, frame)?;
                }
                Ok(Value::Nothing)
            }
            K::Landing(label, body) => match self.walk(body, frame) {
                Err(Exit::Jump(target)) if target == *label => {
                    Ok(std::mem::take(&mut self.carried))
                }
                other => other,
            },
            K::Jump(label, value) => {
                self.carried = self.walk(value, frame)?;
                Err(Exit::Jump(*label))
            }
            K::Call(callee, args) => self.call(callee, args, core, frame),
            K::Binary(operator, parts) => self.binary(*operator, parts, core, frame),
            K::Not(value) => Ok(Value::Truth(!self.truth(value, frame)?)),
            K::And(parts) => {
                let both = self.truth(&parts[0], frame)? && self.truth(&parts[1], frame)?;
                Ok(Value::Truth(both))
            }
            K::Or(parts) => {
                let either = self.truth(&parts[0], frame)? || self.truth(&parts[1], frame)?;
                Ok(Value::Truth(either))
            }
            K::Function(function) => Ok(self.close(function, frame)),
            _ => self.rarer(core, frame),
        }
    }

    /// What is walked less often, kept out of `walk` so that its native frame stays
    /// small: recursion of the program is recursion of `walk`.
    #[inline(never)]
    fn rarer(&mut self, core: &Core, frame: &Frame<'_>) -> Step {
        match &core.kind {
            K::Negate(value) => {
                let operand = self.walk(value, frame)?;
                number::negate(&operand).map_err(|problem| failed(*problem, &[value], core, frame))
            }
            K::Apply(operation, args) => {
                let mut values = Vec::with_capacity(args.len());
                for arg in args {
                    values.push(self.walk(arg, frame)?);
                }
                natives::apply(*operation, &values, &mut self.host).map_err(|problem| {
                    let operands: Vec<&Core> = args.iter().collect();
                    failed(*problem, &operands, core, frame)
                })
            }
            K::List(items) => {
                let mut values = Vec::with_capacity(items.len());
                for item in items {
                    values.push(self.walk(item, frame)?);
                }
                Ok(Value::list(values))
            }
            K::Each(slot, parts) => self.each(*slot, parts, core, frame),
            K::Match(subject, arms) => {
                let value = self.walk(subject, frame)?;
                let kind = value.kind();
                let Some(arm) = arms.iter().find(|arm| arm.kind.is_none_or(|k| k == kind)) else {
                    let problem = Problem::new(
                        Culprit::Operand(0),
                        codes::RUN_MATCH,
                        format!("nothing here is for {}", super::described(&value)),
                    );
                    return Err(failed(*problem, &[subject], core, frame));
                };
                if let Some(slot) = arm.slot {
                    self.slots[frame.base + slot as usize] = Slot::Value(value);
                }
                self.walk(&arm.body, frame)
            }
            K::Fault(message) => {
                let message = self.walk(message, frame)?;
                let problem =
                    Problem::new(Culprit::Whole, codes::RUN_FAULT, super::shown(&message));
                Err(failed(*problem, &[], core, frame))
            }
            K::Raise(value) => {
                let value = self.walk(value, frame)?;
                let problem = Problem::new(
                    Culprit::Whole,
                    codes::RUN_RAISED,
                    format!(
                        "this was raised and nothing caught it: {}",
                        super::shown(&value)
                    ),
                );
                let mut exit = failed(*problem, &[], core, frame);
                if let Exit::Failed(failure) = &mut exit {
                    failure.raised = Some(value);
                }
                Err(exit)
            }
            K::Attempt(slot, parts) => {
                let depth = self.depth;
                match self.walk(&parts[0], frame) {
                    Err(Exit::Failed(failure)) if failure.is_catchable() => {
                        self.depth = depth;
                        let caught = failure.caught(self.memory.wording.as_deref());
                        self.slots[frame.base + *slot as usize] = Slot::Value(caught);
                        self.walk(&parts[1], frame)
                    }
                    other => other,
                }
            }
            _ => Ok(Value::Nothing),
        }
    }

    fn sequence(&mut self, parts: &[Core], frame: &Frame<'_>) -> Step {
        let Some((last, before)) = parts.split_last() else {
            return Ok(Value::Nothing);
        };
        for part in before {
            self.walk(part, frame)?;
        }
        self.walk(last, frame)
    }

    fn truth(&mut self, core: &Core, frame: &Frame<'_>) -> Result<bool, Exit> {
        match self.walk(core, frame)? {
            Value::Truth(truth) => Ok(truth),
            other => {
                let problem = Problem::kind(0, "a truth value", &other);
                Err(failed(*problem, &[core], core, frame))
            }
        }
    }

    fn binary(
        &mut self,
        operator: BinaryOperator,
        parts: &[Core; 2],
        core: &Core,
        frame: &Frame<'_>,
    ) -> Step {
        let left = self.walk(&parts[0], frame)?;
        let right = self.walk(&parts[1], frame)?;
        number::binary(operator, &left, &right).map_err(|problem| {
            let operands = [&parts[0], &parts[1]];
            failed(*problem, &operands, core, frame)
        })
    }

    fn each(&mut self, slot: u32, parts: &[Core; 2], core: &Core, frame: &Frame<'_>) -> Step {
        let value = self.walk(&parts[0], frame)?;
        let items: Vec<Value> = match &value {
            Value::List(list) => list.0.borrow().clone(),
            Value::Map(map) => map.0.borrow().keys().map(super::Key::value).collect(),
            other => {
                let problem = Problem::kind(0, "a list or a map", other);
                return Err(failed(*problem, &[&parts[0]], core, frame));
            }
        };
        for item in items {
            self.slots[frame.base + slot as usize] = Slot::Value(item);
            self.walk(&parts[1], frame)?;
        }
        Ok(Value::Nothing)
    }

    #[inline]
    fn read(&mut self, variable: Variable, name: &Rc<str>, core: &Core, frame: &Frame<'_>) -> Step {
        let found = match variable {
            Variable::Slot(slot) => match &self.slots[frame.base + slot as usize] {
                Slot::Value(value) => Some(value.clone()),
                _ => None,
            },
            Variable::Cell(slot) => match &self.slots[frame.base + slot as usize] {
                Slot::Cell(cell) => cell.0.borrow().clone(),
                _ => None,
            },
            Variable::Captured(index) => frame.captured[index as usize].0.borrow().clone(),
            Variable::Session(index) => self
                .memory
                .session
                .get(index as usize)
                .and_then(Clone::clone),
            Variable::ReadyMade(index) => self.memory.ready_made.get(index as usize).cloned(),
            Variable::State(index) => self.memory.state.get(index as usize).cloned(),
        };
        match found {
            Some(value) => Ok(value),
            None => Err(Self::unset(name, core, frame)),
        }
    }

    #[cold]
    fn unset(name: &str, core: &Core, frame: &Frame<'_>) -> Exit {
        let problem = Problem::new(
            Culprit::Whole,
            codes::RUN_UNSET,
            format!("{} has no value yet", quote(name)),
        )
        .why("it is bound, but what gives it a value has not run")
        .detail("name", name);
        failed(*problem, &[], core, frame)
    }

    fn write(&mut self, variable: Variable, value: Value, frame: &Frame<'_>) {
        match variable {
            Variable::Slot(slot) => self.slots[frame.base + slot as usize] = Slot::Value(value),
            Variable::Cell(slot) => {
                if let Slot::Cell(cell) = &self.slots[frame.base + slot as usize] {
                    let old = cell.0.replace(Some(value));
                    drop(old);
                }
            }
            Variable::Captured(index) => {
                let old = frame.captured[index as usize].0.replace(Some(value));
                drop(old);
            }
            Variable::Session(index) => {
                let session = &mut self.memory.session;
                if session.len() <= index as usize {
                    session.resize(index as usize + 1, None);
                }
                session[index as usize] = Some(value);
            }
            // Scoping lets nothing change what is ready-made.
            Variable::ReadyMade(_) => {}
            Variable::State(index) => {
                if let Some(cell) = self.memory.state.get_mut(index as usize) {
                    let old = std::mem::replace(cell, value);
                    drop(old);
                }
            }
        }
    }

    fn freshen(&mut self, slots: &[(u32, bool)], frame: &Frame<'_>) {
        for &(slot, cell) in slots {
            self.slots[frame.base + slot as usize] = if cell {
                Slot::Cell(Rc::default())
            } else {
                Slot::Unset
            };
        }
    }

    fn close(&mut self, function: &Rc<FunctionCore>, frame: &Frame<'_>) -> Value {
        let captured = function
            .captures
            .iter()
            .map(|capture| match capture.from {
                Variable::Captured(index) => Rc::clone(&frame.captured[index as usize]),
                Variable::Cell(slot) | Variable::Slot(slot) => {
                    let place = &mut self.slots[frame.base + slot as usize];
                    if let Slot::Cell(cell) = place {
                        Rc::clone(cell)
                    } else {
                        let cell = Rc::<Cell>::default();
                        *place = Slot::Cell(Rc::clone(&cell));
                        cell
                    }
                }
                Variable::Session(_) | Variable::ReadyMade(_) | Variable::State(_) => Rc::default(),
            })
            .collect();
        Value::Function(Rc::new(Closure {
            function: Rc::clone(function),
            captured,
        }))
    }

    #[cold]
    fn out_of_steps(&mut self, core: &Core, frame: &Frame<'_>) -> Step {
        if let Some(limit) = self.limits.time
            && self.started.elapsed() > limit
        {
            let problem = Problem::new(
                Culprit::Whole,
                codes::RUN_TIME,
                format!("the run was stopped after {} seconds", limit.as_secs_f64()),
            )
            .why("it may never end; if it does, it needs a higher limit");
            return Err(failed(*problem, &[], core, frame));
        }
        if self.steps_left > 0 {
            self.steps = SLICE.min(self.steps_left);
            self.steps_left -= self.steps;
            self.steps += 1;
            return self.walk(core, frame);
        }
        let limit = self.limits.steps.unwrap_or(u64::MAX);
        let problem = Problem::new(
            Culprit::Whole,
            codes::RUN_STEPS,
            format!("the run was stopped after {limit} steps"),
        )
        .why("it may never end; if it does, it needs a higher limit");
        Err(failed(*problem, &[], core, frame))
    }
}

/// The failure that a problem makes, with its place.
#[cold]
pub(super) fn failed(problem: Problem, operands: &[&Core], core: &Core, frame: &Frame<'_>) -> Exit {
    let culprit = match problem.culprit {
        Culprit::Operand(index) => operands.get(index).copied().unwrap_or(core),
        Culprit::Whole => core,
    };
    let inside_ready_made = frame
        .function
        .ready_made
        .then(|| super::calls::param_of(culprit, frame));
    Exit::Failed(Box::new(Failure {
        code: problem.code,
        message: problem.message,
        why: problem.why,
        details: problem.details,
        place: Place::new(&frame.function.source, culprit.span),
        raised: None,
        calls: Vec::new(),
        more_calls: 0,
        inside_ready_made,
    }))
}

fn constant(literal: &Literal) -> Value {
    match literal {
        Literal::Integer(n) => Value::Integer(*n),
        Literal::Truth(truth) => Value::Truth(*truth),
        Literal::Nothing => Value::Nothing,
        other => Value::from_literal(other),
    }
}
