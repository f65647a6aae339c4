//! What a run is in the middle of: continuations, running functions, their slots, and
//! operands that wait. All of it is data, so that a run needs no native stack, however deep
//! it goes, and can be set aside and gone on with.

use std::ops::RangeInclusive;
use std::rc::Rc;

use super::higher::Calling;
use crate::meaning::{CorePart, FunctionCore, Label};
use crate::runtime::Failure;
use crate::values::{Closure, Coroutine, EngineState, Marker, Ref, Traced, Value};

/// What goes on when a value is there.
#[derive(Debug)]
pub(super) enum Continuation {
    /// A piece of Core that has come so far, and how many operands waited when it began.
    Node(CorePart, u32, u32),
    /// The running function is left.
    Leave,
    /// A loop over the items of something.
    Each(Box<Turns>),
    /// A built-in operation that calls functions of the program.
    Calling(Box<Calling>),
    /// A cleanup runs; what goes on after it.
    After(Box<Going>),
    /// Dynamic variables end; what those before them held.
    Rebound(Box<[(Rc<str>, Option<Value>)]>),
    /// The bottom of a coroutine.
    Bottom,
}

/// A loop in the middle of its turns.
#[derive(Debug)]
pub(super) struct Turns {
    pub core: CorePart,
    pub items: Items,
    /// How many operands waited when it began.
    pub height: u32,
}

/// What a loop goes over.
#[derive(Debug)]
pub(super) enum Items {
    Listed(std::vec::IntoIter<Value>),
    /// Integers.
    Counted(RangeInclusive<i64>),
    /// A coroutine, and whether the value at hand has come from it.
    From(Ref<Coroutine>, bool),
}

/// How a run goes on.
#[derive(Debug)]
pub(super) enum Going {
    /// With a piece of Core.
    Run(CorePart),
    /// With a value, given to what waits for it.
    Give(Value),
    /// To a landing, with a value.
    Jump(Label, Value),
    /// Out of everything, up to what catches it.
    Fail(Box<Failure>),
}

/// A running function.
#[derive(Debug)]
pub(super) struct Activation {
    pub closure: Ref<Closure>,
    /// Where its slots begin.
    pub base: u32,
    /// How many operands waited when it was called.
    pub height: u32,
    /// Where it was called.
    pub from: Called,
    /// What something built-in has taken the place of, and where that was called: it is left
    /// together with what it has called.
    pub replaced: Option<Box<(Rc<FunctionCore>, Called)>>,
}

/// A call: where it stands, and in which function.
#[derive(Clone, Debug)]
pub(super) struct Called {
    pub at: CorePart,
    pub caller: Rc<FunctionCore>,
    /// Whether it is what a coroutine was resumed by; that is another each time.
    pub is_resumption: bool,
}

/// Everything of one thread of a run.
#[derive(Debug, Default)]
pub(super) struct Stacks {
    pub continuations: Vec<Continuation>,
    pub frames: Vec<Activation>,
    /// Those that are shared hold the variable.
    pub slots: Vec<Value>,
    pub operands: Vec<Value>,
    /// How many bytes of them the heap has counted, as those of a suspended coroutine.
    pub counted: usize,
}

impl Stacks {
    /// About how many bytes it takes.
    pub fn size(&self) -> usize {
        // With what allocators have for themselves.
        const OWN: usize = size_of::<Stacks>() + 5 * 16;
        OWN + self.continuations.capacity() * size_of::<Continuation>()
            + self.frames.capacity() * size_of::<Activation>()
            + self.slots.capacity() * size_of::<Value>()
            + self.operands.capacity() * size_of::<Value>()
    }

    /// Notes what a coroutine with these stacks is resumed by now.
    pub fn resumed(&mut self, at: &CorePart, caller: &Rc<FunctionCore>) {
        let Some(first) = self.frames.first_mut() else {
            return;
        };
        let replaced = first.replaced.as_mut().map(|replaced| &mut replaced.1);
        for called in [Some(&mut first.from), replaced].into_iter().flatten() {
            if called.is_resumption {
                called.at = Rc::clone(at);
                called.caller = Rc::clone(caller);
            }
        }
    }

    /// The function that runs.
    #[inline]
    pub fn frame(&self) -> &Activation {
        &self.frames[self.frames.len() - 1]
    }

    /// The code of the function that runs.
    #[inline]
    pub fn function(&self) -> &FunctionCore {
        self.frame().closure.core()
    }

    /// The same, to be kept.
    pub fn function_kept(&self) -> Rc<FunctionCore> {
        self.frame().closure.core_kept()
    }
}

impl Traced for Stacks {
    fn trace(&self, marker: &mut Marker) {
        marker.values(&self.slots);
        marker.values(&self.operands);
        for frame in &self.frames {
            marker.value(Value::Function(frame.closure));
        }
        for continuation in &self.continuations {
            continuation.trace(marker);
        }
    }

    fn bytes_beside(&self) -> usize {
        self.size()
    }
}

impl EngineState for Stacks {
    /// Where a walk through a tree stands cannot be copied.
    fn copied(&self, _: &mut dyn FnMut(Value) -> Value) -> Option<Box<dyn EngineState>> {
        None
    }
}

impl Continuation {
    fn trace(&self, marker: &mut Marker) {
        match self {
            Continuation::Node(..) | Continuation::Leave | Continuation::Bottom => {}
            Continuation::Each(turns) => match &turns.items {
                Items::Listed(items) => marker.values(items.as_slice()),
                Items::Counted(_) => {}
                Items::From(coroutine, _) => marker.value(Value::Coroutine(*coroutine)),
            },
            Continuation::Calling(calling) => calling.trace(marker),
            Continuation::After(going) => going.trace(marker),
            Continuation::Rebound(held) => {
                marker.values(held.iter().filter_map(|(_, v)| v.as_ref()));
            }
        }
    }
}

impl Going {
    fn trace(&self, marker: &mut Marker) {
        match self {
            Going::Run(_) => {}
            Going::Give(value) | Going::Jump(_, value) => marker.value(*value),
            Going::Fail(failure) => marker.values(&failure.raised),
        }
    }
}
