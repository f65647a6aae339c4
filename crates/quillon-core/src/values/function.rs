//! Functions, the variables they share, and coroutines.

use std::any::Any;
use std::cell::{Cell, RefCell};
use std::rc::Rc;

use super::value::made;
use super::{Marker, Ref, Traced, Value};
use crate::machine::Loaded;
use crate::meaning::FunctionCore;
use crate::runtime::{Failure, Sorting};

/// A function together with what it captured.
#[derive(Debug)]
pub(crate) struct Closure {
    /// The code.
    pub code: Code,
    /// The captured variables, in the order of the code's captures: each a variable that is
    /// shared, or the value of one that never changes.
    pub captured: Box<[Cell<Value>]>,
}

/// The code of a function, for the engine that made it.
#[derive(Clone, Debug)]
pub(crate) enum Code {
    /// For the walker.
    Core(Rc<FunctionCore>),
    /// For the machine.
    Machine(Rc<Loaded>),
}

impl Code {
    /// The function's name, if it has one.
    pub fn name(&self) -> Option<&str> {
        match self {
            Code::Core(core) => core.name.as_deref(),
            Code::Machine(loaded) => loaded.function.name.as_deref(),
        }
    }

    /// The names of its parameters.
    pub fn params(&self) -> Vec<&str> {
        match self {
            Code::Core(core) => core.params.iter().map(|(_, _, name)| &**name).collect(),
            Code::Machine(loaded) => loaded.function.params.iter().map(|name| &**name).collect(),
        }
    }

    /// Whether the last parameter takes all arguments that are left.
    pub fn rest(&self) -> bool {
        match self {
            Code::Core(core) => core.rest,
            Code::Machine(loaded) => loaded.function.rest,
        }
    }

    /// The names of what it captures.
    pub fn captures(&self) -> Vec<&str> {
        match self {
            Code::Core(core) => core.captures.iter().map(|c| &*c.name).collect(),
            Code::Machine(loaded) => {
                let captures = loaded.function.captures.iter();
                captures.map(|captured| &*captured.name).collect()
            }
        }
    }
}

impl Closure {
    /// A function on the current heap.
    pub fn made(closure: Closure) -> Ref<Closure> {
        made(closure, |heap| &heap.functions)
    }

    /// A captured value, or a captured variable.
    #[inline]
    pub fn captured(&self, index: u16) -> Value {
        self.captured[index as usize].get()
    }

    /// Makes it a captured value.
    pub fn set_captured(&self, index: usize, value: Value) {
        self.captured[index].set(value);
    }

    /// What a captured variable holds, if it holds anything.
    pub fn holds(&self, index: usize) -> Option<Value> {
        match self.captured.get(index)?.get() {
            Value::Variable(variable) => variable.get().if_set(),
            value => value.if_set(),
        }
    }
}

impl Traced for Closure {
    fn trace(&self, marker: &mut Marker) {
        for captured in &self.captured {
            marker.value(captured.get());
        }
    }

    fn room(&self) -> usize {
        self.captured.len() * size_of::<Value>()
    }
}

/// A variable that functions share.
#[derive(Debug)]
pub(crate) struct Variable(Cell<Value>);

impl Variable {
    /// A variable that holds this.
    pub fn new(value: Value) -> Variable {
        Variable(Cell::new(value))
    }

    /// What it holds.
    #[inline]
    pub fn get(&self) -> Value {
        self.0.get()
    }

    /// Makes it hold something.
    #[inline]
    pub fn set(&self, value: Value) {
        self.0.set(value);
    }
}

impl Traced for Variable {
    fn trace(&self, marker: &mut Marker) {
        marker.value(self.get());
    }

    fn room(&self) -> usize {
        0
    }
}

/// What a suspended coroutine was in the middle of, for the engine that runs it.
pub(crate) trait Suspended: Traced + Any + std::fmt::Debug {
    /// Itself, for the engine that knows what it is.
    fn into_any(self: Box<Self>) -> Box<dyn Any>;
}

/// A function that can be suspended and resumed.
#[derive(Debug)]
pub(crate) struct Coroutine(pub RefCell<Progress>);

/// How far a coroutine is.
#[derive(Debug)]
pub(crate) enum Progress {
    /// Not begun.
    Fresh(Ref<Closure>),
    /// Suspended.
    Waiting(Box<dyn Suspended>),
    /// Resumed, and not suspended again.
    Running,
    /// At its end, or failed.
    Ended,
}

impl Coroutine {
    /// One that has not begun.
    pub fn new(function: Ref<Closure>) -> Coroutine {
        Coroutine(RefCell::new(Progress::Fresh(function)))
    }

    /// Whether it has come to its end.
    pub fn has_ended(&self) -> bool {
        matches!(*self.0.borrow(), Progress::Ended)
    }

    /// Makes it go on, or end.
    pub fn set(&self, progress: Progress) -> Progress {
        self.0.replace(progress)
    }
}

impl Traced for Coroutine {
    fn trace(&self, marker: &mut Marker) {
        match &*self.0.borrow() {
            Progress::Fresh(function) => marker.value(Value::Function(*function)),
            Progress::Waiting(suspended) => suspended.trace(marker),
            Progress::Running | Progress::Ended => {}
        }
    }

    fn room(&self) -> usize {
        match &*self.0.borrow() {
            Progress::Waiting(suspended) => suspended.room(),
            _ => 0,
        }
    }
}

/// What something under way has come to, kept among the values so that it is found by the
/// collector and goes where the values go.
#[derive(Debug)]
pub(crate) enum Inner {
    /// A loop over items.
    Turns(RefCell<Turns>),
    /// A sort that asks for comparisons.
    Sorting(RefCell<Sorting>),
    /// A failure that goes on after a cleanup.
    Failure(RefCell<Option<Box<Failure>>>),
}

/// A loop in the middle of its turns.
#[derive(Debug)]
pub(crate) struct Turns {
    /// The items.
    pub items: Vec<Value>,
    /// How many have had their turn.
    pub next: usize,
}

impl Inner {
    /// The next item of a loop, if there is one.
    #[inline]
    pub fn next_item(&self) -> Option<Value> {
        let Inner::Turns(turns) = self else {
            return None;
        };
        let mut turns = turns.borrow_mut();
        let item = *turns.items.get(turns.next)?;
        turns.next += 1;
        Some(item)
    }
}

impl Traced for Inner {
    fn trace(&self, marker: &mut Marker) {
        match self {
            Inner::Turns(turns) => marker.values(&turns.borrow().items),
            Inner::Sorting(sorting) => sorting.borrow().trace(marker),
            Inner::Failure(failure) => {
                if let Some(Failure {
                    raised: Some(value),
                    ..
                }) = failure.borrow().as_deref()
                {
                    marker.value(*value);
                }
            }
        }
    }

    fn room(&self) -> usize {
        match self {
            Inner::Turns(turns) => turns.borrow().items.capacity() * size_of::<Value>(),
            Inner::Sorting(sorting) => sorting.borrow().room(),
            Inner::Failure(_) => 0,
        }
    }
}
