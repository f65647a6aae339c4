//! What the handlers leave: instructions in full, as the walking evaluator would do them, errors included.

use super::leading::Led;
use super::raw::{Pc, Row, Scaled};
use super::{Done, Exit, Machine, Watched, fast};
use crate::bytecode::{Instruction, Op};
use crate::operations::Operation;
use crate::runtime::{self, CarriedOut, Problem, carried_out, not_set};
use crate::values::{Key, LARGEST, Map, Ref, Text, Traced, Value, join};

/// Carries out an instruction and goes on.
#[cold]
#[inline(never)]
pub(super) fn carry_out(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Exit {
    m.culprit = pc;
    m.stand(pc.plus(1), regs, constants);
    if !step(m, pc) {
        return Exit::Failed;
    }
    let (pc, regs, constants) = m.place();
    fast::next(m, pc, regs, constants)
}

/// Pauses at an instruction that leads elsewhere, and goes on there: from where the handlers were
/// begun, so that a handler that does not end in a jump costs no more of the native stack than a slice of
/// steps takes.
#[cold]
#[inline(never)]
pub(super) fn pause(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row, to: Pc) -> Exit {
    m.culprit = pc;
    m.stand(to, regs, constants);
    if rest(m) { Exit::Next } else { Exit::Failed }
}

/// Carries out an instruction; whether that went well.
#[inline(never)]
fn step(m: &mut Machine<'_>, pc: Pc) -> bool {
    let word = word_at(m, pc);
    // The verifier lets no other number in.
    let op = word.op().unwrap_or(Op::Stop);
    if op.may_be_tried() && is_only_tried(m, pc) {
        m.at.pc = m.at.pc.plus(1);
        return true;
    }
    let done = match m.perform(op, word) {
        Err(problem) if problem.may_be_tried_again => m.perform_after_collecting(pc, op, word),
        done => done,
    };
    m.noted(done)
}

/// Whether the instruction after the one at a place says that that one is only tried.
pub(super) fn is_only_tried(m: &Machine<'_>, pc: Pc) -> bool {
    word_at(m, pc.plus(1)).op() == Some(Op::Done)
}

/// Has whoever watches take note of the instruction at a place; the number of the instruction where the
/// run goes on, which is where the machine stands then, or nothing if it ends here.
#[inline(never)]
pub(super) fn count(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Option<u8> {
    m.stand(pc, regs, constants);
    match &m.watched {
        Watched::No => {}
        Watched::Counted(_) => {
            let at = pc.words_from(m.loaded().start);
            m.count(at);
            let ends = matches!(word_at(m, pc).op(), Some(Op::Return | Op::ReturnNothing));
            // What a program has in the end is looked at while its variables are there.
            if ends && m.calls() == 0 && m.asks_alive() {
                m.collect();
            }
        }
        Watched::Led(..) => match m.lead(pc) {
            Led::On => {}
            // That is an instruction to be taken note of.
            Led::Back => return Some(m.at.pc.number()),
            Led::End => return None,
        },
    }
    Some(word_at(m, m.at.pc).number())
}

/// The instruction at a place of the running function, as it was before it was marked.
fn word_at(m: &Machine<'_>, pc: Pc) -> Instruction {
    let loaded = m.loaded();
    loaded.function.code[pc.words_from(loaded.start)]
}

/// Makes a list of some registers.
#[inline(never)]
pub(super) fn make_list(regs: Row, pc: Pc) {
    let items = regs.window(pc.b()).slice(0, pc.c_number());
    regs.put(pc.a(), Value::list(items));
}

/// Lists that are longer are copied with the meter at hand.
const SHORT_LIST: usize = 1 << 8;

/// Begins a loop over a list, if it is one and short; whether it is.
#[inline(never)]
pub(super) fn begin_turns(regs: Row, pc: Pc) -> bool {
    match regs.see(pc.b()) {
        Value::List(list) if list.len() <= SHORT_LIST => {
            regs.put(pc.a(), super::loops::over(list.items.clone()));
            true
        }
        _ => false,
    }
}

/// Makes a list of the items that are in the window of a call, where it is one of the arguments.
#[inline(never)]
pub(super) fn gather(window: Row, before: u16, items: u16) {
    window.set(before, Value::list(window.slice(before + 2, items)));
}

/// Makes a map.
#[inline(never)]
pub(super) fn make_map(regs: Row, pc: Pc) {
    regs.put(pc.a(), Value::map([]));
}

/// Makes a map of the shape that the instruction remembers; whether it remembers one.
#[inline(never)]
pub(super) fn make_row(m: &Machine<'_>, regs: Row, pc: Pc) -> bool {
    let heap = &m.memory.heap;
    let known = pc.plus(1).word() as u32;
    let Some(shape) = heap.shape(known).filter(|_| known != 0) else {
        return false;
    };
    let values = regs.window(pc.b()).slice(0, u16::from(pc.x()));
    regs.put(pc.a(), Value::of_shape(shape, values));
    true
}

/// Makes a variable that functions share and that has no value yet.
#[inline(never)]
pub(super) fn make_variable(regs: Row, pc: Pc) {
    regs.put(pc.a(), Value::Variable(Value::variable(Value::Unset)));
}

/// Makes a variable that functions share of what is in a register.
#[inline(never)]
pub(super) fn share_variable(regs: Row, pc: Pc) {
    let value = regs.take(pc.a());
    regs.put(pc.a(), Value::Variable(Value::variable(value)));
}

/// What has come of an operation that was tried.
#[derive(Clone, Copy)]
pub(super) enum Applied {
    /// It is done.
    Done,
    /// Nothing has: it is to be carried out in full.
    Left,
    /// It has ended in an error, which is noted.
    Failed,
}

/// Carries out an operation on values, if that needs nothing else.
#[inline(never)]
pub(super) fn apply(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Applied {
    let args = regs.window(pc.b()).slice(0, pc.c_number());
    applied(m, pc, regs, constants, args)
}

/// The same on values that need not stand in a row.
#[inline(never)]
pub(super) fn apply_two(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Applied {
    let args = [regs.take(pc.b()), regs.take(pc.c())];
    applied(m, pc, regs, constants, &args)
}

/// Resumes a coroutine that is suspended.
#[inline(never)]
pub(super) fn resume(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Applied {
    resumed(
        m,
        pc,
        regs,
        constants,
        (*regs.see(pc.b()), regs.take(pc.c())),
        pc.a(),
    )
}

/// The same for the next turn of a loop.
#[inline(never)]
pub(super) fn resume_for_turn(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Applied {
    resumed(
        m,
        pc,
        regs,
        constants,
        (*regs.see(pc.a()), Value::Nothing),
        pc.b(),
    )
}

fn resumed(
    m: &mut Machine<'_>,
    pc: Pc,
    regs: Row,
    constants: Row,
    (coroutine, value): (Value, Value),
    into: Scaled,
) -> Applied {
    let Value::Coroutine(coroutine) = coroutine else {
        return Applied::Left;
    };
    if !coroutine.is_waiting() {
        return Applied::Left;
    }
    changed(m, pc, regs, constants, |m| m.resume(coroutine, value, into))
}

/// Suspends the coroutine that runs.
#[inline(never)]
pub(super) fn suspend(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row) -> Applied {
    changed(m, pc, regs, constants, |m| {
        m.suspend(regs.take(pc.b()), pc.a())
    })
}

#[inline]
fn changed(
    m: &mut Machine<'_>,
    pc: Pc,
    regs: Row,
    constants: Row,
    change: impl FnOnce(&mut Machine<'_>) -> Done,
) -> Applied {
    m.culprit = pc;
    m.stand(pc.plus(1), regs, constants);
    match change(m) {
        Ok(()) => Applied::Done,
        Err(problem) if problem.may_be_tried_again => Applied::Left,
        Err(problem) => {
            m.noted(Err(problem));
            Applied::Failed
        }
    }
}

#[inline]
fn applied(m: &mut Machine<'_>, pc: Pc, regs: Row, constants: Row, args: &[Value]) -> Applied {
    let operation = Operation::numbered(pc.x()).filter(|one| !runtime::takes_input(*one));
    let Some(CarriedOut::Native(native)) = operation.map(carried_out) else {
        return Applied::Left;
    };
    if m.memory.heap.is_full() {
        return Applied::Left;
    }
    match m.native(native, args) {
        Ok(value) => {
            regs.put(pc.a(), value);
            Applied::Done
        }
        Err(problem) if problem.may_be_tried_again => Applied::Left,
        Err(problem) => {
            m.culprit = pc;
            m.stand(pc.plus(1), regs, constants);
            m.noted(Err(problem));
            Applied::Failed
        }
    }
}

/// Texts that are longer are looked up with the meter at hand.
const LONGEST_KEY: usize = 1 << 12;

/// A value as a key, if it is one that is looked up quickly.
fn quick_key(value: &Value) -> Option<Key> {
    match value {
        Value::Text(text) if text.len() > LONGEST_KEY => None,
        other => other.key(),
    }
}

/// Puts the value at a key of a map into a register; whether there is one.
#[inline(never)]
pub(super) fn get_key(regs: Row, pc: Pc, map: Ref<Map>) -> bool {
    let value = quick_key(regs.see(pc.c())).and_then(|key| map.get(&key));
    if let Some(value) = value {
        regs.put(pc.a(), value);
    }
    value.is_some()
}

/// Puts the value at a key that is a constant into a register; whether there is one. The word after the
/// instruction remembers where.
#[inline(never)]
pub(super) fn get_name(regs: Row, constants: Row, pc: Pc, map: Ref<Map>) -> bool {
    let Value::Text(name) = *constants.constant(u32::from(pc.c_number())) else {
        return false;
    };
    let value = match map.place_of(name) {
        Some((shape, place)) => {
            pc.plus(1).remember(fast::known_place(shape, place));
            map.at_place(shape, place)
        }
        // All keys of a row have been compared.
        None if map.shape().is_some() => None,
        None => map.get(&Key::Text(name)),
    };
    if let Some(value) = value {
        regs.put(pc.a(), value);
    }
    value.is_some()
}

/// The same where there may be none, which the word remembers, too.
#[inline(never)]
pub(super) fn find_name(regs: Row, constants: Row, pc: Pc, map: Ref<Map>) -> bool {
    let is_there = get_name(regs, constants, pc, map);
    if let Some(shape) = map.shape().filter(|_| !is_there) {
        pc.plus(1).remember(fast::known_place(shape, fast::ABSENT));
    }
    is_there
}

/// Sets the value at a key that is a constant, if a map has it; whether it has. The word after the instruction remembers
/// where.
#[inline(never)]
pub(super) fn put_name(regs: Row, constants: Row, pc: Pc, map: Ref<Map>) -> bool {
    let Value::Text(name) = *constants.constant(u32::from(pc.b_number())) else {
        return false;
    };
    if let Some((shape, place)) = map.place_of(name) {
        pc.plus(1).remember(fast::known_place(shape, place));
        return map.put_at_place(shape, place, || regs.take(pc.c()));
    }
    let has_key = map.shape().is_none() && map.has(&Key::Text(name));
    if has_key {
        map.put(Key::Text(name), regs.take(pc.c()));
    }
    has_key
}

/// Sets the value at a key of a map; whether that could be done at once.
#[inline(never)]
pub(super) fn put_key(m: &Machine<'_>, regs: Row, pc: Pc, map: Ref<Map>) -> bool {
    let Some(key) = quick_key(regs.see(pc.b())) else {
        return false;
    };
    let has_room = !m.memory.heap.is_full() && map.len() < LARGEST && map.reserve_one().is_ok();
    if has_room {
        map.put(key, regs.take(pc.c()));
    }
    has_room
}

/// Puts a value at a key that a map does not have yet; whether that could be done at once.
#[inline(never)]
pub(super) fn put_at_end(m: &Machine<'_>, map: Ref<Map>, pc: Pc, regs: Row) -> bool {
    let (heap, known) = (&m.memory.heap, pc.plus(1).word());
    let number = (known & !fast::LEADS_ON) >> 32;
    let Some(next) = heap.shape(number as u32) else {
        return false;
    };
    if heap.is_full() || !map.put_at_end(known as u32, next, regs.take(pc.c())) {
        return false;
    }
    if known as u32 == 0 {
        heap.count(map.bytes_beside());
    }
    true
}

/// Looks at the limits; whether they are kept.
#[inline(never)]
fn rest(m: &mut Machine<'_>) -> bool {
    let done = m.pause();
    m.noted(done)
}

/// Joins two texts, unless they are too large.
#[inline(never)]
pub(super) fn join_texts(regs: Row, pc: Pc, first: Ref<Text>, second: Ref<Text>) -> bool {
    put_text(regs, pc, join(first, second).ok())
}

/// A text and an integer after it, unless that is too large.
#[inline(never)]
pub(super) fn join_integer(regs: Row, pc: Pc, first: Ref<Text>, n: i64) -> bool {
    put_text(regs, pc, crate::values::join_integer(first, n).ok())
}

/// Puts a text where an instruction wants it; whether there is one.
#[inline]
fn put_text(regs: Row, pc: Pc, text: Option<Ref<Text>>) -> bool {
    let is_there = text.is_some();
    if let Some(text) = text {
        regs.put(pc.a(), Value::Text(text));
    }
    is_there
}

/// An integer as a text.
#[inline(never)]
pub(super) fn show_integer(regs: Row, pc: Pc, n: i64) {
    regs.put(pc.a(), Value::Text(Text::of_integer(n)));
}

impl Machine<'_> {
    /// Notes what went wrong, if anything did.
    fn noted(&mut self, done: Done) -> bool {
        if let Err(problem) = done {
            // A raised value is there already.
            if self.failure.is_none() {
                self.failure = Some(self.failure_of(*problem));
            }
            return false;
        }
        true
    }

    /// Carries out an instruction once more, from where it began, when it has asked for room
    /// that there was not: after a collection there may be.
    #[cold]
    fn perform_after_collecting(&mut self, pc: Pc, op: Op, word: Instruction) -> Done {
        self.at.pc = pc.plus(1);
        // A run has all the room that it had if nobody led it.
        self.checkpoints.clear();
        self.collect();
        self.perform(op, word)
    }

    /// After something has been made: frees what is out of use, if it is time.
    pub(super) fn made(&mut self) -> Done {
        let heap = &self.memory.heap;
        if heap.is_full() {
            return self.clean_up();
        }
        Ok(())
    }

    /// Jumps so many words from the next instruction, which is a step.
    pub(super) fn jump(&mut self, by: i32) -> Done {
        self.at.pc = self.at.pc.plus(by);
        self.fuel -= 1;
        if self.fuel == 0 { self.pause() } else { Ok(()) }
    }

    /// A name, or a key, by its number among the constants.
    pub(super) fn name(&self, number: u16) -> String {
        match self.at.constants.constant(u32::from(number)) {
            Value::Text(text) => text.to_string(),
            _ => String::new(),
        }
    }

    pub(super) fn not_set(&self, name: u16, is_dynamic: bool) -> Box<Problem> {
        not_set(&self.name(name), is_dynamic)
    }
}
