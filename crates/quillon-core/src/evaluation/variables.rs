//! Reading and setting variables, and making functions.

use std::rc::Rc;

use super::stacks::Going;
use super::walk::Walker;
use crate::meaning::{CorePart, FunctionCore, Marked, Variable};
use crate::runtime::not_set;
use crate::values::{Closure, Value};

impl Walker<'_> {
    fn slot(&mut self, slot: u32) -> &mut Value {
        let at = self.stacks.frame().base + slot;
        &mut self.stacks.slots[at as usize]
    }

    /// Puts a value into a slot of the running function.
    pub(super) fn set_slot(&mut self, slot: u32, value: Value) {
        *self.slot(slot) = value;
    }

    /// What a variable holds, if it holds anything.
    #[inline]
    fn holds(&self, variable: &Variable) -> Option<Value> {
        let frame = self.stacks.frame();
        let place = match *variable {
            Variable::Slot(slot) | Variable::Cell(slot) => {
                self.stacks.slots[(frame.base + slot) as usize]
            }
            Variable::Captured(index) => frame.closure.captured(index as u16),
            Variable::Session(index) => *self.memory.session.get(index as usize)?,
            // The engine makes functions of any size.
            Variable::BuiltIn(index) => {
                let ready = self.memory.built_in.ready(index as usize);
                ready.ok()??
            }
            Variable::State(index) => *self.memory.state.get(index as usize)?,
            Variable::Dynamic(ref name) => *self.memory.dynamic.get(name)?,
        };
        place.held()
    }

    #[inline]
    pub(super) fn read(&mut self, variable: &Variable, name: &str, core: &CorePart) -> Going {
        match self.holds(variable) {
            Some(value) => Going::Give(value),
            None => self.unset(variable, name, core),
        }
    }

    #[cold]
    fn unset(&mut self, variable: &Variable, name: &str, core: &CorePart) -> Going {
        if self.memory.refused.is_some() {
            return Going::Give(Value::Nothing);
        }
        let is_dynamic = matches!(variable, Variable::Dynamic(_));
        self.fail(*not_set(name, is_dynamic), core)
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
        match *variable {
            Variable::Slot(slot) => self.set_slot(slot, value),
            Variable::Cell(slot) => {
                if let Value::Variable(shared) = *self.slot(slot) {
                    shared.set(value);
                }
            }
            Variable::Captured(index) => {
                if let Value::Variable(shared) = self.stacks.frame().closure.captured(index as u16)
                {
                    shared.set(value);
                }
            }
            Variable::Session(index) => self.memory.set_session(index as usize, value),
            // Scoping lets nothing change what is built in.
            Variable::BuiltIn(_) => {}
            Variable::State(index) => {
                if let Some(cell) = self.memory.state.get_mut(index as usize) {
                    *cell = value;
                }
            }
            Variable::Dynamic(ref name) => {
                self.memory.dynamic.insert(Rc::clone(name), value);
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
            match value {
                Some(value) => self.memory.dynamic.insert(name, value),
                None => self.memory.dynamic.remove(&name),
            };
        }
    }

    pub(super) fn freshen(&mut self, slots: &[(u32, bool)]) {
        for &(slot, cell) in slots {
            *self.slot(slot) = if cell {
                Value::Variable(Value::variable(Value::Unset))
            } else {
                Value::Unset
            };
        }
    }

    pub(super) fn close(&mut self, function: &Rc<FunctionCore>) -> Value {
        let captured: Vec<Value> = function
            .captures
            .iter()
            .map(|capture| match capture.from {
                Variable::Captured(index) => self.stacks.frame().closure.captured(index as u16),
                Variable::Cell(slot) | Variable::Slot(slot) => {
                    let place = self.slot(slot);
                    if !matches!(place, Value::Variable(_)) {
                        *place = Value::Variable(Value::variable(Value::Unset));
                    }
                    *place
                }
                Variable::Session(_)
                | Variable::BuiltIn(_)
                | Variable::State(_)
                | Variable::Dynamic(_) => Value::Unset,
            })
            .collect();
        Value::Function(Closure::of_core(function, &captured))
    }
}
