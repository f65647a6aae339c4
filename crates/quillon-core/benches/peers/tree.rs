//! A tree made for the demo language: names are places, captured variables known.

use std::cell::{Cell, RefCell};
use std::collections::HashMap;
use std::rc::Rc;

use serde_json::Value as Json;

use super::values::{Builtin, Op, V, text};

/// Where a variable is.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Var {
    /// Before it is settled.
    Open(usize),
    Local(u16),
    /// A local that functions share, since it changes.
    Boxed(u16),
    Captured(u16),
    CapturedBox(u16),
    /// The running function itself.
    Me,
}

pub enum Expr {
    Const(V),
    Var(Var),
    Call(Box<Expr>, Vec<Expr>),
    Builtin(Builtin, Vec<Expr>),
    Bin(Op, Box<Expr>, Box<Expr>),
    And(Box<Expr>, Box<Expr>),
    Or(Box<Expr>, Box<Expr>),
    Not(Box<Expr>),
    Neg(Box<Expr>),
    Func(Rc<Func>),
    List(Vec<Expr>),
    Card(Vec<(u32, Expr)>),
    Item(Box<Expr>, Box<Expr>),
    Part(Box<Expr>, u32, Cell<u32>),
}

pub enum Stmt {
    Let(Var, Expr),
    Set(Var, Expr),
    SetItem(Expr, Expr, Expr),
    SetPart(Expr, u32, Expr, Cell<u32>),
    Say(Vec<Expr>),
    Do(Expr),
    When(Expr, Vec<Stmt>, Vec<Stmt>),
    While(Expr, Vec<Stmt>),
    Count(Var, Expr, Expr, Vec<Stmt>),
    Each(Var, Expr, Vec<Stmt>),
    Stop,
    Skip,
    Answer(Expr),
}

#[derive(Default)]
pub struct Func {
    pub params: Vec<Var>,
    /// Where what it captures is in the function around.
    pub captures: RefCell<Vec<Var>>,
    pub slots: Cell<u16>,
    pub body: Vec<Stmt>,
}

struct Known {
    func: usize,
    slot: u16,
    captured: bool,
    changed: bool,
    /// The function that is this variable from the start.
    is: Option<usize>,
}

#[derive(Default)]
pub struct Reader {
    known: Vec<Known>,
    scopes: Vec<HashMap<String, usize>>,
    funcs: Vec<u16>,
    current: Vec<usize>,
    keys: HashMap<String, u32>,
}

/// The tree of a program, from Quillon's tree of it.
pub fn read(json: &Json) -> Func {
    let mut reader = Reader::default();
    reader.enter();
    let body = reader.stmts(&json["fields"]["steps"]);
    let slots = reader.leave();
    let mut func = Func {
        slots: Cell::new(slots),
        body,
        ..Func::default()
    };
    let mut settling = vec![(0, Vec::new())];
    settle_all(&mut func.body, &reader.known, &mut settling);
    func
}

impl Reader {
    fn enter(&mut self) {
        self.current.push(self.funcs.len());
        self.funcs.push(0);
        self.scopes.push(HashMap::new());
    }

    fn leave(&mut self) -> u16 {
        self.scopes.pop();
        let func = self.current.pop().expect("a function");
        self.funcs[func]
    }

    fn declare(&mut self, name: &Json) -> usize {
        let func = *self.current.last().expect("a function");
        let slot = self.funcs[func];
        self.funcs[func] += 1;
        self.known.push(Known {
            func,
            slot,
            captured: false,
            changed: false,
            is: None,
        });
        let id = self.known.len() - 1;
        let name = name["text"].as_str().expect("a name").to_owned();
        self.scopes.last_mut().expect("a scope").insert(name, id);
        id
    }

    fn find(&mut self, name: &str) -> Option<usize> {
        let id = *self.scopes.iter().rev().find_map(|scope| scope.get(name))?;
        if self.known[id].func != *self.current.last().expect("a function") {
            self.known[id].captured = true;
        }
        Some(id)
    }

    fn key(&mut self, name: &Json) -> u32 {
        let next = self.keys.len() as u32;
        let name = name["text"].as_str().expect("a key").to_owned();
        *self.keys.entry(name).or_insert(next)
    }

    fn stmts(&mut self, list: &Json) -> Vec<Stmt> {
        let list = list.as_array().expect("statements");
        list.iter().map(|stmt| self.stmt(stmt)).collect()
    }

    fn block(&mut self, block: &Json) -> Vec<Stmt> {
        self.scopes.push(HashMap::new());
        let body = self.stmts(&block["fields"]["steps"]);
        self.scopes.pop();
        body
    }

    fn func(&mut self, fields: &Json, name: Option<usize>) -> Expr {
        self.enter();
        let own = *self.current.last().expect("a function");
        if let Some(name) = name {
            self.known[name].is = Some(own);
        }
        let params = fields["params"].as_array().cloned().unwrap_or_default();
        let params = params.iter().map(|p| Var::Open(self.declare(p))).collect();
        let body = if fields["result"].is_null() {
            self.block(&fields["body"])
        } else {
            vec![Stmt::Answer(self.expr(&fields["result"]))]
        };
        let slots = self.leave();
        Expr::Func(Rc::new(Func {
            params,
            captures: RefCell::new(vec![Var::Open(own)]),
            slots: Cell::new(slots),
            body,
        }))
    }

