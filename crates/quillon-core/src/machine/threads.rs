//! The stacks of a thread of a run: the program's own, and one for each coroutine.

use std::cell::Cell;

use super::checks;
use super::raw::{Pc, Row, Scaled};
use super::{At, loaded_of};
use crate::bytecode::Op;
use crate::metering::Stopped;
use crate::values::{Closure, EngineState, Heap, Marker, Ref, Traced, Value, ask};

/// What a call comes back to.
#[derive(Clone, Copy, Debug)]
pub(super) struct Frame {
    /// The next instruction of the caller.
    pub pc: Pc,
    pub constants: Row,
    /// The caller.
    pub closure: Ref<Closure>,
    /// The caller's register where its own registers begin.
    pub window: Scaled,
    /// The caller's register for what the call gives.
    pub into: Scaled,
    /// Whether a tail call has taken the place of what was called: the call is then the one
    /// kept in the thread's `tails`.
    pub is_tail: bool,
}

/// A call in the place of a function: which function it stood in, and where.
#[derive(Clone, Copy, Debug)]
pub(super) struct Tail {
    pub frame: usize,
    pub closure: Ref<Closure>,
    pub pc: Pc,
}

/// The stacks of a thread.
#[derive(Debug)]
pub(super) struct Thread {
    pub registers: Vec<Value>,
    pub frames: Vec<Frame>,
    /// The latest tail calls, for those frames that are marked, by the number of the frame.
    pub tails: Vec<Tail>,
    /// Which function runs and where, while the thread does not, and the register for what it goes on with.
    pub closure: Ref<Closure>,
    pub at: At,
    pub into: Scaled,
    /// How many frames there are then, and registers.
    pub depth: usize,
    used: usize,
    /// How many collections there had been when it was put down.
    put_down_at: u64,
    /// Names of the programs that it is loading, the innermost last.
    pub loading: Vec<String>,
    /// How many bytes of it the heap has counted, as those of a suspended coroutine.
    pub counted: usize,
}

/// So many registers and frames a thread begins with.
const REGISTERS: usize = 16;
const FRAMES: usize = 4;
/// So many registers are kept, however few are in use.
const MUCH: usize = 1 << 12;

/// How much a stack of some size is to have that needs more: twice as much, unless only less
/// is to be had.
fn larger(needed: usize, count: usize, each: usize) -> Result<usize, Stopped> {
    let double = needed.max(2 * count);
    // The old one is there until all has been copied.
    if ask(double * each).is_ok() {
        return Ok(double);
    }
    let less = needed + needed / 8;
    ask(less * each).map(|()| less)
}

thread_local! {
    /// What is at the bottom of each thread.
    static STOP: Cell<u64> = const { Cell::new(Op::Stop as u64) };
}

/// Where the bottom of a thread begins.
fn stop() -> Pc {
    STOP.with(|word| {
        let code = std::slice::from_ref(word);
        checks::enter(code);
        Pc::start(code)
    })
}

impl Thread {
    /// A thread for a function with its arguments.
    pub fn new(function: Ref<Closure>, args: &[Value]) -> Thread {
        let needed = loaded_of(function).registers as usize + args.len() + 1;
        let mut registers = vec![Value::Unset; needed.max(REGISTERS)];
        // The first register is for the result.
        registers[1..=args.len()].copy_from_slice(args);
        let bottom = Frame {
            pc: stop(),
            constants: Row::constants(&[]),
            closure: function,
            window: Scaled::new(1),
            into: Scaled::new(0),
            is_tail: false,
        };
        let frames = vec![bottom; FRAMES];
        checks::enter(&registers);
        checks::enter(&frames);
        Thread {
            registers,
            frames,
            tails: Vec::new(),
            closure: function,
            at: Thread::begin(function),
            into: Scaled::new(0),
            depth: 1,
            used: 0,
            put_down_at: 0,
            loading: Vec::new(),
            counted: 0,
        }
    }

