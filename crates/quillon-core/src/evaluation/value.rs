//! The values of a run.

use std::cell::RefCell;
use std::rc::Rc;

use indexmap::IndexMap;

use super::coroutines::Coroutine;
use super::heap::Counted;
use crate::definition::Literal;
use crate::definition::template::ValueKind;
use crate::meaning::FunctionCore;

/// A value.
#[derive(Clone, Debug, Default)]
pub enum Value {
    /// The absence of a value.
    #[default]
    Nothing,
    /// True or false.
    Truth(bool),
    /// A 64-bit integer.
    Integer(i64),
    /// An IEEE double.
    Number(f64),
    /// A Unicode text; never changed in place.
    Text(Text),
    /// A list, shared by all that have it.
    List(Rc<List>),
    /// A map, shared by all that have it.
    Map(Rc<Map>),
    /// A function with what it captured.
    Function(Rc<Closure>),
    /// A function that can be suspended and resumed.
    Coroutine(Rc<Coroutine>),
}

/// A text, shared by all that have it.
#[derive(Clone, Debug)]
pub struct Text(Rc<(Box<str>, Counted)>);

impl Text {
    /// A text.
    pub fn new(text: impl Into<Box<str>>) -> Text {
        let text = text.into();
        let counted = Counted::new(text.len());
        Text(Rc::new((text, counted)))
    }
}

impl std::ops::Deref for Text {
    type Target = str;

    #[inline]
    fn deref(&self) -> &str {
        &self.0.0
    }
}

impl PartialEq for Text {
    fn eq(&self, other: &Text) -> bool {
        **self == **other
    }
}

impl Eq for Text {}

impl std::hash::Hash for Text {
    fn hash<H: std::hash::Hasher>(&self, state: &mut H) {
        (**self).hash(state);
    }
}

/// A list.
#[derive(Debug, Default)]
pub struct List(pub RefCell<Vec<Value>>, Counted);

impl List {
    /// Takes note of the room that the items need now.
    #[inline]
    pub(super) fn recount(&self) {
        let room = self.0.borrow().capacity();
        self.1.resize(room * size_of::<Value>());
    }
}

/// A map; keys stay in the order in which they were first put.
#[derive(Debug, Default)]
pub struct Map(pub RefCell<IndexMap<Key, Value>>, Counted);

impl Map {
    /// Takes note of the room that the entries need now.
    #[inline]
    pub(super) fn recount(&self) {
        let room = self.0.borrow().capacity();
        // An entry and its hash, and a place in the index.
        self.1
            .resize(room * (size_of::<(Key, Value)>() + 2 * size_of::<usize>()));
    }
}

/// A value that can be a key.
#[derive(Clone, PartialEq, Eq, Hash, Debug)]
pub enum Key {
    /// The absence of a value.
    Nothing,
    /// True or false.
    Truth(bool),
    /// An integer, or a number equal to one.
    Integer(i64),
    /// The bits of any other number.
    Number(u64),
    /// A text.
    Text(Text),
}

/// A function together with the variables it captured.
#[derive(Debug)]
pub struct Closure {
    /// The code.
    pub function: Rc<FunctionCore>,
    /// The captured variables, in the order of the code's `captures`.
    pub captured: Vec<Rc<Cell>>,
}

/// A variable that functions share; empty until it is first set.
#[derive(Debug, Default)]
pub struct Cell(pub RefCell<Option<Value>>);

impl Value {
    /// A text.
    pub fn text(text: &str) -> Value {
        Value::Text(Text::new(text))
    }

    /// A new list.
    pub fn list(items: Vec<Value>) -> Value {
        let list = List(RefCell::new(items), Counted::default());
        list.recount();
        Value::List(Rc::new(list))
    }

    /// A new map.
    pub fn map(entries: impl IntoIterator<Item = (Key, Value)>) -> Value {
        let map = Map(
            RefCell::new(entries.into_iter().collect()),
            Counted::default(),
        );
        map.recount();
        Value::Map(Rc::new(map))
    }

    /// The value that the notation writes like this.
    pub fn from_literal(literal: &Literal) -> Value {
        match literal {
            Literal::Nothing => Value::Nothing,
            Literal::Truth(truth) => Value::Truth(*truth),
            Literal::Integer(n) => Value::Integer(*n),
            Literal::Number(n) => Value::Number(*n),
            Literal::Text(text) => Value::text(text),
            Literal::List(items) => Value::list(items.iter().map(Value::from_literal).collect()),
            Literal::Map(pairs) => Value::map(pairs.iter().filter_map(|(k, v)| {
                Some((Value::from_literal(k).key()?, Value::from_literal(v)))
            })),
        }
    }

    /// Its kind.
    pub fn kind(&self) -> ValueKind {
        match self {
            Value::Nothing => ValueKind::Nothing,
            Value::Truth(_) => ValueKind::Truth,
            Value::Integer(_) => ValueKind::Integer,
            Value::Number(_) => ValueKind::Number,
            Value::Text(_) => ValueKind::Text,
            Value::List(_) => ValueKind::List,
            Value::Map(_) => ValueKind::Map,
            Value::Function(_) => ValueKind::Function,
            Value::Coroutine(_) => ValueKind::Coroutine,
        }
    }

    /// As a key, if it can be one: lists, maps and functions cannot.
    pub fn key(&self) -> Option<Key> {
        Some(match self {
            Value::Nothing => Key::Nothing,
            Value::Truth(truth) => Key::Truth(*truth),
            Value::Integer(n) => Key::Integer(*n),
            Value::Number(n) => match super::number::exact_integer(*n) {
                Some(integer) => Key::Integer(integer),
                None => Key::Number(n.to_bits()),
            },
            Value::Text(text) => Key::Text(text.clone()),
            Value::List(_) | Value::Map(_) | Value::Function(_) | Value::Coroutine(_) => {
                return None;
            }
        })
    }

