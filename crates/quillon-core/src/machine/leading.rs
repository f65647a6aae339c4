//! Runs that somebody leads: they are asked for at instructions, see where the run is and what its
//! variables hold, and say how it goes on. How far a run has come is told by how many instructions it has
//! carried out, so that the same place is found again when it is run once more.

use std::rc::Rc;

use super::loaded::Loaded;
use super::raw::Pc;
use super::threads::Thread;
use super::{Machine, Watched, loaded_of};
use crate::bytecode::{Function, Purpose};
use crate::diagnostic::Outcome;
use crate::metering::Stopped;
use crate::runtime::{Failure, Memory, Problem};
use crate::values::{Closure, Held, Ref, Value};

/// The number of an instruction at which a run stops, which is that of no instruction.
pub(super) const MARK: u8 = 254;

/// Why a run is stopped.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Why<'f> {
    /// It has come as far as it was to go.
    Far,
    /// The instruction is marked.
    Marked,
    /// A failure goes out; whether something catches it.
    Fails(&'f Failure, bool),
}

/// How far a run goes on.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) struct Until {
    /// It stops at the first instruction from this number on.
    pub instruction: u64,
    /// In no more calls than this.
    pub deepest: usize,
    /// Here it stops in any case.
    pub latest: u64,
}

impl Until {
    /// To its end, or to what is marked.
    pub const END: Until = Until {
        instruction: u64::MAX,
        deepest: usize::MAX,
        latest: u64::MAX,
    };

    /// Whether a run that has begun so many instructions, in so many calls, has come there.
    #[inline]
    pub fn is_reached(&self, now: u64, depth: usize) -> bool {
        now >= self.instruction && depth <= self.deepest || now >= self.latest
    }
}

/// How a run that has been stopped goes on.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Way {
    /// From where it is.
    On(Until),
    /// From the moment of a checkpoint, to which it has been brought back.
    Back(u64, Until),
    /// No further.
    End,
}

/// What has come of asking how a run goes on.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Led {
    /// It goes on from where it is.
    On,
    /// It is somewhere else, before an instruction that has not been taken note of.
    Back,
    /// It ends here.
    End,
}

/// Somebody who leads a run.
pub(crate) trait Leader {
    /// A program has been made ready to run.
    fn ready(&mut self, program: &Rc<Loaded>);

    /// The run is stopped before an instruction; how it goes on.
    fn stopped(&mut self, view: &mut View<'_, '_>, why: Why<'_>) -> Way;

    /// The run has come to its own end; how it goes on.
    fn ended(&mut self, view: &mut View<'_, '_>, outcome: &Outcome<Held>) -> Way;
}

/// How far a run has come, and where it stops next.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Course {
    /// How many instructions have been begun.
    pub now: u64,
    pub until: Until,
}

/// A run that is stopped.
pub(crate) struct View<'v, 'm> {
    machine: &'v mut Machine<'m>,
    now: u64,
    /// What is about to go out, if that is why.
    failure: Option<&'v Failure>,
}

/// A call under way: the function, where it is in its code, and where its registers begin.
#[derive(Clone, Copy)]
pub(crate) struct Call<'v> {
    pub function: &'v Rc<Function>,
    /// The number of the instruction that is under way.
    pub at: usize,
    closure: Ref<Closure>,
    thread: &'v Thread,
    base: usize,
}

impl Call<'_> {
    /// What a register holds.
    pub fn register(&self, register: u16) -> Value {
        self.thread.registers[self.base + register as usize]
    }

    /// What the function has captured, by number.
    pub fn captured(&self, number: u16) -> Value {
        self.closure.captured(number)
    }
}

impl<'v, 'm> View<'v, 'm> {
    /// A look at a machine whose run is not led.
    pub(super) fn of(machine: &'v mut Machine<'m>) -> View<'v, 'm> {
        View::at(machine, 0)
    }

    fn at(machine: &'v mut Machine<'m>, now: u64) -> View<'v, 'm> {
        View {
            machine,
            now,
            failure: None,
        }
    }
}

impl View<'_, '_> {
    /// How many instructions have been begun before this one.
    pub fn now(&self) -> u64 {
        self.now
    }

    /// Keeps a checkpoint of this moment, before the instruction, if that takes no more than so many bytes; about
    /// how many it takes. Nothing if it cannot be kept.
    pub fn keep(&mut self, most: usize) -> Option<usize> {
        self.machine.keep(self.now, most)
    }

