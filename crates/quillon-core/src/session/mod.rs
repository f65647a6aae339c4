//! Running programs, and keeping what outlives a run.

use std::collections::VecDeque;
use std::rc::Rc;
use std::sync::Arc;
use std::time::{Duration, Instant};

use crate::bytecode::{self, Function};
use crate::compiling::{Compiled, Surroundings};
use crate::diagnostic::{Diagnostic, Outcome, codes};
use crate::evaluation::{self, Telling, Touched, Tracer};
use crate::language::{Language, Reading};
use crate::machine::{self, Probe};
use crate::meaning::{FunctionCore, Marks};
use crate::runtime::{Failure, Host, Limits, Memory, Watcher, World};
use crate::scoping::{Around, Kept};
use crate::source::SourceText;
use crate::tree::Tree;
use crate::typing::Type;
use crate::values::{Closure, Held, Ref, Value};

mod entries;
mod prepared;
mod reload;

use entries::Before;
pub use prepared::Prepared;
use prepared::Ready;
pub use reload::Lost;

/// What runs programs.
#[derive(Clone, Copy, PartialEq, Eq, Default, Debug)]
pub enum Engine {
    /// Bytecode, run by the machine.
    #[default]
    Machine,
    /// Core, walked: the reference, and what can be watched.
    Walk,
}

/// Runs programs of one language, one after the other.
#[derive(Debug)]
pub struct Session {
    prepared: Prepared,
    engine: Engine,
    limits: Limits,
    memory: Memory,
    kept: Vec<Kept>,
    /// Their types, if the language has any.
    types: Vec<Type>,
    /// How all was before the last entries, the latest last.
    past: VecDeque<Before>,
    /// Before how many entries that is known.
    remembers: usize,
    /// What is counted of its runs, if anything is.
    probe: Option<Probe>,
}

impl Session {
    /// A session in which nothing has been run. Ready-made constants are computed here;
    /// one that fails is an error of the definition.
    pub fn new(
        language: &Language,
        limits: Limits,
        host: &mut dyn Host,
    ) -> Result<Session, Box<Diagnostic>> {
        Session::by(Engine::default(), language, limits, host)
    }

    /// The same with an engine.
    pub fn by(
        engine: Engine,
        language: &Language,
        limits: Limits,
        host: &mut dyn Host,
    ) -> Result<Session, Box<Diagnostic>> {
        Session::made(engine, &Prepared::new(language), limits, host, false)
    }

    /// The same from what is prepared: when there are many sessions of one language.
    pub fn of(
        engine: Engine,
        prepared: &Prepared,
        limits: Limits,
        host: &mut dyn Host,
    ) -> Result<Session, Box<Diagnostic>> {
        Session::made(engine, prepared, limits, host, false)
    }

    /// A session that counts what the machine does, for a profile.
    pub fn counting(
        language: &Language,
        limits: Limits,
        host: &mut dyn Host,
    ) -> Result<Session, Box<Diagnostic>> {
        let mut session = Session::made(
            Engine::Machine,
            &Prepared::new(language),
            limits,
            host,
            true,
        )?;
        // What the ready-made constants cost is no part of a run.
        session.take_probe();
        Ok(session)
    }

    /// What has been counted so far; from here on it is counted anew.
    pub(crate) fn take_probe(&mut self) -> Probe {
        self.probe.replace(Probe::new()).unwrap_or_else(Probe::new)
    }

    fn made(
        engine: Engine,
        prepared: &Prepared,
        limits: Limits,
        host: &mut dyn Host,
        probed: bool,
    ) -> Result<Session, Box<Diagnostic>> {
        let memory = Memory::default();
        memory.heap.set_most(limits.memory);
        let _entered = memory.heap.enter();
        let mut session = Session {
            prepared: prepared.clone(),
            engine,
            limits,
            memory,
            kept: Vec::new(),
            types: Vec::new(),
            past: VecDeque::new(),
            remembers: 0,
            probe: probed.then(Probe::new),
        };
        session.make_ready(host)?;
        Ok(session)
    }

