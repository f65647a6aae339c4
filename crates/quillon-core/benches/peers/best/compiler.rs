//! The compiler for the best machine: operands are registers, small integers or constants, and what
//! is compared jumps.
#![allow(clippy::too_many_lines)]

use super::code::{Code, LINK, Op, Program, word};
use super::slow;
use crate::peers::tree::{Expr, Func, Stmt, Var};
use crate::peers::values::{Builtin, Op as Sign, V};

pub type R = u16;

struct Maker<'s> {
    code: Code,
    shapes: &'s mut Vec<Vec<u32>>,
    top: u16,
    most: u16,
    stops: Vec<Vec<usize>>,
    skips: Vec<Vec<usize>>,
}

/// Compiles a program.
pub fn compile(func: &Func) -> Program {
    let mut shapes = Vec::new();
    let code = one(func, &mut shapes);
    Program { code, shapes }
}

fn one(func: &Func, shapes: &mut Vec<Vec<u32>>) -> Box<Code> {
    let mut m = Maker {
        code: Code::default(),
        shapes,
        top: func.slots.get(),
        most: func.slots.get(),
        stops: Vec::new(),
        skips: Vec::new(),
    };
    // Parameters come in the first registers, which are their slots.
    for (index, param) in func.params.iter().enumerate() {
        if let Var::Boxed(slot) = *param {
            debug_assert_eq!(slot as usize, index);
            m.put(Op::Share, 0, slot, 0, 0);
        }
    }
    m.code.params = func.params.len();
    m.stmts(&func.body);
    m.put(Op::ReturnNothing, 0, 0, 0, 0);
    m.code.registers = m.most as usize + 2;
    Box::new(m.code)
}

/// Whether statements set a local variable.
fn sets(body: &[Stmt], slot: u16) -> bool {
    body.iter().any(|stmt| match stmt {
        Stmt::Set(var, _) => *var == Var::Local(slot),
        Stmt::When(_, yes, no) => sets(yes, slot) || sets(no, slot),
        Stmt::While(_, body) | Stmt::Count(_, _, _, body) | Stmt::Each(_, _, body) => {
            sets(body, slot)
        }
        _ => false,
    })
}

