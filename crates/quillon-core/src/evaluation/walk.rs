//! The walking evaluator: takes Core apart with a stack of continuations of its own (an
//! abstract machine after Felleisen and Friedman, "Control operators, the SECD-machine, and
//! the lambda-calculus", 1986), so that it goes as deep as memory allows.

use std::rc::Rc;

use super::stacks::{Continuation, Going, Stacks};
use crate::definition::Literal;
use crate::diagnostic::codes;
use crate::meaning::{Core, CoreKind as K, CorePart};
use crate::runtime::Watcher;
use crate::runtime::{
    Compile, Culprit, Failure, Limits, Memory, Metered, Problem, Waiting, World, binary, negate,
};
use crate::values::{Closure, Coroutine, Marker, Ref, Roots, Traced, Value, described};

pub(super) struct Walker<'a> {
    pub memory: &'a mut Memory,
    pub host: Metered<'a>,
    /// The run that waits for this one, if the host of that has called back.
    pub waiting: Option<Waiting<'a>>,
    pub compile: &'a Compile<'a>,
    pub watcher: Option<&'a mut dyn Watcher>,
    pub limits: Limits,
    pub stacks: Stacks,
    /// What waits for the coroutines that run, the outermost first.
    pub outer: Vec<(Stacks, Ref<Coroutine>)>,
    /// Calls one inside the other, over all stacks.
    pub depth: u32,
    /// Steps until the limits are looked at again.
    pub steps: u64,
}

