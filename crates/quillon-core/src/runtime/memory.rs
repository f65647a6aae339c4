//! What outlives a run, and what is around it.

use std::rc::Rc;
use std::sync::Arc;

use indexmap::IndexMap;
use rustc_hash::FxHashMap;

use super::built_in::BuiltInValues;
use super::host::Host;
use crate::definition::Definition;
use crate::diagnostic::{Diagnostic, codes, quote};
use crate::meaning::FunctionCore;
use crate::metering::{Limits, Running};
use crate::runtime::{Culprit, Metered, Problem, Waiting, Watcher};
use crate::source::SourceText;
use crate::values::{Heap, Marker, Roots, Text, Value};

/// Makes the Core of another program: one that gives what the program exports.
pub(crate) type Compile<'a> =
    dyn Fn(&Arc<SourceText>) -> Result<Rc<FunctionCore>, Vec<Diagnostic>> + 'a;

/// Another program that has been asked for.
#[derive(Clone, Debug)]
pub(crate) enum Module {
    /// It runs.
    Running,
    /// It has run, and this is what it gave.
    Done(Value),
}

/// What outlives a run: the session's variables, and the values that are built in.
#[derive(Debug)]
pub(crate) struct Memory {
    /// Where the values live.
    pub heap: Rc<Heap>,
    /// The variables of the session; unset until first set.
    pub session: Vec<Value>,
    /// The built-in functions and constants, in the definition's order.
    pub built_in: BuiltInValues,
    /// The cells of the state, in the definition's order.
    pub state: Vec<Value>,
    /// What the dynamic variables hold, by name.
    pub dynamic: FxHashMap<Rc<str>, Value>,
    /// The definition, if it words errors: for those that a program catches.
    pub wording: Option<Arc<Definition>>,
    /// The faults so far of a program that is looked at before it runs: there a fault ends
    /// nothing, and a variable without a value is nothing. Nothing for one that runs.
    pub refused: Option<Vec<Diagnostic>>,
    /// Where chance comes from.
    pub random: fastrand::Rng,
    /// The other programs that have been loaded, by name, in order.
    pub modules: IndexMap<String, Module>,
}

impl Default for Memory {
    fn default() -> Memory {
        Memory {
            heap: Heap::new(),
            session: Vec::new(),
            built_in: BuiltInValues::default(),
            state: Vec::new(),
            dynamic: FxHashMap::default(),
            wording: None,
            refused: None,
            random: fastrand::Rng::default(),
            modules: IndexMap::new(),
        }
    }
}

impl Roots for Memory {
    fn trace(&self, marker: &mut Marker) {
        marker.values(&self.session);
        self.built_in.trace(marker);
        marker.values(&self.state);
        marker.values(self.dynamic.values());
        for module in self.modules.values() {
            if let Module::Done(value) = module {
                marker.value(*value);
            }
        }
    }
}

/// A program that was asked for.
pub(crate) enum Loaded {
    /// It has run: what it gave.
    Known(Value),
    /// It is to be run; its name.
    Code(Rc<FunctionCore>, String),
}

/// So many bytes a program takes for each byte of its text, compiled and all.
const MODULE: usize = 64;

impl Memory {
    /// Forgets programs whose loading has failed.
    pub fn forget_unfinished(&mut self) {
        self.modules
            .retain(|_, module| matches!(module, Module::Done(_)));
    }

    /// What a variable of the session holds, if it holds anything.
    pub fn in_session(&self, index: usize) -> Option<Value> {
        self.session.get(index)?.held()
    }

    /// Sets a variable of the session, perhaps one that functions share.
    pub fn set_session(&mut self, index: usize, value: Value) {
        if self.session.len() <= index {
            self.session.resize(index + 1, Value::Unset);
        }
        if let Value::Variable(shared) = self.session[index] {
            shared.set(value);
        } else {
            self.session[index] = value;
        }
    }

    /// The program at a path, as one that `from` asks for.
    pub fn program(
        &mut self,
        path: &Text,
        from: &SourceText,
        host: &mut Metered<'_>,
        compile: &Compile<'_>,
    ) -> Result<Loaded, Box<Problem>> {
        let problem =
            |message: String| Problem::new(Culprit::Operand(0), codes::RUN_MODULE, message);
        let heap = Rc::clone(&self.heap);
        let source = host
            .program(path, from, heap.meter.left(heap.used()) / MODULE)
            .map_err(|problem| problem.problem(0, codes::RUN_MODULE))?;
        let name = source.name().to_owned();
        match self.modules.get(&name) {
            Some(Module::Done(value)) => return Ok(Loaded::Known(*value)),
            Some(Module::Running) => return Err(self.circle(&name)),
            None => {}
        }
        let function = compile(&source).map_err(|diagnostics| {
            let errors: Vec<String> = diagnostics.iter().map(Diagnostic::in_one_line).collect();
            problem(format!("the program {} has mistakes", quote(path))).why(errors.join("; "))
        })?;
        heap.meter.keep(MODULE * source.text().len());
        self.modules.insert(name.clone(), Module::Running);
        Ok(Loaded::Code(function, name))
    }

    /// The error of a program that comes to load itself.
    fn circle(&self, name: &str) -> Box<Problem> {
        let from = self.modules.get_index_of(name).unwrap_or_default();
        let mut chain: Vec<&str> = self
            .modules
            .iter()
            .skip(from)
            .filter(|(_, module)| matches!(module, Module::Running))
            .map(|(name, _)| name.as_str())
            .collect();
        chain.push(name);
        Problem::new(
            Culprit::Operand(0),
            codes::RUN_MODULE,
            format!("{} comes to load itself", quote(name)),
        )
        .why(chain.join(" loads "))
    }
}

impl<'a> World<'a> {
    /// What is around a run that nobody watches.
    pub fn new(host: &'a mut dyn Host, compile: &'a Compile<'a>) -> World<'a> {
        World {
            host,
            compile,
            watcher: None,
            waiting: None,
        }
    }
}

/// What is around a run.
pub(crate) struct World<'a> {
    /// What it can do to the outside.
    pub host: &'a mut dyn Host,
    /// How it makes Core of other programs.
    pub compile: &'a Compile<'a>,
    /// Who watches; only Core with marks tells what begins and ends.
    pub watcher: Option<&'a mut dyn Watcher>,
    /// The run that waits for this one, if it was called back by the host of that.
    pub waiting: Option<Waiting<'a>>,
}

impl World<'_> {
    /// Begins to measure a run, unless it is a part of another.
    #[must_use]
    pub fn measured<'h>(&self, heap: &'h Heap, limits: Limits) -> Option<Running<'h>> {
        let alone = self.waiting.is_none();
        alone.then(|| heap.meter.run(limits, self.host.interrupt()))
    }
}
