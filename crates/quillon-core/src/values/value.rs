//! A value in a run.

use super::{
    Closure, Coroutine, Heap, Inner, Key, List, Map, Pool, Ref, Shape, Text, Traced, ValueRow,
    Variable, exact_integer,
};
use crate::definition::Literal;
use crate::definition::template::ValueKind;

/// A value, as the engines pass it around: sixteen bytes, copied without further ado.
// The layout puts the kind into a word of its own, so that both halves are written and
// read at their full width.
#[derive(Clone, Copy, Default, Debug)]
#[repr(u64)]
pub(crate) enum Value {
    /// Where no value is yet; no operation ever sees it.
    Unset,
    /// The absence of a value.
    #[default]
    Nothing,
    /// True or false.
    Truth(bool),
    /// A 64-bit integer.
    Integer(i64),
    /// An IEEE double.
    Number(f64),
    /// A Unicode text.
    Text(Ref<Text>),
    /// A list, shared by all that have it.
    List(Ref<List>),
    /// A map, shared by all that have it.
    Map(Ref<Map>),
    /// A function with what it captured.
    Function(Ref<Closure>),
    /// A function that can be suspended and resumed.
    Coroutine(Ref<Coroutine>),
    /// A variable that functions share, where one is kept; no operation ever sees it.
    Variable(Ref<Variable>),
    /// What a loop, a sort or a cleanup has come to; no operation ever sees it.
    Inner(Ref<Inner>),
}

/// Makes something on the current heap, that has so many bytes beside itself, and counts it. It is made when its
/// place is known and always inlined, so that it is written where it stays: read again in larger pieces than it
/// was just written in, it would have to wait for the writes.
#[allow(clippy::inline_always)]
#[inline(always)]
pub(super) fn made<T: Traced>(
    beside: usize,
    pool: impl Fn(&Heap) -> &Pool<T>,
    content: impl FnOnce() -> T,
) -> Ref<T> {
    Heap::with(|heap| {
        heap.count(Pool::<T>::SIZE + beside);
        pool(heap).allocate(content)
    })
}