    /// Makes what the definition has ready, and the cells of its state.
    fn make_ready(&mut self, host: &mut dyn Host) -> Result<(), Box<Diagnostic>> {
        let prepared = self.prepared.clone();
        let language = prepared.language();
        let words = language.definition().words_errors();
        self.memory.wording = words.then(|| language.shared_definition());
        self.memory.state.clear();
        let all = prepared.ready_made();
        self.memory.ready_made = vec![Value::Nothing; all.len()];
        // The functions come first: what a constant holds may be made by one.
        for is_function in [true, false] {
            for (index, ready) in all.iter().enumerate() {
                if ready.is_function == is_function {
                    let value = self.ready_value(&prepared, ready, host)?;
                    self.memory.ready_made[index] = value;
                }
            }
        }
        for cell in prepared.state() {
            let value = self.ready_value(&prepared, cell, host)?;
            self.memory.state.push(value);
        }
        Ok(())
    }

    /// A function that is ready-made, or what a constant or a cell holds.
    fn ready_value(
        &mut self,
        prepared: &Prepared,
        ready: &Ready,
        host: &mut dyn Host,
    ) -> Result<Value, Box<Diagnostic>> {
        let heap = Rc::clone(&self.memory.heap);
        let _entered = heap.enter();
        let closure = match self.engine {
            Engine::Walk => Closure::of_core(&ready.core, Vec::new()),
            Engine::Machine => Closure::of_code(prepared.code(ready)?, &heap, self.probe.is_some()),
        };
        if ready.is_function {
            return Ok(Value::Function(closure));
        }
        self.start(closure, host)
            .map_err(|failure| Box::new(failure.diagnostic()))
    }

    fn core(
        &mut self,
        core: &Rc<FunctionCore>,
        host: &mut dyn Host,
    ) -> Result<Value, Box<Failure>> {
        let heap = Rc::clone(&self.memory.heap);
        let _entered = heap.enter();
        let closure = self.closure(core)?;
        self.start(closure, host)
    }

    /// Calls a function that takes nothing: a program, a constant, a cell.
    fn start(&mut self, closure: Ref<Closure>, host: &mut dyn Host) -> Result<Value, Box<Failure>> {
        let language = self.language().clone();
        let compile = |source: &Arc<SourceText>| language.module(source);
        self.call_closure(closure, Vec::new(), World::new(host, &compile))
    }

    /// Core as a function of the engine.
    fn closure(&self, core: &Rc<FunctionCore>) -> Result<Ref<Closure>, Box<Failure>> {
        Ok(match self.engine {
            Engine::Walk => Closure::of_core(core, Vec::new()),
            Engine::Machine => {
                let function = bytecode::compile(core, self.prepared.functions())
                    .map_err(|problem| Failure::at_start(*problem, &core.source))?;
                Closure::of_code(&Rc::new(function), &self.memory.heap, self.probe.is_some())
            }
        })
    }

    fn call_closure(
        &mut self,
        function: Ref<Closure>,
        args: Vec<Value>,
        mut world: World<'_>,
    ) -> Result<Value, Box<Failure>> {
        let (memory, limits) = (&mut self.memory, self.limits);
        let world = World {
            host: &mut *world.host,
            compile: world.compile,
            watcher: match &mut world.watcher {
                Some(watcher) => Some(&mut **watcher),
                None => None,
            },
        };
        match self.engine {
            Engine::Walk => evaluation::call(function, args, memory, limits, world),
            Engine::Machine => {
                let ready_made = self.prepared.functions();
                let assemble = |core: &Rc<FunctionCore>| bytecode::compile(core, ready_made);
                let probe = self.probe.as_mut();
                machine::call(function, &args, memory, limits, world, &assemble, probe)
            }
        }
    }

    /// A value for the outside.
    fn held(&self, value: Value) -> Held {
        Held::of(&self.memory.heap, value)
    }

