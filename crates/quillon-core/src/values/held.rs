//! Values outside of a run.

use std::rc::Rc;

use super::{Copier, Heap, Key, Look, Value, beginning, described_as, equal, seen, seen_written};
use crate::definition::Literal;
use crate::definition::template::ValueKind;

/// A value that is held outside of a run: what a run gave, or what is to be given to one. As
/// long as it is held, it stays what it is.
pub struct Held(Content);

enum Content {
    /// A value that needs no heap, or a text.
    Free(Literal),
    /// A value with its heap: that of a session, or one of its own.
    Bound(Rc<Heap>, Value),
    /// Something put together with functions of several sessions: none can have it.
    Foreign,
}

/// A value has a function or a coroutine of another session in it.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) struct Foreign;

impl Held {
    /// A value that does not come from a session.
    pub fn new(literal: Literal) -> Held {
        if !matches!(literal, Literal::List(_) | Literal::Map(_)) {
            return Held(Content::Free(literal));
        }
        let heap = Heap::new();
        let held = {
            let _entered = heap.enter();
            Held::of(&heap, Value::from_literal(&literal))
        };
        take_apart(literal);
        held
    }

    /// The absence of a value.
    pub fn nothing() -> Held {
        Held::new(Literal::Nothing)
    }

    /// An integer.
    pub fn integer(n: i64) -> Held {
        Held::new(Literal::Integer(n))
    }

    /// A text.
    pub fn text(text: impl Into<String>) -> Held {
        Held::new(Literal::Text(text.into()))
    }

    /// A value of a heap.
    pub(crate) fn of(heap: &Rc<Heap>, value: Value) -> Held {
        heap.hold(value);
        Held(Content::Bound(Rc::clone(heap), value))
    }

    /// What several values make on one heap.
    pub(super) fn of_all(heap: &Rc<Heap>, made: Result<Value, Foreign>) -> Held {
        made.map_or(Held(Content::Foreign), |value| Held::of(heap, value))
    }

    /// Itself on a heap; a list or a map of another is a copy there.
    ///
    /// # Errors
    /// It has a function or a coroutine of another session in it.
    pub(crate) fn on(&self, heap: &Rc<Heap>) -> Result<Value, Foreign> {
        let _entered = heap.enter();
        match &self.0 {
            Content::Free(literal) => Ok(Value::from_literal(literal)),
            Content::Bound(own, value) if Rc::ptr_eq(own, heap) => Ok(*value),
            Content::Bound(_, value) => {
                let mut copier = Copier::abroad();
                // Without a run there is no limit that it could come to.
                let copy = copier.copy(*value).unwrap_or_default();
                if copier.has_left_out {
                    return Err(Foreign);
                }
                Ok(copy)
            }
            Content::Foreign => Err(Foreign),
        }
    }

    /// The heap that it is on, if it is on one.
    pub(super) fn heap(&self) -> Option<&Rc<Heap>> {
        match &self.0 {
            Content::Bound(heap, _) => Some(heap),
            Content::Free(_) | Content::Foreign => None,
        }
    }

    pub(super) fn with<T>(&self, what: impl FnOnce(&Value) -> T) -> T {
        match &self.0 {
            Content::Bound(_, value) => what(value),
            Content::Foreign => what(&Value::Nothing),
            Content::Free(literal) => {
                let heap = Heap::new();
                let _entered = heap.enter();
                what(&Value::from_literal(literal))
            }
        }
    }

    /// Its kind.
    pub fn kind(&self) -> ValueKind {
        self.with(Value::kind)
    }

    /// Whether it is the absence of a value.
    pub fn is_nothing(&self) -> bool {
        self.kind() == ValueKind::Nothing
    }

    /// The integer, if it is one.
    pub fn as_integer(&self) -> Option<i64> {
        self.with(|value| match value {
            Value::Integer(n) => Some(*n),
            _ => None,
        })
    }

