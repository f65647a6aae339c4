//! A compiler and a machine by hand, for the demo language alone: registers, constants beside
//! them, comparisons that jump, text built in place, keys found by a guess. Registers are
//! reached without checks, as the compiler makes only those there are.
#![allow(
    unsafe_code,
    unused_unsafe,
    clippy::similar_names,
    clippy::too_many_lines
)]

use std::cell::Cell;
use std::rc::Rc;

use super::tree::{Expr, Func, Stmt, Var};
use super::values::{Builtin, Card, Closure, Op, V, apply, equal, join, operate, shown, text};

type R = u16;

#[derive(Clone, Copy)]
enum Ins {
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
    ins: Vec<Ins>,
    consts: Vec<V>,
    keys: Vec<(u32, Cell<u32>)>,
    funcs: Vec<(Rc<Func>, Rc<Code>)>,
    registers: usize,
}

#[derive(Default)]
struct Maker {
    ins: Vec<Ins>,
    consts: Vec<V>,
    keys: Vec<(u32, Cell<u32>)>,
    funcs: Vec<(Rc<Func>, Rc<Code>)>,
    top: u16,
    most: u16,
    stops: Vec<Vec<usize>>,
    skips: Vec<Vec<usize>>,
}

/// Compiles a program.
pub fn compile(func: &Func) -> Rc<Code> {
    let mut m = Maker {
        top: func.slots.get(),
        ..Maker::default()
    };
    // Parameters come in the first registers, which are their slots.
    for (index, param) in func.params.iter().enumerate() {
        if let Var::Boxed(slot) = *param {
            debug_assert_eq!(slot as usize, index);
            m.ins.push(Ins::Share(slot));
        }
    }
    m.most = m.top;
    m.stmts(&func.body);
    m.ins.push(Ins::ReturnNothing);
    Rc::new(Code {
        ins: m.ins,
        consts: m.consts,
        keys: m.keys,
        funcs: m.funcs,
        registers: m.most as usize + 2,
    })
}

impl Maker {
    fn temp(&mut self) -> R {
        self.top += 1;
        self.most = self.most.max(self.top);
        self.top - 1
    }

    fn constant(&mut self, value: &V) -> u16 {
        let same = |own: &V| match (own, value) {
            (V::Int(a), V::Int(b)) => a == b,
            (V::Num(a), V::Num(b)) => a.to_bits() == b.to_bits(),
            _ => false,
        };
        let at = self.consts.iter().position(same).unwrap_or_else(|| {
            self.consts.push(value.clone());
            self.consts.len() - 1
        });
        at as u16
    }

    fn key(&mut self, key: u32) -> u16 {
        self.keys.push((key, Cell::new(0)));
        self.keys.len() as u16 - 1
    }

    fn stmts(&mut self, stmts: &[Stmt]) {
        for stmt in stmts {
            let top = self.top;
            self.stmt(stmt);
            self.top = top;
        }
    }

    fn patch(&mut self, at: usize) {
        let by = (self.ins.len() - at - 1) as i32;
        match &mut self.ins[at] {
            Ins::Jump(to) => *to = by,
            Ins::JumpIf(_, to)
            | Ins::JumpUnless(_, to)
            | Ins::UnlessLt(_, _, to)
            | Ins::UnlessLe(_, _, to)
            | Ins::UnlessEq(_, _, to)
            | Ins::UnlessNe(_, _, to)
            | Ins::EachNext(_, _, to) => *to = by as i16,
            _ => unreachable!("only jumps are patched"),
        }
    }

    fn put(&mut self, ins: Ins) -> usize {
        self.ins.push(ins);
        self.ins.len() - 1
    }

    /// Jumps that are taken unless a test holds.
    fn unless(&mut self, test: &Expr) -> Vec<usize> {
        match test {
            Expr::And(a, b) => {
                let mut jumps = self.unless(a);
                jumps.extend(self.unless(b));
                jumps
            }
            Expr::Bin(op @ (Op::Lt | Op::Le | Op::Gt | Op::Ge | Op::Eq | Op::Ne), a, b) => {
                let (a, b) = (self.any(a), self.any(b));
                vec![self.put(match op {
                    Op::Lt => Ins::UnlessLt(a, b, 0),
                    Op::Le => Ins::UnlessLe(a, b, 0),
                    Op::Gt => Ins::UnlessLt(b, a, 0),
                    Op::Ge => Ins::UnlessLe(b, a, 0),
                    Op::Eq => Ins::UnlessEq(a, b, 0),
                    _ => Ins::UnlessNe(a, b, 0),
                })]
            }
            _ => {
                let r = self.any(test);
                vec![self.put(Ins::JumpUnless(r, 0))]
            }
        }
    }

