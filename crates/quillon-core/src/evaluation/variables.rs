//! Reading and setting variables, and making functions.

use std::rc::Rc;

use super::failure::{Culprit, Problem};
use super::stacks::{Going, Slot};
use super::value::{Cell, Closure, Value};
use super::walk::Walker;
use crate::diagnostic::{codes, quote};
use crate::meaning::{FunctionCore, Marked, Part, Variable};

impl Walker<'_> {
    fn slot(&mut self, slot: u32) -> &mut Slot {
        let at = self.stacks.frame().base + slot;
        &mut self.stacks.slots[at as usize]
    }

    /// Puts a value into a slot of the running function.
    pub(super) fn set_slot(&mut self, slot: u32, value: Value) {
        *self.slot(slot) = Slot::Value(value);
    }

    /// What a variable holds, if it holds anything.
    #[inline]
    fn holds(&self, variable: &Variable) -> Option<Value> {
        let frame = self.stacks.frame();
        match *variable {
            Variable::Slot(slot) | Variable::Cell(slot) => {
                match &self.stacks.slots[(frame.base + slot) as usize] {
                    Slot::Value(value) => Some(value.clone()),
                    Slot::Cell(cell) => cell.0.borrow().clone(),
                    Slot::Unset => None,
                }
            }
            Variable::Captured(index) => frame.closure.captured[index as usize].0.borrow().clone(),
            Variable::Session(index) => self
                .memory
                .session
                .get(index as usize)
                .and_then(Clone::clone),
            Variable::ReadyMade(index) => self.memory.ready_made.get(index as usize).cloned(),
            Variable::State(index) => self.memory.state.get(index as usize).cloned(),
            Variable::Dynamic(ref name) => self.memory.dynamic.get(name).cloned(),
        }
    }

    #[inline]
    pub(super) fn read(&mut self, variable: &Variable, name: &str, core: &Part) -> Going {
        match self.holds(variable) {
            Some(value) => Going::Give(value),
            None => self.unset(variable, name, core),
        }
    }

    #[cold]
    fn unset(&mut self, variable: &Variable, name: &str, core: &Part) -> Going {
        let why = match variable {
            Variable::Dynamic(_) => "none of its bindings is under way",
            _ => "it is bound, but what gives it a value has not run",
        };
        let problem = Problem::new(
            Culprit::Whole,
            codes::RUN_UNSET,
            format!("{} has no value yet", quote(name)),
        )
        .why(why)
        .detail("name", name);
        self.fail(*problem, core)
    }

    /// Tells who watches that a variable is about to be set.
    pub(super) fn tell_change(&mut self, variable: &Variable, name: &str, value: &Value) {
        let before = self.holds(variable);
        if let Some(watcher) = &mut self.watcher {
            watcher.changes(name, before.as_ref(), value);
        }
    }

    /// Tells who watches that a node ends.
    pub(super) fn tell_end(&mut self, marked: Marked, value: Option<&Value>) {
        if let Some(watcher) = &mut self.watcher {
            watcher.ends(marked, value, &self.memory.state);
        }
    }

    pub(super) fn write(&mut self, variable: &Variable, value: Value) {
        // What was there is dropped last: it may be what holds the variable.
        match *variable {
            Variable::Slot(slot) => self.set_slot(slot, value),
            Variable::Cell(slot) => {
                if let Slot::Cell(cell) = self.slot(slot) {
                    let old = cell.0.replace(Some(value));
                    drop(old);
                }
            }
            Variable::Captured(index) => {
                let captured = &self.stacks.frame().closure.captured;
                let old = captured[index as usize].0.replace(Some(value));
                drop(old);
            }
            Variable::Session(index) => {
                let session = &mut self.memory.session;
                if session.len() <= index as usize {
                    session.resize(index as usize + 1, None);
                }
                session[index as usize] = Some(value);
            }
            // Scoping lets nothing change what is ready-made.
            Variable::ReadyMade(_) => {}
            Variable::State(index) => {
                if let Some(cell) = self.memory.state.get_mut(index as usize) {
                    let old = std::mem::replace(cell, value);
                    drop(old);
                }
            }
            Variable::Dynamic(ref name) => {
                let old = self.memory.dynamic.insert(Rc::clone(name), value);
                drop(old);
            }
        }
    }

    /// Begins fresh dynamic variables; gives what those of the names held.
    pub(super) fn rebind(&mut self, names: &[Rc<str>]) -> Box<[(Rc<str>, Option<Value>)]> {
        let dynamic = &mut self.memory.dynamic;
        let held = names
            .iter()
            .map(|name| (Rc::clone(name), dynamic.remove(name)));
        held.collect()
    }

    /// Ends dynamic variables: those before them are back.
    pub(super) fn restore(&mut self, held: Box<[(Rc<str>, Option<Value>)]>) {
        for (name, value) in held {
            let old = match value {
                Some(value) => self.memory.dynamic.insert(name, value),
                None => self.memory.dynamic.remove(&name),
            };
            drop(old);
        }
    }

    pub(super) fn freshen(&mut self, slots: &[(u32, bool)]) {
        for &(slot, cell) in slots {
            *self.slot(slot) = if cell {
                Slot::Cell(Rc::default())
            } else {
                Slot::Unset
            };
        }
    }

    pub(super) fn close(&mut self, function: &Rc<FunctionCore>) -> Value {
        let captured = function
            .captures
            .iter()
            .map(|capture| match capture.from {
                Variable::Captured(index) => {
                    Rc::clone(&self.stacks.frame().closure.captured[index as usize])
                }
                Variable::Cell(slot) | Variable::Slot(slot) => {
                    let place = self.slot(slot);
                    if let Slot::Cell(cell) = place {
                        Rc::clone(cell)
                    } else {
                        let cell = Rc::<Cell>::default();
                        *place = Slot::Cell(Rc::clone(&cell));
                        cell
                    }
                }
                Variable::Session(_)
                | Variable::ReadyMade(_)
                | Variable::State(_)
                | Variable::Dynamic(_) => Rc::default(),
            })
            .collect();
        Value::Function(Rc::new(Closure {
            function: Rc::clone(function),
            captured,
        }))
    }
}
