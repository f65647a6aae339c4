//! A session without its host.

use std::collections::VecDeque;
use std::rc::Rc;

use super::Engine;
use super::entries::Before;
use crate::bytecode::Names;
use crate::diagnostic::Diagnostics;
use crate::language::{Language, Prepared, Ready};
use crate::machine::{Loaded, Probe};
use crate::runtime::{Host, Limits, Memory};
use crate::scoping::Kept;
use crate::typing::Type;
use crate::values::{Closure, Foreign, Held, Look, Value};

/// How its runs can be watched.
#[derive(Clone, Copy, PartialEq, Eq, Default, Debug)]
pub(super) enum Watching {
    /// Not at all.
    #[default]
    No,
    /// What they do is counted.
    Counted,
    /// The same, and it is noted what is in use when the most is.
    Weighed,
    /// They can be led.
    Led,
}

impl Watching {
    /// Whether the code is made to be watched.
    pub fn is_at_all(self) -> bool {
        self != Watching::No
    }

    /// What counts what they do, if anything does.
    fn probe(self) -> Option<Probe> {
        match self {
            Watching::Counted => Some(Probe::new(false)),
            Watching::Weighed => Some(Probe::new(true)),
            Watching::No | Watching::Led => None,
        }
    }

    /// What becomes of the names of programs in bytecode.
    pub fn names(self) -> Names {
        match self {
            Watching::No | Watching::Counted => Names::AsNeeded,
            Watching::Weighed | Watching::Led => Names::Kept,
        }
    }
}

/// All of a session but its host.
#[derive(Debug)]
pub(super) struct Inner {
    pub prepared: Prepared,
    pub engine: Engine,
    pub limits: Limits,
    pub memory: Memory,
    pub kept: Vec<Kept>,
    /// Their types, if the language has any.
    pub types: Vec<Type>,
    /// How all was before the last entries, the latest last.
    pub past: VecDeque<Before>,
    /// Before how many entries that is known.
    pub remembers: usize,
    /// How its runs can be watched.
    pub watching: Watching,
    /// What is counted of its runs, if anything is.
    pub probe: Option<Probe>,
    /// The functions that it has from another session of which it is a copy, if its runs can be led.
    pub brought: Vec<Rc<Loaded>>,
}

impl Inner {
    /// A session in which nothing has been run. Built-in constants and cells are computed
    /// here; one that fails is an error of the definition.
    pub fn new(
        engine: Engine,
        prepared: &Prepared,
        limits: Limits,
        host: &mut dyn Host,
        watching: Watching,
    ) -> Result<Inner, Diagnostics> {
        let memory = Memory::default();
        memory.heap.set_most(limits.memory);
        let _entered = memory.heap.enter();
        let mut inner = Inner {
            prepared: prepared.clone(),
            engine,
            limits,
            memory,
            kept: Vec::new(),
            types: Vec::new(),
            past: VecDeque::new(),
            remembers: 0,
            watching,
            probe: watching.probe(),
            brought: Vec::new(),
        };
        inner.make_ready(host)?;
        Ok(inner)
    }

    /// What has been counted so far; from here on it is counted anew.
    pub fn take_probe(&mut self) -> Option<Probe> {
        std::mem::replace(&mut self.probe, self.watching.probe())
    }

    /// Makes what the definition has ready, and the cells of its state.
    pub fn make_ready(&mut self, host: &mut dyn Host) -> Result<(), Diagnostics> {
        let prepared = self.prepared.clone();
        let language = prepared.language();
        let words = language.definition().words_errors();
        self.memory.wording = words.then(|| language.shared_definition());
        self.memory
            .heap
            .set_look(Look::of(&language.definition().values));
        self.memory.state.clear();
        let all = prepared.built_in();
        self.memory.built_in = vec![Value::Nothing; all.len()];
        // The functions come first: what a constant holds may be made by one.
        for is_function in [true, false] {
            for (index, ready) in all.iter().enumerate() {
                if ready.is_function == is_function {
                    let value = self.ready_value(&prepared, ready, host)?;
                    self.memory.built_in[index] = value;
                }
            }
        }
        for cell in prepared.state() {
            let value = self.ready_value(&prepared, cell, host)?;
            self.memory.state.push(value);
        }
        Ok(())
    }

    /// A function that is built in, or what a constant or a cell holds.
    fn ready_value(
        &mut self,
        prepared: &Prepared,
        ready: &Ready,
        host: &mut dyn Host,
    ) -> Result<Value, Diagnostics> {
        let heap = Rc::clone(&self.memory.heap);
        let _entered = heap.enter();
        let closure = match self.engine {
            Engine::Walk => Closure::of_core(&ready.core, &[]),
            Engine::Machine => {
                Closure::of_code(prepared.code(ready)?, &heap, self.watching.is_at_all())
            }
        };
        if ready.is_function {
            return Ok(Value::Function(closure));
        }
        self.start(closure, host)
            .map_err(|failure| failure.diagnostic().into())
    }

    /// A value for the outside.
    pub fn held(&self, value: Value) -> Held {
        Held::of(&self.memory.heap, value)
    }

    /// The language.
    pub fn language(&self) -> &Language {
        self.prepared.language()
    }

    /// Puts a value into a cell of the state, by its number.
    pub fn set_cell(&mut self, index: usize, value: &Held) -> Result<(), Foreign> {
        let value = value.on(&self.memory.heap)?;
        if let Some(cell) = self.memory.state.get_mut(index) {
            *cell = value;
        }
        Ok(())
    }
}
