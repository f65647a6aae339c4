//! Loops over values, and built-in operations that call functions of the program: what
//! they have done so far is data, so that a function called may be suspended.

use std::rc::Rc;

use super::stacks::{Continuation, Going, Items, Turns};
use super::walk::Walker;
use crate::diagnostic::codes;
use crate::meaning::{CoreKind as K, CorePart};
use crate::runtime::{self, Culprit, Module, Problem, Sorting};
use crate::values::{Closure, Marker, Ref, Traced, Value, described};

/// An operation that has called a function.
#[derive(Debug)]
pub(super) struct Calling {
    core: CorePart,
    function: Ref<Closure>,
    work: Work,
}

/// What an operation has done so far.
#[derive(Debug)]
pub(super) enum Work {
    Map(std::vec::IntoIter<Value>, Vec<Value>),
    /// Those left, the one that is asked about, those kept.
    Filter(std::vec::IntoIter<Value>, Value, Vec<Value>),
    Fold(std::vec::IntoIter<Value>),
    Sort(Sorting),
    /// Runs another program, by its name.
    Module(String),
}

impl Work {
    pub fn map(items: Vec<Value>) -> Work {
        let made = Vec::with_capacity(items.len());
        Work::Map(items.into_iter(), made)
    }

    pub fn filter(items: Vec<Value>) -> Work {
        Work::Filter(items.into_iter(), Value::Nothing, Vec::new())
    }

    pub fn fold(items: Vec<Value>) -> Work {
        Work::Fold(items.into_iter())
    }

    pub fn sort(items: Vec<Value>) -> Work {
        Work::Sort(Sorting::new(items))
    }
}

impl Calling {
    /// The name of the program that it runs, if it runs one.
    pub fn program(&self) -> Option<&str> {
        match &self.work {
            Work::Module(name) => Some(name),
            Work::Map(..) | Work::Filter(..) | Work::Fold(_) | Work::Sort(_) => None,
        }
    }

    pub fn trace(&self, marker: &mut Marker) {
        marker.value(Value::Function(self.function));
        match &self.work {
            Work::Map(items, made) => {
                marker.values(items.as_slice());
                marker.values(made);
            }
            Work::Filter(items, asked, kept) => {
                marker.values(items.as_slice());
                marker.value(*asked);
                marker.values(kept);
            }
            Work::Fold(items) => marker.values(items.as_slice()),
            Work::Sort(sorting) => sorting.trace(marker),
            Work::Module(_) => {}
        }
    }
}

