//! The machine: runs bytecode. Registers of the running function are a row of the stack; each
//! instruction has a handler, which goes on to the next one's by a jump (threaded code, after
//! Bell, 1973; as tail calls that the optimiser turns into jumps). The handlers know the
//! frequent cases; everything else is carried out by [`slow`], in the way of the walking evaluator.

mod alive;
mod calls;
mod checkpoints;
mod checks;
mod coroutines;
mod fast;
mod host;
mod leading;
mod loaded;
mod loops;
mod making;
mod perform;
mod probe;
mod raw;
mod slow;
mod threads;
mod unwind;

use std::rc::Rc;

use checkpoints::Checkpoint;

pub(crate) use alive::{Amount, Holder, Maker};
pub(crate) use leading::{Call, Course, Leader, Until, View, Way, Why};
pub(crate) use loaded::Loaded;
pub(crate) use probe::{Calls, Cost, Counted, Probe};
use raw::{Pc, Row, Top, loaded_of};
use threads::{Frame, Thread};

use crate::bytecode::{Function, Last};
use crate::diagnostic::Outcome;
use crate::meaning::FunctionCore;
use crate::metering::Stopped;
use crate::runtime::{
    Compile, Failure, Limits, Memory, Metered, Problem, Waiting, World, too_deep,
};
use crate::values::{Closure, Coroutine, Heap, Held, Marker, Ref, Roots, Traced, Value, ValueRow};

/// How an instruction ends that is carried out in full.
type Done = Result<(), Box<Problem>>;

/// Where a run is: the next instruction, where its registers begin on the stack, and its
/// constants. The stack can move, so its address is taken anew each time: only the handlers
/// have it, and none of them keeps it beyond the next instruction.
#[derive(Clone, Copy, Debug)]
struct At {
    pc: Pc,
    base: usize,
    constants: Row,
}

/// Why the handlers stop.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum Exit {
    /// To go on at once, where handlers cannot jump to each other.
    #[cfg_attr(quillon_threaded, allow(dead_code))]
    Next,
    /// The run, or a coroutine, has come to its end.
    Done,
    /// There is a failure.
    Failed,
}

impl Closure {
    /// A function for the machine that captures nothing.
    pub(crate) fn of_code(function: &Rc<Function>, heap: &Heap, probed: bool) -> Ref<Closure> {
        Closure::made(Loaded::new(function, heap, probed), ValueRow::default())
    }
}

/// Makes bytecode of the Core of another program.
pub(crate) type Assemble<'a> = dyn Fn(&Rc<FunctionCore>) -> Result<Function, Box<Problem>> + 'a;

/// The code of a function, to be kept.
fn kept_of(function: Ref<Closure>) -> Rc<Loaded> {
    let code: Rc<dyn std::any::Any> =
        Rc::<dyn crate::values::Code>::clone(function.follow().code());
    match code.downcast() {
        Ok(loaded) => loaded,
        Err(_) => unreachable!("each session keeps to one engine"),
    }
}

/// A run.
struct Machine<'a> {
    /// The end of the frames under way.
    top: Top<Frame>,
    /// The end of the room for frames, and for registers.
    last_frame: Top<Frame>,
    last_register: Row,
    /// The function that runs.
    closure: Ref<Closure>,
    /// Steps until the limits are looked at again.
    fuel: u64,
    /// Where it is, while no handler runs.
    at: At,
    /// The instruction that is at fault, for a failure.
    culprit: Pc,
    failure: Option<Box<Failure>>,
    /// The limit that the run has come to, whatever its code does about it.
    struck: Option<Box<Failure>>,
    thread: Box<Thread>,
    /// What waits for the coroutines that run, the outermost first.
    outer: Vec<Resumed>,
    /// The calls under way in those, and in a run that waits for this one.
    outer_calls: usize,
    /// The bytes of the stacks of what has resumed coroutines.
    outer_size: usize,
    memory: &'a mut Memory,
    host: Metered<'a>,
    /// The run that waits for this one, if the host of that has called back.
    waiting: Option<Waiting<'a>>,
    compile: &'a Compile<'a>,
    assemble: &'a Assemble<'a>,
    limits: Limits,
    watched: Watched<'a>,
    /// What a run that is led can go back to, the earliest first.
    checkpoints: Vec<Checkpoint>,
}

/// Makes of the end of a run what is told outside.
pub(crate) type Told<'a> = dyn Fn(&Result<Value, Box<Failure>>) -> Outcome<Held> + 'a;

