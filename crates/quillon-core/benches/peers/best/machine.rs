//! The handlers, each ending in a jump to the next.

use super::arithmetic::{
    add, add_const, add_int, div, div_const, eq, ge, gt, le, left_over, lt, mod_int, mul,
    mul_const, mul_int, ne, over, over_int, sub, sub_const, unless_eq, unless_eq_const,
    unless_eq_int, unless_ge_const, unless_ge_int, unless_gt_const, unless_gt_int, unless_le,
    unless_le_const, unless_le_int, unless_lt, unless_lt_const, unless_lt_int, unless_ne,
    unless_ne_const, unless_ne_int,
};
use super::code::{Code, LINK, Op, Program};
use super::heap::{Card, Func, Heap, Kind, List, Shared, Text};
use super::word::{CARD, FUNC, INT, LIST, TEXT, Word};
use super::{making, slow};

pub struct Machine {
    pub heap: Heap,
    pub out: String,
    stack: Vec<Word>,
    /// What lies at or beyond it is no register.
    end: *mut Word,
    /// Texts of one byte, by that byte.
    letters: Vec<Word>,
}

/// No function has more.
const MOST_REGISTERS: usize = 1024;

pub type Pc = *const u64;
pub type Regs = *mut Word;
pub type Handler = unsafe fn(&mut Machine, Pc, Regs, *const Word, *const Func);

/// Runs a program; what it says.
pub fn run(program: &Program) -> String {
    let mut stack = vec![Word(0); 1 << 20];
    let end = unsafe { stack.as_mut_ptr().add(stack.len() - MOST_REGISTERS) };
    let heap = Heap::new(program.shapes.clone());
    let mut machine = Machine {
        heap,
        out: String::new(),
        stack,
        end,
        letters: Vec::new(),
    };
    let mut lasting = Heap::new(Vec::new());
    machine.letters = (0..128)
        .map(|b| slow::text_of(&mut lasting, &[b]))
        .collect();
    unsafe {
        let m = &mut machine;
        let me = m
            .heap
            .take_made(size_of::<Func>(), Kind::Func, 0)
            .cast::<Func>();
        (*me).code = &raw const *program.code;
        let regs = m.stack.as_mut_ptr().add(LINK as usize);
        let stop = [Op::Stop as u64];
        link(regs, stop.as_ptr(), std::ptr::null(), me, 0, 0);
        let (pc, constants) = (program.code.words.as_ptr(), program.code.constants.as_ptr());
        go(m, pc, regs, constants, me);
    }
    std::mem::take(&mut machine.out)
}

impl Machine {
    /// Frees what nothing leads to, if it is time for that, and makes room of every size.
    #[inline(always)]
    pub unsafe fn make_room(&mut self, regs: Regs, me: *const Func) {
        if self.heap.made >= self.heap.limit {
            unsafe { self.collect(regs, me) };
        }
        self.heap.refill();
    }

    #[cold]
    #[inline(never)]
    unsafe fn collect(&mut self, regs: Regs, me: *const Func) {
        unsafe {
            let top = regs.add((*(*me).code).registers);
            let used = top.offset_from(self.stack.as_ptr()) as usize;
            let (used, beyond) = self.stack.split_at_mut(used);
            // What an earlier call left there must not be taken for something. Each has left where it
            // came from, less than this after the one before.
            let mut quiet = 0;
            for word in beyond {
                quiet = if word.0 == 0 { quiet + 1 } else { 0 };
                if quiet > MOST_REGISTERS {
                    break;
                }
                *word = Word(0);
            }
            self.heap.collect(&[used, &[Word::object(FUNC, me)]]);
        }
    }
}

/// Keeps where a call came from before its window.
#[inline(always)]
unsafe fn link(inner: Regs, pc: Pc, k: *const Word, me: *const Func, window: u16, into: u16) {
    unsafe {
        *inner.sub(4) = Word(pc as u64);
        *inner.sub(3) = Word(k as u64);
        *inner.sub(2) = Word::object(FUNC, me);
        *inner.sub(1) = Word(u64::from(window) << 16 | u64::from(into));
    }
}

