//! The handlers of the instructions: what is frequent, done at once. What they do not know
//! they leave to [`super::slow`].
//!
//! A handler gets where it is and ends in a jump to the handler of the next instruction; all
//! that the handlers share travels in argument registers. That holds as long as a handler keeps
//! nothing on the native stack: what needs more is a function of its own that is not inlined.
//! `jumps` reads the machine code of each to see that it holds. Without an optimiser that makes
//! jumps of such calls, each handler returns, and a loop calls the next.
// A handler is a few machine instructions; a call inside one would cost more than it does.
#![allow(clippy::inline_always)]

/// Functions with the parameters that all handlers have.
macro_rules! handlers {
    ($($(#[$meta:meta])* fn $name:ident($m:ident, $pc:ident, $regs:ident, $constants:ident) $body:block)*) => {
        $($(#[$meta])* fn $name($m: &mut Machine<'_>, $pc: Pc, $regs: Row, $constants: Row) -> Exit {
            $body
        })*
    };
}

mod arithmetic;
mod calls;
mod coroutines;
mod counting;
mod dividing;
mod given;
#[cfg(all(test, quillon_threaded, target_arch = "x86_64", target_os = "linux"))]
mod jumps;
mod making;
mod tries;
mod variables;
mod wholes;

pub(super) use calls::replace;

use super::leading::MARK;
use super::probe::PROBE;
use super::raw::{Pc, Row};
use super::{Exit, Machine, slow};
use crate::bytecode::Op;
use crate::operations::Operation;
use crate::values::{Map, Ref, Text, Value};

/// What carries out an instruction.
pub(super) type Handler = fn(&mut Machine<'_>, Pc, Row, Row) -> Exit;

/// Goes on with the instruction at a place.
#[inline(always)]
pub(super) fn next(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
    #[cfg(quillon_threaded)]
    {
        HANDLERS[pc.number() as usize](m, pc, regs, constants)
    }
    #[cfg(not(quillon_threaded))]
    {
        m.stand(pc, regs, constants);
        Exit::Next
    }
}

/// Goes on where the machine is.
pub(super) fn dispatch(m: &mut Machine<'_>) -> Exit {
    let (pc, regs, constants) = m.place();
    HANDLERS[pc.number() as usize](m, pc, regs, constants)
}

/// The handlers, by the numbers of the instructions; the verifier lets no other number in.
static HANDLERS: [Handler; 256] = {
    let mut all: [Handler; 256] = [slow::carry_out; 256];
    all[Op::Move as usize] = copy;
    all[Op::Constant as usize] = constant;
    all[Op::Integer as usize] = integer;
    all[Op::Truth as usize] = truth;
    all[Op::Nothing as usize] = nothing;
    all[Op::Not as usize] = not;
    all[Op::Finish as usize] = finish;
    all[Op::Jump as usize] = jump;
    all[Op::Done as usize] = done;
    all[Op::JumpIf as usize] = jump_if;
    all[Op::JumpKind as usize] = jump_kind;
    all[Op::JumpUnlessKind as usize] = jump_unless_kind;
    all[Op::JumpNumber as usize] = jump_number;
    all[Op::TryJumpIf as usize] = try_jump_if;
    all[Op::Stop as usize] = stop;
    all[Op::Push as usize] = push;
    all[Op::ListAdd as usize] = push;
    all[Op::ListTake as usize] = list_take;
    all[Op::ListLength as usize] = list_length;
    all[Op::Item as usize] = item;
    all[Op::ItemInteger as usize] = item_integer;
    all[Op::PutItem as usize] = put_item;
    all[Op::MapGet as usize] = map_get;
    all[Op::MapPut as usize] = map_put;
    all[Op::PutKey as usize] = put_key;
    all[Op::Apply as usize] = apply;
    all[Op::ApplyTwo as usize] = apply_two;
    all[Op::Shown as usize] = show;
    all[Op::Join as usize] = join;
    all[Op::JoinShown as usize] = join_shown;
    all[Op::JoinShownConstant as usize] = join_shown_constant;
    all[PROBE as usize] = probe;
    all[MARK as usize] = probe;
    let all = making::with(tries::with(variables::with(all)));
    let all = coroutines::with(calls::with(counting::with(given::with(all))));
    arithmetic::with(dividing::with(all))
};

/// In what `map_put` remembers: the map had the first shape before the key was put, and the
/// second after that.
pub(super) const LEADS_ON: u64 = 1 << 63;

/// What a word remembers of a key: the shape that has it, and its place there.
pub(super) fn known_place(shape: u32, place: u32) -> u64 {
    u64::from(shape) | u64::from(place) << 32
}

/// The place of a key that maps of a shape do not have.
pub(super) const ABSENT: u32 = u32::MAX;

/// Jumps so many words from the next instruction, which is a step.
#[inline(always)]
pub(super) fn jump_by(m: &mut Machine<'_>, pc: Pc, by: i32, regs: Row, constants: Row) -> Exit {
    m.fuel -= 1;
    if m.fuel == 0 {
        return slow::pause(m, pc, regs, constants, pc.plus(1 + by));
    }
    next(m, pc.plus(1 + by), regs, constants)
}

/// The integer in the field `c`.
#[inline(always)]
fn field(pc: Pc) -> i64 {
    i64::from(pc.c_number() as i16)
}

/// A character of a text in which each byte is one, counted from a base, if there has been such a one before.
#[inline(always)]
fn letter(m: &Machine<'_>, text: &Value, place: &Value, base: u8) -> Option<Ref<Text>> {
    match (text, place) {
        (Value::Text(text), Value::Integer(place)) => {
            let byte = text.plain_byte(position(*place, base))?;
            m.memory.heap.known_letter(byte)
        }
        _ => None,
    }
}

/// The place of a list's item, counted from a base; anything too large where there is none.
#[inline(always)]
fn position(index: i64, base: u8) -> usize {
    index.wrapping_sub(i64::from(base)) as usize
}

handlers! {
    /// Has whoever watches take note of an instruction, and carries it out.
    fn probe(m, pc, regs, constants) {
        match slow::count(m, pc, regs, constants) {
            Some(number) => {
                let (pc, regs, constants) = m.place();
                HANDLERS[number as usize](m, pc, regs, constants)
            }
            None => Exit::Failed,
        }
    }

    fn copy(m, pc, regs, constants) {
        regs.copy(pc.a(), pc.b());
        next(m, pc.plus(1), regs, constants)
    }

    fn constant(m, pc, regs, constants) {
        regs.put(pc.a(), *constants.constant(pc.long() as u32));
        next(m, pc.plus(1), regs, constants)
    }

    fn integer(m, pc, regs, constants) {
        regs.put(pc.a(), Value::Integer(i64::from(pc.long())));
        next(m, pc.plus(1), regs, constants)
    }

    fn truth(m, pc, regs, constants) {
        regs.put_truth(pc.a(), pc.x() != 0);
        next(m, pc.plus(1), regs, constants)
    }

    fn nothing(m, pc, regs, constants) {
        regs.put(pc.a(), Value::Nothing);
        next(m, pc.plus(1), regs, constants)
    }

    fn not(m, pc, regs, constants) {
        match regs.see(pc.b()) {
            Value::Truth(truth) => {
                let truth = *truth;
                regs.put_truth(pc.a(), !truth);
                next(m, pc.plus(1), regs, constants)
            }
            _ => slow::carry_out(m, pc, regs, constants),
        }
    }

    fn finish(m, pc, regs, constants) {
        match regs.see(pc.a()) {
            Value::Inner(_) => slow::carry_out(m, pc, regs, constants),
            _ => next(m, pc.plus(1), regs, constants),
        }
    }

    fn jump(m, pc, regs, constants) {
        jump_by(m, pc, pc.long(), regs, constants)
    }

    fn done(m, pc, regs, constants) {
        next(m, pc.plus(1 + pc.long()), regs, constants)
    }

    fn jump_if(m, pc, regs, constants) {
        match regs.see(pc.a()) {
            Value::Truth(truth) if u8::from(*truth) == pc.x() => {
                jump_by(m, pc, pc.long(), regs, constants)
            }
            Value::Truth(_) => next(m, pc.plus(1), regs, constants),
            _ => slow::carry_out(m, pc, regs, constants),
        }
    }

    fn jump_kind(m, pc, regs, constants) {
        if regs.see(pc.a()).kind() as u8 == pc.x() {
            return next(m, pc.plus(1 + pc.long()), regs, constants);
        }
        next(m, pc.plus(1), regs, constants)
    }

    fn jump_number(m, pc, regs, constants) {
        if matches!(regs.see(pc.a()), Value::Integer(_) | Value::Number(_)) {
            return next(m, pc.plus(1 + pc.long()), regs, constants);
        }
        next(m, pc.plus(1), regs, constants)
    }

    fn jump_unless_kind(m, pc, regs, constants) {
        if regs.see(pc.a()).kind() as u8 != pc.x() {
            return next(m, pc.plus(1 + pc.long()), regs, constants);
        }
        next(m, pc.plus(1), regs, constants)
    }

    fn try_jump_if(m, pc, regs, constants) {
        match regs.see(pc.a()) {
            Value::Truth(truth) if u8::from(*truth) == pc.x() => {
                jump_by(m, pc, pc.long(), regs, constants)
            }
            Value::Truth(_) => over(m, pc, regs, constants),
            _ => next(m, pc.plus(2), regs, constants),
        }
    }

    fn stop(m, pc, regs, constants) {
        m.stand(pc, regs, constants);
        Exit::Done
    }

    fn push(m, pc, regs, constants) {
        if let Value::List(list) = regs.see(pc.a())
            && list.items.push(regs.take(pc.b()))
        {
            return next(m, pc.plus(1), regs, constants);
        }
        slow::carry_out(m, pc, regs, constants)
    }

    fn list_take(m, pc, regs, constants) {
        if let Value::List(list) = regs.see(pc.b())
            && let Some(last) = list.items.pop()
        {
            regs.put(pc.a(), last);
            return next(m, pc.plus(1), regs, constants);
        }
        slow::carry_out(m, pc, regs, constants)
    }

    fn list_length(m, pc, regs, constants) {
        match regs.see(pc.b()) {
            Value::List(list) => {
                regs.put(pc.a(), Value::Integer(list.len() as i64));
                next(m, pc.plus(1), regs, constants)
            }
            _ => slow::carry_out(m, pc, regs, constants),
        }
    }

    fn item(m, pc, regs, constants) {
        if let (Value::List(list), Value::Integer(index)) = (regs.see(pc.b()), regs.see(pc.c()))
            && let Some(value) = list.items.get(position(*index, pc.x()))
        {
            regs.put(pc.a(), value);
            return next(m, pc.plus(1), regs, constants);
        }
        slow::carry_out(m, pc, regs, constants)
    }

    fn item_integer(m, pc, regs, constants) {
        if let Value::List(list) = regs.see(pc.b())
            && let Some(value) = list.items.get(position(field(pc), pc.x()))
        {
            regs.put(pc.a(), value);
            return next(m, pc.plus(1), regs, constants);
        }
        slow::carry_out(m, pc, regs, constants)
    }

    fn put_item(m, pc, regs, constants) {
        if let (Value::List(list), Value::Integer(index)) = (regs.see(pc.a()), regs.see(pc.b()))
            && list.items.put(position(*index, pc.x()), || regs.take(pc.c()))
        {
            return next(m, pc.plus(1), regs, constants);
        }
        slow::carry_out(m, pc, regs, constants)
    }

    fn map_get(m, pc, regs, constants) {
        if let Value::Map(map) = regs.see(pc.b()) {
            let known = pc.plus(1).word();
            if let Some(value) = map.at_place(known as u32, (known >> 32) as u32) {
                regs.put(pc.a(), value);
                return next(m, pc.plus(2), regs, constants);
            }
        }
        slow::carry_out(m, pc, regs, constants)
    }

    fn map_put(m, pc, regs, constants) {
        if let Value::Map(map) = regs.see(pc.a()) {
            let known = pc.plus(1).word();
            if known & LEADS_ON != 0 {
                return put_new_key(m, pc, regs, constants, *map);
            }
            if map.put_at_place(known as u32, (known >> 32) as u32, || regs.take(pc.c())) {
                return next(m, pc.plus(2), regs, constants);
            }
        }
        slow::carry_out(m, pc, regs, constants)
    }

    fn put_key(m, pc, regs, constants) {
        if let Value::Map(map) = regs.see(pc.a())
            && slow::put_key(m, regs, pc, *map)
        {
            return next(m, pc.plus(1), regs, constants);
        }
        slow::carry_out(m, pc, regs, constants)
    }

    fn apply(m, pc, regs, constants) {
        if let Some(value) = dividing::brought(pc, regs) {
            regs.put(pc.a(), value);
            return next(m, pc.plus(1), regs, constants);
        }
        let done = slow::apply(m, pc, regs, constants);
        after_applying(m, pc, regs, constants, done)
    }

    fn apply_two(m, pc, regs, constants) {
        if pc.x() == Operation::TextAt as u8
            && let Some(letter) = letter(m, regs.see(pc.b()), regs.see(pc.c()), 0)
        {
            regs.put(pc.a(), Value::Text(letter));
            return next(m, pc.plus(1), regs, constants);
        }
        let done = slow::apply_two(m, pc, regs, constants);
        after_applying(m, pc, regs, constants, done)
    }

    fn show(m, pc, regs, constants) {
        match regs.see(pc.b()) {
            Value::Text(_) => {
                regs.copy(pc.a(), pc.b());
                next(m, pc.plus(1), regs, constants)
            }
            Value::Integer(n) if !m.memory.heap.is_full() => {
                slow::show_integer(regs, pc, *n);
                next(m, pc.plus(1), regs, constants)
            }
            _ => slow::carry_out(m, pc, regs, constants),
        }
    }

    fn join_shown(m, pc, regs, constants) {
        match (regs.see(pc.b()), regs.see(pc.c())) {
            (Value::Text(first), Value::Text(second)) => {
                joined(m, pc, regs, constants, *first, *second)
            }
            (Value::Text(first), Value::Integer(n)) if !m.memory.heap.is_full() => {
                if !slow::join_integer(regs, pc, *first, *n) {
                    return slow::carry_out(m, pc, regs, constants);
                }
                next(m, pc.plus(1), regs, constants)
            }
            _ => slow::carry_out(m, pc, regs, constants),
        }
    }

    fn join(m, pc, regs, constants) {
        if let (Value::Text(first), Value::Text(second)) = (regs.see(pc.b()), regs.see(pc.c())) {
            return joined(m, pc, regs, constants, *first, *second);
        }
        slow::carry_out(m, pc, regs, constants)
    }

    fn join_shown_constant(m, pc, regs, constants) {
        let second = constants.constant(u32::from(pc.c_number()));
        if let (Value::Text(first), Value::Text(second)) = (regs.see(pc.b()), second) {
            return joined(m, pc, regs, constants, *first, *second);
        }
        slow::carry_out(m, pc, regs, constants)
    }
}

/// Two texts one after the other; what is frequent is that they are not too large and the heap
/// is not full.
#[inline(always)]
fn joined(
    m: &mut Machine<'_>,
    pc: Pc,
    regs: Row,
    constants: Row,
    first: Ref<Text>,
    second: Ref<Text>,
) -> Exit {
    if m.memory.heap.is_full() || !slow::join_texts(regs, pc, first, second) {
        return slow::carry_out(m, pc, regs, constants);
    }
    next(m, pc.plus(1), regs, constants)
}

/// Puts a value at a key that a map does not have yet. Not inlined, so that keys that it has do not
/// pay for it.
#[inline(never)]
fn put_new_key(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row, map: Ref<Map>) -> Exit {
    if slow::put_at_end(m, map, pc, regs) {
        return next(m, pc.plus(2), regs, constants);
    }
    slow::carry_out(m, pc, regs, constants)
}

/// After an operation that was tried.
#[inline(always)]
fn after_applying(
    m: &mut Machine<'_>,
    pc: Pc,
    regs: Row,
    constants: Row,
    done: slow::Applied,
) -> Exit {
    match done {
        slow::Applied::Done => next(m, pc.plus(1), regs, constants),
        slow::Applied::Left => slow::carry_out(m, pc, regs, constants),
        slow::Applied::Failed => Exit::Failed,
    }
}

/// After an instruction that was tried and could be done, the last word of which is here: the next is a
/// jump, made here.
#[inline(always)]
fn over(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
    next(m, pc.plus(2 + pc.plus(1).long()), regs, constants)
}
