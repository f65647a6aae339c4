//! The handlers, each ending in a jump to the next.

use super::compiler::{Code, LINK, Op, Program};
use super::heap::{Card, Func, Heap, Kind, List, Shared, Text};
use super::word::{CARD, FUNC, INT, LIST, SPECIAL, TEXT, Word};
use super::{making, slow};
use crate::peers::values::Op as Sign;

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

/// The programs make no mistakes; where one would be said, the run ends, by a jump like all others.
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
pub(super) use {a, b, c, x};

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

/// Handlers of an operator on integers that may be too large, or numbers.
macro_rules! sums {
    ($($name:ident, $op:tt, $upper:expr, $right:expr;)*) => {$(
        unsafe fn $name(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
            unsafe {
                let (left, right) = (*r.add(b!(pc)), $right(pc, r, k));
                let result = if left.are_integers(right)
                    && let Some(n) = $upper(left, right)
                {
                    Word::of_upper(n)
                } else if left.is_number() && right.is_number() {
                    Word::real(left.number() $op right.number())
                } else {
                    return rare(m, pc, r, k, me);
                };
                *r.add(a!(pc)) = result;
                go(m, pc.add(1), r, k, me)
            }
        }
    )*};
}

/// An operator on values that its handler does not know. Which one, and on what, is read from the
/// instruction once more, so that nothing has to be handed over on the native stack.
#[inline(never)]
unsafe fn rare(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe {
        let op = *pc.cast::<Op>();
        let left = *r.add(b!(pc));
        let right = match op {
            Op::AddConst | Op::SubConst | Op::MulConst | Op::DivConst => literal(pc, r, k),
            Op::AddInt | Op::MulInt | Op::OverInt | Op::ModInt => immediate(pc, r, k),
            _ => register(pc, r, k),
        };
        let sign = match op {
            Op::Add | Op::AddInt | Op::AddConst => Sign::Add,
            Op::Sub | Op::SubConst => Sign::Sub,
            Op::Mul | Op::MulInt | Op::MulConst => Sign::Mul,
            Op::Div | Op::DivConst => Sign::Div,
            Op::Over | Op::OverInt => Sign::FloorDiv,
            Op::Lt => Sign::Lt,
            Op::Le => Sign::Le,
            Op::Gt => Sign::Gt,
            Op::Ge => Sign::Ge,
            Op::Eq => Sign::Eq,
            Op::Ne => Sign::Ne,
            _ => Sign::Mod,
        };
        m.make_room(r, me);
        *r.add(a!(pc)) = slow::operate(&mut m.heap, sign, left, right);
        go(m, pc.add(1), r, k, me)
    }
}

#[inline(always)]
unsafe fn register(pc: Pc, r: Regs, _: *const Word) -> Word {
    unsafe { *r.add(c!(pc)) }
}
#[inline(always)]
unsafe fn literal(pc: Pc, _: Regs, k: *const Word) -> Word {
    unsafe { *k.add(c!(pc)) }
}
#[inline(always)]
unsafe fn immediate(pc: Pc, _: Regs, _: *const Word) -> Word {
    unsafe { Word::small(i64::from(by!(pc))) }
}

#[inline(always)]
fn add_upper(a: Word, b: Word) -> Option<i64> {
    a.upper().checked_add(b.upper())
}
#[inline(always)]
fn sub_upper(a: Word, b: Word) -> Option<i64> {
    a.upper().checked_sub(b.upper())
}
#[inline(always)]
fn mul_upper(a: Word, b: Word) -> Option<i64> {
    a.integer().checked_mul(b.upper())
}

sums! {
    add, +, add_upper, register;
    sub, -, sub_upper, register;
    mul, *, mul_upper, register;
    add_const, +, add_upper, literal;
    sub_const, -, sub_upper, literal;
    mul_const, *, mul_upper, literal;
    mul_int, *, mul_upper, immediate;
}

