//! The handlers of sums, quotients and comparisons.

use super::code::Op;
use super::heap::{Func, Text};
use super::machine::{Machine, Pc, Regs, a, b, by, c, go, x};
use super::slow;
use super::word::{INT, SPECIAL, TEXT, Word};
use crate::peers::values::Op as Sign;

/// Handlers of an operator on integers that may be too large, or numbers.
macro_rules! sums {
    ($($name:ident, $op:tt, $upper:expr, $right:expr;)*) => {$(
        pub unsafe fn $name(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
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
pub unsafe fn rare(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
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
        pub unsafe fn $name(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
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
pub unsafe fn compare(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
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
        pub unsafe fn $name(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
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
        pub unsafe fn $name(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
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

/// One more or less, which is as frequent as all other sums together.
pub unsafe fn add_int(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe {
        let left = *r.add(b!(pc));
        match left.upper().checked_add(i64::from(by!(pc)) << 16) {
            Some(n) if left.is(INT) => *r.add(a!(pc)) = Word::of_upper(n),
            _ => return rare(m, pc, r, k, me),
        }
        go(m, pc.add(1), r, k, me)
    }
}

pub unsafe fn div_by(
    m: &mut Machine,
    pc: Pc,
    r: Regs,
    k: *const Word,
    me: *const Func,
    right: Word,
) {
    unsafe {
        let left = *r.add(b!(pc));
        if !left.is_number() || !right.is_number() {
            return rare(m, pc, r, k, me);
        }
        *r.add(a!(pc)) = Word::real(left.number() / right.number());
        go(m, pc.add(1), r, k, me)
    }
}

pub unsafe fn div(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe { div_by(m, pc, r, k, me, *r.add(c!(pc))) }
}

pub unsafe fn div_const(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe { div_by(m, pc, r, k, me, *k.add(c!(pc))) }
}

/// Handlers of what is left, and how often one fits: of small ones at once.
macro_rules! quotients {
    ($($name:ident, $op:tt, $slow:ident, $right:expr;)*) => {$(
        pub unsafe fn $name(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
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