    fn back(&mut self, to: usize) {
        let by = to as i32 - self.ins.len() as i32 - 1;
        self.put(Ins::Jump(by));
    }

    fn body(&mut self, body: &[Stmt]) -> Vec<usize> {
        self.stops.push(Vec::new());
        self.skips.push(Vec::new());
        self.stmts(body);
        for at in self.skips.pop().expect("a loop") {
            self.patch(at);
        }
        self.stops.pop().expect("a loop")
    }

    fn begin(&mut self, var: Var, e: &Expr) {
        match var {
            Var::Local(slot) => self.into(e, slot),
            Var::Boxed(slot) => {
                self.into(e, slot);
                self.put(Ins::Share(slot));
            }
            Var::Open(_) | Var::Captured(_) | Var::CapturedBox(_) | Var::Me => {
                unreachable!("declared here")
            }
        }
    }

    fn stmt(&mut self, stmt: &Stmt) {
        match stmt {
            Stmt::Let(var, e) => self.begin(*var, e),
            Stmt::Set(var, e) => match *var {
                Var::Local(slot) => self.into(e, slot),
                Var::Boxed(slot) => {
                    let r = self.any(e);
                    self.put(Ins::SetShared(slot, r));
                }
                Var::CapturedBox(index) => {
                    let r = self.any(e);
                    self.put(Ins::SetOuter(index, r));
                }
                Var::Open(_) | Var::Captured(_) | Var::Me => unreachable!("what changes is shared"),
            },
            Stmt::SetItem(list, place, e) => {
                let (list, place, value) = (self.any(list), self.any(place), self.any(e));
                self.put(Ins::SetItem(list, place, value));
            }
            Stmt::SetPart(card, key, e, _) => {
                let (card, value) = (self.any(card), self.any(e));
                let key = self.key(*key);
                self.put(Ins::SetPart(card, value, key));
            }
            Stmt::Say(list) => {
                let first = self.row(list);
                self.put(Ins::Say(first, list.len() as u16));
            }
            Stmt::Do(e) => {
                self.any(e);
            }
            Stmt::When(test, yes, no) => {
                let jumps = self.unless(test);
                self.stmts(yes);
                let end = (!no.is_empty()).then(|| self.put(Ins::Jump(0)));
                for at in jumps {
                    self.patch(at);
                }
                self.stmts(no);
                if let Some(end) = end {
                    self.patch(end);
                }
            }
            Stmt::While(test, body) => {
                let again = self.ins.len();
                let jumps = self.unless(test);
                let stops = self.body(body);
                self.back(again);
                for at in jumps.into_iter().chain(stops) {
                    self.patch(at);
                }
            }
            Stmt::Count(var, first, last, body) => {
                let (at, end) = (self.temp(), self.temp());
                self.into(first, at);
                self.into(last, end);
                let out = self.put(Ins::UnlessLe(at, end, 0));
                let again = self.ins.len();
                match *var {
                    Var::Local(slot) => self.put(Ins::Move(slot, at)),
                    Var::Boxed(slot) => {
                        self.put(Ins::Move(slot, at));
                        self.put(Ins::Share(slot))
                    }
                    Var::Open(_) | Var::Captured(_) | Var::CapturedBox(_) | Var::Me => {
                        unreachable!("declared here")
                    }
                };
                let stops = self.body(body);
                let by = again as i32 - self.ins.len() as i32 - 1;
                self.put(Ins::Loop(at, end, by as i16));
                for at in stops.into_iter().chain([out]) {
                    self.patch(at);
                }
            }
            Stmt::Each(var, items, body) => {
                let turns = self.temp();
                self.temp();
                let list = self.any(items);
                self.put(Ins::EachBegin(turns, list));
                let again = self.ins.len();
                let slot = match *var {
                    Var::Local(slot) | Var::Boxed(slot) => slot,
                    Var::Open(_) | Var::Captured(_) | Var::CapturedBox(_) | Var::Me => {
                        unreachable!("declared here")
                    }
                };
                let next = self.put(Ins::EachNext(turns, slot, 0));
                if let Var::Boxed(slot) = *var {
                    self.put(Ins::Share(slot));
                }
                let stops = self.body(body);
                self.back(again);
                for at in stops.into_iter().chain([next]) {
                    self.patch(at);
                }
            }
            Stmt::Stop => {
                let at = self.put(Ins::Jump(0));
                self.stops.last_mut().expect("a loop").push(at);
            }
            Stmt::Skip => {
                let at = self.put(Ins::Jump(0));
                self.skips.last_mut().expect("a loop").push(at);
            }
            Stmt::Answer(e) => {
                let r = self.any(e);
                self.put(Ins::Return(r));
            }
        }
    }

