//! Variables and cells that are looked after, so that a run stops where one gets another value.
//!
//! They are looked at before and after the instructions that may change them, which are marked: the rest runs
//! at full speed.

use std::rc::Rc;

use rustc_hash::FxHashMap;

use super::known::Known;
use super::lives::set_by;
use super::names::{Place, held_in, told};
use super::stops::{At, StopAt};
use crate::bytecode::{Function, Op};
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
    /// What it held before what each call under way is doing now, where that may change it; the innermost
    /// last.
    held: Vec<Holding>,
    /// The instructions at which it is looked at, by the function.
    looks: FxHashMap<(*const Function, usize), Look>,
}

/// What an instruction at which something is looked at means to it.
#[derive(Clone, Copy)]
struct Look {
    /// Whether it may change it; else it only comes after what may.
    may_change: bool,
    /// The register that it is in.
    register: Option<u16>,
}

/// What each that is looked after held in the calls under way.
pub(super) type Held = Vec<Vec<Holding>>;

/// What something held in a call; in none where every call finds it.
#[derive(Clone)]
pub(super) struct Holding {
    depth: usize,
    function: *const Function,
    is_shared: bool,
    held: Holds,
}

/// What something holds: what can be kept while the run goes on. Integers, which are most often looked after,
/// are not told as texts.
#[derive(Clone, PartialEq)]
enum Holds {
    Nothing,
    Integer(i64),
    Told(String),
}

impl Holds {
    fn of(value: Value) -> Holds {
        match value {
            Value::Integer(n) => Holds::Integer(n),
            other => Holds::Told(told(other)),
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
                    looks: FxHashMap::default(),
                }),
                At::Line(..) | At::Place(..) | At::Function(_) | At::Form(_) => None,
            });
        Changes(named.collect())
    }

    /// Whether nothing is looked after.
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// What is held.
    pub fn held(&self) -> Held {
        self.0.iter().map(|one| one.held.clone()).collect()
    }

    /// Has this be what is held.
    pub fn set_held(&mut self, held: &Held) {
        for (one, held) in self.0.iter_mut().zip(held) {
            one.held.clone_from(held);
        }
    }

    /// Takes note of a function: the instructions of it at which something has to be looked at.
    pub fn learn(&mut self, function: &Rc<Function>, known: &Known) -> Vec<usize> {
        let mut found = Vec::new();
        for one in &mut self.0 {
            found.extend(one.learn(function, known));
        }
        found
    }

    /// The stops of what has been changed by what has been done last, where a run is at such an instruction.
    pub fn seen(&mut self, view: &View<'_, '_>, known: &Known) -> Vec<usize> {
        let changed = self.0.iter_mut().filter_map(|one| {
            let is_other = one.is_changed(view, known);
            is_other.then_some(one.stop)
        });
        changed.collect()
    }
}

impl LookedAfter {
    /// The instructions of a function that may change it, and those that come after them.
    fn learn(&mut self, function: &Rc<Function>, known: &Known) -> Vec<usize> {
        let own = known.registers(function, &self.name);
        if own.is_none() && self.cell.is_none() {
            return Vec::new();
        }
        let own = own.unwrap_or_default();
        let starts: Vec<usize> = function.starts().collect();
        let mut found = Vec::new();
        for (number, at) in starts.iter().enumerate() {
            let reaches = function.code[*at].op().is_some_and(Op::reaches_further);
            let may_change = reaches || set_by(function, *at).any(|one| own.contains(&one));
            if may_change {
                found.push((*at, true));
                let after = after(function, &starts, number);
                found.extend(after.into_iter().map(|at| (at, false)));
            }
        }
        for (at, may_change) in &found {
            let look = self.looks.entry((Rc::as_ptr(function), *at));
            let look = look.or_insert_with(|| Look {
                may_change: false,
                register: known.register_at(function, *at, &self.name),
            });
            look.may_change |= may_change;
        }
        found.into_iter().map(|(at, _)| at).collect()
    }

    /// Whether what has been done last has changed it.
    fn is_changed(&mut self, view: &View<'_, '_>, known: &Known) -> bool {
        let inner = view.innermost();
        let function = Rc::as_ptr(inner.function);
        let Some(look) = self.looks.get(&(function, inner.at)).copied() else {
            return false;
        };
        let found = held_in(view, known, &self.name, self.cell, look.register);
        let (now, place) = match found {
            Some((value, place)) => (Holds::of(value), place),
            None => (Holds::Nothing, Place::Call { is_shared: false }),
        };
        let (depth, is_shared) = match place {
            Place::Call { is_shared } => (view.depth(), is_shared),
            Place::Everywhere => (0, false),
        };
        while self.held.pop_if(|last| last.depth > depth).is_some() {}
        let before = self.held.pop_if(|last| last.depth == depth);
        let before = before.filter(|before| depth == 0 || before.function == function);
        let is_changed = before.is_some_and(|before| {
            let is_changed = now != Holds::Nothing && now != before.held;
            if is_changed && is_shared {
                self.tell_around(&before.held, &now);
            }
            is_changed
        });
        if look.may_change {
            self.held.push(Holding {
                depth,
                function,
                is_shared,
                held: now,
            });
        }
        is_changed
    }

    /// Calls around that share it have seen the change, too.
    fn tell_around(&mut self, before: &Holds, now: &Holds) {
        for around in &mut self.held {
            if around.is_shared && around.held == *before {
                around.held = now.clone();
            }
        }
    }
}

/// The instructions that may be carried out after one, the number of which is given: that of a call comes
/// after what is called.
fn after(function: &Function, starts: &[usize], number: usize) -> Vec<usize> {
    let at = starts[number];
    let next = starts.get(number + 1).copied();
    // Some carry out the next one, too, or go on after it.
    let over = starts.get(number + 2).copied();
    let targets = [Some(at), next].map(|at| function.target(at?));
    let found = [next, over].into_iter().chain(targets).flatten();
    found
        .filter(|at| starts.binary_search(at).is_ok())
        .collect()
}
