//! Walks Core: the reference for what a program means.

use std::any::Any;
use std::rc::Rc;

use crate::diagnostic::Outcome;
use crate::meaning::FunctionCore;
use crate::runtime::{Failure, Host, Limits, Memory, World};
use crate::values::{Closure, Code, Held, Param, Ref, Signature, Value, ValueRow};

mod calls;
mod coroutines;
mod higher;
mod host;
mod limits;
mod modules;
mod stacks;
mod unwind;
mod variables;
mod walk;

/// Walks Core that is by itself, without a session around.
pub fn walk(program: &Rc<FunctionCore>, limits: Limits, host: &mut dyn Host) -> Outcome<Held> {
    let mut memory = Memory::default();
    let heap = Rc::clone(&memory.heap);
    let _entered = heap.enter();
    let world = World::new(host, &|_| Err(Vec::new()));
    match run(program, &mut memory, limits, world) {
        Ok(value) => Outcome {
            value: Some(Held::of(&heap, value)),
            diagnostics: Vec::new(),
        },
        Err(failure) => Outcome {
            value: None,
            diagnostics: vec![failure.diagnostic()],
        },
    }
}

/// Runs a program's Core: gives its value, or how it went wrong.
pub(crate) fn run<'a>(
    program: &Rc<FunctionCore>,
    memory: &'a mut Memory,
    limits: Limits,
    world: World<'a>,
) -> Result<Value, Box<Failure>> {
    let closure = Closure::of_core(program, &[]);
    call(closure, Vec::new(), memory, limits, world)
}

/// Calls a function of a program that has run.
pub(crate) fn call<'a>(
    function: Ref<Closure>,
    args: Vec<Value>,
    memory: &'a mut Memory,
    limits: Limits,
    world: World<'a>,
) -> Result<Value, Box<Failure>> {
    let heap = Rc::clone(&memory.heap);
    let _running = world.measured(&heap, limits);
    walk::Walker::new(memory, limits, world).call_first(function, args)
}

impl Closure {
    /// A function for the walking evaluator.
    pub(crate) fn of_core(core: &Rc<FunctionCore>, captured: &[Value]) -> Ref<Closure> {
        Closure::made(Rc::<FunctionCore>::clone(core), ValueRow::of(captured))
    }

    /// The Core of a function that the walking evaluator has made; it meets no others.
    fn core(&self) -> &FunctionCore {
        let code: &dyn Any = &**self.code();
        match code.downcast_ref() {
            Some(function) => function,
            None => unreachable!("each session keeps to one engine"),
        }
    }

    /// The same, to be kept.
    fn core_kept(&self) -> Rc<FunctionCore> {
        let code: Rc<dyn Any> = Rc::<dyn Code>::clone(self.code());
        match code.downcast() {
            Ok(function) => function,
            Err(_) => unreachable!("each session keeps to one engine"),
        }
    }
}

impl Code for FunctionCore {
    fn name(&self) -> Option<&str> {
        self.name.as_deref()
    }

    fn signature(&self) -> Signature<'_> {
        let params = self.params.iter().map(|param| Param {
            name: &param.name,
            is_hidden: param.is_hidden,
        });
        Signature {
            name: self.name(),
            params: params.collect(),
            rest: self.rest,
        }
    }

    fn captures(&self) -> Vec<&str> {
        self.captures.iter().map(|c| &*c.name).collect()
    }
}