/// Handlers of a comparison that jumps.
macro_rules! jumps {
    ($($name:ident, $op:tt, $right:expr;)*) => {$(
        unsafe fn $name(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
            unsafe {
                let (left, right) = (*r.add(a!(pc)), $right(pc, r, k));
                let holds = if left.are_integers(right) {
                    left.upper() $op right.upper()
                } else if left.is_number() && right.is_number() {
                    left.number() $op right.number()
                } else {
                    return compare(m, pc, r, k, me);
                };
                let next = if u8::from(holds) == x!(pc) { pc.offset(1 + by!(pc) as isize) } else { pc.add(1) };
                go(m, next, r, k, me)
            }
        }
    )*};
}

/// A comparison that jumps, of values that its handler does not know.
#[inline(never)]
unsafe fn compare(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe {
        let op = *pc.cast::<Op>() as u8;
        let signs = [Sign::Lt, Sign::Le, Sign::Eq, Sign::Ne];
        let more = [Sign::Lt, Sign::Le, Sign::Gt, Sign::Ge, Sign::Eq, Sign::Ne];
        let (sign, right) = if op < Op::UnlessLtInt as u8 {
            let at = op - Op::UnlessLt as u8;
            (signs[at as usize], second(pc, r, k))
        } else if op < Op::UnlessLtConst as u8 {
            let at = op - Op::UnlessLtInt as u8;
            (more[at as usize], second_immediate(pc, r, k))
        } else {
            let at = op - Op::UnlessLtConst as u8;
            (more[at as usize], second_literal(pc, r, k))
        };
        let holds = slow::operate(&mut m.heap, sign, *r.add(a!(pc)), right) == Word::YES;
        let next = if u8::from(holds) == x!(pc) {
            pc.offset(1 + by!(pc) as isize)
        } else {
            pc.add(1)
        };
        go(m, next, r, k, me)
    }
}

#[inline(always)]
unsafe fn second(pc: Pc, r: Regs, _: *const Word) -> Word {
    unsafe { *r.add(b!(pc)) }
}
#[inline(always)]
unsafe fn second_literal(pc: Pc, _: Regs, k: *const Word) -> Word {
    unsafe { *k.add(b!(pc)) }
}
#[inline(always)]
unsafe fn second_immediate(pc: Pc, _: Regs, _: *const Word) -> Word {
    unsafe { Word::small(i64::from(*pc.cast::<i16>().add(2))) }
}

jumps! {
    unless_lt, <, second;
    unless_le, <=, second;
    unless_lt_int, <, second_immediate;
    unless_le_int, <=, second_immediate;
    unless_gt_int, >, second_immediate;
    unless_ge_int, >=, second_immediate;
    unless_lt_const, <, second_literal;
    unless_le_const, <=, second_literal;
    unless_gt_const, >, second_literal;
    unless_ge_const, >=, second_literal;
}

/// Whether two values are equal, as far as their bits tell at once.
#[inline(always)]
unsafe fn alike(left: Word, right: Word) -> Option<bool> {
    if left.are_integers(right) || left.is(SPECIAL) || right.is(SPECIAL) {
        return Some(left == right);
    }
    if left.is_number() && right.is_number() {
        return Some(left.number() == right.number());
    }
    if !left.is(TEXT) || !right.is(TEXT) {
        return None;
    }
    // Short ones have all they are in two words.
    let (a, b) = unsafe { (*left.at::<[u64; 2]>(), *right.at::<[u64; 2]>()) };
    let are_short = unsafe {
        let head = left.at::<Text>();
        (*head).head.flag && (*head).head.extra <= 8
    };
    (are_short && a[0] == b[0]).then_some(a[1] == b[1])
}

/// Handlers of equality that jumps.
macro_rules! equals {
    ($($name:ident, $wanted:expr, $right:expr;)*) => {$(
        unsafe fn $name(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
            unsafe {
                let Some(alike) = alike(*r.add(a!(pc)), $right(pc, r, k)) else {
                    return compare(m, pc, r, k, me);
                };
                let jumps = u8::from(alike == $wanted) == x!(pc);
                let next = if jumps { pc.offset(1 + by!(pc) as isize) } else { pc.add(1) };
                go(m, next, r, k, me)
            }
        }
    )*};
}