/// Who watches a run, whose code is made to be watched then.
#[derive(Default)]
pub(crate) enum Watched<'a> {
    /// Nobody does.
    #[default]
    No,
    /// What it does is counted.
    Counted(&'a mut Probe),
    /// Somebody leads it.
    Led(Course, &'a mut dyn Leader, &'a Told<'a>),
}

impl Watched<'_> {
    fn is_one(&self) -> bool {
        match self {
            Watched::No => false,
            Watched::Counted(_) | Watched::Led(..) => true,
        }
    }
}

/// Something that has resumed a coroutine, and waits.
#[derive(Debug)]
struct Resumed {
    /// It waits for what the coroutine gives.
    thread: Box<Thread>,
    coroutine: Ref<Coroutine>,
}

impl Roots for Resumed {
    fn trace(&self, marker: &mut Marker) {
        self.thread.trace(marker);
        marker.value(Value::Coroutine(self.coroutine));
    }
}

/// Calls a function of a program with as many arguments as it takes, or the program itself.
pub(crate) fn call<'a>(
    function: Ref<Closure>,
    args: &[Value],
    memory: &'a mut Memory,
    limits: Limits,
    world: World<'a>,
    assemble: &'a Assemble<'a>,
    mut watched: Watched<'a>,
) -> Result<Value, Box<Failure>> {
    let heap = Rc::clone(&memory.heap);
    let _running = world.measured(&heap, limits);
    let World {
        host,
        compile,
        waiting,
        ..
    } = world;
    match &mut watched {
        Watched::No => {}
        Watched::Counted(probe) => probe.begin(&memory.heap),
        Watched::Led(_, leader, _) => leader.ready(&kept_of(function)),
    }
    let code = &loaded_of(function).function;
    let thread = if code.last == Last::Rest {
        let (fixed, rest) = args.split_at(code.params.len() - 1);
        Thread::new(function, &[fixed, &[Value::list(rest)]].concat())
    } else {
        Thread::new(function, args)
    };
    let mut thread = Box::new(thread);
    let at = thread.at;
    let mut machine = Machine {
        top: Top::of(&mut thread.frames, 1),
        last_frame: Top::of(&mut thread.frames, 1),
        last_register: thread.row(at.base),
        closure: function,
        // The first step finds the slice used up, and begins the first real one.
        fuel: 1,
        at,
        culprit: at.pc,
        failure: None,
        struck: None,
        thread,
        outer: Vec::new(),
        outer_calls: waiting.map_or(0, |waiting| waiting.calls as usize),
        outer_size: 0,
        memory,
        host: Metered::new(host, limits, waiting.map(|waiting| Rc::clone(waiting.left))),
        waiting,
        compile,
        assemble,
        limits,
        watched,
        checkpoints: Vec::new(),
    };
    machine.settle();
    let mut result = machine.go();
    while machine.is_led_on(&result) {
        result = machine.go();
    }
    let heap = Rc::clone(&machine.memory.heap);
    if let Watched::Counted(probe) = &mut machine.watched {
        probe.settle(&heap);
    }
    if waiting.is_none() {
        machine.memory.forget_unfinished();
    }
    result
}

