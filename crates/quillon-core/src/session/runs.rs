//! Runs of programs in a session.

use std::rc::Rc;
use std::sync::Arc;
use std::time::{Duration, Instant};

use super::Engine;
use super::inner::Inner;
use crate::bytecode::{self, Function, Names};
use crate::diagnostic::{Diagnostic, Outcome, codes};
use crate::evaluation;
use crate::language::{Compiled, Language, Reading, Surroundings};
use crate::machine::{self, Course, Leader, Until, Watched};
use crate::meaning::{FunctionCore, Marks};
use crate::runtime::{Failure, Host, Watcher, World, on_heap};
use crate::scoping::Around;
use crate::source::SourceText;
use crate::tree::Tree;
use crate::values::{self, Arguments, Closure, Heap, Held, Ref, Value};

impl Inner {
    /// Runs a text by itself: a program, or a smaller entry.
    pub fn run(
        &mut self,
        source: &Arc<SourceText>,
        reading: Reading<'_>,
        host: &mut dyn Host,
    ) -> Outcome<Held> {
        let compiled = self.language().compiled(source, Around::Nothing, reading);
        self.run_compiled(compiled, host)
    }

    /// Runs a tree, however it came to be.
    pub fn run_tree(&mut self, tree: &Tree, host: &mut dyn Host) -> Outcome<Held> {
        let around = self.names_before();
        let compiled = self.language().compiled_tree(tree.clone(), around);
        self.run_compiled(compiled, host)
    }

    fn run_compiled(&mut self, compiled: Outcome<Compiled>, host: &mut dyn Host) -> Outcome<Held> {
        let Some(Compiled { core, .. }) = compiled.value else {
            return self.failed(compiled.diagnostics);
        };
        let result = self.core(&core, host);
        self.ended(compiled.diagnostics, &result)
    }

    /// Runs bytecode that has been kept.
    pub fn run_code(&mut self, code: &Rc<Function>, host: &mut dyn Host) -> Outcome<Held> {
        // What has not been found good never runs.
        let problem = match (bytecode::verify(code), self.engine) {
            (Err(problem), _) => Some(problem),
            (Ok(()), Engine::Walk) => Some("bytecode is run by the machine only".to_owned()),
            (Ok(()), Engine::Machine) => None,
        };
        if let Some(problem) = problem {
            return self.failed(vec![Diagnostic::error(codes::RUN_BYTECODE, problem)]);
        }
        let heap = Rc::clone(&self.memory.heap);
        let _entered = heap.enter();
        let closure = Closure::of_code(code, &heap, self.watching.is_at_all());
        let result = self.start(closure, host);
        self.ended(Vec::new(), &result)
    }

    /// Calls a function that a run has given, or that a name is bound to.
    pub fn call(
        &mut self,
        function: &values::Function,
        args: impl Arguments,
        host: &mut dyn Host,
    ) -> Outcome<Held> {
        let heap = Rc::clone(&self.memory.heap);
        let _entered = heap.enter();
        match on_heap(&heap, function, args) {
            Ok((function, args)) => {
                let result = self.call_closure(function, args, host);
                self.ended(Vec::new(), &result)
            }
            Err(problem) => self.failed(vec![*problem]),
        }
    }

    /// Runs a text, with the names kept before, while somebody watches what is marked in it.
    pub fn watch(
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
        let Some(Compiled { core, .. }) = compiled.value else {
            return self.failed(diagnostics);
        };
        if self.engine == Engine::Machine {
            let message = "only the walking engine can be watched";
            diagnostics.push(Diagnostic::error(codes::RUN_BYTECODE, message));
            return self.failed(diagnostics);
        }
        let heap = Rc::clone(&self.memory.heap);
        let _entered = heap.enter();
        let compile = |source: &Arc<SourceText>| language.module(source);
        let world = World {
            host,
            compile: &compile,
            watcher: Some(watcher),
            waiting: None,
        };
        let result = evaluation::run(&core, &mut self.memory, self.limits, world);
        self.ended(diagnostics, &result)
    }