    /// Calls a function that a run has given, or that a name holds: the program goes on,
    /// called back.
    pub fn call(&mut self, function: &Held, args: &[Held], host: &mut dyn Host) -> Outcome<Held> {
        let heap = Rc::clone(&self.memory.heap);
        let _entered = heap.enter();
        let Value::Function(function) = function.on(&heap) else {
            let message = format!(
                "only a function can be called, and this is {}",
                function.described()
            );
            return Outcome {
                value: None,
                diagnostics: vec![Diagnostic::error(codes::RUN_KIND, message)],
            };
        };
        let args = args.iter().map(|arg| arg.on(&heap)).collect();
        let language = self.language().clone();
        let compile = |source: &Arc<SourceText>| language.module(source);
        let world = World::new(host, &compile);
        let result = self.call_closure(function, args, world);
        let mut diagnostics = Vec::new();
        let value = result.map_err(|failure| diagnostics.push(failure.diagnostic()));
        language.definition().reword(&mut diagnostics);
        Outcome {
            value: value.ok().map(|value| self.held(value)),
            diagnostics,
        }
    }

    /// Takes every chance to free memory, so many times: a value that somebody has lost sight
    /// of is then found out at once. For tests.
    pub fn collect_always(&mut self, times: u32) {
        self.memory.heap.set_stress(times);
    }

    /// Makes chance take the same course in every run with this number.
    pub fn seed(&mut self, seed: u64) {
        self.memory.random = fastrand::Rng::with_seed(seed);
    }

    /// The language.
    pub fn language(&self) -> &Language {
        self.prepared.language()
    }

    /// The cells of the state, in the definition's order, with what they hold.
    pub fn state(&self) -> impl Iterator<Item = (&str, Held)> {
        let cells = self.language().definition().state.iter();
        let names = cells.map(|cell| cell.name.text.as_str());
        names.zip(self.memory.state.iter().map(|value| self.held(*value)))
    }

    /// Puts a value into a cell of the state; false if there is no such cell.
    pub fn set_state(&mut self, name: &str, value: &Held) -> bool {
        let value = value.on(&self.memory.heap);
        let index = self.language().definition().state_index(name);
        match index.and_then(|index| self.memory.state.get_mut(index)) {
            Some(cell) => {
                *cell = value;
                true
            }
            None => false,
        }
    }

    /// Runs a whole program, by itself.
    pub fn run(&mut self, source: &Arc<SourceText>, host: &mut dyn Host) -> Outcome<Held> {
        self.run_as(source, Reading::Program, host)
    }

    /// Runs a text by itself: a program, or a smaller entry.
    pub fn run_as(
        &mut self,
        source: &Arc<SourceText>,
        reading: Reading<'_>,
        host: &mut dyn Host,
    ) -> Outcome<Held> {
        let compiled = self.language().compiled(source, Around::Nothing, reading);
        let mut diagnostics = compiled.diagnostics;
        let value = compiled.value.and_then(|compiled| {
            self.core(&compiled.core, host)
                .map_err(|failure| diagnostics.push(failure.diagnostic()))
                .ok()
        });
        self.language().definition().reword(&mut diagnostics);
        Outcome {
            value: value.map(|value| self.held(value)),
            diagnostics,
        }
    }

    /// Runs a tree, however it came to be.
    pub fn run_tree(&mut self, tree: &Tree, host: &mut dyn Host) -> Outcome<Held> {
        let compiled = self
            .language()
            .compiled_tree(tree.clone(), self.names_before());
        let mut diagnostics = compiled.diagnostics;
        let value = compiled.value.and_then(|compiled| {
            self.core(&compiled.core, host)
                .map_err(|failure| diagnostics.push(failure.diagnostic()))
                .ok()
        });
        self.language().definition().reword(&mut diagnostics);
        Outcome {
            value: value.map(|value| self.held(value)),
            diagnostics,
        }
    }

    /// How long a run of a program takes, reading and compiling it apart.
    pub(crate) fn time(
        &mut self,
        source: &Arc<SourceText>,
        reading: Reading<'_>,
        host: &mut dyn Host,
    ) -> Duration {
        let language = self.language().clone();
        let compile = |source: &Arc<SourceText>| language.module(source);
        let world = World::new(host, &compile);
        let heap = Rc::clone(&self.memory.heap);
        let _entered = heap.enter();
        let compiled = language.compiled(source, Around::Nothing, reading);
        let core = compiled.value.map(|compiled| compiled.core);
        let closure = core.and_then(|core| self.closure(&core).ok());
        let start = Instant::now();
        if let Some(closure) = closure {
            // How it ends has been seen when it was counted.
            let _ = self.call_closure(closure, Vec::new(), world);
        }
        start.elapsed()
    }

