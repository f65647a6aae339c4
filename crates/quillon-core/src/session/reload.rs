//! A session goes on with another version of its definition.

use rustc_hash::FxHashSet;

use super::inner::Inner;
use crate::definition::Definition;
use crate::diagnostic::Diagnostics;
use crate::language::{Language, Prepared};
use crate::runtime::Host;
use crate::typing::Type;
use crate::values::{Held, Value};

/// Something that a session could not take along.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Lost {
    /// The name, or the cell of the state.
    pub name: String,
    /// Whether it is a cell of the state.
    pub is_state: bool,
    /// Why not.
    pub why: String,
}

impl Inner {
    /// Goes on with another version of the definition: names keep their values and cells
    /// of the state what they hold, as far as that can be; what is lost is told. If the new
    /// constants or cells cannot be made, all stays as it was.
    pub fn reload(
        &mut self,
        language: &Language,
        host: &mut dyn Host,
    ) -> Result<Vec<Lost>, Diagnostics> {
        // Outside of a run there is no limit that the copy could come to.
        let Ok(before) = self.before() else {
            return Ok(Vec::new());
        };
        let language = &language.after_all_of(self.prepared.language());
        let old = std::mem::replace(&mut self.prepared, Prepared::new(language));
        let cells = self.memory.state.clone();
        // Nothing frees them meanwhile.
        let _held: Vec<Held> = cells.iter().map(|value| self.held(*value)).collect();
        if let Err(problem) = self.make_ready(host) {
            self.prepared = old;
            self.go_back(before);
            return Err(problem);
        }
        // The entries before were of another language.
        self.past.clear();
        self.memory.modules.clear();
        let old = old.language();
        if !same_types(old.definition(), language.definition()) {
            self.types.fill(Type::Any);
        }
        let goes_on = goes_on(old.definition(), language.definition());
        let mut lost = Vec::new();
        for (cell, value) in old.definition().state.iter().zip(cells) {
            let name = &cell.name.text;
            let why = match language.definition().state_index(name) {
                None => "the definition has no such cell any more".to_owned(),
                Some(_) if !goes_on && has_function(value) => CHANGED.to_owned(),
                Some(index) => {
                    self.memory.state[index] = value;
                    continue;
                }
            };
            lost.push(Lost {
                name: name.clone(),
                is_state: true,
                why,
            });
        }
        if !goes_on {
            lost.extend(self.forget_functions());
        }
        Ok(lost)
    }

    /// Forgets all names that hold functions, or something with a function in it.
    fn forget_functions(&mut self) -> Vec<Lost> {
        let mut lost = Vec::new();
        for (index, kept) in self.kept.iter_mut().enumerate() {
            let Some(value) = self.memory.session.get_mut(index) else {
                continue;
            };
            if !has_function(*value) {
                continue;
            }
            *value = Value::Unset;
            // Nothing finds a name that is empty; those after it keep their places.
            let name = std::mem::take(&mut kept.name);
            if !name.is_empty() {
                lost.push(Lost {
                    name,
                    is_state: false,
                    why: CHANGED.to_owned(),
                });
            }
        }
        self.memory.dynamic.retain(|_, value| !has_function(*value));
        lost
    }
}

const CHANGED: &str =
    "it has a function in it, made when the definition had other built-in names or cells";

/// Whether functions made under one definition mean the same under another: what is
/// built-in and the cells are known to them by their numbers.
fn goes_on(old: &Definition, new: &Definition) -> bool {
    let provided = |definition: &Definition| -> Vec<(String, bool)> {
        let all = definition.provides.iter();
        all.map(|p| (p.name.text.clone(), p.params.is_some()))
            .collect()
    };
    let cells = |definition: &Definition| -> Vec<String> {
        let all = definition.state.iter();
        all.map(|cell| cell.name.text.clone()).collect()
    };
    let helpers = |definition: &Definition| -> Vec<String> {
        let all = definition.recursive_helpers();
        all.map(|helper| helper.name.text.clone()).collect()
    };
    // Helpers are numbered after what is provided.
    let same_helpers = helpers(old).is_empty()
        || provided(new) == provided(old) && helpers(new).starts_with(&helpers(old));
    provided(new).starts_with(&provided(old)) && cells(new).starts_with(&cells(old)) && same_helpers
}

/// Whether two definitions have the same types of their own: what is kept knows them by
/// their numbers.
fn same_types(old: &Definition, new: &Definition) -> bool {
    let own = |definition: &Definition| -> Vec<(String, usize)> {
        let all = definition.types.iter();
        all.map(|own| (own.name.text.clone(), own.params.len()))
            .collect()
    };
    own(old) == own(new)
}

/// Whether a value is a function or has one in it.
fn has_function(value: Value) -> bool {
    let mut seen = FxHashSet::default();
    let mut work = vec![value];
    while let Some(value) = work.pop() {
        if let Some(address) = value.address()
            && !seen.insert(address)
        {
            continue;
        }
        match value {
            Value::Function(_) | Value::Coroutine(_) => return true,
            Value::List(list) => work.extend(list.items.to_vec()),
            Value::Map(map) => work.extend(map.entries().into_iter().map(|(_, value)| value)),
            _ => {}
        }
    }
    false
}
