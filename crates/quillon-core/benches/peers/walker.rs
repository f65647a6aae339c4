//! A walker of the tree, by hand.

use std::rc::Rc;

use super::tree::{Expr, Func, Stmt, Var};
use super::values::{Card, Closure, Op, V, apply, join, operate, shown, text};

/// How a statement ends.
enum End {
    Next,
    Stop,
    Skip,
    Answer(V),
}

struct Walker {
    out: String,
    slots: Vec<V>,
}

/// Runs a program; what it says.
pub fn run(program: &Rc<Func>) -> String {
    let mut walker = Walker {
        out: String::new(),
        slots: vec![V::Nothing; program.slots.get() as usize],
    };
    let me = Rc::new(Closure {
        func: Rc::clone(program),
        captured: Vec::new(),
    });
    walker.stmts(&program.body, 0, &me);
    walker.out
}

impl Walker {
    fn get(&self, var: Var, base: usize, me: &Rc<Closure>) -> V {
        match var {
            Var::Local(slot) => self.slots[base + slot as usize].clone(),
            Var::Boxed(slot) => match &self.slots[base + slot as usize] {
                V::Shared(cell) => cell.borrow().clone(),
                other => other.clone(),
            },
            Var::Captured(index) => me.captured[index as usize].clone(),
            Var::CapturedBox(index) => match &me.captured[index as usize] {
                V::Shared(cell) => cell.borrow().clone(),
                other => other.clone(),
            },
            Var::Me => V::Func(Rc::clone(me)),
            Var::Open(_) => unreachable!("settled"),
        }
    }

    fn begin(&mut self, var: Var, value: V, base: usize) {
        match var {
            Var::Local(slot) => self.slots[base + slot as usize] = value,
            Var::Boxed(slot) => {
                self.slots[base + slot as usize] = V::Shared(Rc::new(value.into()));
            }
            Var::Open(_) | Var::Captured(_) | Var::CapturedBox(_) | Var::Me => {
                unreachable!("declared here")
            }
        }
    }

    fn set(&mut self, var: Var, value: V, base: usize, me: &Rc<Closure>) {
        let cell = match var {
            Var::Local(slot) => {
                self.slots[base + slot as usize] = value;
                return;
            }
            Var::Boxed(slot) => &self.slots[base + slot as usize],
            Var::CapturedBox(index) => &me.captured[index as usize],
            Var::Open(_) | Var::Captured(_) | Var::Me => unreachable!("what changes is shared"),
        };
        if let V::Shared(cell) = cell {
            *cell.borrow_mut() = value;
        }
    }

    fn stmts(&mut self, stmts: &[Stmt], base: usize, me: &Rc<Closure>) -> End {
        for stmt in stmts {
            match self.stmt(stmt, base, me) {
                End::Next => {}
                end @ (End::Stop | End::Skip | End::Answer(_)) => return end,
            }
        }
        End::Next
    }

    fn stmt(&mut self, stmt: &Stmt, base: usize, me: &Rc<Closure>) -> End {
        match stmt {
            Stmt::Let(var, e) => {
                let value = self.expr(e, base, me);
                self.begin(*var, value, base);
            }
            Stmt::Set(var, e) => {
                let value = self.expr(e, base, me);
                self.set(*var, value, base, me);
            }
            Stmt::SetItem(list, place, e) => {
                let list = self.expr(list, base, me);
                let place = self.expr(place, base, me);
                let value = self.expr(e, base, me);
                if let (V::List(list), V::Int(place)) = (list, place) {
                    list.borrow_mut()[place as usize - 1] = value;
                }
            }
            Stmt::SetPart(card, key, e, guess) => {
                let card = self.expr(card, base, me);
                let value = self.expr(e, base, me);
                if let V::Card(card) = card {
                    let at = card.place(*key, guess).expect("a key");
                    card.values.borrow_mut()[at] = value;
                }
            }
            Stmt::Say(list) => {
                let shown: Vec<String> = list
                    .iter()
                    .map(|e| shown(&self.expr(e, base, me)))
                    .collect();
                self.out.push_str(&shown.join(" "));
                self.out.push('\n');
            }
            Stmt::Do(e) => drop(self.expr(e, base, me)),
            Stmt::When(test, yes, no) => {
                return if self.truth(test, base, me) {
                    self.stmts(yes, base, me)
                } else {
                    self.stmts(no, base, me)
                };
            }
            Stmt::While(test, body) => {
                while self.truth(test, base, me) {
                    match self.stmts(body, base, me) {
                        End::Next | End::Skip => {}
                        End::Stop => break,
                        end => return end,
                    }
                }
            }
            Stmt::Count(var, first, last, body) => {
                let (V::Int(first), V::Int(last)) =
                    (self.expr(first, base, me), self.expr(last, base, me))
                else {
                    panic!("integers are needed");
                };
                for n in first..=last {
                    self.begin(*var, V::Int(n), base);
                    match self.stmts(body, base, me) {
                        End::Next | End::Skip => {}
                        End::Stop => break,
                        end => return end,
                    }
                }
            }
            Stmt::Each(var, items, body) => {
                let V::List(items) = self.expr(items, base, me) else {
                    panic!("a list is needed");
                };
                let items = items.borrow().clone();
                for item in items {
                    self.begin(*var, item, base);
                    match self.stmts(body, base, me) {
                        End::Next | End::Skip => {}
                        End::Stop => break,
                        end => return end,
                    }
                }
            }
            Stmt::Stop => return End::Stop,
            Stmt::Skip => return End::Skip,
            Stmt::Answer(e) => return End::Answer(self.expr(e, base, me)),
        }
        End::Next
    }