    /// The number as a double, if it is an integer or a number.
    pub fn as_number(&self) -> Option<f64> {
        self.with(|value| match value {
            Value::Integer(n) => Some(*n as f64),
            Value::Number(n) => Some(*n),
            _ => None,
        })
    }

    /// Whether it is true, if it is a truth value.
    pub fn as_truth(&self) -> Option<bool> {
        self.with(|value| match value {
            Value::Truth(truth) => Some(*truth),
            _ => None,
        })
    }

    /// How many items a list has, or how many entries a map; nothing for anything else.
    pub fn count(&self) -> Option<usize> {
        match &self.0 {
            Content::Bound(_, Value::List(list)) => Some(list.len()),
            Content::Bound(_, Value::Map(map)) => Some(map.len()),
            Content::Bound(..) | Content::Free(_) | Content::Foreign => None,
        }
    }

    /// The items of a list, in order; nothing for anything else.
    pub fn items(&self) -> Option<Vec<Held>> {
        match &self.0 {
            Content::Bound(heap, Value::List(list)) => {
                let items = list.items.iter();
                Some(items.map(|item| Held::of(heap, item)).collect())
            }
            Content::Bound(..) | Content::Free(_) | Content::Foreign => None,
        }
    }

    /// The keys and values of a map, in order; nothing for anything else.
    pub fn entries(&self) -> Option<Vec<(Held, Held)>> {
        match &self.0 {
            Content::Bound(heap, Value::Map(map)) => {
                let _entered = heap.enter();
                let entries = map.entries().into_iter();
                let held = |value| Held::of(heap, value);
                Some(
                    entries
                        .map(|(key, value)| (held(key.value()), held(value)))
                        .collect(),
                )
            }
            Content::Bound(..) | Content::Free(_) | Content::Foreign => None,
        }
    }

    /// What a list has at an index, counted from 0, or a map under a key, if it has anything there.
    pub fn part(&self, at: &Literal) -> Option<Held> {
        if let Literal::Integer(index) = at
            && let Some(items) = self.items()
        {
            return items.into_iter().nth(usize::try_from(*index).ok()?);
        }
        let mut entries = self.entries()?.into_iter();
        entries.find(|(key, _)| key.is(at)).map(|(_, value)| value)
    }

    /// The text, if it is one.
    pub fn as_text(&self) -> Option<String> {
        self.with(|value| match value {
            Value::Text(text) => Some(text.to_string()),
            _ => None,
        })
    }

    /// As the notation writes it; nothing for what it has no way to write: functions,
    /// numbers that are none, and lists and maps with such in them.
    pub fn literal(&self) -> Option<Literal> {
        let literal = match &self.0 {
            Content::Free(literal) => literal.clone(),
            Content::Bound(_, value) => as_literal(*value, 0, &mut { MOST_WRITTEN })?,
            Content::Foreign => return None,
        };
        self.is(&literal).then_some(literal)
    }

    /// The keys of a map that are texts, in order; none for anything else.
    pub fn keys(&self) -> Vec<String> {
        self.with(|value| match value {
            Value::Map(map) => {
                let entries = map.entries().into_iter();
                let texts = entries.filter_map(|(key, _)| match key.value() {
                    Value::Text(text) => Some(text.to_string()),
                    _ => None,
                });
                texts.collect()
            }
            _ => Vec::new(),
        })
    }

    /// What a map has under a key that is a text.
    pub fn entry(&self, key: &str) -> Option<Held> {
        let Content::Bound(heap, Value::Map(map)) = &self.0 else {
            return None;
        };
        let mut entries = map.entries().into_iter();
        let is_it =
            |known: &Key| matches!(known.value(), Value::Text(text) if text.to_string() == key);
        entries
            .find(|(known, _)| is_it(known))
            .map(|(_, value)| Held::of(heap, value))
    }

    /// `an integer: 3`, `nothing`; long values are cut.
    pub fn described(&self) -> String {
        self.with(|value| described_as(value, &self.look()))
    }

