//! Counting what a run does. In code that is watched every instruction has the number of the
//! probe, which counts it and carries out what was there; other code knows nothing of it.

use std::rc::Rc;
use std::time::{Duration, Instant};

use rustc_hash::FxHashMap;

use super::alive::Alive;
use super::{Machine, Watched, loaded_of};
use crate::bytecode::Function;
use crate::values::Heap;

/// The number of the probe, which is that of no instruction.
pub(super) const PROBE: u8 = 255;

/// After so many instructions the clock is looked at: what has passed is laid to the
/// instruction that runs then. A prime, so that no loop keeps step with it.
const EVERY: u64 = 97;

/// Calls deeper than this are laid to those around them in the picture of calls.
const DEEPEST: usize = 60;

/// What an instruction has cost.
#[derive(Clone, Copy, Default, Debug)]
pub(crate) struct Cost {
    /// How often it was carried out.
    pub times: u64,
    /// The time laid to it.
    pub time: Duration,
    /// How often it made something on the heap, and how many bytes.
    pub allocations: u64,
    pub bytes: u64,
}

impl Cost {
    /// Both together.
    pub fn add(&mut self, other: Cost) {
        self.times += other.times;
        self.time += other.time;
        self.allocations += other.allocations;
        self.bytes += other.bytes;
    }
}

/// A function with what its instructions have cost.
#[derive(Debug)]
pub(crate) struct Counted {
    pub function: Rc<Function>,
    pub costs: Vec<Cost>,
}

/// A call with the time laid to it, and the calls in it.
#[derive(Debug, Default)]
pub(crate) struct Calls {
    /// The number of the function among those counted.
    pub function: usize,
    /// The time laid to it itself.
    pub time: Duration,
    pub inner: Vec<Calls>,
}

/// What has been counted of a run.
#[derive(Debug)]
pub(crate) struct Probe {
    pub functions: Vec<Counted>,
    numbers: FxHashMap<*const Function, usize>,
    pub calls: Calls,
    pub collections: u64,
    until_clock: u64,
    clock: Instant,
    /// The instruction that ran last, by its function, and what had been made before it.
    last: (usize, usize),
    made: u64,
    /// What is in use, if that is asked.
    pub alive: Option<Alive>,
}

impl Probe {
    /// Nothing counted; and what is in use is noted, if that is asked.
    pub fn new(asks_alive: bool) -> Probe {
        Probe {
            alive: asks_alive.then(Alive::default),
            functions: Vec::new(),
            numbers: FxHashMap::default(),
            calls: Calls::default(),
            collections: 0,
            until_clock: EVERY,
            clock: Instant::now(),
            last: (0, 0),
            made: 0,
        }
    }

    /// A run begins.
    pub fn begin(&mut self, heap: &Heap) {
        self.clock = Instant::now();
        self.made = heap.made_in_all();
        if self.alive.is_some() {
            heap.follow();
        }
    }

    pub(super) fn number(&mut self, function: &Rc<Function>) -> usize {
        let functions = &mut self.functions;
        *self.numbers.entry(Rc::as_ptr(function)).or_insert_with(|| {
            functions.push(Counted {
                function: Rc::clone(function),
                costs: vec![Cost::default(); function.code.len()],
            });
            functions.len() - 1
        })
    }

    /// Lays what was made since to the instruction that ran last.
    pub fn settle(&mut self, heap: &Heap) {
        let made = heap.made_in_all();
        let (function, at) = self.last;
        if let Some(alive) = &mut self.alive {
            // What is made before the first instruction is nobody's.
            let maker = self.last;
            let taken = heap.taken().filter(|_| !self.functions.is_empty());
            alive.note(taken, maker);
        }
        if made > self.made
            && let Some(counted) = self.functions.get_mut(function)
        {
            counted.costs[at].allocations += 1;
            counted.costs[at].bytes += made - self.made;
        }
        self.made = made;
    }
}

impl Machine<'_> {
    /// Counts the instruction at a place of the running function.
    #[inline(never)]
    pub(super) fn count(&mut self, at: usize) {
        let function = Rc::clone(&self.loaded().function);
        let heap = Rc::clone(&self.memory.heap);
        let Watched::Counted(probe) = &mut self.watched else {
            return;
        };
        probe.settle(&heap);
        let number = probe.number(&function);
        probe.last = (number, at);
        probe.functions[number].costs[at].times += 1;
        probe.until_clock -= 1;
        if probe.until_clock == 0 {
            self.look_at_clock();
        }
    }

    /// Lays the time since the clock was looked at last to the instruction and the calls.
    #[cold]
    fn look_at_clock(&mut self) {
        let depth = self.top.count(&self.thread.frames).min(DEEPEST);
        // Each frame has the function that called; the innermost one runs.
        let callers = self.thread.frames[1..depth].iter();
        let mut path: Vec<_> = callers
            .map(|frame| Rc::clone(&loaded_of(frame.closure).function))
            .collect();
        path.push(Rc::clone(&self.loaded().function));
        let Watched::Counted(probe) = &mut self.watched else {
            return;
        };
        let now = Instant::now();
        let passed = now - std::mem::replace(&mut probe.clock, now);
        probe.until_clock = EVERY;
        let (function, at) = probe.last;
        probe.functions[function].costs[at].time += passed;
        let numbers: Vec<usize> = path.iter().map(|f| probe.number(f)).collect();
        let mut call = &mut probe.calls;
        for number in numbers {
            let known = call.inner.iter().position(|own| own.function == number);
            let index = known.unwrap_or_else(|| {
                call.inner.push(Calls {
                    function: number,
                    ..Calls::default()
                });
                call.inner.len() - 1
            });
            call = &mut call.inner[index];
        }
        call.time += passed;
    }
}
