//! A copy of values that does not change when they do.

use std::cell::RefCell;
use std::rc::Rc;

use rustc_hash::{FxBuildHasher, FxHashMap};

use super::value::made;
use super::{
    Closure, Code, Coroutine, EngineState, Heap, Inner, Key, List, Map, Progress, Ref, Traced,
    Turns, Value, ValueRow, Variable, ask, spend,
};
use crate::metering::Stopped;

/// Copies values with everything in them: lists, maps, and the variables that functions
/// share. What values share, their copies share, and circles stay circles. A coroutine, and what
/// a loop has come to, stay what they are, unless all that a run has is copied.
#[derive(Default)]
pub(crate) struct Copier<'a> {
    copies: FxHashMap<usize, Value>,
    /// Whether the copies are for another heap than the values.
    is_abroad: bool,
    /// Whether all that a run has is copied: then what is under way is, too.
    is_whole: bool,
    /// The bytes of the texts that copies share with what they are copies of.
    pub shared: usize,
    /// What the code of a function is there, if functions can be there.
    code: Option<&'a CodeAbroad<'a>>,
    /// How many bytes lists, maps and texts may still take, if that is limited.
    room: Option<usize>,
    /// The limit that it has come to.
    stopped: Option<Stopped>,
    /// Whether something was met that cannot be copied, or that only its own heap can have.
    pub has_left_out: bool,
}

/// What the code of a function is for another heap; nothing if it cannot be there.
pub(crate) type CodeAbroad<'a> = dyn Fn(&Rc<dyn Code>) -> Option<Rc<dyn Code>> + 'a;

/// Something of which what is in it is still to be copied.
enum Open {
    /// It has what the other has.
    List(Ref<List>),
    Map(Ref<Map>),
    MapAbroad(Ref<Map>, Ref<Map>),
    Function(Ref<Closure>, Ref<Closure>),
    Variable(Ref<Variable>, Ref<Variable>),
    Coroutine(Ref<Coroutine>, Ref<Coroutine>),
    Inner(Ref<Inner>, Ref<Inner>),
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