    fn is_compound(&self) -> bool {
        matches!(
            self,
            Value::List(_) | Value::Map(_) | Value::Function(_) | Value::Coroutine(_)
        )
    }
}

impl Key {
    /// The value that the key stands for.
    pub fn value(&self) -> Value {
        match self {
            Key::Nothing => Value::Nothing,
            Key::Truth(truth) => Value::Truth(*truth),
            Key::Integer(n) => Value::Integer(*n),
            Key::Number(bits) => Value::Number(f64::from_bits(*bits)),
            Key::Text(text) => Value::Text(text.clone()),
        }
    }
}

thread_local! {
    /// Values waiting to be dropped, while something is being dropped.
    static DROPPING: RefCell<Option<Vec<Value>>> = const { RefCell::new(None) };
}

/// Drops values one after the other instead of one inside the other, so that a long
/// chain of lists costs no native stack.
pub(super) fn drop_flat(values: impl Iterator<Item = Value>) {
    let mut values: Vec<Value> = values.filter(Value::is_compound).collect();
    if values.is_empty() {
        return;
    }
    let first = DROPPING.try_with(|waiting| {
        let mut waiting = waiting.borrow_mut();
        if let Some(waiting) = &mut *waiting {
            waiting.append(&mut values);
            return false;
        }
        *waiting = Some(std::mem::take(&mut values));
        true
    });
    if first != Ok(true) {
        return;
    }
    loop {
        let next = DROPPING.with(|waiting| waiting.borrow_mut().as_mut().and_then(Vec::pop));
        if next.is_none() {
            break;
        }
    }
    DROPPING.with(|waiting| *waiting.borrow_mut() = None);
}

impl Drop for List {
    fn drop(&mut self) {
        drop_flat(self.0.get_mut().drain(..));
    }
}

impl Drop for Map {
    fn drop(&mut self) {
        drop_flat(self.0.get_mut().drain(..).map(|(_, value)| value));
    }
}

impl Drop for Cell {
    fn drop(&mut self) {
        drop_flat(self.0.get_mut().take().into_iter());
    }
}

/// Whether two values are equal: numbers by what they amount to, texts, lists and maps
/// by what is in them, functions when they are the same one. `None` when the lists or
/// maps are nested too deeply to compare (a cycle, most likely).
pub fn equal(a: &Value, b: &Value) -> Option<bool> {
    const DEEPEST: usize = 500;
    equal_within(a, b, DEEPEST)
}

fn equal_within(a: &Value, b: &Value, depth: usize) -> Option<bool> {
    Some(match (a, b) {
        (Value::Nothing, Value::Nothing) => true,
        (Value::Truth(a), Value::Truth(b)) => a == b,
        (Value::Integer(a), Value::Integer(b)) => a == b,
        (Value::Number(_) | Value::Integer(_), Value::Number(_) | Value::Integer(_)) => {
            super::number::compare(a, b) == Some(std::cmp::Ordering::Equal)
        }
        (Value::Text(a), Value::Text(b)) => a == b,
        (Value::Function(a), Value::Function(b)) => Rc::ptr_eq(a, b),
        (Value::Coroutine(a), Value::Coroutine(b)) => Rc::ptr_eq(a, b),
        (Value::List(a), Value::List(b)) => {
            if Rc::ptr_eq(a, b) {
                return Some(true);
            }
            let (a, b) = (a.0.borrow(), b.0.borrow());
            if a.len() != b.len() {
                return Some(false);
            }
            let deeper = depth.checked_sub(1)?;
            for (a, b) in a.iter().zip(b.iter()) {
                if !equal_within(a, b, deeper)? {
                    return Some(false);
                }
            }
            true
        }
        (Value::Map(a), Value::Map(b)) => {
            if Rc::ptr_eq(a, b) {
                return Some(true);
            }
            let (a, b) = (a.0.borrow(), b.0.borrow());
            if a.len() != b.len() {
                return Some(false);
            }
            let deeper = depth.checked_sub(1)?;
            for (key, a) in a.iter() {
                match b.get(key) {
                    Some(b) if equal_within(a, b, deeper)? => {}
                    _ => return Some(false),
                }
            }
            true
        }
        _ => false,
    })
}

/// Whether two values are the very same list, map or function, or equal otherwise.
pub fn same(a: &Value, b: &Value) -> bool {
    match (a, b) {
        (Value::List(a), Value::List(b)) => Rc::ptr_eq(a, b),
        (Value::Map(a), Value::Map(b)) => Rc::ptr_eq(a, b),
        _ => equal(a, b).unwrap_or(false),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn equality_looks_inside_and_across_kinds_of_number() {
        let list = |items: &[i64]| Value::list(items.iter().map(|&n| Value::Integer(n)).collect());
        assert_eq!(equal(&list(&[1, 2]), &list(&[1, 2])), Some(true));
        assert!(!same(&list(&[1]), &list(&[1])));
        assert_eq!(equal(&Value::Integer(1), &Value::Number(1.0)), Some(true));
        assert_eq!(equal(&Value::text("1"), &Value::Integer(1)), Some(false));
    }

    #[test]
    fn a_very_long_chain_is_dropped_without_recursion() {
        let mut chain = Value::list(Vec::new());
        for _ in 0..1_000_000 {
            chain = Value::list(vec![chain]);
        }
        drop(chain);
    }
}
