//! The instructions at which a run is stopped, marked in its code.

use std::rc::Rc;

use rustc_hash::{FxHashMap, FxHashSet};

use super::changes::Changes;
use super::forms::Beginnings;
use super::known::Known;
use super::meanings::Parts;
use super::stops::{self, At, Nearness, StopAt};
use crate::bytecode::Function;
use crate::definition::Definition;
use crate::machine::Loaded;
use crate::source::Span;

/// The stops that are marked, and where.
#[derive(Debug, Default)]
pub(super) struct Marks {
    stops: Vec<StopAt>,
    /// The parts of meanings that each stands for, if it is in the definition.
    parts: Vec<Option<Parts>>,
    /// By the function and the instruction, which of them are there.
    at: FxHashMap<(*const Function, usize), Vec<usize>>,
    /// How often each has been come to.
    times: Vec<u64>,
}

impl Marks {
    /// Those of some stops, none of which has been come to; nothing is marked yet.
    pub fn of(stops: Vec<StopAt>, definition: &Definition) -> Marks {
        let parts = stops.iter().map(|stop| Parts::of(definition, &stop.at));
        Marks {
            parts: parts.collect(),
            times: vec![0; stops.len()],
            stops,
            at: FxHashMap::default(),
        }
    }

    /// Whether they are of these stops.
    pub fn are_of(&self, stops: &[StopAt]) -> bool {
        self.stops == stops
    }

    /// A stop, by its number.
    pub fn stop(&self, number: usize) -> Option<&StopAt> {
        self.stops.get(number)
    }

    /// The stops at an instruction.
    pub fn at(&self, function: &Rc<Function>, at: usize) -> Vec<usize> {
        let key = (Rc::as_ptr(function), at);
        self.at.get(&key).cloned().unwrap_or_default()
    }

    /// The part of a meaning that a stop is at, if it is in the definition.
    pub fn part_at(&self, number: usize, function: &Function, at: usize) -> Option<Span> {
        self.parts.get(number)?.as_ref()?.around(function, at)
    }

    /// Takes note that a stop has been come to; whether often enough to stop there.
    pub fn counts(&mut self, number: usize) -> bool {
        self.times[number] += 1;
        self.times[number] > self.stops[number].skips
    }

    /// How often each stop has been come to.
    pub fn times(&self) -> &[u64] {
        &self.times
    }

    /// Has each have been come to so often.
    pub fn set_times(&mut self, times: &[u64]) {
        self.times.copy_from_slice(times);
    }

    /// Whether it matters how often some stop is come to.
    pub fn have_skips(&self) -> bool {
        self.stops.iter().any(|stop| stop.skips > 0)
    }

    /// Takes the marks away from programs.
    pub fn take_away(&mut self, programs: &[Rc<Loaded>]) {
        for program in programs {
            each(program, &mut |loaded| {
                for (_, at) in self
                    .at
                    .keys()
                    .filter(|(function, _)| is_of(loaded, *function))
                {
                    loaded.mark(*at, false);
                }
            });
        }
        self.at.clear();
    }

    /// Marks the instructions of a program that stops are at, and those at which something is looked after.
    pub fn put_in(
        &mut self,
        program: &Rc<Loaded>,
        known: &Known,
        definition: &Definition,
        changes: &mut Changes,
    ) {
        let mut lines = FxHashSet::default();
        stops::lines_within(&program.function, &mut lines);
        let (marked, at) = (&self.stops, &mut self.at);
        let tree = known.tree(&program.function.source);
        let mut nearest: Vec<Option<Nearness>> = vec![None; marked.len()];
        each(program, &mut |loaded| {
            for (best, stop) in nearest.iter_mut().zip(marked) {
                let near = stops::nearest(&loaded.function, &stop.at);
                let near = near.map(|(near, _)| near);
                *best = [*best, near].into_iter().flatten().min();
            }
        });
        let mut forms: Vec<Option<Beginnings>> = marked
            .iter()
            .map(|stop| match &stop.at {
                At::Form(name) => tree.map(|tree| Beginnings::of(definition, tree, name)),
                At::Line(..) | At::Place(..) | At::Function(_) | At::Change(_) => None,
            })
            .collect();
        each(program, &mut |loaded| {
            let function = &*loaded.function;
            for (number, stop) in marked.iter().enumerate() {
                let mut places = stops::instructions(function, &stop.at, &lines);
                if let Some(parts) = &self.parts[number] {
                    places.extend(parts.within(function));
                }
                if let Some(form) = forms[number].as_mut().filter(|_| !function.built_in) {
                    places.extend(form.within(function));
                }
                // Where a function is made around a place, that is not it.
                let near = stops::nearest(function, &stop.at);
                let near = near.filter(|(near, _)| Some(*near) == nearest[number]);
                places.extend(near.map(|(_, at)| at));
                for place in places {
                    loaded.mark(place, true);
                    at.entry((std::ptr::from_ref(function), place))
                        .or_default()
                        .push(number);
                }
            }
            for place in changes.learn(&loaded.function, known) {
                loaded.mark(place, true);
                at.entry((std::ptr::from_ref(function), place)).or_default();
            }
        });
    }
}

fn is_of(loaded: &Loaded, function: *const Function) -> bool {
    std::ptr::eq(Rc::as_ptr(&loaded.function), function)
}

/// Goes over a program and the functions that it makes.
pub(super) fn each(program: &Rc<Loaded>, tell: &mut dyn FnMut(&Loaded)) {
    let mut open = vec![program];
    while let Some(loaded) = open.pop() {
        tell(loaded);
        open.extend(loaded.inner());
    }
}