    fn stmt(&mut self, stmt: &Json) -> Stmt {
        let f = &stmt["fields"];
        match stmt["kind"].as_str().expect("a kind") {
            "Let" => {
                let value = self.expr(&f["value"]);
                Stmt::Let(Var::Open(self.declare(&f["name"])), value)
            }
            "Named" => {
                let id = self.declare(&f["name"]);
                let func = self.func(f, Some(id));
                Stmt::Let(Var::Open(id), func)
            }
            "Change" => {
                let id = self.find(f["name"]["text"].as_str().expect("a name"));
                let id = id.expect("a known name");
                self.known[id].changed = true;
                Stmt::Set(Var::Open(id), self.expr(&f["value"]))
            }
            "ChangeItem" => {
                let [from, place, value] = ["from", "place", "value"].map(|n| self.expr(&f[n]));
                Stmt::SetItem(from, place, value)
            }
            "ChangePart" => {
                let from = self.expr(&f["from"]);
                let key = self.key(&f["part"]);
                Stmt::SetPart(from, key, self.expr(&f["value"]), Cell::new(0))
            }
            "Say" => Stmt::Say(self.exprs(&f["values"])),
            "Do" => Stmt::Do(self.expr(&f["what"])),
            "When" => {
                let test = self.expr(&f["test"]);
                let then = self.block(&f["then"]);
                Stmt::When(test, then, Vec::new())
            }
            "While" => {
                let test = self.expr(&f["test"]);
                Stmt::While(test, self.block(&f["body"]))
            }
            "Count" => {
                let (first, last) = (self.expr(&f["first"]), self.expr(&f["last"]));
                self.scopes.push(HashMap::new());
                let var = Var::Open(self.declare(&f["name"]));
                let body = self.block(&f["body"]);
                self.scopes.pop();
                Stmt::Count(var, first, last, body)
            }
            "Each" => {
                let items = self.expr(&f["items"]);
                self.scopes.push(HashMap::new());
                let var = Var::Open(self.declare(&f["name"]));
                let body = self.block(&f["body"]);
                self.scopes.pop();
                Stmt::Each(var, items, body)
            }
            "Stop" => Stmt::Stop,
            "Skip" => Stmt::Skip,
            "Answer" => Stmt::Answer(self.expr(&f["value"])),
            other => panic!("the benchmarks have no {other}"),
        }
    }

    fn exprs(&mut self, list: &Json) -> Vec<Expr> {
        let list = list.as_array().expect("values");
        list.iter().map(|expr| self.expr(expr)).collect()
    }

    fn boxed(&mut self, expr: &Json) -> Box<Expr> {
        Box::new(self.expr(expr))
    }

    fn expr(&mut self, expr: &Json) -> Expr {
        let f = &expr["fields"];
        let kind = expr["kind"].as_str().expect("a kind");
        if let Some(op) = operator(kind) {
            return Expr::Bin(op, self.boxed(&f["left"]), self.boxed(&f["right"]));
        }
        match kind {
            "Number" => Expr::Const(match f["value"]["value"].as_i64() {
                Some(n) => V::Int(n),
                None => V::Num(f["value"]["value"].as_f64().expect("a number")),
            }),
            "Words" => Expr::Const(text(f["value"]["value"].as_str().expect("a text"))),
            "Yes" => Expr::Const(V::Truth(true)),
            "No" => Expr::Const(V::Truth(false)),
            "Nothing" => Expr::Const(V::Nothing),
            "Group" => self.expr(&f["inner"]),
            "Both" => Expr::And(self.boxed(&f["left"]), self.boxed(&f["right"])),
            "Either" => Expr::Or(self.boxed(&f["left"]), self.boxed(&f["right"])),
            "Opposite" => Expr::Not(self.boxed(&f["value"])),
            "Negative" => Expr::Neg(self.boxed(&f["value"])),
            "List" => Expr::List(self.exprs(&f["items"])),
            "Card" => {
                let entries = f["entries"].as_array().cloned().unwrap_or_default();
                let one = |e: &Json| {
                    (
                        self.key(&e["fields"]["key"]),
                        self.expr(&e["fields"]["value"]),
                    )
                };
                Expr::Card(entries.iter().map(one).collect())
            }
            "Item" => Expr::Item(self.boxed(&f["from"]), self.boxed(&f["place"])),
            "Part" => {
                let key = self.key(&f["part"]);
                Expr::Part(self.boxed(&f["from"]), key, Cell::new(0))
            }
            "Way" | "ShortWay" => self.func(f, None),
            "Variable" => {
                let id = self.find(f["name"]["text"].as_str().expect("a name"));
                Expr::Var(Var::Open(id.expect("a known name")))
            }
            "Call" => {
                let callee = &f["callee"]["fields"]["name"]["text"];
                let name = callee.as_str().unwrap_or_default();
                let args = self.exprs(&f["args"]);
                match (self.find(name), name) {
                    (None, "length") => Expr::Builtin(Builtin::Length, args),
                    (None, "add") => Expr::Builtin(Builtin::Add, args),
                    (None, "root") => Expr::Builtin(Builtin::Root, args),
                    (None, "round") => Expr::Builtin(Builtin::Round, args),
                    _ => Expr::Call(self.boxed(&f["callee"]), args),
                }
            }
            other => panic!("the benchmarks have no {other}"),
        }
    }
}