    /// A thread for a coroutine that has not begun.
    pub fn of_coroutine(function: Ref<Closure>) -> Result<Box<Thread>, Stopped> {
        let registers = (loaded_of(function).registers as usize + 1).max(REGISTERS);
        ask(registers * size_of::<Value>() + FRAMES * size_of::<Frame>())?;
        Ok(Box::new(Thread::new(function, &[])))
    }

    /// Where a thread begins.
    fn begin(function: Ref<Closure>) -> At {
        let loaded = loaded_of(function);
        At {
            pc: loaded.start,
            base: 1,
            constants: loaded.constants,
        }
    }

    /// The registers from a place on.
    pub fn row(&mut self, at: usize) -> Row {
        Row::of(&mut self.registers, at)
    }

    /// A copy with copies of the values in it, while it does not run.
    ///
    /// # Errors
    /// That of what copies.
    pub fn copied<E>(&self, copy: &mut dyn FnMut(Value) -> Result<Value, E>) -> Result<Thread, E> {
        let mut registers = vec![Value::Unset; self.registers.len()];
        for (to, from) in registers.iter_mut().zip(&self.registers[..self.used]) {
            *to = copy(*from)?;
        }
        // The copy of a function is one.
        let mut closures = |closure| {
            let copy = copy(Value::Function(closure))?;
            Ok(copy.as_function().unwrap_or(closure))
        };
        let closure = closures(self.closure)?;
        let mut frames = self.frames.clone();
        for frame in &mut frames[..self.depth] {
            frame.closure = closures(frame.closure)?;
        }
        let mut tails = self.tails.clone();
        for tail in &mut tails {
            tail.closure = closures(tail.closure)?;
        }
        checks::enter(&registers);
        checks::enter(&frames);
        Ok(Thread {
            registers,
            frames,
            tails,
            closure,
            loading: self.loading.clone(),
            ..*self
        })
    }

    /// What the thread has given at its end.
    pub fn result(&self) -> Value {
        self.registers[0]
    }

    /// Makes room for so many frames.
    pub fn more_frames(&mut self, needed: usize) -> Result<(), Stopped> {
        let count = self.frames.len();
        if needed > count {
            let bottom = self.frames[0];
            let room = larger(needed, count, size_of::<Frame>())?;
            checks::leave(&self.frames);
            self.frames.reserve_exact(room - count);
            self.frames.resize(room, bottom);
            checks::enter(&self.frames);
        }
        Ok(())
    }

    /// Makes room for so many registers.
    pub fn make_room(&mut self, needed: usize) -> Result<(), Stopped> {
        let count = self.registers.len();
        if needed > count {
            let room = larger(needed, count, size_of::<Value>())?;
            checks::leave(&self.registers);
            self.registers.reserve_exact(room - count);
            self.registers.resize(room, Value::Unset);
            checks::enter(&self.registers);
        }
        Ok(())
    }

    /// The tail call that has taken the place of the function of a frame, counted from 1.
    pub fn tail(&self, count: usize) -> Option<Tail> {
        if !self.frames[count - 1].is_tail {
            return None;
        }
        self.tails_of(count).next()
    }

    /// The tail calls of a frame, counted from 1, the last first. Those of lower frames lie below
    /// and are not looked at: a report goes over every frame.
    fn tails_of(&self, count: usize) -> impl Iterator<Item = Tail> {
        let from_above = self.tails.iter().rev().copied();
        from_above
            .skip_while(move |tail| tail.frame > count)
            .take_while(move |tail| tail.frame == count)
    }

    /// Notes a tail call, beside the latest that its frame has, or instead of all.
    pub fn note_tail(&mut self, tail: Tail, beside: bool) {
        // A loop of functions that call each other does so at each turn.
        if beside
            && let [.., before, last] = &mut self.tails[..]
            && before.frame == tail.frame
            && last.frame == tail.frame
        {
            *last = tail;
            return;
        }
        self.forget_tails(tail.frame + usize::from(beside));
        self.tails.push(tail);
    }