impl Maker<'_> {
    fn temp(&mut self) -> R {
        self.top += 1;
        self.most = self.most.max(self.top);
        self.top - 1
    }

    fn constant(&mut self, value: &V) -> u16 {
        let value = slow::constant(value);
        let known = self.code.constants.iter().position(|own| *own == value);
        known.unwrap_or_else(|| {
            self.code.constants.push(value);
            self.code.constants.len() - 1
        }) as u16
    }

    fn stmts(&mut self, stmts: &[Stmt]) {
        for stmt in stmts {
            let top = self.top;
            self.stmt(stmt);
            self.top = top;
        }
    }

    /// Has a jump lead to what comes next.
    fn patch(&mut self, at: usize) {
        let by = (self.code.words.len() - at - 1) as u64;
        self.code.words[at] |= by << 48;
    }

    fn put(&mut self, op: Op, x: u8, a: u16, b: u16, c: u16) -> usize {
        self.code.words.push(word(op, x, a, b, c));
        self.code.words.len() - 1
    }

    /// A jump back.
    fn back(&mut self, op: Op, a: u16, b: u16, to: usize) {
        let by = to as i64 - self.code.words.len() as i64 - 1;
        self.put(op, 0, a, b, by as i16 as u16);
    }

    /// Jumps that are taken unless a test holds.
    fn unless(&mut self, test: &Expr) -> Vec<usize> {
        match test {
            Expr::And(a, b) => {
                let mut jumps = self.unless(a);
                jumps.extend(self.unless(b));
                jumps
            }
            Expr::Bin(
                sign @ (Sign::Lt | Sign::Le | Sign::Gt | Sign::Ge | Sign::Eq | Sign::Ne),
                a,
                b,
            ) => {
                let left = self.any(a);
                if let Expr::Const(value) = &**b {
                    let (ints, consts) = match sign {
                        Sign::Lt => (Op::UnlessLtInt, Op::UnlessLtConst),
                        Sign::Le => (Op::UnlessLeInt, Op::UnlessLeConst),
                        Sign::Gt => (Op::UnlessGtInt, Op::UnlessGtConst),
                        Sign::Ge => (Op::UnlessGeInt, Op::UnlessGeConst),
                        Sign::Eq => (Op::UnlessEqInt, Op::UnlessEqConst),
                        _ => (Op::UnlessNeInt, Op::UnlessNeConst),
                    };
                    if let Some(n) = small(value) {
                        return vec![self.put(ints, 0, left, n as u16, 0)];
                    }
                    let constant = self.constant(value);
                    return vec![self.put(consts, 0, left, constant, 0)];
                }
                let right = self.any(b);
                let (op, a, b) = match sign {
                    Sign::Lt => (Op::UnlessLt, left, right),
                    Sign::Le => (Op::UnlessLe, left, right),
                    Sign::Gt => (Op::UnlessLt, right, left),
                    Sign::Ge => (Op::UnlessLe, right, left),
                    Sign::Eq => (Op::UnlessEq, left, right),
                    _ => (Op::UnlessNe, left, right),
                };
                vec![self.put(op, 0, a, b, 0)]
            }
            _ => {
                let r = self.any(test);
                vec![self.put(Op::JumpUnless, 0, r, 0, 0)]
            }
        }
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

    fn stmt(&mut self, stmt: &Stmt) {
        match stmt {
            Stmt::Let(var, e) => {
                let slot = declared(*var);
                self.into(e, slot);
                if let Var::Boxed(slot) = *var {
                    self.put(Op::Share, 0, slot, 0, 0);
                }
            }
            Stmt::Set(var, e) => match *var {
                Var::Local(slot) => self.into(e, slot),
                Var::Boxed(slot) => {
                    let r = self.any(e);
                    self.put(Op::SetShared, 0, slot, r, 0);
                }
                Var::CapturedBox(index) => {
                    let r = self.any(e);
                    self.put(Op::SetOuter, 0, index, r, 0);
                }
                Var::Open(_) | Var::Captured(_) | Var::Me => unreachable!("what changes is shared"),
            },
            Stmt::SetItem(list, place, e) => {
                let (list, place, value) = (self.any(list), self.any(place), self.any(e));
                self.put(Op::SetItem, 0, list, place, value);
            }
            Stmt::SetPart(card, key, e, _) => {
                let (card, value) = (self.any(card), self.any(e));
                self.put(Op::SetPart, 0, card, value, *key as u16);
                self.code.words.push(u64::from(u32::MAX));
            }
            Stmt::Say(list) => {
                let first = self.row(list);
                self.put(Op::Say, 0, first, list.len() as u16, 0);
            }
            Stmt::Do(e) => {
                self.any(e);
            }
            Stmt::When(test, yes, no) => {
                let jumps = self.unless(test);
                self.stmts(yes);
                let end = (!no.is_empty()).then(|| self.put(Op::Jump, 0, 0, 0, 0));
                for at in jumps {
                    self.patch(at);
                }
                self.stmts(no);
                if let Some(end) = end {
                    self.patch(end);
                }
            }
            Stmt::While(test, body) => {
                // Tested before the first turn and behind each, so that a turn has one jump less.
                let out = self.unless(test);
                let again = self.code.words.len();
                let stops = self.body(body);
                let mut rest = self.unless(test);
                // The last of the test's jumps goes back where it holds.
                let last = rest.pop().expect("a test jumps");
                let by = again as i64 - last as i64 - 1;
                self.code.words[last] |= 1 << 8 | u64::from(by as i16 as u16) << 48;
                for at in out.into_iter().chain(stops).chain(rest) {
                    self.patch(at);
                }
            }
            Stmt::Count(var, first, last, body) => {
                let keeps = matches!(*var, Var::Local(slot) if !sets(body, slot));
                let slot = declared(*var);
                let at = if keeps { slot } else { self.temp() };
                let end = self.temp();
                self.into(first, at);
                self.into(last, end);
                let out = self.put(Op::UnlessLe, 0, at, end, 0);
                let again = self.code.words.len();
                if !keeps {
                    self.put(Op::Move, 0, slot, at, 0);
                }
                if let Var::Boxed(slot) = *var {
                    self.put(Op::Share, 0, slot, 0, 0);
                }
                let stops = self.body(body);
                self.back(Op::Loop, at, end, again);
                for at in stops.into_iter().chain([out]) {
                    self.patch(at);
                }
            }
            Stmt::Each(var, items, body) => {
                let turns = self.temp();
                self.temp();
                let list = self.any(items);
                self.put(Op::EachBegin, 0, turns, list, 0);
                let again = self.code.words.len();
                let next = self.put(Op::EachNext, 0, turns, declared(*var), 0);
                if let Var::Boxed(slot) = *var {
                    self.put(Op::Share, 0, slot, 0, 0);
                }
                let stops = self.body(body);
                self.back(Op::Jump, 0, 0, again);
                for at in stops.into_iter().chain([next]) {
                    self.patch(at);
                }
            }
            Stmt::Stop => {
                let at = self.put(Op::Jump, 0, 0, 0, 0);
                self.stops.last_mut().expect("a loop").push(at);
            }
            Stmt::Skip => {
                let at = self.put(Op::Jump, 0, 0, 0, 0);
                self.skips.last_mut().expect("a loop").push(at);
            }
            Stmt::Answer(e) => {
                let r = self.any(e);
                self.put(Op::Return, 0, r, 0, 0);
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

    /// The arguments of a call, with room for where it came from before them.
    fn window(&mut self, args: &[Expr]) -> R {
        for _ in 0..LINK {
            self.temp();
        }
        self.row(args)
    }

    fn operate(&mut self, sign: Sign, a: &Expr, b: &Expr, into: R) {
        // What stands first and is a constant stands behind where that is the same.
        let (a, b) = match (sign, a) {
            (Sign::Mul | Sign::Add, Expr::Const(_)) => (b, a),
            _ => (a, b),
        };
        let left = self.any(a);
        if let Expr::Const(value) = b {
            if let Some(n) = small(value) {
                let op = match sign {
                    Sign::Add => Some((Op::AddInt, n)),
                    Sign::Sub if n > i16::MIN => Some((Op::AddInt, -n)),
                    Sign::Mul => Some((Op::MulInt, n)),
                    Sign::Mod if n > 0 => Some((Op::ModInt, n)),
                    Sign::FloorDiv if n > 0 => Some((Op::OverInt, n)),
                    _ => None,
                };
                if let Some((op, n)) = op {
                    self.put(op, 0, into, left, n as u16);
                    return;
                }
            }
            let op = match sign {
                Sign::Add => Some(Op::AddConst),
                Sign::Sub => Some(Op::SubConst),
                Sign::Mul => Some(Op::MulConst),
                Sign::Div => Some(Op::DivConst),
                Sign::Join => Some(Op::JoinConst),
                _ => None,
            };
            if let Some(op) = op {
                let constant = self.constant(value);
                self.put(op, 0, into, left, constant);
                return;
            }
        }
        let right = self.any(b);
        let op = match sign {
            Sign::Add => Op::Add,
            Sign::Sub => Op::Sub,
            Sign::Mul => Op::Mul,
            Sign::Mod => Op::Mod,
            Sign::Div => Op::Div,
            Sign::FloorDiv => Op::Over,
            Sign::Join => Op::Join,
            Sign::Eq => Op::Eq,
            Sign::Ne => Op::Ne,
            Sign::Lt => Op::Lt,
            Sign::Le => Op::Le,
            Sign::Gt => Op::Gt,
            Sign::Ge => Op::Ge,
        };
        self.put(op, 0, into, left, right);
    }

    fn into(&mut self, e: &Expr, into: R) {
        let top = self.top;
        match e {
            Expr::Const(value) => {
                let constant = self.constant(value);
                self.put(Op::Const, 0, into, constant, 0);
            }
            Expr::Var(var) => {
                let (op, from) = match *var {
                    Var::Local(slot) => (Op::Move, slot),
                    Var::Boxed(slot) => (Op::GetShared, slot),
                    Var::Captured(index) => (Op::Captured, index),
                    Var::CapturedBox(index) => (Op::GetOuter, index),
                    Var::Me => (Op::Me, 0),
                    Var::Open(_) => unreachable!("settled"),
                };
                self.put(op, 0, into, from, 0);
            }
            Expr::Call(callee, args) => {
                if let Expr::Var(Var::Me) = **callee {
                    let window = self.window(args);
                    self.put(Op::CallMe, args.len() as u8, into, window, 0);
                } else {
                    let callee = self.any(callee);
                    let window = self.window(args);
                    self.put(Op::Call, args.len() as u8, into, window, callee);
                }
            }
            Expr::Builtin(Builtin::Add, args) => {
                let (list, value) = (self.any(&args[0]), self.any(&args[1]));
                self.put(Op::Push, 0, list, value, 0);
            }
            Expr::Builtin(builtin, args) => {
                let arg = self.any(&args[0]);
                let op = match builtin {
                    Builtin::Length => Op::Length,
                    Builtin::Root => Op::Root,
                    Builtin::Round | Builtin::Add => Op::Round,
                };
                self.put(op, 0, into, arg, 0);
            }
            Expr::Bin(sign, a, b) => self.operate(*sign, a, b, into),
            Expr::And(..) | Expr::Or(..) | Expr::Not(_) => {
                let jumps = match e {
                    Expr::Or(a, b) => {
                        let r = self.any(a);
                        let yes = self.put(Op::JumpUnless, 1, r, 0, 0);
                        let jumps = self.unless(b);
                        self.patch(yes);
                        jumps
                    }
                    Expr::Not(a) => {
                        let r = self.any(a);
                        vec![self.put(Op::JumpUnless, 1, r, 0, 0)]
                    }
                    _ => self.unless(e),
                };
                let yes = self.constant(&V::Truth(true));
                let no = self.constant(&V::Truth(false));
                self.put(Op::Const, 0, into, yes, 0);
                let end = self.put(Op::Jump, 0, 0, 0, 0);
                for at in jumps {
                    self.patch(at);
                }
                self.put(Op::Const, 0, into, no, 0);
                self.patch(end);
            }
            Expr::Neg(a) => {
                let left = self.temp();
                let zero = self.constant(&V::Int(0));
                self.put(Op::Const, 0, left, zero, 0);
                let right = self.any(a);
                self.put(Op::Sub, 0, into, left, right);
            }
            Expr::Func(func) => {
                let captures = func.captures.borrow().clone();
                let code = one(func, self.shapes);
                self.code.funcs.push((code, captures));
                let index = self.code.funcs.len() as u16 - 1;
                self.put(Op::Closure, 0, into, index, 0);
            }
            Expr::List(items) => {
                let first = self.row(items);
                self.put(Op::List, 0, into, first, items.len() as u16);
            }
            Expr::Card(entries) => {
                let first = self.top;
                for (_, value) in entries {
                    let r = self.temp();
                    let top = self.top;
                    self.into(value, r);
                    self.top = top;
                }
                let keys: Vec<u32> = entries.iter().map(|(key, _)| *key).collect();
                let known = self.shapes.iter().position(|own| *own == keys);
                let shape = known.unwrap_or_else(|| {
                    self.shapes.push(keys);
                    self.shapes.len() - 1
                });
                self.put(Op::Card, entries.len() as u8, into, first, shape as u16);
            }
            Expr::Item(list, place) => {
                let list = self.any(list);
                if let Expr::Const(value) = &**place
                    && let Some(n) = small(value)
                {
                    self.put(Op::ItemInt, 0, into, list, n as u16);
                } else {
                    let place = self.any(place);
                    self.put(Op::Item, 0, into, list, place);
                }
            }
            Expr::Part(card, key, _) => {
                let card = self.any(card);
                self.put(Op::Part, 0, into, card, *key as u16);
                self.code.words.push(u64::from(u32::MAX));
            }
        }
        self.top = top;
    }
}

/// The register of a variable where it is declared.
fn declared(var: Var) -> R {
    match var {
        Var::Local(slot) | Var::Boxed(slot) => slot,
        Var::Open(_) | Var::Captured(_) | Var::CapturedBox(_) | Var::Me => {
            unreachable!("declared here")
        }
    }
}

/// An integer that fits into an instruction.
fn small(value: &V) -> Option<i16> {
    match value {
        V::Int(n) => i16::try_from(*n).ok(),
        _ => None,
    }
}
