//! The variables that calls see: where each is kept, and what it holds.

use std::rc::Rc;

use rustc_hash::FxHashSet;

use super::known::Known;
use crate::bytecode::Function;
use crate::machine::{Call, View};
use crate::values::Value;

/// A variable that a call sees.
pub(super) struct Named {
    pub name: String,
    /// What is kept in its place: perhaps a variable that functions share.
    kept: Value,
    seat: Seat,
    /// Whether it is one of a function around, or of the session.
    pub is_around: bool,
}

/// Where something is kept.
#[derive(Clone, Copy)]
enum Seat {
    /// In a register of a call, by the number of that from the innermost on.
    Register(usize, u16),
    /// With a function that has captured it.
    Function,
    /// In the session.
    Session(usize),
}

impl Named {
    /// What it holds, if anything.
    pub fn value(&self) -> Option<Value> {
        self.kept.held()
    }

    /// What is kept in its place.
    pub fn kept(&self) -> Value {
        self.kept
    }

    /// Gives it another value; whether that can be done.
    pub fn put(&self, view: &mut View<'_, '_>, value: Value) -> bool {
        match (self.kept, self.seat) {
            (Value::Variable(shared), _) => shared.set(value),
            (_, Seat::Register(call, register)) => view.set(call, register, value),
            (_, Seat::Session(slot)) => view.memory_mut().set_session(slot, value),
            (_, Seat::Function) => return false,
        }
        true
    }
}

/// The variables that a call sees and that programs bind, those of the innermost scope first; without those that
/// the session keeps, and with those that do not hold anything yet.
fn own(view: &View<'_, '_>, known: &Known, call: usize) -> Vec<Named> {
    let mut found = Vec::new();
    let mut within: Option<&Rc<Function>> = None;
    for (number, call) in view.each_call().enumerate().skip(call) {
        let function = call.function;
        // Those that have made the functions of the calls inside.
        let is_around = within.is_some();
        let makes =
            |inner: &Rc<Function>| function.functions.iter().any(|one| Rc::ptr_eq(one, inner));
        if !within.is_none_or(makes) {
            continue;
        }
        within = Some(function);
        let mut add = |name: &str, kept: Value, seat: Seat, is_around: bool| {
            if known.bound.contains_key(name) {
                let name = name.to_owned();
                found.push(Named {
                    name,
                    kept,
                    seat,
                    is_around,
                });
            }
        };
        let mut add_register = |name: &str, register: u16| {
            let kept = call.register(register);
            add(name, kept, Seat::Register(number, register), is_around);
        };
        for life in known.lives.at(function, call.at) {
            add_register(&life.name, life.register);
        }
        for (param, register) in function.params.iter().zip(0..) {
            // What the language adds is the program's if it can name it.
            if !param.is_hidden || known.unwritten.contains(&*param.name) {
                add_register(&param.name, register);
            }
        }
        for (captured, number) in function.captures.iter().zip(0..) {
            add(&captured.name, call.captured(number), Seat::Function, true);
        }
    }
    found
}

/// Those of them that hold something, without those that are hidden by others.
pub(super) fn own_set(view: &View<'_, '_>, known: &Known, call: usize) -> Vec<Named> {
    let mut names: FxHashSet<String> = FxHashSet::default();
    let mut found = own(view, known, call);
    found.retain(|one| one.value().is_some() && names.insert(one.name.clone()));
    found
}

/// The same with what the session keeps.
pub(super) fn all_set(view: &View<'_, '_>, known: &Known, call: usize) -> Vec<Named> {
    let mut found = own_set(view, known, call);
    let hidden: FxHashSet<String> = found.iter().map(|one| one.name.clone()).collect();
    let mut kept: Vec<(&String, &usize)> = known.kept.iter().collect();
    kept.sort_unstable_by_key(|(_, slot)| std::cmp::Reverse(**slot));
    let kept = kept.into_iter().filter(|(name, _)| !hidden.contains(*name));
    let kept = kept.filter_map(|(name, _)| in_session(view, known, name));
    found.extend(kept.filter(|one| one.value().is_some()));
    found
}

/// The variable of a name that a call sees.
pub(super) fn named(view: &View<'_, '_>, known: &Known, call: usize, name: &str) -> Option<Named> {
    let mut own = own(view, known, call);
    own.retain(|one| one.name == name);
    let set = own.iter().position(|one| one.value().is_some());
    match set.or(own.iter().position(|one| !one.is_around)) {
        Some(at) => Some(own.swap_remove(at)),
        None => in_session(view, known, name),
    }
}

/// What the session keeps under a name.
fn in_session(view: &View<'_, '_>, known: &Known, name: &str) -> Option<Named> {
    let slot = *known.kept.get(name)?;
    let kept = view.memory().session.get(slot).copied();
    Some(Named {
        name: name.to_owned(),
        kept: kept.unwrap_or(Value::Unset),
        seat: Seat::Session(slot),
        is_around: true,
    })
}

/// What a call's function has captured by a name.
fn captured(call: &Call<'_>, name: &str) -> Option<Value> {
    let mut captures = call.function.captures.iter();
    let number = captures.position(|captured| &*captured.name == name)?;
    Some(call.captured(number as u16))
}

/// Where a variable of the innermost call, or a cell of the state, is.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Place {
    /// With the call; others may share it.
    Call {
        /// Whether functions share it.
        is_shared: bool,
    },
    /// Where every call finds it.
    Everywhere,
}

/// What a variable of the innermost call, or a cell of the state, holds, if anything, and where it is.
pub(super) fn held_in(
    view: &View<'_, '_>,
    known: &Known,
    name: &str,
    cell: Option<usize>,
    register: Option<u16>,
) -> Option<(Value, Place)> {
    let inner = view.innermost();
    let own = register
        .map(|register| inner.register(register))
        .or_else(|| captured(&inner, name));
    if let Some(own) = own {
        let is_shared = matches!(own, Value::Variable(_));
        return Some((own.held()?, Place::Call { is_shared }));
    }
    let slot = known.kept.get(name);
    let around = slot.and_then(|slot| view.memory().session.get(*slot).copied());
    let around = around.or_else(|| view.memory().state.get(cell?).copied())?;
    Some((around.held()?, Place::Everywhere))
}

/// A value in short: what can be kept while the run goes on.
pub(super) fn told(value: Value) -> String {
    match value {
        Value::Integer(n) => n.to_string(),
        other => crate::values::told_written(&other),
    }
}

/// What a variable of the innermost call, or a cell of the state, holds, in short.
pub(super) fn trace_of(
    view: &View<'_, '_>,
    known: &Known,
    name: &str,
    cell: Option<usize>,
) -> Option<String> {
    let register = known.register(&view.innermost(), name);
    held_in(view, known, name, cell, register).map(|(value, _)| told(value))
}