    /// Runs a text that somebody leads, as far as that goes first.
    pub fn lead(
        &mut self,
        source: &Arc<SourceText>,
        reading: Reading<'_>,
        host: &mut dyn Host,
        until: Until,
        leader: &mut dyn Leader,
    ) -> Outcome<Held> {
        // Without names around, those of an entry are its own.
        let around = if self.kept.is_empty() {
            Around::Nothing.into()
        } else {
            self.around()
        };
        let compiled = self.language().compiled(source, around, reading);
        let Some(Compiled { core, .. }) = compiled.value else {
            return self.failed(compiled.diagnostics);
        };
        for function in &self.brought {
            leader.ready(function);
        }
        let heap = Rc::clone(&self.memory.heap);
        let _entered = heap.enter();
        let language = self.language().clone();
        let compile = |source: &Arc<SourceText>| language.module(source);
        let (functions, names) = (self.prepared.functions(), self.watching.names());
        let assemble = |core: &Rc<FunctionCore>| bytecode::compile(core, functions, names);
        let told = |result: &_| ended(&language, &heap, compiled.diagnostics.clone(), result);
        let result = self.closure(&core).and_then(|closure| {
            let world = World::new(host, &compile);
            let watched = Watched::Led(Course { now: 0, until }, leader, &told);
            let (memory, limits) = (&mut self.memory, self.limits);
            machine::call(closure, &[], memory, limits, world, &assemble, watched)
        });
        told(&result)
    }

    /// How long a run of a program takes, reading and compiling it apart.
    pub fn time(
        &mut self,
        source: &Arc<SourceText>,
        reading: Reading<'_>,
        host: &mut dyn Host,
    ) -> Duration {
        let heap = Rc::clone(&self.memory.heap);
        let _entered = heap.enter();
        let compiled = self.language().compiled(source, Around::Nothing, reading);
        let core = compiled.value.map(|compiled| compiled.core);
        let closure = core.and_then(|core| self.closure(&core).ok());
        let start = Instant::now();
        if let Some(closure) = closure {
            // How it ends has been seen when it was counted.
            let _ = self.start(closure, host);
        }
        start.elapsed()
    }

    /// What is around a program that is run by itself: the names kept before, if there are
    /// any.
    fn names_before(&self) -> Surroundings<'_> {
        match &self.kept[..] {
            [] => Around::Nothing.into(),
            _ => self.around(),
        }
    }

    /// The end of a run: its value for the outside, or how it went wrong, after what was said
    /// before it.
    pub fn ended(
        &self,
        diagnostics: Vec<Diagnostic>,
        result: &Result<Value, Box<Failure>>,
    ) -> Outcome<Held> {
        ended(self.language(), &self.memory.heap, diagnostics, result)
    }

    /// The end of a run that could not begin.
    pub fn failed(&self, diagnostics: Vec<Diagnostic>) -> Outcome<Held> {
        self.language().worded(Outcome::failed(diagnostics))
    }

    /// Runs Core.
    pub fn core(
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
    pub fn start(
        &mut self,
        closure: Ref<Closure>,
        host: &mut dyn Host,
    ) -> Result<Value, Box<Failure>> {
        self.call_closure(closure, Vec::new(), host)
    }

    /// Core as a function of the engine.
    fn closure(&self, core: &Rc<FunctionCore>) -> Result<Ref<Closure>, Box<Failure>> {
        Ok(match self.engine {
            Engine::Walk => Closure::of_core(core, &[]),
            Engine::Machine => {
                let (functions, names) = (self.prepared.functions(), self.watching.names());
                // What is too large with all its names as variables may fit without.
                let function = bytecode::compile(core, functions, names)
                    .or_else(|problem| match names {
                        Names::Kept => bytecode::compile(core, functions, Names::AsNeeded),
                        Names::AsNeeded => Err(problem),
                    })
                    .map_err(|problem| Failure::at_start(*problem, &core.source))?;
                Closure::of_code(
                    &Rc::new(function),
                    &self.memory.heap,
                    self.watching.is_at_all(),
                )
            }
        })
    }

    /// Calls a function of the engine.
    fn call_closure(
        &mut self,
        function: Ref<Closure>,
        args: Vec<Value>,
        host: &mut dyn Host,
    ) -> Result<Value, Box<Failure>> {
        let language = self.language().clone();
        let compile = |source: &Arc<SourceText>| language.module(source);
        let world = World::new(host, &compile);
        let (memory, limits) = (&mut self.memory, self.limits);
        match self.engine {
            Engine::Walk => evaluation::call(function, args, memory, limits, world),
            Engine::Machine => {
                let (built_in, names) = (self.prepared.functions(), self.watching.names());
                let assemble = |core: &Rc<FunctionCore>| bytecode::compile(core, built_in, names);
                let watched = self.probe.as_mut().map_or(Watched::No, Watched::Counted);
                machine::call(function, &args, memory, limits, world, &assemble, watched)
            }
        }
    }
}

/// The end of a run on a heap, after what was said before it.
pub(super) fn ended(
    language: &Language,
    heap: &Rc<Heap>,
    mut diagnostics: Vec<Diagnostic>,
    result: &Result<Value, Box<Failure>>,
) -> Outcome<Held> {
    let value = match result {
        Ok(value) => Some(Held::of(heap, *value)),
        Err(failure) => {
            diagnostics.push(failure.clone().diagnostic());
            None
        }
    };
    language.worded(Outcome { value, diagnostics })
}
