//! Values by hand: counted references.

use std::cell::{Cell, RefCell};
use std::rc::Rc;

use super::tree::Func;

#[derive(Clone, Default)]
pub enum V {
    #[default]
    Nothing,
    Truth(bool),
    Int(i64),
    Num(f64),
    Text(Rc<Text>),
    List(Rc<RefCell<Vec<V>>>),
    Card(Rc<Card>),
    Func(Rc<Closure>),
    Shared(Rc<RefCell<V>>),
}

/// A text: so many bytes of a buffer that longer texts share.
pub struct Text {
    pub buffer: Rc<RefCell<String>>,
    pub length: usize,
}

/// A card: its keys by their numbers, and their values.
#[derive(Default)]
pub struct Card {
    pub keys: RefCell<Vec<u32>>,
    pub values: RefCell<Vec<V>>,
}

impl Card {
    /// Where a key is; a guess is tried first.
    #[inline]
    pub fn place(&self, key: u32, guess: &Cell<u32>) -> Option<usize> {
        let keys = self.keys.borrow();
        let guessed = guess.get() as usize;
        if keys.get(guessed) == Some(&key) {
            return Some(guessed);
        }
        let at = keys.iter().position(|own| *own == key)?;
        guess.set(at as u32);
        Some(at)
    }
}

pub struct Closure {
    pub func: Rc<Func>,
    pub captured: Vec<V>,
}

pub fn text(text: &str) -> V {
    V::Text(Rc::new(Text {
        buffer: Rc::new(RefCell::new(text.to_owned())),
        length: text.len(),
    }))
}

/// As a program shows it.
pub fn shown(value: &V) -> String {
    match value {
        V::Nothing => "nothing".to_owned(),
        V::Truth(truth) => truth.to_string(),
        V::Int(n) => n.to_string(),
        V::Num(n) => format!("{n:?}"),
        V::Text(text) => text.buffer.borrow()[..text.length].to_owned(),
        V::List(_) | V::Card(_) | V::Func(_) | V::Shared(_) => "…".to_owned(),
    }
}

/// One text after the other; the first one's buffer is gone on with where it can be.
pub fn join(a: &V, b: &V) -> V {
    let more = match b {
        V::Text(text) => text.buffer.borrow()[..text.length].to_owned(),
        other => shown(other),
    };
    let V::Text(first) = a else {
        return text(&(shown(a) + &more));
    };
    let mut buffer = first.buffer.borrow_mut();
    if buffer.len() == first.length && first.length >= 32 {
        buffer.push_str(&more);
        let length = buffer.len();
        drop(buffer);
        return V::Text(Rc::new(Text {
            buffer: Rc::clone(&first.buffer),
            length,
        }));
    }
    let joined = buffer[..first.length].to_owned() + &more;
    drop(buffer);
    text(&joined)
}

#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Op {
    Add,
    Sub,
    Mul,
    Div,
    FloorDiv,
    Mod,
    Join,
    Eq,
    Ne,
    Lt,
    Le,
    Gt,
    Ge,
}

pub fn number(value: &V) -> f64 {
    match value {
        V::Int(n) => *n as f64,
        V::Num(n) => *n,
        other => panic!("a number is needed, not {}", shown(other)),
    }
}

pub fn equal(a: &V, b: &V) -> bool {
    match (a, b) {
        (V::Nothing, V::Nothing) => true,
        (V::Truth(a), V::Truth(b)) => a == b,
        (V::Int(a), V::Int(b)) => a == b,
        (V::Int(_) | V::Num(_), V::Int(_) | V::Num(_)) => number(a) == number(b),
        (V::Text(_), V::Text(_)) => shown(a) == shown(b),
        _ => false,
    }
}

/// An operator on any two values.
pub fn operate(op: Op, a: &V, b: &V) -> V {
    use Op::{Add, Div, Eq, FloorDiv, Ge, Gt, Join, Le, Lt, Mod, Mul, Ne, Sub};
    match (op, a, b) {
        (Add, V::Int(a), V::Int(b)) => V::Int(a.checked_add(*b).expect("too large")),
        (Sub, V::Int(a), V::Int(b)) => V::Int(a.checked_sub(*b).expect("too large")),
        (Mul, V::Int(a), V::Int(b)) => V::Int(a.checked_mul(*b).expect("too large")),
        (FloorDiv, V::Int(a), V::Int(b)) => V::Int(a.div_euclid(*b)),
        (Mod, V::Int(a), V::Int(b)) => V::Int(a.rem_euclid(*b)),
        (Lt, V::Int(a), V::Int(b)) => V::Truth(a < b),
        (Le, V::Int(a), V::Int(b)) => V::Truth(a <= b),
        (Gt, V::Int(a), V::Int(b)) => V::Truth(a > b),
        (Ge, V::Int(a), V::Int(b)) => V::Truth(a >= b),
        (Add, ..) => V::Num(number(a) + number(b)),
        (Sub, ..) => V::Num(number(a) - number(b)),
        (Mul, ..) => V::Num(number(a) * number(b)),
        (Div, ..) => V::Num(number(a) / number(b)),
        (Join, ..) => join(a, b),
        (Eq, ..) => V::Truth(equal(a, b)),
        (Ne, ..) => V::Truth(!equal(a, b)),
        (Lt, ..) => V::Truth(number(a) < number(b)),
        (Le, ..) => V::Truth(number(a) <= number(b)),
        (Gt, ..) => V::Truth(number(a) > number(b)),
        (Ge, ..) => V::Truth(number(a) >= number(b)),
        _ => panic!("no such operation"),
    }
}

/// What is built in, as far as the programs need it.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Builtin {
    Length,
    Add,
    Root,
    Round,
}

pub fn apply(builtin: Builtin, args: &[V]) -> V {
    match (builtin, args) {
        (Builtin::Length, [V::List(list)]) => V::Int(list.borrow().len() as i64),
        (Builtin::Length, [V::Text(text)]) => {
            let buffer = text.buffer.borrow();
            V::Int(buffer[..text.length].chars().count() as i64)
        }
        (Builtin::Add, [V::List(list), value]) => {
            list.borrow_mut().push(value.clone());
            V::Nothing
        }
        (Builtin::Root, [value]) => V::Num(number(value).sqrt()),
        (Builtin::Round, [value]) => V::Int(number(value).round() as i64),
        _ => panic!("not made for that"),
    }
}