    /// The moments of the checkpoints that are kept, in their order.
    pub fn kept(&self) -> impl Iterator<Item = u64> {
        self.machine.checkpoints.iter().map(|kept| kept.moment)
    }

    /// Keeps only some of the checkpoints.
    pub fn keep_only(&mut self, which: impl Fn(u64) -> bool) {
        self.machine.checkpoints.retain(|kept| which(kept.moment));
    }

    /// Brings the run back to the moment of a checkpoint; whether it is there. It has to go on from there
    /// ([`Way::Back`]).
    pub fn go_back(&mut self, moment: u64) -> bool {
        self.machine.go_back(moment)
    }

    /// How many calls are under way, the program among them.
    pub fn depth(&self) -> usize {
        self.machine.calls() + 1
    }

    /// The innermost call.
    pub fn innermost(&self) -> Call<'_> {
        let machine = &*self.machine;
        call(
            &machine.thread,
            machine.closure,
            machine.culprit,
            machine.at.base,
        )
    }

    /// The calls under way, the innermost first: those of a coroutine before those of what has resumed
    /// it.
    pub fn calls(&self) -> Vec<Call<'_>> {
        self.each_call().collect()
    }

    /// The same, one after the other.
    pub fn each_call(&self) -> impl Iterator<Item = Call<'_>> {
        let machine = &*self.machine;
        let count = machine.top.count(&machine.thread.frames);
        let place = (machine.culprit, machine.at.base);
        let own = calls_of(&machine.thread, count, machine.closure, place);
        let outer = machine.outer.iter().rev().flat_map(|outer| {
            let thread = &*outer.thread;
            let place = (thread.at.pc.plus(-1), thread.at.base);
            calls_of(thread, thread.depth, thread.closure, place)
        });
        own.chain(outer)
    }

    /// The memory of the run.
    pub fn memory(&self) -> &Memory {
        self.machine.memory
    }

    /// Puts a value into a register of a call, by the number of that from the innermost on.
    pub fn set(&mut self, call: usize, register: u16, value: Value) {
        let Some(base) = self.each_call().nth(call).map(|call| call.base) else {
            return;
        };
        let machine = &mut *self.machine;
        let mut inner = machine.top.count(&machine.thread.frames);
        let mut thread = &mut machine.thread;
        let mut outer = machine.outer.iter_mut().rev();
        while call >= inner
            && let Some(next) = outer.next()
        {
            inner += next.thread.depth;
            thread = &mut next.thread;
        }
        thread.registers[base + register as usize] = value;
    }

    /// Calls a function that takes nothing before the run goes on: with all that the run has, in so many steps at
    /// most. Nothing stops it on the way; of what it loads, a leader is told.
    ///
    /// # Errors
    /// What goes wrong in it.
    pub fn run(
        &mut self,
        function: Ref<Closure>,
        steps: u64,
        leader: &mut dyn Leader,
    ) -> Result<Value, Box<Failure>> {
        let failure = self.failure;
        self.machine.run_within(function, failure, steps, leader)
    }

    /// Has the innermost call go on at another of its instructions.
    pub fn go_on_at(&mut self, at: usize) {
        let loaded = loaded_of(self.machine.closure);
        if loaded.function.starts().any(|start| start == at) {
            self.machine.at.pc = loaded.start.plus(at as i32);
            self.machine.culprit = self.machine.at.pc;
        }
    }

    /// The machine's memory, to be changed.
    pub fn memory_mut(&mut self) -> &mut Memory {
        self.machine.memory
    }
}

fn call(thread: &Thread, closure: Ref<Closure>, pc: Pc, base: usize) -> Call<'_> {
    let loaded = loaded_of(closure);
    Call {
        function: &loaded.function,
        at: pc.words_from(loaded.start),
        closure,
        thread,
        base,
    }
}

/// The calls of a thread, the innermost first.
fn calls_of(
    thread: &Thread,
    count: usize,
    closure: Ref<Closure>,
    (pc, base): (Pc, usize),
) -> impl Iterator<Item = Call<'_>> {
    let callers = thread.frames[1..count].iter().rev();
    let callers = callers.scan(base, move |base, frame| {
        *base -= frame.window.register();
        Some(call(thread, frame.closure, frame.pc.plus(-1), *base))
    });
    std::iter::once(call(thread, closure, pc, base)).chain(callers)
}