    /// Runs bytecode that has been kept.
    pub fn run_code(&mut self, code: &Rc<Function>, host: &mut dyn Host) -> Outcome<Held> {
        let language = self.language().clone();
        let compile = |source: &Arc<SourceText>| language.module(source);
        let world = World::new(host, &compile);
        let heap = Rc::clone(&self.memory.heap);
        let _entered = heap.enter();
        let mut diagnostics = Vec::new();
        // What has not been found good never runs.
        let value = match bytecode::verify(code) {
            Ok(()) if self.engine == Engine::Machine => {
                let closure = Closure::of_code(code, &heap, self.probe.is_some());
                let result = self.call_closure(closure, Vec::new(), world);
                result.map_err(|failure| diagnostics.push(failure.diagnostic()))
            }
            Ok(()) => {
                let message = "bytecode is run by the machine only";
                diagnostics.push(Diagnostic::error(codes::RUN_BYTECODE, message));
                Err(())
            }
            Err(problem) => {
                diagnostics.push(Diagnostic::error(codes::RUN_BYTECODE, problem));
                Err(())
            }
        };
        language.definition().reword(&mut diagnostics);
        Outcome {
            value: value.ok().map(|value| self.held(value)),
            diagnostics,
        }
    }

    /// What is around a program that is run by itself: the names kept before, if there are
    /// any.
    fn names_before(&self) -> Surroundings<'_> {
        match &self.kept[..] {
            [] => Around::Nothing.into(),
            _ => self.around(),
        }
    }

    /// Runs a text, with the names kept before, and tells each of its steps.
    pub fn trace(
        &mut self,
        source: &Arc<SourceText>,
        reading: Reading<'_>,
        host: &mut dyn Host,
        tell: &mut dyn FnMut(Telling<'_>),
    ) -> Outcome<Held> {
        let language = self.language().clone();
        let heap = Rc::clone(&self.memory.heap);
        let _entered = heap.enter();
        let state = self.memory.state.clone();
        let mut tracer = Tracer::new(language.definition(), &state, tell);
        self.watched(source, reading, Marks::Nodes, host, &mut tracer)
    }

    /// Runs a text, with the names kept before, and notes which branches of meanings it
    /// comes to, by where they stand in the definition.
    pub(crate) fn touch(
        &mut self,
        source: &Arc<SourceText>,
        host: &mut dyn Host,
        touched: &mut Touched,
    ) -> Outcome<Held> {
        self.watched(source, Reading::Entry, Marks::Branches, host, touched)
    }

    fn watched(
        &mut self,
        source: &Arc<SourceText>,
        reading: Reading<'_>,
        marks: Marks,
        host: &mut dyn Host,
        watcher: &mut dyn Watcher,
    ) -> Outcome<Held> {
        let language = self.language().clone();
        let compiled = language.compiled_marked(source, self.names_before(), reading, marks);
        let mut diagnostics = compiled.diagnostics;
        let value = compiled.value.and_then(|Compiled { core, .. }| {
            if self.engine != Engine::Walk {
                let message = "only the walking engine can be watched";
                diagnostics.push(Diagnostic::error(codes::RUN_BYTECODE, message));
                return None;
            }
            let heap = Rc::clone(&self.memory.heap);
            let _entered = heap.enter();
            let compile = |source: &Arc<SourceText>| language.module(source);
            let world = World {
                host,
                compile: &compile,
                watcher: Some(watcher),
            };
            evaluation::run(&core, &mut self.memory, self.limits, world)
                .map_err(|failure| diagnostics.push(failure.diagnostic()))
                .ok()
        });
        language.definition().reword(&mut diagnostics);
        Outcome {
            value: value.map(|value| self.held(value)),
            diagnostics,
        }
    }
}