impl<'a> Walker<'a> {
    pub fn new(memory: &'a mut Memory, limits: Limits, world: World<'a>) -> Walker<'a> {
        let World {
            host,
            compile,
            watcher,
            waiting,
        } = world;
        Walker {
            memory,
            host: Metered::new(host, limits, waiting.map(|waiting| Rc::clone(waiting.left))),
            waiting,
            compile,
            watcher,
            limits,
            stacks: Stacks::default(),
            outer: Vec::new(),
            depth: 0,
            // The first step finds the slice used up, and begins the first real one.
            steps: 1,
        }
    }

    /// Calls a function from outside.
    pub fn call_first(
        mut self,
        closure: Ref<Closure>,
        args: Vec<Value>,
    ) -> Result<Value, Box<Failure>> {
        let caller = closure.core_kept();
        let call = Rc::clone(&caller.body);
        let count = args.len();
        if let Some(failure) = self.refusal(&caller, count, &call, &caller) {
            return Err(failure);
        }
        self.stacks.operands.extend(args);
        let begun = self.activate(closure, count, &call, caller);
        let result = self.go(begun);
        if self.waiting.is_none() {
            self.memory.forget_unfinished();
        }
        result
    }

    fn go(&mut self, mut going: Going) -> Result<Value, Box<Failure>> {
        loop {
            going = match going {
                Going::Run(core) => self.run(core),
                Going::Give(value) => match self.stacks.continuations.pop() {
                    Some(continuation) => self.give(continuation, value),
                    None => return Ok(value),
                },
                Going::Jump(label, value) => self.jump(label, value),
                Going::Fail(failure) => self.unwind(failure)?,
            };
        }
    }

    /// Waits for the value of a part of a piece of Core.
    #[inline]
    pub fn wait(&mut self, core: CorePart, at: usize) {
        let height = self.stacks.operands.len() as u32;
        let node = Continuation::Node(core, at as u32, height);
        self.stacks.continuations.push(node);
    }

    /// Begins with a piece of Core.
    fn run(&mut self, core: CorePart) -> Going {
        self.steps = self.steps.wrapping_sub(1);
        if self.steps == 0
            && let Some(failure) = self.over_a_limit(&core)
        {
            return Going::Fail(failure);
        }
        let next = match &core.kind {
            K::Literal(literal) => return self.constant(literal, &core),
            K::Read(variable, name) => return self.read(variable, name, &core),
            K::Function(function) => {
                let function = self.close(function);
                return self.made(function, &core);
            }
            K::Fresh(slots, body) => {
                self.freshen(slots);
                return Going::Run(Rc::clone(body));
            }
            K::Parts(_, body) => return Going::Run(Rc::clone(body)),
            K::Enter(part) => {
                let part = self.stacks.function().part(*part);
                return match part {
                    Some(part) => Going::Run(Rc::clone(part)),
                    None => unreachable!("a function has the parts that it enters"),
                };
            }
            K::Rebind(names, body) => {
                let held = self.rebind(names);
                let held = Continuation::Rebound(held);
                self.stacks.continuations.push(held);
                return Going::Run(Rc::clone(body));
            }
            K::Mark(marked, body) => {
                if let Some(watcher) = &mut self.watcher {
                    let source = &self.stacks.function().source;
                    watcher.begins(*marked, source, core.span, &self.memory.state);
                }
                body
            }
            K::Write(_, _, part)
            | K::Landing(_, part)
            | K::Jump(_, part)
            | K::Negate(part)
            | K::Not(part)
            | K::Fault(part)
            | K::Raise(part)
            | K::Match(part, _)
            | K::Call(part, _)
            | K::If([part, ..])
            | K::While([part, _])
            | K::Each(_, [part, _])
            | K::Count(_, [part, ..])
            | K::Binary(_, [part, _])
            | K::And([part, _])
            | K::Or([part, _])
            | K::Attempt(_, [part, _])
            | K::Cleanup([part, _]) => part,
            K::Sequence(parts) => match &parts[..] {
                [] => return Going::Give(Value::Nothing),
                [only] => return Going::Run(Rc::clone(only)),
                [first, ..] => first,
            },
            K::Apply(operation, parts) => match parts.first() {
                Some(first) => first,
                None => return self.apply(*operation, 0, &core),
            },
            K::List(parts) => match parts.first() {
                Some(first) => first,
                None => return self.made(Value::list([]), &core),
            },
        };
        let next = Rc::clone(next);
        self.wait(core, 0);
        Going::Run(next)
    }

    /// Gives a value to what waits for it.
    #[expect(
        clippy::inline_always,
        reason = "a part of the loop over all steps, which is slower without"
    )]
    #[inline(always)]
    fn give(&mut self, to: Continuation, value: Value) -> Going {
        match to {
            Continuation::Node(core, at, height) => self.part(core, at, height, value),
            Continuation::Leave => {
                self.leave();
                Going::Give(value)
            }
            Continuation::Each(turns) => self.turn(turns, value),
            Continuation::Calling(calling) => self.called(calling, value),
            Continuation::After(going) => *going,
            Continuation::Rebound(held) => {
                self.restore(held);
                Going::Give(value)
            }
            Continuation::Bottom => {
                self.end_coroutine();
                Going::Give(value)
            }
        }
    }

    /// Goes on with a piece of Core, one of whose parts has given a value.
    fn part(&mut self, core: CorePart, at: u32, height: u32, value: Value) -> Going {
        match &core.kind {
            K::Write(variable, name, _) => {
                if let Some(name) = name
                    && self.watcher.is_some()
                {
                    self.tell_change(variable, name, &value);
                }
                self.write(variable, value);
                Going::Give(Value::Nothing)
            }
            K::Sequence(parts) => {
                let next = at as usize + 1;
                let part = Rc::clone(&parts[next]);
                if next + 1 < parts.len() {
                    self.wait(core, next);
                }
                Going::Run(part)
            }
            K::If([_, yes, no]) => match self.truth(&value, 0, &core) {
                Ok(true) => Going::Run(Rc::clone(yes)),
                Ok(false) => Going::Run(Rc::clone(no)),
                Err(going) => going,
            },
            K::While([test, body]) => {
                let next = if at == 0 {
                    match self.truth(&value, 0, &core) {
                        Ok(true) => Rc::clone(body),
                        Ok(false) => return Going::Give(Value::Nothing),
                        Err(going) => return going,
                    }
                } else {
                    Rc::clone(test)
                };
                self.wait(core, 1 - at as usize);
                Going::Run(next)
            }
            K::Landing(..) => Going::Give(value),
            K::Jump(label, _) => Going::Jump(*label, value),
            K::Call(_, parts) | K::Apply(_, parts) | K::List(parts) => {
                self.stacks.operands.push(value);
                // A call has one part more: what is called.
                let done = at as usize + usize::from(!matches!(core.kind, K::Call(..)));
                if let Some(next) = parts.get(done) {
                    let next = Rc::clone(next);
                    let node = Continuation::Node(core, at + 1, height);
                    self.stacks.continuations.push(node);
                    return Going::Run(next);
                }
                self.complete(&core, parts.len())
            }
            K::Binary(operator, [_, right]) => {
                if at == 0 {
                    let right = Rc::clone(right);
                    self.stacks.operands.push(value);
                    self.wait(core, 1);
                    return Going::Run(right);
                }
                self.stacks.operands.push(value);
                let at = self.stacks.operands.len() - 2;
                let result = self.with_room(|walker| {
                    let operands = &walker.stacks.operands;
                    binary(*operator, &operands[at], &operands[at + 1])
                });
                self.stacks.operands.truncate(at);
                match result {
                    Ok(value @ (Value::Text(_) | Value::List(_))) => self.made(value, &core),
                    Ok(value) => Going::Give(value),
                    Err(problem) => self.fail(*problem, &core),
                }
            }
            K::Not(_) => match self.truth(&value, 0, &core) {
                Ok(truth) => Going::Give(Value::Truth(!truth)),
                Err(going) => going,
            },
            K::And([_, second]) | K::Or([_, second]) => {
                let decided = matches!(core.kind, K::Or(_));
                match self.truth(&value, at as usize, &core) {
                    Ok(truth) if at == 1 || truth == decided => Going::Give(Value::Truth(truth)),
                    Ok(_) => {
                        let second = Rc::clone(second);
                        self.wait(core, 1);
                        Going::Run(second)
                    }
                    Err(going) => going,
                }
            }
            _ => self.rarer_part(core, at, value),
        }
    }

    /// The same for what is less common.
    #[inline(never)]
    fn rarer_part(&mut self, core: CorePart, at: u32, value: Value) -> Going {
        match &core.kind {
            K::Negate(_) => match negate(&value) {
                Ok(value) => Going::Give(value),
                Err(problem) => self.fail(*problem, &core),
            },
            K::Mark(marked, _) => {
                self.tell_end(*marked, Some(&value));
                Going::Give(value)
            }
            K::Each(..) => self.begin_turns(core, &value),
            K::Count(_, [_, to, _]) if at == 0 => {
                let to = Rc::clone(to);
                self.stacks.operands.push(value);
                self.wait(core, 1);
                Going::Run(to)
            }
            K::Count(..) => self.begin_count(core, &value),
            K::Match(_, arms) => {
                let kind = value.kind();
                let Some(arm) = arms.iter().find(|arm| arm.kind.is_none_or(|k| k == kind)) else {
                    let problem = Problem::new(
                        Culprit::Operand(0),
                        codes::RUN_MATCH,
                        format!("nothing here is for {}", described(&value)),
                    );
                    return self.fail(*problem, &core);
                };
                if let Some(slot) = arm.slot {
                    self.set_slot(slot, value);
                }
                Going::Run(Rc::clone(&arm.body))
            }
            K::Fault(_) => {
                let problem = Problem::fault(Culprit::Whole, &value);
                self.refuse(*problem, &core)
            }
            K::Raise(_) => self.raise(value, &core),
            K::Cleanup([_, after]) => {
                let after = Rc::clone(after);
                self.then(Going::Give(value), after)
            }
            // What an attempt guards has gone well.
            _ => Going::Give(value),
        }
    }

    /// Calls, applies or gathers, with all operands there.
    fn complete(&mut self, core: &CorePart, count: usize) -> Going {
        match &core.kind {
            K::Call(..) => self.call(core, count),
            K::Apply(operation, _) => self.apply(*operation, count, core),
            _ => {
                let from = self.stacks.operands.len() - count;
                let items = self.stacks.operands.split_off(from);
                self.made(Value::list(items), core)
            }
        }
    }

    fn constant(&mut self, literal: &Literal, core: &CorePart) -> Going {
        match literal {
            Literal::Nothing | Literal::Truth(_) | Literal::Integer(_) | Literal::Number(_) => {
                Going::Give(Value::from_literal(literal))
            }
            Literal::Text(_) | Literal::List(_) | Literal::Map(_) => {
                self.made(Value::from_literal(literal), core)
            }
        }
    }

    fn truth(&mut self, value: &Value, operand: usize, core: &CorePart) -> Result<bool, Going> {
        match value {
            Value::Truth(truth) => Ok(*truth),
            other => {
                let problem = Problem::kind(operand, "a truth value", other);
                Err(self.fail(*problem, core))
            }
        }
    }
}