    /// One that copies all that a run has, on its own heap: about so many pieces, and so many bytes at most.
    pub fn whole(pieces: usize, most: usize) -> Copier<'a> {
        Copier {
            is_whole: true,
            room: Some(most),
            copies: FxHashMap::with_capacity_and_hasher(pieces, FxBuildHasher),
            ..Copier::default()
        }
    }

    /// How many pieces it has met.
    pub fn pieces(&self) -> usize {
        self.copies.len()
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
            if let Some(stopped) = self.stopped {
                return Err(stopped);
            }
            match open {
                Open::List(to) => {
                    spend(32 * to.len() + 32)?;
                    to.items.exchange(|item| self.shallow(item, &mut work));
                }
                Open::Map(to) => {
                    spend(32 * to.len() + 32)?;
                    to.exchange(|value| self.shallow(value, &mut work));
                    if let Some(calls) = to.calls()
                        && let Value::List(calls) = self.shallow(Value::List(calls), &mut work)
                    {
                        to.set_calls(calls);
                    }
                }
                Open::MapAbroad(from, to) => {
                    spend(128 * from.len() + 32)?;
                    for (key, value) in from.entries() {
                        to.reserve_one()?;
                        to.put(Copier::key_abroad(key), self.shallow(value, &mut work));
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
                Open::Coroutine(from, to) => {
                    spend(from.bytes_beside() + 32)?;
                    ask(from.bytes_beside())?;
                    self.fill_coroutine(from, to, &mut work);
                }
                Open::Inner(from, to) => {
                    spend(from.bytes_beside() + 32)?;
                    ask(from.bytes_beside())?;
                    self.fill_inner(from, to, &mut work);
                }
            }
        }
        self.stopped.map_or(Ok(result), Err)
    }

    /// Takes so many bytes of what the copies may take. If there are not as many, the copying is to end.
    fn take_room(&mut self, bytes: usize) {
        if let Some(room) = &mut self.room {
            match room.checked_sub(bytes) {
                Some(left) => *room = left,
                None => self.stopped = Some(Stopped::Memory),
            }
        }
    }

    /// Whether there is no room for a copy of a value: then the copying is to end.
    fn has_no_room(&mut self, bytes: usize) -> bool {
        self.take_room(bytes);
        self.stopped = self.stopped.or_else(|| ask(bytes).err());
        self.stopped.is_some()
    }

    /// A copy of a coroutine.
    pub fn copy_coroutine(&mut self, coroutine: Ref<Coroutine>) -> Result<Ref<Coroutine>, Stopped> {
        let copy = self.copy(Value::Coroutine(coroutine))?;
        // The copy of a coroutine is one.
        if let Value::Coroutine(copy) = copy {
            Ok(copy)
        } else {
            Ok(coroutine)
        }
    }

    fn fill_coroutine(&mut self, from: Ref<Coroutine>, to: Ref<Coroutine>, work: &mut Vec<Open>) {
        let progress = match &*from.0.borrow() {
            Progress::Fresh(function) => {
                let copy = self.shallow(Value::Function(*function), work);
                Progress::Fresh(copy.as_function().unwrap_or(*function))
            }
            Progress::Waiting(state) => match self.state(&**state, work) {
                Some(state) => Progress::Waiting(state),
                None => Progress::Ended,
            },
            Progress::Running => Progress::Running,
            Progress::Ended => Progress::Ended,
        };
        to.set(progress);
        Heap::with(|heap| heap.count(to.bytes_beside()));
    }

    fn fill_inner(&mut self, from: Ref<Inner>, to: Ref<Inner>, work: &mut Vec<Open>) {
        match (&*from, &*to) {
            (Inner::Turns(_), Inner::Turns(to)) => {
                to.items.exchange(|item| self.shallow(item, work));
            }
            (Inner::State(from), Inner::State(to)) => {
                let state = from.borrow();
                let bytes = state.as_deref().map_or(0, Traced::bytes_beside);
                Heap::with(|heap| heap.count(bytes));
                *to.borrow_mut() = state.as_deref().and_then(|state| self.state(state, work));
            }
            // A copy is begun as what it is of.
            (Inner::Turns(_), Inner::State(_)) | (Inner::State(_), Inner::Turns(_)) => {}
        }
    }

    fn state(
        &mut self,
        state: &dyn EngineState,
        work: &mut Vec<Open>,
    ) -> Option<Box<dyn EngineState>> {
        let copy = state.copied(&mut |value| self.shallow(value, work));
        self.has_left_out |= copy.is_none();
        copy
    }

    fn key_abroad(key: Key) -> Key {
        match key {
            Key::Text(text) => Key::text(&text),
            Key::Nothing | Key::Truth(_) | Key::Integer(_) | Key::Number(_) => key,
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
            Value::Coroutine(from) if self.is_whole => {
                let ended = || Coroutine(RefCell::new(Progress::Ended));
                let to = made(0, |heap| &heap.coroutines, ended);
                work.push(Open::Coroutine(from, to));
                Value::Coroutine(to)
            }
            Value::Inner(from) if self.is_whole => {
                let to = Value::inner(Copier::begun(&from));
                work.push(Open::Inner(from, to));
                Value::Inner(to)
            }
            Value::Text(text) if self.is_whole => {
                self.shared += text.bytes_beside();
                self.take_room(text.bytes_beside());
                value
            }
            Value::List(from) if self.has_no_room(from.bytes_beside()) => value,
            Value::Map(from) if self.has_no_room(from.bytes_beside()) => value,
            Value::List(from) => {
                let copy = Value::list_of(from.items.clone());
                if let Value::List(to) = copy {
                    work.push(Open::List(to));
                }
                copy
            }
            Value::Map(from) => {
                let map = if self.is_abroad {
                    Map::default()
                } else {
                    from.copied()
                };
                let copy = Value::from_map(map);
                if let Value::Map(to) = copy {
                    work.push(if self.is_abroad {
                        Open::MapAbroad(from, to)
                    } else {
                        Open::Map(to)
                    });
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

    /// What the copy of something under way is, before it is filled.
    fn begun(from: &Inner) -> Inner {
        match from {
            Inner::Turns(turns) => Inner::Turns(Turns {
                items: turns.items.clone(),
                next: turns.next.clone(),
            }),
            Inner::State(_) => Inner::State(RefCell::new(None)),
        }
    }

    fn left_out(&mut self) -> Value {
        self.has_left_out = true;
        Value::Nothing
    }
}
