//! The handlers of the instructions: what is frequent, done at once. What they do not know
//! they leave to [`super::slow`].
//!
//! A handler gets where it is and ends in a jump to the handler of the next instruction; all
//! that the handlers share travels in argument registers. Without an optimiser that makes
//! jumps of such calls, each handler returns, and a loop calls the next.

use super::fast_arithmetic as arithmetic;
use super::raw::{Pc, Row};
use super::threads::{Frame, Tail};
use super::{At, Exit, Machine, loaded_of, slow};
use crate::bytecode::{Instruction, Op};
use crate::values::{Closure, Ref, Value};

/// What carries out an instruction.
pub(super) type Handler = fn(&mut Machine<'_>, Pc, Row, Row, Instruction) -> Exit;

/// Goes on with the instruction at a place.
#[inline(always)]
pub(super) fn next(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
    #[cfg(quillon_threaded)]
    {
        let word = pc.word();
        HANDLERS[word.number() as usize](m, pc, regs, constants, word)
    }
    #[cfg(not(quillon_threaded))]
    {
        m.at = At {
            pc,
            regs,
            constants,
        };
        Exit::Next
    }
}

/// Goes on where the machine is.
pub(super) fn dispatch(m: &mut Machine<'_>) -> Exit {
    let At {
        pc,
        regs,
        constants,
    } = m.at;
    let word = pc.word();
    HANDLERS[word.number() as usize](m, pc, regs, constants, word)
}

/// The handlers, by the numbers of the instructions; the verifier lets no other number in.
static HANDLERS: [Handler; 256] = {
    let mut all: [Handler; 256] = [slow::carry_out; 256];
    all[Op::Move as usize] = copy;
    all[Op::Constant as usize] = constant;
    all[Op::Integer as usize] = integer;
    all[Op::Truth as usize] = truth;
    all[Op::Nothing as usize] = nothing;
    all[Op::GetShared as usize] = get_shared;
    all[Op::PutShared as usize] = put_shared;
    all[Op::GetCaptured as usize] = get_captured;
    all[Op::GetOuter as usize] = get_outer;
    all[Op::PutOuter as usize] = put_outer;
    all[Op::GetState as usize] = get_state;
    all[Op::Jump as usize] = jump;
    all[Op::JumpIf as usize] = jump_if;
    all[Op::JumpKind as usize] = jump_kind;
    all[Op::Call as usize] = call;
    all[Op::CallCaptured as usize] = call_captured;
    all[Op::CallReadyMade as usize] = call_ready_made;
    all[Op::TailCall as usize] = tail_call;
    all[Op::Return as usize] = give_back;
    all[Op::ReturnNothing as usize] = give_nothing_back;
    all[Op::Stop as usize] = stop;
    all[Op::Push as usize] = push;
    all[Op::ListAdd as usize] = push_checked;
    all[Op::ListLength as usize] = list_length;
    all[Op::Item as usize] = item;
    all[Op::PutItem as usize] = put_item;
    all[Op::TryLength as usize] = try_length;
    all[Op::TryItem as usize] = try_item;
    all[Op::TryPutItem as usize] = try_put_item;
    all[Op::MapGet as usize] = map_get;
    all[Op::MapPut as usize] = map_put;
    all[Op::EachNext as usize] = each_next;
    arithmetic::with(all)
};

macro_rules! handlers {
    ($($(#[$meta:meta])* fn $name:ident($m:ident, $pc:ident, $regs:ident, $constants:ident, $word:ident) $body:block)*) => {
        $($(#[$meta])* fn $name($m: &mut Machine<'_>, $pc: Pc, $regs: Row, $constants: Row, $word: Instruction) -> Exit {
            $body
        })*
    };
}

/// Jumps so many words from the next instruction, which is a step.
#[inline(always)]
pub(super) fn jump_by(m: &mut Machine<'_>, pc: Pc, by: i32, regs: Row, constants: Row) -> Exit {
    m.fuel -= 1;
    if m.fuel == 0 {
        return slow::pause(m, pc, pc.plus(1 + by), regs, constants);
    }
    next(m, pc.plus(1 + by), regs, constants)
}

/// The place of a list's item, counted from a base; anything too large where there is none.
#[inline(always)]
fn position(index: i64, base: u8) -> usize {
    index.wrapping_sub(i64::from(base)) as usize
}

handlers! {
    fn copy(m, pc, regs, constants, word) {
        regs.copy(word.a(), word.b());
        next(m, pc.plus(1), regs, constants)
    }

    fn constant(m, pc, regs, constants, word) {
        regs.set(word.a(), *constants.constant(word.long() as u32));
        next(m, pc.plus(1), regs, constants)
    }

    fn integer(m, pc, regs, constants, word) {
        regs.set(word.a(), Value::Integer(i64::from(word.long())));
        next(m, pc.plus(1), regs, constants)
    }

    fn truth(m, pc, regs, constants, word) {
        regs.set(word.a(), Value::Truth(word.x() != 0));
        next(m, pc.plus(1), regs, constants)
    }

    fn nothing(m, pc, regs, constants, word) {
        regs.set(word.a(), Value::Nothing);
        next(m, pc.plus(1), regs, constants)
    }

    fn get_shared(m, pc, regs, constants, word) {
        if let Value::Variable(variable) = regs.at(word.b()) {
            let value = variable.get();
            if value.is_set() {
                regs.set(word.a(), value);
                return next(m, pc.plus(1), regs, constants);
            }
        }
        slow::carry_out(m, pc, regs, constants, word)
    }

    fn put_shared(m, pc, regs, constants, word) {
        if let Value::Variable(variable) = regs.at(word.a()) {
            variable.set(regs.get(word.b()));
        }
        next(m, pc.plus(1), regs, constants)
    }

    fn get_captured(m, pc, regs, constants, word) {
        regs.set(word.a(), m.closure.captured(word.b()));
        next(m, pc.plus(1), regs, constants)
    }

    fn get_outer(m, pc, regs, constants, word) {
        if let Value::Variable(variable) = m.closure.captured(word.b()) {
            let value = variable.get();
            if value.is_set() {
                regs.set(word.a(), value);
                return next(m, pc.plus(1), regs, constants);
            }
        }
        slow::carry_out(m, pc, regs, constants, word)
    }

    fn put_outer(m, pc, regs, constants, word) {
        if let Value::Variable(variable) = m.closure.captured(word.a()) {
            variable.set(regs.get(word.b()));
        }
        next(m, pc.plus(1), regs, constants)
    }

    fn get_state(m, pc, regs, constants, word) {
        match m.memory.state.get(word.b() as usize) {
            Some(value) => {
                regs.set(word.a(), *value);
                next(m, pc.plus(1), regs, constants)
            }
            None => slow::carry_out(m, pc, regs, constants, word),
        }
    }

    fn jump(m, pc, regs, constants, word) {
        jump_by(m, pc, word.long(), regs, constants)
    }

    fn jump_if(m, pc, regs, constants, word) {
        match regs.at(word.a()) {
            Value::Truth(truth) if u8::from(*truth) == word.x() => {
                jump_by(m, pc, word.long(), regs, constants)
            }
            Value::Truth(_) => next(m, pc.plus(1), regs, constants),
            _ => slow::carry_out(m, pc, regs, constants, word),
        }
    }

    fn jump_kind(m, pc, regs, constants, word) {
        if regs.at(word.a()).kind() as u8 == word.x() {
            return next(m, pc.plus(1 + word.long()), regs, constants);
        }
        next(m, pc.plus(1), regs, constants)
    }

    fn call(m, pc, regs, constants, word) {
        match *regs.at(word.c()) {
            Value::Function(closure) => begin(m, pc, regs, constants, word, closure),
            _ => slow::carry_out(m, pc, regs, constants, word),
        }
    }

    fn call_captured(m, pc, regs, constants, word) {
        match m.closure.captured(word.c()) {
            Value::Function(closure) => begin(m, pc, regs, constants, word, closure),
            _ => slow::carry_out(m, pc, regs, constants, word),
        }
    }

    fn call_ready_made(m, pc, regs, constants, word) {
        match m.memory.ready_made.get(word.c() as usize) {
            Some(Value::Function(closure)) => {
                let closure = *closure;
                begin(m, pc, regs, constants, word, closure)
            }
            _ => slow::carry_out(m, pc, regs, constants, word),
        }
    }

    fn tail_call(m, pc, regs, constants, word) {
        let Value::Function(closure) = *regs.at(word.c()) else {
            return slow::carry_out(m, pc, regs, constants, word);
        };
        let loaded = loaded_of(closure);
        let count = u32::from(word.x());
        let room = m.last_register.from(regs);
        m.fuel -= 1;
        if loaded.params != count || room <= loaded.registers as usize || m.fuel == 0 {
            m.fuel += 1;
            return slow::carry_out(m, pc, regs, constants, word);
        }
        replace(m, pc, regs, word, closure);
        next(m, loaded.start, regs, loaded.constants)
    }

    fn give_back(m, _pc, regs, _constants, word) {
        let value = regs.get(word.a());
        give(m, regs, value)
    }

    fn give_nothing_back(m, _pc, regs, _constants, _word) {
        give(m, regs, Value::Nothing)
    }

    fn stop(m, pc, regs, constants, _word) {
        m.at = At { pc, regs, constants };
        Exit::Done
    }

    fn push(m, pc, regs, constants, word) {
        if let Value::List(list) = regs.at(word.a())
            && list.push(regs.get(word.b()))
        {
            return next(m, pc.plus(1), regs, constants);
        }
        slow::carry_out(m, pc, regs, constants, word)
    }

    fn push_checked(m, pc, regs, constants, word) {
        if let Value::List(list) = regs.at(word.a())
            && list.push(regs.get(word.b()))
        {
            return next(m, pc.plus(1), regs, constants);
        }
        slow::carry_out(m, pc, regs, constants, word)
    }

    fn list_length(m, pc, regs, constants, word) {
        match regs.at(word.b()) {
            Value::List(list) => {
                regs.set(word.a(), Value::Integer(list.len() as i64));
                next(m, pc.plus(1), regs, constants)
            }
            _ => slow::carry_out(m, pc, regs, constants, word),
        }
    }

    fn item(m, pc, regs, constants, word) {
        if let (Value::List(list), Value::Integer(index)) = (regs.at(word.b()), regs.at(word.c()))
            && let Some(value) = list.at(position(*index, word.x()))
        {
            regs.set(word.a(), value);
            return next(m, pc.plus(1), regs, constants);
        }
        slow::carry_out(m, pc, regs, constants, word)
    }

    fn put_item(m, pc, regs, constants, word) {
        if let (Value::List(list), Value::Integer(index)) = (regs.at(word.a()), regs.at(word.b()))
            && list.put(position(*index, word.x()), regs.get(word.c()))
        {
            return next(m, pc.plus(1), regs, constants);
        }
        slow::carry_out(m, pc, regs, constants, word)
    }

    fn try_length(m, pc, regs, constants, word) {
        if let Value::List(list) = regs.at(word.b()) {
            regs.set(word.a(), Value::Integer(list.len() as i64));
            return over(m, pc, regs, constants);
        }
        next(m, pc.plus(2), regs, constants)
    }

    fn try_item(m, pc, regs, constants, word) {
        if let (Value::List(list), Value::Integer(index)) = (regs.at(word.b()), regs.at(word.c()))
            && let Some(value) = list.at(position(*index, word.x()))
        {
            regs.set(word.a(), value);
            return over(m, pc, regs, constants);
        }
        next(m, pc.plus(2), regs, constants)
    }

    fn try_put_item(m, pc, regs, constants, word) {
        if let (Value::List(list), Value::Integer(index)) = (regs.at(word.a()), regs.at(word.b()))
            && list.put(position(*index, word.x()), regs.get(word.c()))
        {
            return over(m, pc, regs, constants);
        }
        next(m, pc.plus(2), regs, constants)
    }

    fn map_get(m, pc, regs, constants, word) {
        if let Value::Map(map) = regs.at(word.b()) {
            let known = pc.plus(1).word().0;
            if let Some(value) = map.at_place(known as u32, (known >> 32) as u32) {
                regs.set(word.a(), value);
                return next(m, pc.plus(2), regs, constants);
            }
        }
        slow::carry_out(m, pc, regs, constants, word)
    }

    fn map_put(m, pc, regs, constants, word) {
        if let Value::Map(map) = regs.at(word.a()) {
            let known = pc.plus(1).word().0;
            if map.put_at_place(known as u32, (known >> 32) as u32, regs.get(word.c())) {
                return next(m, pc.plus(2), regs, constants);
            }
        }
        slow::carry_out(m, pc, regs, constants, word)
    }

    fn each_next(m, pc, regs, constants, word) {
        if let Value::Inner(inner) = regs.at(word.a())
            && let Some(item) = inner.next_item()
        {
            regs.set(word.b(), item);
            return jump_by(m, pc, i32::from(word.c() as i16), regs, constants);
        }
        slow::carry_out(m, pc, regs, constants, word)
    }
}

/// After an instruction that was tried and could be done: the next is a jump, made here.
#[inline(always)]
fn over(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
    let jump = pc.plus(1).word();
    next(m, pc.plus(2 + jump.long()), regs, constants)
}

/// Begins a function whose arguments are in the window of a call.
#[inline(always)]
fn begin(
    m: &mut Machine<'_>,
    pc: Pc,
    regs: Row,
    constants: Row,
    word: Instruction,
    closure: Ref<Closure>,
) -> Exit {
    let loaded = loaded_of(closure);
    let window = u32::from(word.b());
    let inner = regs.plus(window);
    let room = m.last_register.from(inner);
    m.fuel -= 1;
    let ready = loaded.params == u32::from(word.x())
        && room > loaded.registers as usize
        && m.top != m.last_frame
        && m.fuel != 0;
    if !ready {
        m.fuel += 1;
        return slow::carry_out(m, pc, regs, constants, word);
    }
    m.top.push(Frame {
        pc: pc.plus(1),
        constants,
        closure: m.closure,
        window,
        into: word.a(),
        is_tail: false,
    });
    m.closure = closure;
    next(m, loaded.start, inner, loaded.constants)
}

/// Gives a value to what called the running function.
#[inline(always)]
fn give(m: &mut Machine<'_>, regs: Row, value: Value) -> Exit {
    let frame = m.top.pop();
    let regs = regs.minus(frame.window);
    m.closure = frame.closure;
    regs.set(frame.into, value);
    next(m, frame.pc, regs, frame.constants)
}

/// Puts a function in the place of the running one; its arguments are in the window.
pub(super) fn replace(
    m: &mut Machine<'_>,
    pc: Pc,
    regs: Row,
    word: Instruction,
    closure: Ref<Closure>,
) {
    let window = word.b();
    for index in 0..u16::from(word.x()) {
        regs.copy(index, window + index);
    }
    let number = m.top.count(&m.thread.frames);
    let tails = &mut m.thread.tails;
    while tails.last().is_some_and(|tail| tail.frame >= number) {
        tails.pop();
    }
    tails.push(Tail {
        frame: number,
        closure: m.closure,
        pc,
    });
    m.top.last().is_tail = true;
    m.closure = closure;
}