    /// As a person reads it, in the language's own notation: a text stays as it is.
    pub fn shown(&self) -> String {
        self.with(|value| seen(value, &self.look()))
    }

    /// As one would write it in the language's own notation: texts in quotes, also inside lists
    /// and maps.
    pub fn written(&self) -> String {
        self.with(|value| seen_written(value, &self.look()))
    }

    /// The same, the beginning where it takes more bytes.
    pub fn written_within(&self, most: usize) -> String {
        self.with(|value| beginning(value, &self.look(), most))
    }

    /// As the notation of definitions and cases writes it.
    pub fn noted(&self) -> String {
        self.with(|value| seen_written(value, &Look::usual()))
    }

    /// How it looks: as on its heap.
    fn look(&self) -> Rc<Look> {
        self.heap().map_or_else(Look::usual, |heap| heap.look())
    }

    /// Whether it is what the notation writes like this, of the same kind too. Where numbers
    /// without a fraction look like integers, they are.
    pub fn is(&self, literal: &Literal) -> bool {
        let is_number = |kind| matches!(kind, ValueKind::Integer | ValueKind::Number);
        let is_one_number = self.look().is_one_number;
        self.with(|value| {
            let heap = Heap::new();
            let _entered = heap.enter();
            let literal = Value::from_literal(literal);
            let (kind, wanted) = (value.kind(), literal.kind());
            let fits = kind == wanted || is_one_number && is_number(kind) && is_number(wanted);
            fits && equal(value, &literal) == Ok(true)
        })
    }
}

/// Frees a literal that may be nested deeper than the native stack.
fn take_apart(literal: Literal) {
    let mut work = vec![literal];
    while let Some(literal) = work.pop() {
        match literal {
            Literal::List(items) => work.extend(items),
            Literal::Map(pairs) => {
                work.extend(pairs.into_iter().flat_map(|(key, value)| [key, value]));
            }
            Literal::Nothing
            | Literal::Truth(_)
            | Literal::Integer(_)
            | Literal::Number(_)
            | Literal::Text(_) => {}
        }
    }
}

/// So many values are written down of one that holds others.
const MOST_WRITTEN: usize = 1 << 20;

/// What can be written down of a value; what cannot is nothing in it. No result for one that
/// holds more values than anyone would write down: what it shares would be written each time.
fn as_literal(value: Value, depth: usize, left: &mut usize) -> Option<Literal> {
    const DEEPEST: usize = 500;
    *left = left.checked_sub(1)?;
    Some(match value {
        Value::Truth(truth) => Literal::Truth(truth),
        Value::Integer(n) => Literal::Integer(n),
        Value::Number(n) => Literal::Number(n),
        Value::Text(text) => Literal::Text(text.to_string()),
        Value::List(list) if depth < DEEPEST => {
            let items = list.items.iter();
            let items = items.map(|item| as_literal(item, depth + 1, left));
            Literal::List(items.collect::<Option<_>>()?)
        }
        Value::Map(map) if depth < DEEPEST => {
            let mut pairs = Vec::new();
            map.each(|key, value| {
                let key = as_literal(key.value(), depth + 1, left).ok_or(())?;
                pairs.push((key, as_literal(value, depth + 1, left).ok_or(())?));
                Ok::<(), ()>(())
            })
            .ok()?;
            Literal::Map(pairs)
        }
        _ => Literal::Nothing,
    })
}

impl Clone for Held {
    fn clone(&self) -> Held {
        match &self.0 {
            Content::Free(literal) => Held::new(literal.clone()),
            Content::Bound(heap, value) => Held::of(heap, *value),
            Content::Foreign => Held(Content::Foreign),
        }
    }
}

impl Drop for Held {
    fn drop(&mut self) {
        if let Content::Bound(heap, value) = &self.0 {
            heap.let_go(*value);
        }
    }
}

impl std::fmt::Debug for Held {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&self.written())
    }
}
