//! Functions, the variables they share, and coroutines.

use std::any::Any;
use std::cell::{Cell, RefCell};
use std::rc::Rc;

use super::value::made;
use super::{Marker, Ref, Traced, Value, ValueRow};

/// A function together with what it captured.
#[derive(Debug)]
pub(crate) struct Closure {
    code: Rc<dyn Code>,
    /// Where that is, without the way to what it can do: an engine that knows its own code gets there
    /// at once.
    place: *const (),
    /// The captured variables, in the order of the code's captures: each a variable that is
    /// shared, or the value of one that never changes.
    captured: ValueRow,
}

/// The code of a function: what an engine has made of it, and what of it is of use to others.
pub(crate) trait Code: Any + std::fmt::Debug {
    /// The function's name, if it has one.
    fn name(&self) -> Option<&str>;

    /// How it is called.
    fn signature(&self) -> Signature<'_>;

    /// The names of what it captures.
    fn captures(&self) -> Vec<&str>;
}

/// How a function is called: its name and its parameters.
#[derive(Debug)]
pub(crate) struct Signature<'a> {
    /// Its name, if it has one.
    pub name: Option<&'a str>,
    /// Its parameters, in order.
    pub params: Vec<Param<'a>>,
    /// Whether the last parameter takes all arguments that are left.
    pub rest: bool,
}

/// A parameter of a function.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Param<'a> {
    /// What it is called.
    pub name: &'a str,
    /// Whether the language adds it to those that the program writes, so that messages neither
    /// count nor list it.
    pub is_hidden: bool,
}

impl Signature<'_> {
    /// Whether it can be called with so many arguments.
    pub fn takes(&self, arguments: usize) -> bool {
        fits(self.params.len(), self.rest, arguments)
    }

    /// The names of the parameters that the program writes, or of those that the language adds.
    pub fn names(&self, hidden: bool) -> Vec<&str> {
        let params = self.params.iter();
        let some = params.filter(|param| param.is_hidden == hidden);
        some.map(|param| param.name).collect()
    }
}

/// Whether a function with so many parameters, the last of which may take the rest, can be called with so many
/// arguments.
pub(crate) fn fits(params: usize, rest: bool, arguments: usize) -> bool {
    arguments == params || rest && arguments + 1 >= params
}

impl Closure {
    /// A function on the current heap.
    pub fn made(code: Rc<dyn Code>, captured: ValueRow) -> Ref<Closure> {
        made(
            captured.bytes(),
            |heap| &heap.functions,
            || Closure {
                place: Rc::as_ptr(&code).cast(),
                code,
                captured,
            },
        )
    }

    /// The code.
    #[inline]
    pub fn code(&self) -> &Rc<dyn Code> {
        &self.code
    }

    /// Where the code is, as long as there is this function.
    #[inline]
    pub fn place(&self) -> *const () {
        self.place
    }

    /// All that it has captured.
    #[inline]
    pub fn all_captured(&self) -> &ValueRow {
        &self.captured
    }

    /// A captured value, or a captured variable.
    #[inline]
    pub fn captured(&self, index: u16) -> Value {
        self.captured_if_any(index).unwrap_or(Value::Unset)
    }

    /// The same, if there is one of that number.
    #[inline]
    pub fn captured_if_any(&self, index: u16) -> Option<Value> {
        self.captured.get(usize::from(index))
    }

    /// Makes it a captured value.
    pub fn set_captured(&self, index: usize, value: Value) {
        self.captured.put(index, || value);
    }

    /// What a captured variable holds, if it holds anything.
    pub fn holds(&self, index: usize) -> Option<Value> {
        self.captured.get(index)?.held()
    }
}

impl Traced for Closure {
    fn trace(&self, marker: &mut Marker) {
        self.captured.trace(marker);
    }

    fn bytes_beside(&self) -> usize {
        self.captured.bytes()
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

    fn bytes_beside(&self) -> usize {
        0
    }
}

/// What an engine is in the middle of, kept among the values so that it is found by the
/// collector, and goes where the values go.
pub(crate) trait EngineState: Traced + Any + std::fmt::Debug {
    /// The same with copies of its values; nothing if what it is in the middle of cannot be copied.
    fn copied(&self, copy: &mut dyn FnMut(Value) -> Value) -> Option<Box<dyn EngineState>>;
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
    Waiting(Box<dyn EngineState>),
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

    /// Whether it is suspended.
    pub fn is_waiting(&self) -> bool {
        matches!(*self.0.borrow(), Progress::Waiting(_))
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

    fn bytes_beside(&self) -> usize {
        match &*self.0.borrow() {
            Progress::Waiting(suspended) => suspended.bytes_beside(),
            Progress::Fresh(_) | Progress::Running | Progress::Ended => 0,
        }
    }
}

/// What something under way has come to.
#[derive(Debug)]
pub(crate) enum Inner {
    /// A loop over items.
    Turns(Turns),
    /// Something else, until it is taken.
    State(RefCell<Option<Box<dyn EngineState>>>),
}

/// A loop in the middle of its turns.
#[derive(Debug)]
pub(crate) struct Turns {
    /// The items.
    pub items: ValueRow,
    /// How many have had their turn.
    pub next: Cell<usize>,
}

impl Inner {
    /// Keeps something that an engine is in the middle of.
    pub fn state(state: impl EngineState) -> Inner {
        Inner::State(RefCell::new(Some(Box::new(state))))
    }

    /// Works on what is kept, if it is of this type.
    pub fn with_state<T: EngineState, R>(&self, work: impl FnOnce(&mut T) -> R) -> Option<R> {
        let Inner::State(state) = self else {
            return None;
        };
        let mut state = state.borrow_mut();
        let state: &mut dyn Any = state.as_deref_mut()?;
        state.downcast_mut().map(work)
    }

    /// Takes what is kept, if it is of this type.
    pub fn take_state<T: EngineState>(&self) -> Option<Box<T>> {
        let Inner::State(state) = self else {
            return None;
        };
        let state: Box<dyn Any> = state.borrow_mut().take()?;
        state.downcast().ok()
    }

    /// The next item of a loop, if there is one.
    #[inline]
    pub fn next_item(&self) -> Option<Value> {
        let Inner::Turns(turns) = self else {
            return None;
        };
        let next = turns.next.get();
        let item = turns.items.get(next)?;
        turns.next.set(next + 1);
        Some(item)
    }
}

impl Traced for Inner {
    fn trace(&self, marker: &mut Marker) {
        match self {
            Inner::Turns(turns) => turns.items.trace(marker),
            Inner::State(state) => {
                if let Some(state) = state.borrow().as_deref() {
                    state.trace(marker);
                }
            }
        }
    }

    fn bytes_beside(&self) -> usize {
        match self {
            Inner::Turns(turns) => turns.items.bytes(),
            Inner::State(state) => state.borrow().as_deref().map_or(0, Traced::bytes_beside),
        }
    }
}