impl Roots for Walker<'_> {
    fn trace(&self, marker: &mut Marker) {
        self.memory.trace(marker);
        let stacked = Stacked {
            stacks: &self.stacks,
            outer: &self.outer,
            waiting: self.waiting,
        };
        stacked.trace(marker);
    }
}

/// All that a run has on its stacks.
pub(super) struct Stacked<'w> {
    pub stacks: &'w Stacks,
    pub outer: &'w [(Stacks, Ref<Coroutine>)],
    pub waiting: Option<Waiting<'w>>,
}

impl Roots for Stacked<'_> {
    fn trace(&self, marker: &mut Marker) {
        self.stacks.trace(marker);
        for (stacks, coroutine) in self.outer {
            stacks.trace(marker);
            marker.value(Value::Coroutine(*coroutine));
        }
        if let Some(waiting) = self.waiting {
            waiting.roots.trace(marker);
        }
    }
}

/// The part of a piece of Core that is its operand of a number.
pub(super) fn operand(core: &Core, index: usize) -> Option<&Core> {
    let part = match &core.kind {
        K::Call(callee, _) => Some(callee),
        K::Apply(_, parts) | K::List(parts) => parts.get(index),
        K::Binary(_, parts) | K::And(parts) | K::Or(parts) => parts.get(index),
        K::Count(_, [from, to, _]) => [from, to].get(index).copied(),
        K::If([part, ..])
        | K::While([part, _])
        | K::Each(_, [part, _])
        | K::Not(part)
        | K::Negate(part)
        | K::Match(part, _) => Some(part),
        _ => None,
    };
    part.map(|part| &**part)
}
