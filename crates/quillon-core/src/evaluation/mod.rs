//! Walks Core: the reference for what a program means.

use std::rc::Rc;

use indexmap::IndexMap;
use rustc_hash::FxHashMap;

use crate::definition::Definition;
use crate::meaning::FunctionCore;

mod calls;
mod coroutines;
mod failure;
mod heap;
mod higher;
mod host;
mod limits;
mod modules;
mod natives;
mod number;
mod show;
mod snapshot;
mod stacks;
mod unwind;
mod value;
mod variables;
mod walk;
mod watch;

pub use coroutines::Coroutine;
pub use failure::{Culprit, Failure, Problem, described};
use host::Metered;
pub use host::{Amount, Host, Recorder, Refused};
pub use limits::Limits;
pub use modules::Compile;
use modules::Module;
pub use show::{shown, written};
pub(crate) use snapshot::Copier;
pub use value::{Cell, Closure, Key, List, Map, Text, Value, equal, same};
pub use watch::{Change, Step, Telling, Tracer, Watcher};

/// What outlives a run: the session's variables, and the values that are ready-made.
#[derive(Debug, Default)]
pub struct Memory {
    /// The variables of the session; empty until first set.
    pub session: Vec<Option<Value>>,
    /// The ready-made functions and constants, in the definition's order.
    pub ready_made: Vec<Value>,
    /// The cells of the state, in the definition's order.
    pub state: Vec<Value>,
    /// What the dynamic variables hold, by name.
    pub dynamic: FxHashMap<Rc<str>, Value>,
    /// The definition, if it words errors: for those that a program catches.
    pub wording: Option<Rc<Definition>>,
    /// Where chance comes from.
    pub random: fastrand::Rng,
    /// The other programs that have been loaded, by name, in order.
    modules: IndexMap<String, Module>,
}

impl Memory {
    /// Forgets programs whose loading has failed.
    fn forget_unfinished(&mut self) {
        self.modules
            .retain(|_, module| matches!(module, Module::Done(_)));
    }
}

/// Runs a program's Core: gives its value, or how it went wrong.
pub fn run<'a>(
    program: &Rc<FunctionCore>,
    memory: &'a mut Memory,
    limits: Limits,
    world: World<'a>,
) -> Result<Value, Box<Failure>> {
    let closure = Closure {
        function: Rc::clone(program),
        captured: Vec::new(),
    };
    call(&Rc::new(closure), Vec::new(), memory, limits, world)
}

/// Calls a function of a program that has run.
pub fn call<'a>(
    function: &Rc<Closure>,
    args: Vec<Value>,
    memory: &'a mut Memory,
    limits: Limits,
    world: World<'a>,
) -> Result<Value, Box<Failure>> {
    walk::Walker::new(memory, limits, world).call_first(function, args)
}

/// What is around a run.
pub struct World<'a> {
    /// What it can do to the outside.
    pub host: &'a mut dyn Host,
    /// How it makes Core of other programs.
    pub compile: &'a Compile<'a>,
    /// Who watches; only Core with marks tells what begins and ends.
    pub watcher: Option<&'a mut dyn Watcher>,
}

impl<'a> World<'a> {
    /// A world without other programs.
    pub fn alone(host: &'a mut dyn Host) -> World<'a> {
        World {
            host,
            compile: &|_| Err(Vec::new()),
            watcher: None,
        }
    }
}
