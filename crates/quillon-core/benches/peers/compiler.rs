//! The compiler for the machine by hand.
#![allow(clippy::too_many_lines)]

use std::cell::Cell;
use std::rc::Rc;

use super::machine::{Code, Ins, R};
use super::tree::{Expr, Func, Stmt, Var};
use super::values::{Builtin, Op, V};

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
