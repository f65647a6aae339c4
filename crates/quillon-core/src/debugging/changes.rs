//! Variables and cells that are looked after, so that a run stops where one gets another value.

use std::collections::BTreeMap;
use std::rc::Rc;

use super::seen::{Known, trace_of};
use super::stops::{At, StopAt};
use crate::bytecode::Function;
use crate::definition::Definition;
use crate::machine::View;

/// What is looked after.
pub(super) struct Changes(Vec<LookedAfter>);

struct LookedAfter {
    /// The number of the stop.
    stop: usize,
    name: String,
    /// The cell of that name.
    cell: Option<usize>,
    /// What it held last where calls are so deep, and in which function.
    held: BTreeMap<usize, (*const Function, Option<String>)>,
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
                    held: BTreeMap::new(),
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
        let depth = view.depth();
        let function = Rc::as_ptr(view.innermost().function);
        let mut found = Vec::new();
        for one in &mut self.0 {
            let key = if one.cell.is_some() { 0 } else { depth };
            let now = trace_of(view, known, &one.name, one.cell);
            one.held.split_off(&(key + 1));
            let last = one.held.insert(key, (function, now.clone()));
            let is_same_call =
                one.cell.is_some() || last.as_ref().is_some_and(|(last, _)| *last == function);
            let before = last.and_then(|(_, held)| held);
            // What a call begins with has not changed in it.
            if is_same_call && now.is_some() && before != now {
                found.push(one.stop);
            }
        }
        found
    }
}
