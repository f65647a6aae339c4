//! A machine by hand, for the demo language alone: registers, constants beside them, comparisons
//! that jump, text built in place, keys found by a guess. Registers are reached without checks, as
//! the compiler makes only those there are.
#![allow(
    unsafe_code,
    unused_unsafe,
    clippy::similar_names,
    clippy::too_many_lines
)]

use std::cell::Cell;
use std::rc::Rc;

use super::tree::{Func, Var};
use super::values::{Builtin, Card, Closure, Op, V, apply, equal, join, operate, shown, text};

pub type R = u16;

#[derive(Clone, Copy)]
pub enum Ins {
    Move(R, R),
    Const(R, u16),
    Share(R),
    GetShared(R, R),
    SetShared(R, R),
    Captured(R, u16),
    GetOuter(R, u16),
    SetOuter(u16, R),
    Me(R),
    Add(R, R, R),
    AddInt(R, R, i16),
    Sub(R, R, R),
    SubInt(R, R, i16),
    Mul(R, R, R),
    Mod(R, R, R),
    Div(R, R, R),
    Join(R, R, R),
    Other(R, R, R, Op),
    Jump(i32),
    JumpIf(R, i16),
    JumpUnless(R, i16),
    /// Jumps unless `a < b`, and so on.
    UnlessLt(R, R, i16),
    UnlessLe(R, R, i16),
    UnlessEq(R, R, i16),
    UnlessNe(R, R, i16),
    /// Adds one and jumps if not past the end.
    Loop(R, R, i16),
    Call(R, R, R),
    CallMe(R, R),
    Return(R),
    ReturnNothing,
    Closure(R, u16),
    List(R, R, u16),
    NewCard(R),
    AddKey(R, R, u16),
    Item(R, R, R),
    SetItem(R, R, R),
    Part(R, R, u16),
    SetPart(R, R, u16),
    EachBegin(R, R),
    EachNext(R, R, i16),
    Push(R, R),
    Length(R, R),
    Builtin(R, R, Builtin),
    Say(R, u16),
}

pub struct Code {
    pub ins: Vec<Ins>,
    pub consts: Vec<V>,
    pub keys: Vec<(u32, Cell<u32>)>,
    pub funcs: Vec<(Rc<Func>, Rc<Code>)>,
    pub registers: usize,
}

struct Frame {
    me: Rc<Closure>,
    pc: usize,
    base: usize,
    into: R,
}