    /// Notes a tail call in which a function calls itself, if the only one that its frame has is such a one already; whether
    /// that is so.
    #[inline]
    pub fn note_again(&mut self, tail: &Tail) -> bool {
        let (last, before) = match &mut self.tails[..] {
            [.., before, last] => (last, Some(before)),
            [last] => (last, None),
            [] => return false,
        };
        let is_alone = before.is_none_or(|before| before.frame != tail.frame);
        let is_again = is_alone && last.frame == tail.frame && last.closure.is(tail.closure);
        if is_again {
            last.pc = tail.pc;
        }
        is_again
    }

    /// Forgets the tail calls of a frame, counted from 1, and of those above it.
    pub fn forget_tails(&mut self, count: usize) {
        while self.tails.last().is_some_and(|tail| tail.frame >= count) {
            self.tails.pop();
        }
    }

    /// The tail call before that one, if what is built in has been called by that.
    pub fn tail_before(&self, count: usize) -> Option<Tail> {
        self.tails_of(count).nth(1)
    }

    /// The function in which the call of a frame stands, counted from 1.
    pub fn caller(&self, count: usize) -> Ref<Closure> {
        let tail = self.tail(count);
        tail.map_or(self.frames[count - 1].closure, |tail| tail.closure)
    }

    /// Notes how many registers are in use, before something else runs that may collect.
    pub fn put_down(&mut self, used: usize, heap: &Heap) {
        self.used = used.min(self.registers.len());
        self.put_down_at = heap.collections();
    }

    /// Forgets what registers hold that were not in use, if there was a collection since the thread was put down: it
    /// may have been freed, and must never be taken for a value again. Gives back most of the room, too, if it is far more
    /// than what is in use, so that a collection after a deep recursion does not have it all to forget.
    pub fn pick_up(&mut self, heap: &Heap) {
        if self.put_down_at == heap.collections() {
            return;
        }
        if self.registers.len() > MUCH.max(8 * self.used) {
            checks::leave(&self.registers);
            self.registers.truncate(2 * self.used.max(REGISTERS));
            self.registers.shrink_to_fit();
            checks::enter(&self.registers);
        }
        self.registers[self.used..].fill(Value::Unset);
    }

    /// About how many bytes it takes.
    pub fn size(&self) -> usize {
        // With what allocators have for themselves.
        const OWN: usize = size_of::<Thread>() + 4 * 16;
        OWN + self.registers.len() * size_of::<Value>()
            + self.frames.len() * size_of::<Frame>()
            + self.tails.capacity() * size_of::<Tail>()
    }

    /// Shows the marker what it holds with so many frames.
    pub fn trace_up_to(&self, depth: usize, marker: &mut Marker) {
        marker.values(&self.registers[..self.used]);
        for frame in &self.frames[..depth] {
            marker.value(Value::Function(frame.closure));
        }
        for tail in &self.tails {
            marker.value(Value::Function(tail.closure));
        }
    }
}

impl Drop for Thread {
    fn drop(&mut self) {
        checks::leave(&self.registers);
        checks::leave(&self.frames);
    }
}

impl Traced for Thread {
    fn trace(&self, marker: &mut Marker) {
        self.trace_up_to(self.depth, marker);
        marker.value(Value::Function(self.closure));
    }

    fn bytes_beside(&self) -> usize {
        self.size()
    }
}

impl EngineState for Thread {
    fn copied(&self, copy: &mut dyn FnMut(Value) -> Value) -> Option<Box<dyn EngineState>> {
        let mut copied = |value| Ok::<_, std::convert::Infallible>(copy(value));
        let Ok(thread) = self.copied(&mut copied);
        Some(Box::new(thread))
    }
}