impl Value {
    /// What something on the heap is called in a count of what is there.
    pub fn called(self) -> &'static str {
        match self {
            Value::Unset
            | Value::Nothing
            | Value::Truth(_)
            | Value::Integer(_)
            | Value::Number(_) => "other",
            Value::Text(_) => "text",
            Value::List(_) => "list",
            Value::Map(_) => "map",
            Value::Function(_) => "function",
            Value::Coroutine(_) => "coroutine",
            Value::Variable(_) => "shared variable",
            Value::Inner(_) => "state of a loop",
        }
    }

    /// The function that it is, if it is one.
    pub fn as_function(self) -> Option<Ref<Closure>> {
        if let Value::Function(function) = self {
            Some(function)
        } else {
            None
        }
    }

    /// A text.
    pub fn text(text: impl Into<Box<str>> + AsRef<str>) -> Value {
        Value::Text(Text::made(text))
    }

    /// A new list.
    pub fn list(items: impl AsRef<[Value]>) -> Value {
        Value::list_of(ValueRow::of(items.as_ref()))
    }

    /// A new list that is given its items one by one, so many at most.
    pub fn gathered(count: usize, items: impl IntoIterator<Item = Value>) -> Value {
        Value::list_of(ValueRow::gathered(count, items))
    }

    /// A new list of what is in a row.
    #[inline]
    pub fn list_of(items: ValueRow) -> Value {
        Value::List(made(items.bytes(), |heap| &heap.lists, || List { items }))
    }

    /// A new map.
    pub fn map(entries: impl IntoIterator<Item = (Key, Value)>) -> Value {
        let map = Map::default();
        for (key, value) in entries {
            map.put(key, value);
        }
        Value::from_map(map)
    }

    /// A map on the current heap.
    #[inline]
    pub fn from_map(map: Map) -> Value {
        Value::Map(made(map.bytes_beside(), |heap| &heap.maps, || map))
    }

    /// A map of a shape, with the value of each of its keys in order.
    #[inline]
    pub fn of_shape(shape: Ref<Shape>, values: &[Value]) -> Value {
        let row = ValueRow::of(values);
        Value::Map(made(
            row.bytes(),
            |heap| &heap.maps,
            || Map::of_shape(shape, row),
        ))
    }

    /// A variable that functions share.
    pub fn variable(value: Value) -> Ref<Variable> {
        let variable = Variable::new(value);
        made(variable.bytes_beside(), |heap| &heap.variables, || variable)
    }

    /// A coroutine that has not begun.
    pub fn coroutine(function: Ref<Closure>) -> Value {
        let coroutine = Coroutine::new(function);
        Value::Coroutine(made(
            coroutine.bytes_beside(),
            |heap| &heap.coroutines,
            || coroutine,
        ))
    }

    /// What a loop, a sort or a cleanup has come to.
    pub fn inner(inner: Inner) -> Ref<Inner> {
        made(inner.bytes_beside(), |heap| &heap.inner, || inner)
    }

    /// The value that the notation writes like this. Goes into it with a stack of its own: a host
    /// can nest one as deep as it likes.
    pub fn from_literal(literal: &Literal) -> Value {
        let mut work = Vec::new();
        let value = Value::begun(literal, &mut work);
        while let Some((literal, value)) = work.pop() {
            match (literal, value) {
                (Literal::List(items), Value::List(list)) => {
                    let begun = items.iter().map(|item| Value::begun(item, &mut work));
                    list.fill(&ValueRow::gathered(items.len(), begun));
                }
                (Literal::Map(pairs), Value::Map(map)) => {
                    for (key, value) in pairs {
                        if let Some(key) = Value::begun(key, &mut Vec::new()).key() {
                            map.put(key, Value::begun(value, &mut work));
                        }
                    }
                }
                _ => {}
            }
        }
        value
    }

    /// The value of a literal; a list or a map is empty, and among what is to be filled.
    fn begun<'l>(literal: &'l Literal, work: &mut Vec<(&'l Literal, Value)>) -> Value {
        let empty = match literal {
            Literal::Nothing => return Value::Nothing,
            Literal::Truth(truth) => return Value::Truth(*truth),
            Literal::Integer(n) => return Value::Integer(*n),
            Literal::Number(n) => return Value::Number(*n),
            Literal::Text(text) => return Value::text(text.as_str()),
            Literal::List(_) => Value::list([]),
            Literal::Map(_) => Value::map([]),
        };
        work.push((literal, empty));
        empty
    }

    /// Whether there is a value at all.
    #[inline]
    pub fn is_set(self) -> bool {
        !matches!(self, Value::Unset)
    }

    /// The value, if there is one.
    #[inline]
    pub fn if_set(self) -> Option<Value> {
        self.is_set().then_some(self)
    }

    /// What is held where it is kept, if anything: what it holds if it is a variable that functions share.
    #[inline]
    pub fn held(self) -> Option<Value> {
        match self {
            Value::Variable(shared) => shared.get().if_set(),
            own => own.if_set(),
        }
    }

    /// Its kind.
    pub fn kind(&self) -> ValueKind {
        match self {
            Value::Unset | Value::Nothing | Value::Variable(_) | Value::Inner(_) => {
                ValueKind::Nothing
            }
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
        Some(match *self {
            Value::Nothing => Key::Nothing,
            Value::Truth(truth) => Key::Truth(truth),
            Value::Integer(n) => Key::Integer(n),
            Value::Number(n) => match exact_integer(n) {
                Some(integer) => Key::Integer(integer),
                None => Key::Number(n.to_bits()),
            },
            Value::Text(text) => Key::Text(text),
            _ => return None,
        })
    }

    /// Where it is on the heap, if it is there.
    pub fn address(self) -> Option<usize> {
        match self {
            Value::Text(it) => Some(it.address()),
            Value::List(it) => Some(it.address()),
            Value::Map(it) => Some(it.address()),
            Value::Function(it) => Some(it.address()),
            Value::Coroutine(it) => Some(it.address()),
            Value::Variable(it) => Some(it.address()),
            Value::Inner(it) => Some(it.address()),
            Value::Unset
            | Value::Nothing
            | Value::Truth(_)
            | Value::Integer(_)
            | Value::Number(_) => None,
        }
    }
}