    fn any(&mut self, e: &Expr) -> R {
        if let Expr::Var(Var::Local(slot)) = e {
            return *slot;
        }
        let r = self.temp();
        self.into(e, r);
        r
    }

    fn row(&mut self, list: &[Expr]) -> R {
        let first = self.top;
        for e in list {
            let r = self.temp();
            let top = self.top;
            self.into(e, r);
            self.top = top;
        }
        first
    }

    fn into(&mut self, e: &Expr, into: R) {
        let top = self.top;
        match e {
            Expr::Const(value) => {
                let constant = self.constant(value);
                self.put(Ins::Const(into, constant));
            }
            Expr::Var(var) => {
                self.put(match *var {
                    Var::Local(slot) => Ins::Move(into, slot),
                    Var::Boxed(slot) => Ins::GetShared(into, slot),
                    Var::Captured(index) => Ins::Captured(into, index),
                    Var::CapturedBox(index) => Ins::GetOuter(into, index),
                    Var::Me => Ins::Me(into),
                    Var::Open(_) => unreachable!("settled"),
                });
            }
            Expr::Call(callee, args) => {
                if let Expr::Var(Var::Me) = **callee {
                    let window = self.row(args);
                    self.put(Ins::CallMe(into, window));
                } else {
                    let callee = self.any(callee);
                    let window = self.row(args);
                    self.put(Ins::Call(into, window, callee));
                }
            }
            Expr::Builtin(Builtin::Add, args) => {
                let (list, value) = (self.any(&args[0]), self.any(&args[1]));
                self.put(Ins::Push(list, value));
            }
            Expr::Builtin(Builtin::Length, args) => {
                let list = self.any(&args[0]);
                self.put(Ins::Length(into, list));
            }
            Expr::Builtin(builtin, args) => {
                let arg = self.any(&args[0]);
                self.put(Ins::Builtin(into, arg, *builtin));
            }
            Expr::Bin(op, a, b) => {
                let left = self.any(a);
                if let (Op::Add | Op::Sub, Expr::Const(V::Int(n))) = (op, &**b)
                    && let Ok(n) = i16::try_from(*n)
                {
                    self.put(match op {
                        Op::Add => Ins::AddInt(into, left, n),
                        _ => Ins::SubInt(into, left, n),
                    });
                } else {
                    let right = self.any(b);
                    self.put(match op {
                        Op::Add => Ins::Add(into, left, right),
                        Op::Sub => Ins::Sub(into, left, right),
                        Op::Mul => Ins::Mul(into, left, right),
                        Op::Mod => Ins::Mod(into, left, right),
                        Op::Div => Ins::Div(into, left, right),
                        Op::Join => Ins::Join(into, left, right),
                        _ => Ins::Other(into, left, right, *op),
                    });
                }
            }
            Expr::And(..) | Expr::Or(..) | Expr::Not(_) => {
                let jumps = match e {
                    Expr::Or(a, b) => {
                        let r = self.any(a);
                        let yes = self.put(Ins::JumpIf(r, 0));
                        let jumps = self.unless(b);
                        self.patch(yes);
                        jumps
                    }
                    Expr::Not(a) => {
                        let r = self.any(a);
                        vec![self.put(Ins::JumpIf(r, 0))]
                    }
                    _ => self.unless(e),
                };
                let (yes, no) = (
                    self.constant(&V::Truth(true)),
                    self.constant(&V::Truth(false)),
                );
                self.put(Ins::Const(into, yes));
                let end = self.put(Ins::Jump(0));
                for at in jumps {
                    self.patch(at);
                }
                self.put(Ins::Const(into, no));
                self.patch(end);
            }
            Expr::Neg(a) => {
                let zero = self.constant(&V::Int(0));
                let left = self.temp();
                self.put(Ins::Const(left, zero));
                let right = self.any(a);
                self.put(Ins::Sub(into, left, right));
            }
            Expr::Func(func) => {
                self.funcs.push((Rc::clone(func), compile(func)));
                let index = self.funcs.len() as u16 - 1;
                self.put(Ins::Closure(into, index));
            }
            Expr::List(items) => {
                let first = self.row(items);
                self.put(Ins::List(into, first, items.len() as u16));
            }
            Expr::Card(entries) => {
                let card = self.temp();
                self.put(Ins::NewCard(card));
                for (key, value) in entries {
                    let value = self.any(value);
                    let key = self.key(*key);
                    self.put(Ins::AddKey(card, value, key));
                }
                self.put(Ins::Move(into, card));
            }
            Expr::Item(list, place) => {
                let (list, place) = (self.any(list), self.any(place));
                self.put(Ins::Item(into, list, place));
            }
            Expr::Part(card, key, _) => {
                let card = self.any(card);
                let key = self.key(*key);
                self.put(Ins::Part(into, card, key));
            }
        }
        self.top = top;
    }
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