impl Machine<'_> {
    fn go(&mut self) -> Result<Value, Box<Failure>> {
        loop {
            match fast::dispatch(self) {
                Exit::Next => {}
                Exit::Done => {
                    let value = self.thread.result();
                    if !self.end_coroutine(value) {
                        return self.struck.take().map_or(Ok(value), Err);
                    }
                }
                Exit::Failed => self.unwind()?,
            }
        }
    }

    /// The function that runs.
    fn loaded(&self) -> &Loaded {
        loaded_of(self.closure)
    }

    /// Calls under way, the program itself not among them.
    fn calls(&self) -> usize {
        self.outer_calls + self.top.count(&self.thread.frames) - 1
    }

    /// Makes the ends of the stacks known after they have changed.
    fn settle(&mut self) {
        let room = self.limits.depth as usize + 1;
        let room = room.saturating_sub(self.outer_calls).max(1);
        let frames = self.thread.frames.len().min(room);
        self.last_frame = Top::of(&mut self.thread.frames, frames);
        let registers = self.thread.registers.len();
        self.last_register = Row::of(&mut self.thread.registers, registers);
    }

    /// How many registers are in use.
    fn used(&self) -> usize {
        self.at.base + self.loaded().registers as usize
    }

    /// What a register holds.
    fn get(&self, register: u16) -> Value {
        self.thread.registers[self.at.base + register as usize]
    }

    /// Puts a value into a register.
    fn set(&mut self, register: u16, value: Value) {
        self.thread.registers[self.at.base + register as usize] = value;
    }

    /// Notes where the handlers are.
    fn stand(&mut self, pc: Pc, regs: Row, constants: Row) {
        let base = regs.from(self.thread.row(0));
        self.at = At {
            pc,
            base,
            constants,
        };
    }

    /// Where the handlers go on.
    fn place(&mut self) -> (Pc, Row, Row) {
        (self.at.pc, self.thread.row(self.at.base), self.at.constants)
    }

    /// Makes room for another frame, and for so many registers from a place of the stack on.
    fn grow(&mut self, base: usize, registers: u32) -> Done {
        let frames = self.top.count(&self.thread.frames);
        let calls = self.calls();
        if !self.top.is_below(self.last_frame) {
            if calls >= self.limits.depth as usize {
                return Err(too_deep(calls as u32));
            }
            self.thread.more_frames(frames + 1)?;
        }
        self.thread.make_room(base + registers as usize)?;
        self.top = Top::of(&mut self.thread.frames, frames);
        self.settle();
        self.measure();
        Ok(())
    }

    /// Tells the meter how large the stacks are.
    fn measure(&self) {
        let meter = &self.memory.heap.meter;
        meter.set_stacks(self.stacks(), self.calls() as u32);
    }

    /// The bytes of all stacks.
    fn stacks(&self) -> usize {
        let waiting = self.waiting.map_or(0, |waiting| waiting.stacks);
        self.thread.size() + self.outer_size + waiting
    }

    /// When a slice of steps is used up: looks at the limits, and collects if it is time.
    #[inline(never)]
    fn pause(&mut self) -> Result<(), Box<Problem>> {
        // A limit that has struck strikes again at the next step.
        self.fuel = 1;
        self.fuel = self.memory.heap.meter.slice()?;
        self.clean_up()
    }

    /// Frees what is out of use, if it is time, and looks whether the rest is too much.
    fn clean_up(&mut self) -> Result<(), Box<Problem>> {
        self.measure();
        let heap = &self.memory.heap;
        if heap.is_full() || heap.is_too_large() {
            self.collect();
        }
        if self.memory.heap.is_too_large() && !self.checkpoints.is_empty() {
            // A run has all the room that it had if nobody led it.
            self.checkpoints.clear();
            self.collect();
        }
        if self.memory.heap.is_too_large() {
            // What is in use is more than there may be: no collection helps.
            let mut problem = Box::<Problem>::from(Stopped::Memory);
            problem.may_be_tried_again = false;
            return Err(problem);
        }
        Ok(())
    }

    /// Frees what is out of use.
    fn collect(&mut self) {
        let heap = Rc::clone(&self.memory.heap);
        self.put_down();
        if self.asks_alive() {
            self.survey();
        } else {
            heap.collect(self);
        }
        self.pick_up();
        self.thread.counted = 0;
        for outer in &mut self.outer {
            outer.thread.counted = 0;
        }
        if let Watched::Counted(probe) = &mut self.watched {
            probe.collections += 1;
        }
    }
}

impl Roots for Machine<'_> {
    fn trace(&self, marker: &mut Marker) {
        self.memory.trace(marker);
        self.stacked().trace(marker);
    }
}

/// All that a run has beside its memory: its stacks, and what it can go back to.
struct Stacked<'m> {
    thread: &'m Thread,
    frames: usize,
    closure: Ref<Closure>,
    outer: &'m [Resumed],
    failure: Option<&'m Failure>,
    checkpoints: &'m [Checkpoint],
    waiting: Option<Waiting<'m>>,
}

impl Machine<'_> {
    fn stacked(&self) -> Stacked<'_> {
        Stacked {
            thread: &self.thread,
            frames: self.top.count(&self.thread.frames),
            closure: self.closure,
            outer: &self.outer,
            failure: self.failure.as_deref(),
            checkpoints: &self.checkpoints,
            waiting: self.waiting,
        }
    }
}

impl Roots for Stacked<'_> {
    fn trace(&self, marker: &mut Marker) {
        marker.value(Value::Function(self.closure));
        self.thread.trace_up_to(self.frames, marker);
        for outer in self.outer {
            outer.trace(marker);
        }
        if let Some(failure) = self.failure {
            marker.values(&failure.raised);
        }
        for checkpoint in self.checkpoints {
            checkpoint.trace(marker);
        }
        if let Some(waiting) = self.waiting {
            waiting.roots.trace(marker);
        }
    }
}