/// Runs a program; what it says.
pub fn run(code: &Rc<Code>) -> String {
    let mut out = String::new();
    let mut stack: Vec<V> = vec![V::Nothing; 4096];
    let mut frames: Vec<Frame> = Vec::new();
    let mut me = Rc::new(Closure {
        func: Rc::default(),
        code: Some(Rc::clone(code)),
        captured: Vec::new(),
    });
    let mut current: *const Code = Rc::as_ptr(code);
    let mut base = 0;
    let mut regs: *mut V = stack.as_mut_ptr();
    let mut pc: *const Ins = code.ins.as_ptr();

    macro_rules! r {
        ($r:expr) => {
            unsafe { &mut *regs.add($r as usize) }
        };
    }
    macro_rules! code {
        () => {
            unsafe { &*current }
        };
    }
    macro_rules! jump {
        ($by:expr) => {
            pc = unsafe { pc.offset($by as isize) }
        };
    }
    macro_rules! arith {
        ($into:expr, $a:expr, $b:expr, $checked:ident, $sign:tt, $op:expr) => {{
            let value = match (&*r!($a), &*r!($b)) {
                (V::Int(a), V::Int(b)) => V::Int(a.$checked(*b).expect("too large")),
                (V::Num(a), V::Num(b)) => V::Num(a $sign b),
                (a, b) => operate($op, a, b),
            };
            *r!($into) = value;
        }};
    }
    macro_rules! unless {
        ($a:expr, $b:expr, $to:expr, $sign:tt, $op:expr) => {{
            let holds = match (&*r!($a), &*r!($b)) {
                (V::Int(a), V::Int(b)) => a $sign b,
                (V::Num(a), V::Num(b)) => a $sign b,
                (a, b) => matches!(operate($op, a, b), V::Truth(true)),
            };
            if !holds {
                jump!($to);
            }
        }};
    }
    macro_rules! enter {
        ($into:expr, $window:expr, $function:expr) => {{
            let function: Rc<Closure> = $function;
            let inner: *const Code = Rc::as_ptr(function.code.as_ref().expect("compiled"));
            let size = unsafe { (*inner).registers };
            let from = base + $window as usize;
            if from + size > stack.len() {
                let more = stack.len() * 2 + size;
                stack.resize(more, V::Nothing);
            }
            let at = unsafe { pc.offset_from(code!().ins.as_ptr()) } as usize;
            frames.push(Frame {
                me: std::mem::replace(&mut me, function),
                pc: at,
                base,
                into: $into,
            });
            base = from;
            regs = unsafe { stack.as_mut_ptr().add(base) };
            current = inner;
            pc = code!().ins.as_ptr();
        }};
    }
    macro_rules! leave {
        ($value:expr) => {{
            let value = $value;
            for index in 0..code!().registers {
                *r!(index) = V::Nothing;
            }
            let Some(frame) = frames.pop() else {
                return out;
            };
            me = frame.me;
            base = frame.base;
            regs = unsafe { stack.as_mut_ptr().add(base) };
            current = Rc::as_ptr(me.code.as_ref().expect("compiled"));
            pc = unsafe { code!().ins.as_ptr().add(frame.pc) };
            *r!(frame.into) = value;
        }};
    }

    loop {
        let ins = unsafe { *pc };
        pc = unsafe { pc.add(1) };
        match ins {
            Ins::Move(a, b) => *r!(a) = r!(b).clone(),
            Ins::Const(a, k) => *r!(a) = code!().consts[k as usize].clone(),
            Ins::Share(a) => {
                let value = std::mem::take(r!(a));
                *r!(a) = V::Shared(Rc::new(value.into()));
            }
            Ins::GetShared(a, b) => {
                if let V::Shared(cell) = &*r!(b) {
                    let value = cell.borrow().clone();
                    *r!(a) = value;
                }
            }
            Ins::SetShared(a, b) => {
                if let V::Shared(cell) = &*r!(a) {
                    *cell.borrow_mut() = r!(b).clone();
                }
            }
            Ins::Captured(a, index) => *r!(a) = me.captured[index as usize].clone(),
            Ins::GetOuter(a, index) => {
                if let V::Shared(cell) = &me.captured[index as usize] {
                    *r!(a) = cell.borrow().clone();
                }
            }
            Ins::SetOuter(index, a) => {
                if let V::Shared(cell) = &me.captured[index as usize] {
                    *cell.borrow_mut() = r!(a).clone();
                }
            }
            Ins::Me(a) => *r!(a) = V::Func(Rc::clone(&me)),
            Ins::Add(c, a, b) => arith!(c, a, b, checked_add, +, Op::Add),
            Ins::Sub(c, a, b) => arith!(c, a, b, checked_sub, -, Op::Sub),
            Ins::Mul(c, a, b) => arith!(c, a, b, checked_mul, *, Op::Mul),
            Ins::AddInt(c, a, n) => {
                let value = match &*r!(a) {
                    V::Int(a) => V::Int(a.checked_add(n.into()).expect("too large")),
                    a => operate(Op::Add, a, &V::Int(n.into())),
                };
                *r!(c) = value;
            }
            Ins::SubInt(c, a, n) => {
                let value = match &*r!(a) {
                    V::Int(a) => V::Int(a.checked_sub(n.into()).expect("too large")),
                    a => operate(Op::Sub, a, &V::Int(n.into())),
                };
                *r!(c) = value;
            }
            Ins::Mod(c, a, b) => {
                let value = match (&*r!(a), &*r!(b)) {
                    (V::Int(a), V::Int(b)) if *b > 0 && (a | b) >> 32 == 0 => {
                        V::Int(i64::from(*a as u32 % *b as u32))
                    }
                    (a, b) => operate(Op::Mod, a, b),
                };
                *r!(c) = value;
            }
            Ins::Div(c, a, b) => {
                let value = match (&*r!(a), &*r!(b)) {
                    (V::Num(a), V::Num(b)) => V::Num(a / b),
                    (a, b) => operate(Op::Div, a, b),
                };
                *r!(c) = value;
            }
            Ins::Join(c, a, b) => {
                let value = join(r!(a), r!(b));
                *r!(c) = value;
            }
            Ins::Other(c, a, b, op) => {
                let value = operate(op, r!(a), r!(b));
                *r!(c) = value;
            }
            Ins::Jump(by) => jump!(by),
            Ins::JumpIf(a, by) => {
                if matches!(r!(a), V::Truth(true)) {
                    jump!(by);
                }
            }
            Ins::JumpUnless(a, by) => match r!(a) {
                V::Truth(true) => {}
                V::Truth(false) => jump!(by),
                _ => panic!("a truth value is needed"),
            },
            Ins::UnlessLt(a, b, to) => unless!(a, b, to, <, Op::Lt),
            Ins::UnlessLe(a, b, to) => unless!(a, b, to, <=, Op::Le),
            Ins::UnlessEq(a, b, to) => {
                if !equal(r!(a), r!(b)) {
                    jump!(to);
                }
            }
            Ins::UnlessNe(a, b, to) => {
                if equal(r!(a), r!(b)) {
                    jump!(to);
                }
            }
            Ins::Loop(at, end, by) => {
                let (V::Int(n), V::Int(last)) = (&mut *r!(at), &*r!(end)) else {
                    panic!("integers are needed");
                };
                if *n < *last {
                    *n += 1;
                    jump!(by);
                }
            }
            Ins::Call(into, window, callee) => match &*r!(callee) {
                V::Func(function) => enter!(into, window, Rc::clone(function)),
                _ => panic!("a function is needed"),
            },
            Ins::CallMe(into, window) => enter!(into, window, Rc::clone(&me)),
            Ins::Return(a) => leave!(std::mem::take(r!(a))),
            Ins::ReturnNothing => leave!(V::Nothing),
            Ins::Closure(a, index) => {
                let (func, inner) = &code!().funcs[index as usize];
                let captures = func.captures.borrow();
                let captured = captures.iter().map(|var| match *var {
                    Var::Local(slot) | Var::Boxed(slot) => r!(slot).clone(),
                    Var::Captured(index) | Var::CapturedBox(index) => {
                        me.captured[index as usize].clone()
                    }
                    Var::Open(_) | Var::Me => V::Func(Rc::clone(&me)),
                });
                let captured = captured.collect();
                *r!(a) = V::Func(Rc::new(Closure {
                    func: Rc::clone(func),
                    code: Some(Rc::clone(inner)),
                    captured,
                }));
            }
            Ins::List(a, first, count) => {
                let items: Vec<V> = (0..count).map(|i| std::mem::take(r!(first + i))).collect();
                *r!(a) = V::List(Rc::new(items.into()));
            }
            Ins::NewCard(a) => *r!(a) = V::Card(Rc::default()),
            Ins::AddKey(a, b, key) => {
                if let V::Card(card) = &*r!(a) {
                    let card: &Rc<Card> = card;
                    card.keys.borrow_mut().push(code!().keys[key as usize].0);
                    card.values.borrow_mut().push(r!(b).clone());
                }
            }
            Ins::Item(a, b, c) => {
                let value = match (&*r!(b), &*r!(c)) {
                    (V::List(list), V::Int(place)) => list.borrow()[*place as usize - 1].clone(),
                    (V::Text(own), V::Int(place)) => {
                        let at = *place as usize - 1;
                        text(&own.buffer.borrow()[at..=at])
                    }
                    _ => panic!("a list is needed"),
                };
                *r!(a) = value;
            }
            Ins::SetItem(a, b, c) => {
                if let (V::List(list), V::Int(place)) = (&*r!(a), &*r!(b)) {
                    list.borrow_mut()[*place as usize - 1] = r!(c).clone();
                }
            }
            Ins::Part(a, b, key) => {
                let (key, guess) = &code!().keys[key as usize];
                let value = match &*r!(b) {
                    V::Card(card) => {
                        let at = card.place(*key, guess).expect("a key");
                        card.values.borrow()[at].clone()
                    }
                    _ => panic!("a card is needed"),
                };
                *r!(a) = value;
            }
            Ins::SetPart(a, b, key) => {
                let (key, guess) = &code!().keys[key as usize];
                if let V::Card(card) = &*r!(a) {
                    let at = card.place(*key, guess).expect("a key");
                    card.values.borrow_mut()[at] = r!(b).clone();
                }
            }
            Ins::EachBegin(a, b) => {
                let V::List(list) = &*r!(b) else {
                    panic!("a list is needed");
                };
                let items = list.borrow().clone();
                *r!(a) = V::List(Rc::new(items.into()));
                *r!(a + 1) = V::Int(0);
            }
            Ins::EachNext(a, b, by) => {
                let (V::List(list), V::Int(next)) = (&*r!(a), &mut *r!(a + 1)) else {
                    panic!("a loop is needed");
                };
                let item = list.borrow().get(*next as usize).cloned();
                *next += 1;
                match item {
                    Some(item) => *r!(b) = item,
                    None => jump!(by),
                }
            }
            Ins::Push(a, b) => {
                if let V::List(list) = &*r!(a) {
                    list.borrow_mut().push(r!(b).clone());
                }
            }
            Ins::Length(a, b) => {
                let value = apply(Builtin::Length, std::slice::from_ref(r!(b)));
                *r!(a) = value;
            }
            Ins::Builtin(a, b, builtin) => {
                let value = apply(builtin, std::slice::from_ref(r!(b)));
                *r!(a) = value;
            }
            Ins::Say(first, count) => {
                let texts: Vec<String> = (0..count).map(|i| shown(r!(first + i))).collect();
                out.push_str(&texts.join(" "));
                out.push('\n');
            }
        }
    }
}