impl Walker<'_> {
    /// Begins a loop over a value.
    pub(super) fn begin_turns(&mut self, core: CorePart, value: &Value) -> Going {
        let items = match value {
            Value::List(list) => match self.room_for(list.len(), value) {
                Ok(()) => Items::Listed(list.items.to_vec().into_iter()),
                Err(problem) => return self.fail(*problem, &core),
            },
            Value::Map(map) => match self.room_for(map.len(), value) {
                Ok(()) => Items::Listed(map.key_values().into_iter()),
                Err(problem) => return self.fail(*problem, &core),
            },
            Value::Coroutine(coroutine) => Items::From(*coroutine, false),
            other => {
                let problem = Problem::kind(0, "a list, a map or a coroutine", other);
                return self.fail(*problem, &core);
            }
        };
        self.first_turn(core, items)
    }

    fn first_turn(&mut self, core: CorePart, items: Items) -> Going {
        let height = self.stacks.operands.len() as u32;
        self.next_turn(Box::new(Turns {
            core,
            items,
            height,
        }))
    }

    /// Begins a loop over the integers from the operand that waits up to a value.
    pub(super) fn begin_count(&mut self, core: CorePart, to: &Value) -> Going {
        let from = self.stacks.operands.pop().unwrap_or_default();
        let bounds = runtime::integer_operand(0, &from)
            .and_then(|from| Ok(from..=runtime::integer_operand(1, to)?));
        let items = match bounds {
            Ok(bounds) => Items::Counted(bounds),
            Err(problem) => return self.fail(*problem, &core),
        };
        self.first_turn(core, items)
    }

    /// Asks for room for the items of a value that nothing else may hold.
    fn room_for(&mut self, count: usize, of: &Value) -> Result<(), Box<Problem>> {
        self.stacks.operands.push(*of);
        let room = self.with_room(|_| Ok(runtime::list_room(count)?));
        self.stacks.operands.pop();
        room
    }

    fn next_turn(&mut self, mut turns: Box<Turns>) -> Going {
        match &mut turns.items {
            Items::Listed(items) => match items.next() {
                Some(item) => self.one_turn(turns, item),
                None => Going::Give(Value::Nothing),
            },
            Items::Counted(left) => match left.next() {
                Some(next) => self.one_turn(turns, Value::Integer(next)),
                None => Going::Give(Value::Nothing),
            },
            Items::From(coroutine, _) if coroutine.has_ended() => Going::Give(Value::Nothing),
            Items::From(coroutine, asked) => {
                *asked = true;
                let coroutine = *coroutine;
                let core = Rc::clone(&turns.core);
                self.stacks.continuations.push(Continuation::Each(turns));
                self.resume(coroutine, Value::Nothing, &core)
            }
        }
    }

    fn one_turn(&mut self, turns: Box<Turns>, item: Value) -> Going {
        let (K::Each(slot, [_, body]) | K::Count(slot, [_, _, body])) = &turns.core.kind else {
            return Going::Give(Value::Nothing);
        };
        let body = Rc::clone(body);
        self.set_slot(*slot, item);
        self.stacks.continuations.push(Continuation::Each(turns));
        Going::Run(body)
    }

    /// Goes on with a loop: a turn has been done, or a coroutine has given an item.
    pub(super) fn turn(&mut self, mut turns: Box<Turns>, value: Value) -> Going {
        self.stacks.operands.truncate(turns.height as usize);
        if let Items::From(coroutine, asked) = &mut turns.items
            && std::mem::take(asked)
        {
            if coroutine.has_ended() {
                return Going::Give(Value::Nothing);
            }
            return self.one_turn(turns, value);
        }
        self.next_turn(turns)
    }

    /// Begins an operation that calls functions.
    pub(super) fn begin_calling(
        &mut self,
        args: &[Value],
        core: &CorePart,
        work: fn(Vec<Value>) -> Work,
    ) -> Going {
        let last = args.len() - 1;
        let Value::List(given) = &args[0] else {
            let problem = Problem::kind(0, "a list", &args[0]);
            return self.fail(*problem, core);
        };
        let Value::Function(function) = &args[last] else {
            let problem = Problem::kind(last, "a function", &args[last]);
            return self.fail(*problem, core);
        };
        let held = self.stacks.operands.len();
        self.stacks.operands.extend_from_slice(args);
        let room = self.with_room(|_| Ok(runtime::list_room(2 * given.len())?));
        self.stacks.operands.truncate(held);
        if let Err(problem) = room {
            return self.fail(*problem, core);
        }
        let work = work(given.items.to_vec());
        let first = match work {
            Work::Fold(_) => Some(args[1]),
            Work::Map(..) | Work::Filter(..) | Work::Sort(_) | Work::Module(_) => None,
        };
        let calling = Box::new(Calling {
            core: Rc::clone(core),
            function: *function,
            work,
        });
        self.next_call(calling, first)
    }

    /// Calls a function with the items of a list as its arguments.
    pub(super) fn call_with_items(&mut self, args: &[Value], core: &CorePart) -> Going {
        let held = self.stacks.operands.len();
        self.stacks.operands.extend_from_slice(args);
        let spread = self.with_room(|_| runtime::spread(args[0], args[1]));
        self.stacks.operands.truncate(held);
        match spread {
            Ok((items, function)) => self.call_back(function, items, core),
            Err(problem) => self.fail(*problem, core),
        }
    }

    /// Runs another program, and keeps what it gives.
    pub(super) fn begin_module(
        &mut self,
        program: Ref<Closure>,
        name: String,
        core: &CorePart,
    ) -> Going {
        let calling = Box::new(Calling {
            core: Rc::clone(core),
            function: program,
            work: Work::Module(name),
        });
        self.next_call(calling, None)
    }

    /// Goes on with an operation: what it called has given a value.
    pub(super) fn called(&mut self, mut calling: Box<Calling>, value: Value) -> Going {
        let answer = match (&calling.work, &value) {
            (Work::Filter(..) | Work::Sort(_), Value::Truth(truth)) => *truth,
            (Work::Filter(..) | Work::Sort(_), other) => {
                let operand = 1;
                let message = format!(
                    "the function must give a truth value, and it gives {}",
                    described(other)
                );
                let problem = Problem::new(Culprit::Operand(operand), codes::RUN_KIND, message);
                return self.fail(*problem, &calling.core);
            }
            _ => false,
        };
        let mut carried = None;
        match &mut calling.work {
            Work::Module(name) => {
                let done = Module::Done(value);
                self.memory.modules.insert(std::mem::take(name), done);
                return Going::Give(value);
            }
            Work::Map(_, made) => made.push(value),
            Work::Filter(_, asked, kept) => {
                let asked = std::mem::take(asked);
                if answer {
                    kept.push(asked);
                }
            }
            Work::Fold(_) => carried = Some(value),
            Work::Sort(sorting) => {
                sorting.answer(answer);
            }
        }
        self.next_call(calling, carried)
    }

    /// The next call of an operation, or its end.
    fn next_call(&mut self, mut calling: Box<Calling>, carried: Option<Value>) -> Going {
        let args = match &mut calling.work {
            Work::Module(_) => Vec::new(),
            Work::Map(items, made) => match items.next() {
                Some(item) => vec![item],
                None => return Going::Give(Value::list(std::mem::take(made))),
            },
            Work::Filter(items, asked, kept) => match items.next() {
                Some(item) => {
                    *asked = item;
                    vec![item]
                }
                None => return Going::Give(Value::list(std::mem::take(kept))),
            },
            Work::Fold(items) => match (carried, items.next()) {
                (Some(carried), Some(item)) => vec![carried, item],
                (carried, _) => return Going::Give(carried.unwrap_or_default()),
            },
            Work::Sort(sorting) => match sorting.ask() {
                Some([a, b]) => vec![a, b],
                None => return Going::Give(Value::list(sorting.sorted())),
            },
        };
        let function = calling.function;
        let core = Rc::clone(&calling.core);
        self.stacks
            .continuations
            .push(Continuation::Calling(calling));
        self.call_back(function, args, &core)
    }
}