fn operator(kind: &str) -> Option<Op> {
    Some(match kind {
        "Plus" => Op::Add,
        "Minus" => Op::Sub,
        "Times" => Op::Mul,
        "Divided" => Op::Div,
        "Over" => Op::FloorDiv,
        "Left" => Op::Mod,
        "Joined" => Op::Join,
        "Equal" => Op::Eq,
        "Unequal" => Op::Ne,
        "Less" => Op::Lt,
        "AtMost" => Op::Le,
        "More" => Op::Gt,
        "AtLeast" => Op::Ge,
        _ => return None,
    })
}

/// The functions around, each with its number and what it captures.
type Around = Vec<(usize, Vec<usize>)>;

fn settle(var: &mut Var, known: &[Known], around: &mut Around) {
    if let Var::Open(id) = *var {
        *var = place(id, around.len() - 1, known, around);
    }
}

/// Where a variable is for one of the functions around.
fn place(id: usize, depth: usize, known: &[Known], around: &mut Around) -> Var {
    let var = &known[id];
    let shared = var.captured && var.changed;
    if var.func == around[depth].0 {
        return if shared {
            Var::Boxed(var.slot)
        } else {
            Var::Local(var.slot)
        };
    }
    if var.is == Some(around[depth].0) && !var.changed {
        return Var::Me;
    }
    let captures = &mut around[depth].1;
    let at = captures
        .iter()
        .position(|own| *own == id)
        .unwrap_or_else(|| {
            captures.push(id);
            captures.len() - 1
        });
    if shared {
        Var::CapturedBox(at as u16)
    } else {
        Var::Captured(at as u16)
    }
}

fn settle_all(stmts: &mut [Stmt], known: &[Known], around: &mut Around) {
    for stmt in stmts {
        match stmt {
            Stmt::Let(var, e) | Stmt::Set(var, e) => {
                settle(var, known, around);
                settle_expr(e, known, around);
            }
            Stmt::SetItem(a, b, c) => [a, b, c]
                .into_iter()
                .for_each(|e| settle_expr(e, known, around)),
            Stmt::SetPart(a, _, b, _) => [a, b]
                .into_iter()
                .for_each(|e| settle_expr(e, known, around)),
            Stmt::Say(list) => list.iter_mut().for_each(|e| settle_expr(e, known, around)),
            Stmt::Do(e) | Stmt::Answer(e) => settle_expr(e, known, around),
            Stmt::When(e, yes, no) => {
                settle_expr(e, known, around);
                settle_all(yes, known, around);
                settle_all(no, known, around);
            }
            Stmt::While(e, body) => {
                settle_expr(e, known, around);
                settle_all(body, known, around);
            }
            Stmt::Count(var, a, b, body) => {
                settle(var, known, around);
                settle_expr(a, known, around);
                settle_expr(b, known, around);
                settle_all(body, known, around);
            }
            Stmt::Each(var, e, body) => {
                settle(var, known, around);
                settle_expr(e, known, around);
                settle_all(body, known, around);
            }
            Stmt::Stop | Stmt::Skip => {}
        }
    }
}

fn settle_expr(expr: &mut Expr, known: &[Known], around: &mut Around) {
    match expr {
        Expr::Const(_) => {}
        Expr::Var(var) => settle(var, known, around),
        Expr::Call(callee, args) => {
            settle_expr(callee, known, around);
            args.iter_mut().for_each(|e| settle_expr(e, known, around));
        }
        Expr::Builtin(_, list) | Expr::List(list) => {
            list.iter_mut().for_each(|e| settle_expr(e, known, around));
        }
        Expr::Bin(_, a, b) | Expr::And(a, b) | Expr::Or(a, b) | Expr::Item(a, b) => {
            settle_expr(a, known, around);
            settle_expr(b, known, around);
        }
        Expr::Not(a) | Expr::Neg(a) | Expr::Part(a, ..) => settle_expr(a, known, around),
        Expr::Card(entries) => entries
            .iter_mut()
            .for_each(|(_, e)| settle_expr(e, known, around)),
        Expr::Func(func) => {
            let func = Rc::get_mut(func).expect("nobody else has it");
            let Some(Var::Open(own)) = func.captures.get_mut().pop() else {
                return;
            };
            around.push((own, Vec::new()));
            func.params
                .iter_mut()
                .for_each(|p| settle(p, known, around));
            settle_all(&mut func.body, known, around);
            let (_, captured) = around.pop().expect("this one");
            let depth = around.len() - 1;
            let from = captured
                .into_iter()
                .map(|id| place(id, depth, known, around));
            *func.captures.get_mut() = from.collect();
        }
    }
}