equals! {
    unless_eq, true, second;
    unless_ne, false, second;
    unless_eq_int, true, second_immediate;
    unless_ne_int, false, second_immediate;
    unless_eq_const, true, second_literal;
    unless_ne_const, false, second_literal;
}

/// Handlers of comparisons that give a truth value.
macro_rules! truths {
    ($($name:ident, $op:tt;)*) => {$(
        unsafe fn $name(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
            unsafe {
                let (left, right) = (*r.add(b!(pc)), *r.add(c!(pc)));
                let holds = if left.are_integers(right) {
                    left.upper() $op right.upper()
                } else if left.is_number() && right.is_number() {
                    left.number() $op right.number()
                } else {
                    return rare(m, pc, r, k, me);
                };
                *r.add(a!(pc)) = Word::truth(holds);
                go(m, pc.add(1), r, k, me)
            }
        }
    )*};
}

truths! {
    lt, <;
    le, <=;
    gt, >;
    ge, >=;
    eq, ==;
    ne, !=;
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
        if !(at < u64::from((*list).length)) {
 return fail(m, pc, r, k, me);
 }
        *(*list).items.add(at as usize) = *r.add(c!(pc));
    }
    fn push(m, pc, r, k, me) {
        let list = *r.add(a!(pc));
        if !(list.is(LIST)) {
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

/// One more or less, which is as frequent as all other sums together.
unsafe fn add_int(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe {
        let left = *r.add(b!(pc));
        match left.upper().checked_add(i64::from(by!(pc)) << 16) {
            Some(n) if left.is(INT) => *r.add(a!(pc)) = Word::of_upper(n),
            _ => return rare(m, pc, r, k, me),
        }
        go(m, pc.add(1), r, k, me)
    }
}

unsafe fn div_by(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func, right: Word) {
    unsafe {
        let left = *r.add(b!(pc));
        if !left.is_number() || !right.is_number() {
            return rare(m, pc, r, k, me);
        }
        *r.add(a!(pc)) = Word::real(left.number() / right.number());
        go(m, pc.add(1), r, k, me)
    }
}

unsafe fn div(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe { div_by(m, pc, r, k, me, *r.add(c!(pc))) }
}

unsafe fn div_const(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe { div_by(m, pc, r, k, me, *k.add(c!(pc))) }
}

/// Handlers of what is left, and how often one fits: of small ones at once.
macro_rules! quotients {
    ($($name:ident, $op:tt, $slow:ident, $right:expr;)*) => {$(
        unsafe fn $name(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
            unsafe {
                let (left, right) = (*r.add(b!(pc)), $right(pc, r, k));
                if !left.is(INT) || !right.is(INT) || right.integer() <= 0 {
                    return rare(m, pc, r, k, me);
                }
                let (n, by) = (left.integer(), right.integer());
                let result = if (n | by) as u64 >> 32 == 0 {
                    i64::from(n as u32 $op by as u32)
                } else {
                    n.$slow(by)
                };
                *r.add(a!(pc)) = Word::small(result);
                go(m, pc.add(1), r, k, me)
            }
        }
    )*};
}

quotients! {
    over, /, div_euclid, register;
    left_over, %, rem_euclid, register;
    over_int, /, div_euclid, immediate;
    mod_int, %, rem_euclid, immediate;
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
        if !(callee.is(FUNC)) {
            return fail(m, pc, r, k, me);
        }
        let callee = callee.at::<Func>();
        let code: *const Code = (*callee).code;
        if !((*code).params == x!(pc) as usize) {
            return fail(m, pc, r, k, me);
        }
        let window = b!(pc);
        let inner = r.add(window);
        if !(inner.add((*code).registers) < m.end) {
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
        if !(inner.add((*code).registers) < m.end) {
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
        if !(place.is(INT)) {
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
        let (from, place) = (*r.add(b!(pc)), register(pc, r, k));
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
