//! Handlers that make something.

use super::code::Op;
use super::heap::{Card, Func, Kind, List, Shared};
use super::machine::{Machine, Pc, Regs, a, b, c, go, x};
use super::slow;
use super::word::{CARD, FUNC, LIST, OTHER, Word};
use crate::peers::tree::Var;

/// Handlers that make something of a size: where there is no room for it, or it is time to free what nothing
/// leads to, that is done first, and the instruction begun again.
macro_rules! making {
    ($($(#[$meta:meta])* fn $name:ident($m:ident, $pc:ident, $r:ident, $k:ident, $me:ident) $body:block)*) => {$(
        $(#[$meta])*
        #[allow(unused_variables)]
        pub unsafe fn $name($m: &mut Machine, $pc: Pc, $r: Regs, $k: *const Word, $me: *const Func) {
            unsafe {
                $body
                go($m, $pc.add(1), $r, $k, $me)
            }
        }
    )*};
}

/// Room for an object, or the way to get it.
macro_rules! take {
    ($m:ident, $pc:ident, $r:ident, $k:ident, $me:ident, $size:expr, $kind:expr, $extra:expr) => {
        match $m.heap.take($size, $kind, $extra) {
            Some(head) => head,
            None => return more($m, $pc, $r, $k, $me),
        }
    };
}

#[cold]
#[inline(never)]
unsafe fn more(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe {
        m.make_room(r, me);
        go(m, pc, r, k, me)
    }
}

making! {
    fn share(m, pc, r, k, me) {
        let size = size_of::<Shared>();
        let shared = take!(m, pc, r, k, me, size, Kind::Shared, 0).cast::<Shared>();
        (*shared).value = *r.add(a!(pc));
        *r.add(a!(pc)) = Word::object(OTHER, shared);
    }
    fn join(m, pc, r, k, me) {
        m.make_room(r, me);
        *r.add(a!(pc)) = slow::join(&mut m.heap, *r.add(b!(pc)), *r.add(c!(pc)));
    }
    fn join_const(m, pc, r, k, me) {
        m.make_room(r, me);
        *r.add(a!(pc)) = slow::join(&mut m.heap, *r.add(b!(pc)), *k.add(c!(pc)));
    }
    fn closure(m, pc, r, k, me) {
        let (code, captures) = &(&(*(*me).code).funcs)[b!(pc)];
        let size = size_of::<Func>() + captures.len() * size_of::<Word>();
        let func = take!(m, pc, r, k, me, size, Kind::Func, captures.len() as u32).cast::<Func>();
        (*func).code = &raw const **code;
        let mut to = func.add(1).cast::<Word>();
        for var in captures {
            *to = match *var {
                Var::Local(slot) | Var::Boxed(slot) => *r.add(slot as usize),
                Var::Captured(at) | Var::CapturedBox(at) => *me.add(1).cast::<Word>().add(at as usize),
                Var::Open(_) | Var::Me => Word::object(FUNC, me),
            };
            to = to.add(1);
        }
        *r.add(a!(pc)) = Word::object(FUNC, func);
    }
    fn list(m, pc, r, k, me) {
        let count = c!(pc);
        if count > 8 {
            return long_list(m, pc, r, k, me);
        }
        let size = size_of::<List>() + count * size_of::<Word>();
        let list = take!(m, pc, r, k, me, size, Kind::List, 0).cast::<List>();
        let to = list.add(1).cast::<Word>();
        copy(r.add(b!(pc)), to, count);
        (*list).items = to;
        (*list).length = count as u32;
        (*list).room = count as u32;
        *r.add(a!(pc)) = Word::object(LIST, list);
    }
    #[inline(never)]
    fn long_list(m, pc, r, k, me) {
        m.make_room(r, me);
        *r.add(a!(pc)) = slow::list(&mut m.heap, r.add(b!(pc)), c!(pc));
    }
    fn card(m, pc, r, k, me) {
        let count = x!(pc) as usize;
        let size = size_of::<Card>() + count * size_of::<Word>();
        let card = take!(m, pc, r, k, me, size, Kind::Card, c!(pc) as u32).cast::<Card>();
        copy(r.add(b!(pc)), card.add(1).cast::<Word>(), count);
        *r.add(a!(pc)) = Word::object(CARD, card);
    }
    fn each_begin(m, pc, r, k, me) {
        m.make_room(r, me);
        let list = *r.add(b!(pc));
        assert!(list.is(LIST), "a list is needed");
        let list = list.at::<List>();
        *r.add(a!(pc)) = slow::list(&mut m.heap, (*list).items, (*list).length as usize);
        *r.add(a!(pc) + 1) = Word(0);
    }
}

/// A few words; a call would cost more, and every register that it may change.
#[inline(always)]
unsafe fn copy(from: *const Word, to: *mut Word, count: usize) {
    for at in 0..count {
        unsafe { to.add(at).write_volatile(*from.add(at)) };
    }
}

/// Looks a key up, remembers where it is for cards of this shape, and begins the instruction again.
#[cold]
#[inline(never)]
pub unsafe fn remember(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe {
        let is_part = *pc.cast::<Op>() == Op::Part;
        let card = *r.add(if is_part { b!(pc) } else { a!(pc) });
        assert!(card.is(CARD), "a card is needed");
        let shape = (*card.at::<Card>()).head.extra;
        let keys = &m.heap.shapes[shape as usize];
        let key = c!(pc) as u32;
        let at = keys.iter().position(|own| *own == key).expect("a key");
        *pc.add(1).cast_mut() = u64::from(shape) | (at as u64) << 32;
        go(m, pc, r, k, me)
    }
}

/// Makes room for more items in a list, and begins the instruction again.
#[cold]
#[inline(never)]
pub unsafe fn grow(m: &mut Machine, pc: Pc, r: Regs, k: *const Word, me: *const Func) {
    unsafe {
        slow::grow(&mut m.heap, (*r.add(a!(pc))).at());
        go(m, pc, r, k, me)
    }
}
