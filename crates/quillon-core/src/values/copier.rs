//! A copy of values that does not change when they do.

use std::rc::Rc;

use rustc_hash::FxHashMap;

use super::{Closure, Code, Key, List, Map, Ref, Value, ValueRow, Variable, ask, spend};
use crate::metering::Stopped;

/// Copies values with everything in them: lists, maps, and the variables that functions
/// share. What values share, their copies share, and circles stay circles. A coroutine is
/// kept as it is: where it stands cannot be copied.
#[derive(Default)]
pub(crate) struct Copier<'a> {
    copies: FxHashMap<usize, Value>,
    /// Whether the copies are for another heap than the values.
    is_abroad: bool,
    /// What the code of a function is there, if functions can be there.
    code: Option<&'a CodeAbroad<'a>>,
    /// Whether something was met that only its own heap can have.
    pub has_left_out: bool,
}

/// What the code of a function is for another heap; nothing if it cannot be there.
pub(crate) type CodeAbroad<'a> = dyn Fn(&Rc<dyn Code>) -> Option<Rc<dyn Code>> + 'a;

/// Something whose copy is still empty.
enum Open {
    List(Ref<List>, Ref<List>),
    Map(Ref<Map>, Ref<Map>),
    Function(Ref<Closure>, Ref<Closure>),
    Variable(Ref<Variable>, Ref<Variable>),
}

impl<'a> Copier<'a> {
    /// One whose copies are made on another heap, the one that is entered. A function or a
    /// coroutine is left out there.
    pub fn abroad() -> Copier<'a> {
        Copier {
            is_abroad: true,
            ..Copier::default()
        }
    }

    /// The same, and functions have other code there.
    pub fn with_code(code: &'a CodeAbroad<'a>) -> Copier<'a> {
        Copier {
            code: Some(code),
            ..Copier::abroad()
        }
    }

    /// A copy of a value. Goes through nested values with a stack of its own.
    pub fn copy(&mut self, value: Value) -> Result<Value, Stopped> {
        let mut work = Vec::new();
        let result = self.shallow(value, &mut work);
        while let Some(open) = work.pop() {
            match open {
                Open::List(from, to) => {
                    let length = from.len();
                    spend(32 * length + 32)?;
                    ask(ValueRow::bytes_for(length))?;
                    let copies = from.items.iter();
                    to.fill(copies.map(|item| self.shallow(item, &mut work)), length);
                }
                Open::Map(from, to) => {
                    spend(128 * from.len() + 32)?;
                    for (key, value) in from.entries() {
                        to.reserve_one()?;
                        to.put(self.key(key), self.shallow(value, &mut work));
                    }
                    if let Some(calls) = from.calls()
                        && let Value::List(calls) = self.shallow(Value::List(calls), &mut work)
                    {
                        to.set_calls(calls);
                    }
                }
                Open::Function(from, to) => {
                    spend(32 * from.all_captured().len() + 32)?;
                    for (index, captured) in from.all_captured().iter().enumerate() {
                        to.set_captured(index, self.shallow(captured, &mut work));
                    }
                }
                Open::Variable(from, to) => {
                    spend(32)?;
                    to.set(self.shallow(from.get(), &mut work));
                }
            }
        }
        Ok(result)
    }

    fn key(&self, key: Key) -> Key {
        match key {
            Key::Text(text) if self.is_abroad => Key::text(&text),
            Key::Text(_) | Key::Nothing | Key::Truth(_) | Key::Integer(_) | Key::Number(_) => key,
        }
    }

    fn shallow(&mut self, value: Value, work: &mut Vec<Open>) -> Value {
        let Some(address) = value.address() else {
            return value;
        };
        if let Some(known) = self.copies.get(&address) {
            return *known;
        }
        let copy = match value {
            Value::Text(text) if self.is_abroad => Value::text(&**text),
            Value::Function(from) if self.is_abroad => {
                let code = self.code.and_then(|code| code(from.code()));
                match code {
                    Some(code) => Copier::function(from, code, work),
                    None => self.left_out(),
                }
            }
            Value::Coroutine(_) if self.is_abroad => self.left_out(),
            Value::List(from) => {
                let copy = Value::list([]);
                if let Value::List(to) = copy {
                    work.push(Open::List(from, to));
                }
                copy
            }
            Value::Map(from) => {
                let copy = Value::map(Vec::<(Key, Value)>::new());
                if let Value::Map(to) = copy {
                    work.push(Open::Map(from, to));
                }
                copy
            }
            // One that captured nothing has nothing that could change.
            Value::Function(from) if !from.all_captured().is_empty() => {
                Copier::function(from, Rc::clone(from.code()), work)
            }
            Value::Variable(from) => {
                let to = Value::variable(Value::Unset);
                work.push(Open::Variable(from, to));
                Value::Variable(to)
            }
            other => other,
        };
        self.copies.insert(address, copy);
        copy
    }

    fn function(from: Ref<Closure>, code: Rc<dyn Code>, work: &mut Vec<Open>) -> Value {
        let count = from.all_captured().len();
        let captured = ValueRow::gathered(count, std::iter::repeat(Value::Unset));
        let to = Closure::made(code, captured);
        work.push(Open::Function(from, to));
        Value::Function(to)
    }

    fn left_out(&mut self) -> Value {
        self.has_left_out = true;
        Value::Nothing
    }
}
