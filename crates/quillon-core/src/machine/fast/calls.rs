//! The handlers of calls: a function begins, and gives its value back.
// A handler is a few machine instructions; a call inside one would cost more than it does.
#![allow(clippy::inline_always)]

use super::{Handler, next};
use crate::bytecode::{Counts, Op};
use crate::machine::raw::{Pc, Row, Scaled};
use crate::machine::threads::{Frame, Tail};
use crate::machine::{Exit, Loaded, Machine, loaded_of, slow};
use crate::values::{Closure, Ref, Value};

/// The handlers, with those that are made here.
pub(super) const fn with(mut all: [Handler; 256]) -> [Handler; 256] {
    all[Op::Call as usize] = call;
    all[Op::CallCaptured as usize] = call_captured;
    all[Op::CallItself as usize] = call_itself;
    all[Op::CallBuiltIn as usize] = call_built_in;
    all[Op::CallListed as usize] = call_listed;
    all[Op::CallListedCaptured as usize] = call_listed_captured;
    all[Op::TailCallListed as usize] = tail_call_listed;
    all[Op::TailCall as usize] = tail_call;
    all[Op::TailCallItself as usize] = tail_call_itself;
    all[Op::Return as usize] = give_back;
    all[Op::ReturnNothing as usize] = give_nothing_back;
    all
}

handlers! {
    fn call(m, pc, regs, constants) {
        match *regs.see(pc.c()) {
            Value::Function(closure) => begin(m, pc, regs, constants, closure),
            _ => slow::carry_out(m, pc, regs, constants),
        }
    }

    fn call_captured(m, pc, regs, constants) {
        match m.closure.captured(pc.c_number()) {
            Value::Function(closure) => begin(m, pc, regs, constants, closure),
            _ => slow::carry_out(m, pc, regs, constants),
        }
    }

    fn call_itself(m, pc, regs, constants) {
        let closure = m.closure;
        enter(m, pc, regs, constants, closure, loaded_of(closure), true)
    }

    fn call_built_in(m, pc, regs, constants) {
        match m.memory.built_in.get(pc.c_number() as usize) {
            Some(Value::Function(closure)) => begin(m, pc, regs, constants, closure),
            _ => slow::carry_out(m, pc, regs, constants),
        }
    }

    fn call_listed(m, pc, regs, constants) {
        match *regs.see(pc.c()) {
            Value::Function(closure) => begin_listed(m, pc, regs, constants, closure),
            _ => slow::carry_out(m, pc, regs, constants),
        }
    }

    fn call_listed_captured(m, pc, regs, constants) {
        match m.closure.captured(pc.c_number()) {
            Value::Function(closure) => begin_listed(m, pc, regs, constants, closure),
            _ => slow::carry_out(m, pc, regs, constants),
        }
    }

    fn tail_call_listed(m, pc, regs, constants) {
        let Value::Function(closure) = *regs.see(pc.c()) else {
            return slow::carry_out(m, pc, regs, constants);
        };
        let loaded = loaded_of(closure);
        let is_ready = regs.has_room(m.last_register, loaded.registers) && m.fuel > 1;
        let lay_out = || lay_out(regs.window(pc.b()), Counts::of(pc.x()), loaded);
        let Some(count) = is_ready.then(lay_out).flatten() else {
            return replace_gathered(m, pc, regs, constants, closure);
        };
        m.fuel -= 1;
        replace(m, pc, regs, pc.b(), count, closure);
        next(m, loaded.start, regs, loaded.constants)
    }

    fn tail_call(m, pc, regs, constants) {
        let Value::Function(closure) = *regs.see(pc.c()) else {
            return slow::carry_out(m, pc, regs, constants);
        };
        let loaded = loaded_of(closure);
        let fits = loaded.params == u32::from(pc.x());
        if !fits || !regs.has_room(m.last_register, loaded.registers) || m.fuel <= 1 {
            return slow::carry_out(m, pc, regs, constants);
        }
        m.fuel -= 1;
        replace(m, pc, regs, pc.b(), pc.x(), closure);
        next(m, loaded.start, regs, loaded.constants)
    }

    fn tail_call_itself(m, pc, regs, constants) {
        // Its registers are there, and it takes so many arguments.
        if m.fuel <= 1 {
            return slow::carry_out(m, pc, regs, constants);
        }
        m.fuel -= 1;
        let closure = m.closure;
        let tail = Tail {
            frame: m.top.count(&m.thread.frames),
            closure,
            pc,
        };
        // As a loop goes on.
        if m.top.last().is_tail && m.thread.note_again(&tail) {
            lay_in(regs, pc.b(), pc.x());
        } else {
            replace(m, pc, regs, pc.b(), pc.x(), closure);
        }
        next(m, loaded_of(closure).start, regs, constants)
    }

    fn give_back(m, pc, regs, _constants) {
        let value = regs.take(pc.a());
        give(m, regs, value)
    }

    fn give_nothing_back(m, _pc, regs, _constants) {
        give(m, regs, Value::Nothing)
    }
}