#[inline(always)]
pub unsafe fn go(m: &mut Machine, pc: Pc, regs: Regs, k: *const Word, me: *const Func) {
    unsafe { HANDLERS.get_unchecked((*pc & 255) as usize)(m, pc, regs, k, me) }
}

/// Programs here make no mistakes; a run with one ends, by a jump like all others.
#[cold]
#[inline(never)]
unsafe fn fail(m: &mut Machine, pc: Pc, _: Regs, _: *const Word, _: *const Func) {
    m.out = format!("{:?} is not made for that", unsafe { *pc.cast::<Op>() });
}

macro_rules! x {
    ($pc:expr) => {
        *$pc.cast::<u8>().add(1)
    };
}
macro_rules! a {
    ($pc:expr) => {
        *$pc.cast::<u16>().add(1) as usize
    };
}
macro_rules! b {
    ($pc:expr) => {
        *$pc.cast::<u16>().add(2) as usize
    };
}
macro_rules! c {
    ($pc:expr) => {
        *$pc.cast::<u16>().add(3) as usize
    };
}
macro_rules! by {
    ($pc:expr) => {
        *$pc.cast::<i16>().add(3)
    };
}
pub(super) use {a, b, by, c, x};

/// A handler that goes on with the next instruction.
macro_rules! handlers {
    ($($(#[$meta:meta])* fn $name:ident($m:ident, $pc:ident, $r:ident, $k:ident, $me:ident) $body:block)*) => {$(
        $(#[$meta])*
        #[allow(unused_variables)]
        unsafe fn $name($m: &mut Machine, $pc: Pc, $r: Regs, $k: *const Word, $me: *const Func) {
            unsafe {
                $body
                go($m, $pc.add(1), $r, $k, $me)
            }
        }
    )*};
}

handlers! {
    fn copy(m, pc, r, k, me) {
        *r.add(a!(pc)) = *r.add(b!(pc));
    }
    fn constant(m, pc, r, k, me) {
        *r.add(a!(pc)) = *k.add(b!(pc));
    }
    fn get_shared(m, pc, r, k, me) {
        *r.add(a!(pc)) = (*(*r.add(b!(pc))).at::<Shared>()).value;
    }
    fn set_shared(m, pc, r, k, me) {
        (*(*r.add(a!(pc))).at::<Shared>()).value = *r.add(b!(pc));
    }
    fn captured(m, pc, r, k, me) {
        *r.add(a!(pc)) = *me.add(1).cast::<Word>().add(b!(pc));
    }
    fn get_outer(m, pc, r, k, me) {
        let shared = *me.add(1).cast::<Word>().add(b!(pc));
        *r.add(a!(pc)) = (*shared.at::<Shared>()).value;
    }
    fn set_outer(m, pc, r, k, me) {
        let shared = *me.add(1).cast::<Word>().add(a!(pc));
        (*shared.at::<Shared>()).value = *r.add(b!(pc));
    }
    fn itself(m, pc, r, k, me) {
        *r.add(a!(pc)) = Word::object(FUNC, me);
    }
    fn root(m, pc, r, k, me) {
        let value = *r.add(b!(pc));
        if !value.is_number() {
            return root_of_integer(m, pc, r, k, me);
        }
        *r.add(a!(pc)) = Word::real(value.number().sqrt());
    }
    #[inline(never)]
    fn root_of_integer(m, pc, r, k, me) {
        *r.add(a!(pc)) = Word::real(slow::number(*r.add(b!(pc))).sqrt());
    }
    fn round(m, pc, r, k, me) {
        let number = slow::number(*r.add(b!(pc))).round();
        *r.add(a!(pc)) = slow::integer(&mut m.heap, number as i64);
    }
    fn length(m, pc, r, k, me) {
        let value = *r.add(b!(pc));
        if !value.is(LIST) {
            return text_length(m, pc, r, k, me);
        }
        *r.add(a!(pc)) = Word::small(i64::from((*value.at::<List>()).length));
    }
    #[inline(never)]
    fn text_length(m, pc, r, k, me) {
        *r.add(a!(pc)) = Word::small(slow::length(*r.add(b!(pc))));
    }
    fn say(m, pc, r, k, me) {
        let row = std::slice::from_raw_parts(r.add(a!(pc)), b!(pc));
        let texts: Vec<String> = row.iter().map(|word| slow::shown(*word)).collect();
        m.out.push_str(&texts.join(" "));
        m.out.push('\n');
    }
    fn set_item(m, pc, r, k, me) {
        let (list, place) = (*r.add(a!(pc)), *r.add(b!(pc)));
        if !(list.is(LIST) && place.is(INT)) {
 return fail(m, pc, r, k, me);
 }
        let list = list.at::<List>();
        let at = (place.integer() - 1) as u64;
        if at >= u64::from((*list).length) {
 return fail(m, pc, r, k, me);
 }
        *(*list).items.add(at as usize) = *r.add(c!(pc));
    }
    fn push(m, pc, r, k, me) {
        let list = *r.add(a!(pc));
        if !list.is(LIST) {
 return fail(m, pc, r, k, me);
 }
        let list = list.at::<List>();
        if (*list).length == (*list).room {
            return making::grow(m, pc, r, k, me);
        }
        *(*list).items.add((*list).length as usize) = *r.add(b!(pc));
        (*list).length += 1;
    }
}

unsafe fn jump(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe { go(m, pc.offset(1 + by!(pc) as isize), r, k, me) }
}

unsafe fn jump_unless(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe {
        let test = *r.add(a!(pc));
        let holds = test == Word::YES;
        if !(holds || test == Word::NO) {
            return fail(m, pc, r, k, me);
        }
        let jumps = u8::from(holds) == x!(pc);
        let next = if jumps {
            pc.offset(1 + by!(pc) as isize)
        } else {
            pc.add(1)
        };
        go(m, next, r, k, me)
    }
}

unsafe fn turn(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe {
        let (at, end) = (*r.add(a!(pc)), *r.add(b!(pc)));
        if !(at.is(INT) && end.is(INT)) {
            return fail(m, pc, r, k, me);
        }
        if at.integer() < end.integer() {
            *r.add(a!(pc)) = Word(at.0 + 1);
            return go(m, pc.offset(1 + by!(pc) as isize), r, k, me);
        }
        go(m, pc.add(1), r, k, me)
    }
}

unsafe fn call(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe {
        let callee = *r.add(c!(pc));
        if !callee.is(FUNC) {
            return fail(m, pc, r, k, me);
        }
        let callee = callee.at::<Func>();
        let code: *const Code = (*callee).code;
        if (*code).params != x!(pc) as usize {
            return fail(m, pc, r, k, me);
        }
        let window = b!(pc);
        let inner = r.add(window);
        if inner.add((*code).registers) >= m.end {
            return fail(m, pc, r, k, me);
        }
        link(inner, pc.add(1), k, me, window as u16, a!(pc) as u16);
        go(
            m,
            (*code).words.as_ptr(),
            inner,
            (*code).constants.as_ptr(),
            callee,
        )
    }
}

unsafe fn call_me(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe {
        let code: *const Code = (*me).code;
        let window = b!(pc);
        let inner = r.add(window);
        if inner.add((*code).registers) >= m.end {
            return fail(m, pc, r, k, me);
        }
        link(inner, pc.add(1), k, me, window as u16, a!(pc) as u16);
        go(m, (*code).words.as_ptr(), inner, k, me)
    }
}

#[inline(always)]
unsafe fn leave(m: &mut Machine, r: Regs, value: Word) {
    unsafe {
        let link = (*r.sub(1)).0;
        let outer = r.sub((link >> 16) as usize);
        *outer.add((link & 0xFFFF) as usize) = value;
        let (pc, k) = ((*r.sub(4)).0 as Pc, (*r.sub(3)).0 as *const Word);
        go(m, pc, outer, k, (*r.sub(2)).at::<Func>());
    }
}

unsafe fn give(m: &mut Machine, pc: Pc, r: Regs, _: *const Word, _: *const Func) {
    unsafe { leave(m, r, *r.add(a!(pc))) }
}

unsafe fn give_nothing(m: &mut Machine, _: Pc, r: Regs, _: *const Word, _: *const Func) {
    unsafe { leave(m, r, Word::NOTHING) }
}

unsafe fn item_at(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func, place: Word) {
    unsafe {
        let from = *r.add(b!(pc));
        if !place.is(INT) {
            return fail(m, pc, r, k, me);
        }
        if !from.is(LIST) {
            return letter(m, pc, r, k, me);
        }
        let at = (place.integer() - 1) as u64;
        let list = from.at::<List>();
        if at >= u64::from((*list).length) {
            return fail(m, pc, r, k, me);
        }
        *r.add(a!(pc)) = *(*list).items.add(at as usize);
        go(m, pc.add(1), r, k, me)
    }
}

/// A letter of a text.
#[inline(never)]
unsafe fn letter(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe {
        let (from, place) = (*r.add(b!(pc)), *r.add(c!(pc)));
        if *pc.cast::<Op>() != Op::Item || !from.is(TEXT) {
            return fail(m, pc, r, k, me);
        }
        let text = from.at::<Text>();
        let at = (place.integer() - 1) as usize;
        let byte = *slow::bytes(text).as_ptr().add(at) as usize;
        if at >= (*text).head.extra as usize || byte >= 128 {
            return fail(m, pc, r, k, me);
        }
        *r.add(a!(pc)) = *m.letters.as_ptr().add(byte);
        go(m, pc.add(1), r, k, me)
    }
}

unsafe fn item(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe { item_at(m, pc, r, k, me, *r.add(c!(pc))) }
}

unsafe fn item_int(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe { item_at(m, pc, r, k, me, Word::small(by!(pc).into())) }
}

/// Where a key of a card is, if the word after the instruction remembers it for cards of this shape.
#[inline(always)]
unsafe fn place(pc: Pc, card: Word) -> Option<*mut Word> {
    unsafe {
        if !card.is(CARD) {
            return None;
        }
        let card = card.at::<Card>();
        let known = *pc.add(1);
        let is_known = known as u32 == (*card).head.extra;
        is_known.then(|| card.add(1).cast::<Word>().add((known >> 32) as usize))
    }
}

unsafe fn part(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe {
        let Some(at) = place(pc, *r.add(b!(pc))) else {
            return making::remember(m, pc, r, k, me);
        };
        *r.add(a!(pc)) = *at;
        go(m, pc.add(2), r, k, me)
    }
}

unsafe fn set_part(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe {
        let Some(at) = place(pc, *r.add(a!(pc))) else {
            return making::remember(m, pc, r, k, me);
        };
        *at = *r.add(b!(pc));
        go(m, pc.add(2), r, k, me)
    }
}

unsafe fn each_next(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe {
        let list = (*r.add(a!(pc))).at::<List>();
        let next = (*r.add(a!(pc) + 1)).0 as usize;
        if next >= (*list).length as usize {
            return go(m, pc.offset(1 + by!(pc) as isize), r, k, me);
        }
        *r.add(b!(pc)) = *(*list).items.add(next);
        *r.add(a!(pc) + 1) = Word(next as u64 + 1);
        go(m, pc.add(1), r, k, me)
    }
}

unsafe fn stop(_: &mut Machine, _: Pc, _: Regs, _: *const Word, _: *const Func) {}

/// The handlers in the order of the instructions.
static HANDLERS: [Handler; Op::Stop as usize + 1] = [
    copy,
    constant,
    making::share,
    get_shared,
    set_shared,
    captured,
    get_outer,
    set_outer,
    itself,
    add,
    sub,
    mul,
    div,
    over,
    left_over,
    add_int,
    mul_int,
    over_int,
    mod_int,
    add_const,
    sub_const,
    mul_const,
    div_const,
    making::join,
    making::join_const,
    lt,
    le,
    gt,
    ge,
    eq,
    ne,
    jump,
    jump_unless,
    unless_lt,
    unless_le,
    unless_eq,
    unless_ne,
    unless_lt_int,
    unless_le_int,
    unless_gt_int,
    unless_ge_int,
    unless_eq_int,
    unless_ne_int,
    unless_lt_const,
    unless_le_const,
    unless_gt_const,
    unless_ge_const,
    unless_eq_const,
    unless_ne_const,
    turn,
    call,
    call_me,
    give,
    give_nothing,
    making::closure,
    making::list,
    making::card,
    item,
    item_int,
    set_item,
    part,
    set_part,
    making::each_begin,
    each_next,
    push,
    length,
    root,
    round,
    say,
    stop,
];
