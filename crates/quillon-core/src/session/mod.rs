//! Running programs, and keeping what outlives a run.

use std::collections::VecDeque;
use std::rc::Rc;

use crate::diagnostic::Diagnostic;
use crate::language::{Language, Prepared, Ready};
use crate::machine::Probe;
use crate::runtime::{Host, Limits, Memory};
use crate::scoping::Kept;
use crate::typing::Type;
use crate::values::{Closure, Held, Value};

mod entries;
mod reload;
mod runs;

use entries::Before;
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

    /// A value for the outside.
    fn held(&self, value: Value) -> Held {
        Held::of(&self.memory.heap, value)
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
}
