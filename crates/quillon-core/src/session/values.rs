//! The values that a session has, taken together.

use std::rc::Rc;

use indexmap::IndexMap;
use rustc_hash::FxHashMap;

use crate::metering::Stopped;
use crate::runtime::{Memory, Module};
use crate::values::{Copier, Value};

/// All values that a session has, but for those that a run has while it runs.
#[derive(Clone, Debug)]
pub(super) struct SessionValues {
    session: Vec<Value>,
    built_in: Vec<Value>,
    state: Vec<Value>,
    dynamic: FxHashMap<Rc<str>, Value>,
    modules: IndexMap<String, Value>,
}

impl SessionValues {
    /// Those of a session: not their copies, but the values themselves.
    pub fn of(memory: &Memory) -> SessionValues {
        let modules = memory.modules.iter();
        let done = modules.filter_map(|(name, module)| match module {
            Module::Done(value) => Some((name.clone(), *value)),
            Module::Running => None,
        });
        SessionValues {
            session: memory.session.clone(),
            built_in: memory.built_in.clone(),
            state: memory.state.clone(),
            dynamic: memory.dynamic.clone(),
            modules: done.collect(),
        }
    }

    /// The same with other values of names.
    pub fn with_session(self, session: Vec<Value>) -> SessionValues {
        SessionValues { session, ..self }
    }

    /// Copies of them, made by one copier, so that what is shared stays so.
    ///
    /// # Errors
    /// They are more than what the limits allow.
    pub fn copied(&self, copier: &mut Copier<'_>) -> Result<SessionValues, Stopped> {
        let mut all = self.clone();
        for value in all.all_mut() {
            *value = copier.copy(*value)?;
        }
        Ok(all)
    }

    fn all_mut(&mut self) -> impl Iterator<Item = &mut Value> {
        let lists = [&mut self.session, &mut self.built_in, &mut self.state];
        let lists = lists.into_iter().flatten();
        lists
            .chain(self.dynamic.values_mut())
            .chain(self.modules.values_mut())
    }

    /// All of them.
    pub fn all(&self) -> impl Iterator<Item = Value> {
        let lists = [&self.session, &self.built_in, &self.state];
        let values = lists.into_iter().flatten();
        let values = values.chain(self.dynamic.values());
        values.chain(self.modules.values()).copied()
    }

    /// Makes them those of a session.
    pub fn put_into(self, memory: &mut Memory) {
        memory.session = self.session;
        memory.built_in = self.built_in;
        memory.state = self.state;
        memory.dynamic = self.dynamic;
        let modules = self.modules.into_iter();
        memory.modules = modules
            .map(|(name, value)| (name, Module::Done(value)))
            .collect();
    }
}