/// Has the arguments of a call that end in a list where a function takes its items; how many registers that takes, or
/// nothing if it takes none.
#[inline(always)]
fn lay_out(window: Row, counts: Counts, loaded: &Loaded) -> Option<u8> {
    let Counts { before, items } = counts;
    if loaded.listed != u32::from(before) + 1 {
        return None;
    }
    window.set(u16::from(before), Value::Unset);
    window.set(u16::from(before) + 1, Value::Integer(i64::from(items)));
    Some(before + 2 + items)
}

/// Begins a function whose arguments are in the window of a call.
#[inline(always)]
fn begin(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row, closure: Ref<Closure>) -> Exit {
    let loaded = loaded_of(closure);
    let fits = loaded.params == u32::from(pc.x());
    enter(m, pc, regs, constants, closure, loaded, fits)
}

/// The same of one whose arguments end in a list.
#[inline(always)]
fn begin_listed(
    m: &mut Machine<'_>,
    pc: Pc,
    regs: Row,
    constants: Row,
    closure: Ref<Closure>,
) -> Exit {
    let loaded = loaded_of(closure);
    match lay_out(regs.window(pc.b()), Counts::of(pc.x()), loaded) {
        Some(_) => enter(m, pc, regs, constants, closure, loaded, true),
        // Apart: what calls something has its own to keep, and the way above would have to, too.
        None => begin_gathered(m, pc, regs, constants, closure),
    }
}

/// The same with the list made, if there is room for it.
#[inline(never)]
fn begin_gathered(
    m: &mut Machine<'_>,
    pc: Pc,
    regs: Row,
    constants: Row,
    closure: Ref<Closure>,
) -> Exit {
    let loaded = loaded_of(closure);
    let Counts { before, items } = Counts::of(pc.x());
    let fits = loaded.params == u32::from(before) + 1 && !m.memory.heap.is_full();
    if fits {
        slow::gather(regs.window(pc.b()), u16::from(before), u16::from(items));
    }
    enter(m, pc, regs, constants, closure, loaded, fits)
}

/// The same where it is known whether the function takes so many arguments.
#[inline(always)]
fn enter(
    m: &mut Machine<'_>,
    pc: Pc,
    regs: Row,
    constants: Row,
    closure: Ref<Closure>,
    loaded: &Loaded,
    fits: bool,
) -> Exit {
    let inner = regs.window(pc.b());
    // A call is a step; the last one of a slice is taken with care.
    let ready = fits
        && inner.has_room(m.last_register, loaded.registers)
        && m.top.is_below(m.last_frame)
        && m.fuel > 1;
    if !ready {
        return slow::carry_out(m, pc, regs, constants);
    }
    m.fuel -= 1;
    m.top.push(Frame {
        pc: pc.plus(1),
        constants,
        closure: m.closure,
        window: pc.b(),
        into: pc.a(),
        is_tail: false,
    });
    m.closure = closure;
    next(m, loaded.start, inner, loaded.constants)
}

/// Puts a function in the place of the running one; its arguments end in a list, which is made if there is room for it.
#[inline(never)]
fn replace_gathered(
    m: &mut Machine<'_>,
    pc: Pc,
    regs: Row,
    constants: Row,
    closure: Ref<Closure>,
) -> Exit {
    let loaded = loaded_of(closure);
    let Counts { before, items } = Counts::of(pc.x());
    let is_ready = regs.has_room(m.last_register, loaded.registers) && m.fuel > 1;
    if !is_ready || loaded.params != u32::from(before) + 1 || m.memory.heap.is_full() {
        return slow::carry_out(m, pc, regs, constants);
    }
    slow::gather(regs.window(pc.b()), u16::from(before), u16::from(items));
    m.fuel -= 1;
    replace(m, pc, regs, pc.b(), before + 1, closure);
    next(m, loaded.start, regs, loaded.constants)
}

/// Gives a value to what called the running function.
#[inline(always)]
fn give(m: &mut Machine<'_>, regs: Row, value: Value) -> Exit {
    let frame = m.top.pop();
    let regs = regs.before_window(frame.window);
    m.closure = frame.closure;
    regs.put(frame.into, value);
    next(m, frame.pc, regs, frame.constants)
}

/// Puts the arguments in the window of a call in the place of those of the running function.
#[inline(always)]
fn lay_in(regs: Row, window: Scaled, count: u8) {
    let from = regs.window(window);
    for index in 0..u16::from(count) {
        regs.set(index, from.get(index));
    }
}

/// Puts a function in the place of the running one; its arguments are in the window.
pub(in crate::machine) fn replace(
    m: &mut Machine<'_>,
    pc: Pc,
    regs: Row,
    window: Scaled,
    count: u8,
    closure: Ref<Closure>,
) {
    lay_in(regs, window, count);
    let number = m.top.count(&m.thread.frames);
    // What is built in takes nobody's place for good: it could as well have been filled in.
    let is_kept = loaded_of(closure).function.built_in && m.top.last().is_tail;
    let tail = Tail {
        frame: number,
        closure: m.closure,
        pc,
    };
    m.thread.note_tail(tail, is_kept);
    m.top.last().is_tail = true;
    m.closure = closure;
}
