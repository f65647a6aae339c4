//! The values that a memory has, taken together.

use std::rc::Rc;

use indexmap::IndexMap;
use rustc_hash::FxHashMap;

use super::built_in::BuiltInValues;
use super::memory::{Memory, Module};
use crate::metering::Stopped;
use crate::values::{Copier, Marker, Roots, Value};

/// All values that a memory has.
#[derive(Clone, Debug)]
pub(crate) struct Contents {
    session: Vec<Value>,
    built_in: BuiltInValues,
    state: Vec<Value>,
    dynamic: FxHashMap<Rc<str>, Value>,
    modules: IndexMap<String, Module>,
}

impl Contents {
    /// Those of a memory: not their copies, but the values themselves.
    pub fn of(memory: &Memory) -> Contents {
        Contents {
            session: memory.session.clone(),
            built_in: memory.built_in.clone(),
            state: memory.state.clone(),
            dynamic: memory.dynamic.clone(),
            modules: memory.modules.clone(),
        }
    }

    /// The same with other values of names.
    pub fn with_session(self, session: Vec<Value>) -> Contents {
        Contents { session, ..self }
    }

    /// The same without the programs that are being loaded.
    pub fn at_rest(mut self) -> Contents {
        self.modules
            .retain(|_, module| matches!(module, Module::Done(_)));
        self
    }

    /// Copies of them, made by one copier, so that what is shared stays so.
    ///
    /// # Errors
    /// They are more than what the limits allow.
    pub fn copied(&self, copier: &mut Copier<'_>) -> Result<Contents, Stopped> {
        let mut all = self.clone();
        for value in all.all_mut() {
            *value = copier.copy(*value)?;
        }
        Ok(all)
    }

    fn all_mut(&mut self) -> impl Iterator<Item = &mut Value> {
        let lists = [&mut self.session, &mut self.state];
        let lists = lists.into_iter().flatten().chain(self.built_in.all_mut());
        let modules = self.modules.values_mut().filter_map(|module| match module {
            Module::Done(value) => Some(value),
            Module::Running => None,
        });
        lists.chain(self.dynamic.values_mut()).chain(modules)
    }

    /// All of them.
    pub fn all(&self) -> impl Iterator<Item = Value> {
        let lists = [&self.session, &self.state];
        let values = lists.into_iter().flatten();
        let values = values.chain(self.dynamic.values()).copied();
        let values = values.chain(self.built_in.all());
        values.chain(self.modules.values().filter_map(|module| match module {
            Module::Done(value) => Some(*value),
            Module::Running => None,
        }))
    }

    /// Makes them those of a memory.
    pub fn put_into(self, memory: &mut Memory) {
        memory.session = self.session;
        memory.built_in = self.built_in;
        memory.state = self.state;
        memory.dynamic = self.dynamic;
        memory.modules = self.modules;
    }
}

impl Roots for Contents {
    fn trace(&self, marker: &mut Marker) {
        self.all().for_each(|value| marker.value(value));
    }
}