impl Machine<'_> {
    /// Takes note of an instruction of a run that is led, which is stopped where it is to be; how it goes on.
    #[inline]
    pub(super) fn lead(&mut self, pc: Pc) -> Led {
        let depth = self.calls() + 1;
        let Watched::Led(course, ..) = &mut self.watched else {
            return Led::On;
        };
        let now = course.now;
        course.now += 1;
        let is_marked = pc.number() == MARK;
        if is_marked || course.until.is_reached(now, depth) {
            self.culprit = pc;
            return self.stopped(if is_marked { Why::Marked } else { Why::Far }, now);
        }
        Led::On
    }

    /// Asks the leader how to go on.
    #[cold]
    fn stopped(&mut self, why: Why<'_>, now: u64) -> Led {
        let Watched::Led(mut course, leader, told) = std::mem::take(&mut self.watched) else {
            return Led::On;
        };
        let failure = match why {
            Why::Fails(failure, _) => Some(failure),
            Why::Far | Why::Marked => None,
        };
        let mut view = View {
            machine: self,
            now,
            failure,
        };
        let led = match leader.stopped(&mut view, why) {
            Way::On(until) => {
                course.until = until;
                match self.memory.heap.meter.struck() {
                    None => Led::On,
                    // In what has been carried out here.
                    Some(limit) => {
                        let problem = Box::<Problem>::from(limit);
                        self.failure = Some(self.failure_of(*problem));
                        Led::End
                    }
                }
            }
            Way::Back(now, until) => {
                course = Course { now, until };
                Led::Back
            }
            Way::End => {
                // From here on nobody looks: what ends here has to end.
                let problem = Box::<Problem>::from(Stopped::Interrupted);
                self.failure = Some(self.failure_of(*problem));
                return Led::End;
            }
        };
        self.watched = Watched::Led(course, leader, told);
        led
    }

    /// Asks the leader how to go on after the end of the run; whether it does, from a checkpoint.
    #[cold]
    pub(super) fn is_led_on(&mut self, result: &Result<Value, Box<Failure>>) -> bool {
        if !matches!(self.watched, Watched::Led(..)) {
            return false;
        }
        let Watched::Led(course, leader, told) = std::mem::take(&mut self.watched) else {
            return false;
        };
        let way = leader.ended(&mut View::at(self, course.now), &told(result));
        if let Way::Back(now, until) = way {
            self.watched = Watched::Led(Course { now, until }, leader, told);
        }
        matches!(way, Way::Back(..))
    }

    /// Tells the leader of a failure before it goes out; another takes its place if the run is to end, and
    /// nothing goes out if the run has been brought back to before it.
    #[cold]
    pub(super) fn failing(&mut self, failure: Box<Failure>) -> Option<Box<Failure>> {
        let Watched::Led(course, ..) = &self.watched else {
            return Some(failure);
        };
        if !failure.is_catchable() {
            return Some(failure);
        }
        let now = course.now.saturating_sub(1);
        let is_caught = self.is_caught();
        match self.stopped(Why::Fails(&failure, is_caught), now) {
            Led::On => Some(failure),
            Led::Back => None,
            Led::End => Some(self.failure.take().unwrap_or(failure)),
        }
    }

    /// Whether something around the instruction at fault would mend what it does.
    fn is_caught(&self) -> bool {
        let count = self.top.count(&self.thread.frames);
        let own = mends(self.closure, self.culprit) || is_mended_in(&self.thread, count);
        let mut outer = self.outer.iter().rev().map(|outer| &outer.thread);
        own || outer.any(|thread| {
            mends(thread.closure, thread.at.pc.plus(-1)) || is_mended_in(thread, thread.depth)
        })
    }
}

/// Whether something in the calls of a thread would mend what goes out of the innermost.
fn is_mended_in(thread: &Thread, count: usize) -> bool {
    let mut callers = thread.frames[1..count].iter().rev();
    callers.any(|frame| mends(frame.closure, frame.pc.plus(-1)))
}

/// Whether a function mends what fails at an instruction.
fn mends(closure: Ref<Closure>, pc: Pc) -> bool {
    let loaded = loaded_of(closure);
    let at = pc.words_from(loaded.start) as u32;
    loaded.function.handlers.iter().any(|handler| {
        handler.start <= at && at < handler.end && handler.purpose == Purpose::Rescue
    })
}
