//! A session without its host.

use std::collections::VecDeque;
use std::rc::Rc;

use super::Engine;
use super::entries::Before;
use crate::bytecode::Names;
use crate::diagnostic::Diagnostics;
use crate::language::{Language, Prepared, Ready};
use crate::machine::{Loaded, Probe};
use crate::runtime::{BuiltInValues, Failure, Host, Limits, MakesBuiltIns, Memory, Problem};
use crate::scoping::Kept;
use crate::typing::Type;
use crate::values::{Closure, Foreign, Heap, Held, Look, Ref, Value};

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
        let heap = &self.memory.heap;
        let maker = Maker::new(&prepared, self.engine, self.watching, heap);
        let built_ins = prepared.built_ins();
        let count = built_ins.len();
        self.memory.built_in = BuiltInValues::made_by(Rc::new(maker.clone()), count);
        let constants = (0..count).filter(|index| !built_ins.is_function(*index));
        // One that is not there yet is nothing to those before it.
        for index in constants.clone() {
            self.memory.built_in.set(index, Value::Nothing);
        }
        for index in constants {
            if let Some(ready) = prepared.built_in(index) {
                let value = self.first_value(&maker, &ready, host)?;
                self.memory.built_in.set(index, value);
            }
        }
        for ready in prepared.state() {
            let value = self.first_value(&maker, &ready, host)?;
            self.memory.state.push(value);
        }
        Ok(())
    }

    /// What a constant or a cell holds at first.
    fn first_value(
        &mut self,
        maker: &Maker,
        ready: &Ready<'_>,
        host: &mut dyn Host,
    ) -> Result<Value, Diagnostics> {
        let _entered = maker.heap.enter();
        let closure = maker.closure(ready);
        let closure = closure.map_err(|problem| Failure::at_start(*problem, &ready.core.source));
        let value = closure.and_then(|closure| self.start(closure, host));
        value.map_err(|failure| failure.diagnostic().into())
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

/// Makes what is built in for the engine of a session.
#[derive(Clone, Debug)]
pub(super) struct Maker {
    prepared: Prepared,
    engine: Engine,
    is_watched: bool,
    heap: Rc<Heap>,
}

impl Maker {
    /// A maker on a heap.
    pub fn new(prepared: &Prepared, engine: Engine, watching: Watching, heap: &Rc<Heap>) -> Maker {
        Maker {
            prepared: prepared.clone(),
            engine,
            is_watched: watching.is_at_all(),
            heap: Rc::clone(heap),
        }
    }

    /// A function, on the heap that has been entered.
    fn closure(&self, ready: &Ready<'_>) -> Result<Ref<Closure>, Box<Problem>> {
        Ok(match self.engine {
            Engine::Walk => Closure::of_core(ready.core, &[]),
            Engine::Machine => Closure::of_code(ready.code()?, &self.heap, self.is_watched),
        })
    }
}

impl MakesBuiltIns for Maker {
    fn make(&self, index: usize) -> Result<Option<Value>, Box<Problem>> {
        let _entered = self.heap.enter();
        let ready = self.prepared.built_in(index);
        let closure = ready.map(|ready| self.closure(&ready)).transpose()?;
        Ok(closure.map(Value::Function))
    }
}