    fn truth(&mut self, e: &Expr, base: usize, me: &Rc<Closure>) -> bool {
        match self.expr(e, base, me) {
            V::Truth(truth) => truth,
            _ => panic!("a truth value is needed"),
        }
    }

    fn expr(&mut self, e: &Expr, base: usize, me: &Rc<Closure>) -> V {
        match e {
            Expr::Const(value) => value.clone(),
            Expr::Var(var) => self.get(*var, base, me),
            Expr::Call(callee, args) => {
                let V::Func(function) = self.expr(callee, base, me) else {
                    panic!("a function is needed");
                };
                let inner = self.slots.len();
                let size = function.func.slots.get() as usize;
                self.slots.resize(inner + size, V::Nothing);
                for (param, arg) in function.func.params.iter().zip(args) {
                    let value = self.expr(arg, base, me);
                    self.begin(*param, value, inner);
                }
                let end = self.stmts(&function.func.body, inner, &function);
                self.slots.truncate(inner);
                match end {
                    End::Answer(value) => value,
                    End::Next | End::Stop | End::Skip => V::Nothing,
                }
            }
            Expr::Builtin(builtin, args) => {
                let args: Vec<V> = args.iter().map(|arg| self.expr(arg, base, me)).collect();
                apply(*builtin, &args)
            }
            Expr::Bin(op, a, b) => {
                let a = self.expr(a, base, me);
                let b = self.expr(b, base, me);
                match (op, &a, &b) {
                    (Op::Add, V::Int(a), V::Int(b)) => {
                        V::Int(a.checked_add(*b).expect("too large"))
                    }
                    (Op::Lt, V::Int(a), V::Int(b)) => V::Truth(a < b),
                    (Op::Join, ..) => join(&a, &b),
                    _ => operate(*op, &a, &b),
                }
            }
            Expr::And(a, b) => V::Truth(self.truth(a, base, me) && self.truth(b, base, me)),
            Expr::Or(a, b) => V::Truth(self.truth(a, base, me) || self.truth(b, base, me)),
            Expr::Not(a) => V::Truth(!self.truth(a, base, me)),
            Expr::Neg(a) => operate(Op::Sub, &V::Int(0), &self.expr(a, base, me)),
            Expr::Func(func) => {
                let captured = func.captures.borrow();
                let captured = captured.iter().map(|var| match *var {
                    Var::Boxed(slot) => self.slots[base + slot as usize].clone(),
                    Var::CapturedBox(index) => me.captured[index as usize].clone(),
                    var @ (Var::Open(_) | Var::Local(_) | Var::Captured(_) | Var::Me) => {
                        self.get(var, base, me)
                    }
                });
                V::Func(Rc::new(Closure {
                    func: Rc::clone(func),
                    captured: captured.collect(),
                }))
            }
            Expr::List(items) => {
                let items: Vec<V> = items.iter().map(|item| self.expr(item, base, me)).collect();
                V::List(Rc::new(items.into()))
            }
            Expr::Card(entries) => {
                let card = Card::default();
                for (key, value) in entries {
                    let value = self.expr(value, base, me);
                    card.keys.borrow_mut().push(*key);
                    card.values.borrow_mut().push(value);
                }
                V::Card(Rc::new(card))
            }
            Expr::Item(list, place) => {
                match (self.expr(list, base, me), self.expr(place, base, me)) {
                    (V::List(list), V::Int(place)) => list.borrow()[place as usize - 1].clone(),
                    (V::Text(own), V::Int(place)) => {
                        let at = place as usize - 1;
                        text(&own.buffer.borrow()[at..=at])
                    }
                    _ => panic!("a list is needed"),
                }
            }
            Expr::Part(card, key, guess) => match self.expr(card, base, me) {
                V::Card(card) => {
                    let at = card.place(*key, guess).expect("a key");
                    card.values.borrow()[at].clone()
                }
                _ => panic!("a card is needed"),
            },
        }
    }
}
