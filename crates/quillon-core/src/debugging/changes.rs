//! Variables and cells that are looked after, so that a run stops where one gets another value.

use std::rc::Rc;

use rustc_hash::FxHashMap;

use super::seen::{Known, held_in, told};
use super::stops::{At, StopAt};
use crate::bytecode::Function;
use crate::definition::Definition;
use crate::machine::View;
use crate::values::Value;

/// What is looked after.
pub(super) struct Changes(Vec<LookedAfter>);

struct LookedAfter {
    /// The number of the stop.
    stop: usize,
    name: String,
    /// The cell of that name.
    cell: Option<usize>,
    /// What it held last in each call under way that has been seen, the innermost last.
    held: Vec<Holding>,
    /// The register that it is in, by the function and the instruction.
    registers: FxHashMap<(*const Function, usize), Option<u16>>,
}

/// What something holds in a call.
struct Holding {
    depth: usize,
    function: *const Function,
    holds: Holds,
}

/// What something holds: what can be kept while the run goes on. Integers, which are most often looked after,
/// are not told as texts.
#[derive(PartialEq)]
enum Holds {
    Nothing,
    Integer(i64),
    Told(String),
}

impl Holds {
    fn of(value: Option<Value>) -> Holds {
        match value {
            None => Holds::Nothing,
            Some(Value::Integer(n)) => Holds::Integer(n),
            Some(other) => Holds::Told(told(other)),
        }
    }
}

impl Changes {
    /// What some stops look after.
    pub fn of(stops: &[StopAt], definition: &Definition) -> Changes {
        let named = stops
            .iter()
            .enumerate()
            .filter_map(|(stop, at)| match &at.at {
                At::Change(name) => Some(LookedAfter {
                    stop,
                    name: name.clone(),
                    cell: definition.state_index(name),
                    held: Vec::new(),
                    registers: FxHashMap::default(),
                }),
                At::Line(..) | At::Place(..) | At::Function(_) | At::Form(_) => None,
            });
        Changes(named.collect())
    }

    /// Whether there is nothing.
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// The stops of what has another value than when it was looked at last.
    pub fn seen(&mut self, view: &View<'_, '_>, known: &Known) -> Vec<usize> {
        let changed = self.0.iter_mut().filter_map(|one| {
            let is_other = one.is_other(view, known);
            is_other.then_some(one.stop)
        });
        changed.collect()
    }
}

impl LookedAfter {
    /// Whether it has another value than when it was looked at last, in the same call.
    fn is_other(&mut self, view: &View<'_, '_>, known: &Known) -> bool {
        let inner = view.innermost();
        let function = Rc::as_ptr(inner.function);
        let place = (function, inner.at);
        let find = || known.register(&inner, &self.name);
        let register = *self.registers.entry(place).or_insert_with(find);
        let holds = Holds::of(held_in(view, known, &self.name, self.cell, register));
        let depth = if self.cell.is_some() { 0 } else { view.depth() };
        while self.held.pop_if(|last| last.depth > depth).is_some() {}
        let now = Holding {
            depth,
            function,
            holds,
        };
        let last = self.held.last_mut();
        let Some(last) = last.filter(|last| last.depth == depth) else {
            // What is seen first is as it was before.
            self.held.push(now);
            return false;
        };
        // What a call begins with has not changed in it.
        let is_same_call = self.cell.is_some() || last.function == function;
        let is_other = is_same_call && now.holds != Holds::Nothing && now.holds != last.holds;
        *last = now;
        is_other
    }
}
