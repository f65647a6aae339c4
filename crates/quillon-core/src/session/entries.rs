//! Entries of a conversation: what they leave behind, and how all was before them.

use std::rc::Rc;
use std::sync::Arc;

use super::inner::Inner;
use crate::diagnostic::{Diagnostic, Outcome, codes, nearest, quote};
use crate::language::Reading;
use crate::language::{Compiled, Prepared, Surroundings};
use crate::metering::Stopped;
use crate::runtime::{Contents, Failure, Host, Problem};
use crate::scoping::{Around, BindingId, Home, Kept, Names};
use crate::source::SourceText;
use crate::typing::{Type, Types};
use crate::values::{Copier, Function, Held, Value};

/// How everything was before an entry, to go back to.
#[derive(Debug)]
pub(super) struct Before {
    pub values: Contents,
    pub random: fastrand::Rng,
    pub kept: usize,
    /// Those of the names kept that were awaited.
    pub awaited: Vec<usize>,
    /// The language, with the signs that were operators.
    pub prepared: Prepared,
    /// The same values once more, so that nothing frees them meanwhile.
    held: Vec<Held>,
}

impl Inner {
    /// Runs an entry of a conversation: names it binds at the top stay for the next
    /// entries. One that fails leaves everything as it was.
    pub fn enter(&mut self, source: &Arc<SourceText>, host: &mut dyn Host) -> Outcome<Held> {
        let around = self.around();
        let Outcome { value, diagnostics } =
            self.language().compiled(source, around, Reading::Entry);
        let Some(compiled) = value else {
            return self.failed(diagnostics);
        };
        let result = match self.before_entry(&compiled, host) {
            Ok(before) => self.entered(&compiled, before, host),
            Err(failure) => Err(failure),
        };
        self.ended(diagnostics, &result)
    }

    /// Runs a compiled entry, and keeps what it has bound or goes back to how all was before.
    fn entered(
        &mut self,
        compiled: &Compiled,
        before: Before,
        host: &mut dyn Host,
    ) -> Result<Value, Box<Failure>> {
        let result = self.core(&compiled.core, host);
        if result.is_err() {
            self.go_back(before);
            return result;
        }
        self.keep(&compiled.names, compiled.types.as_ref());
        self.prepared = self.prepared.after(&compiled.tree);
        self.past.push_back(before);
        while self.past.len() > self.remembers {
            self.past.pop_front();
        }
        result
    }

    /// How everything is before an entry, within the limits of the entry.
    fn before_entry(&self, compiled: &Compiled, host: &dyn Host) -> Result<Before, Box<Failure>> {
        let heap = Rc::clone(&self.memory.heap);
        let _entered = heap.enter();
        let _running = heap.meter.run(self.limits, host.interrupt());
        let again = |stopped: Stopped| {
            // A collection may find the room.
            match stopped {
                Stopped::Memory => {
                    heap.collect(&self.memory);
                    self.before()
                }
                other @ (Stopped::Steps | Stopped::Time | Stopped::Interrupted | Stopped::Size) => {
                    Err(other)
                }
            }
        };
        self.before().or_else(again).map_err(|stopped| {
            let problem = Box::<Problem>::from(stopped);
            Failure::at_start(*problem, &compiled.core.source)
        })
    }

    /// Goes back to how all was before the last entry that did not fail: names, what they
    /// hold, and the state. False if that is not known.
    pub fn undo(&mut self) -> bool {
        let before = self.past.pop_back();
        let known = before.is_some();
        before.into_iter().for_each(|before| self.go_back(before));
        known
    }

    /// Adds the names that an entry has bound at the top.
    fn keep(&mut self, names: &Names, types: Option<&Types>) {
        let known = self.kept.len();
        let mut fresh: Vec<(u32, Kept, Type)> = (0u32..)
            .zip(&names.bindings)
            .filter_map(|(id, binding)| match binding.home {
                // What was there before has no place in the entry.
                Home::Session(index) if index as usize >= known || binding.span.is_some() => {
                    Some((
                        index,
                        Kept {
                            awaited: names.awaited.contains(&BindingId(id)),
                            name: binding.name.clone(),
                            fixed: binding.fixed,
                            dynamic: binding.dynamic,
                            space: binding.space.clone(),
                        },
                        types
                            .and_then(|types| types.kept_of_binding(BindingId(id)))
                            .unwrap_or(Type::Any),
                    ))
                }
                Home::Node(_) | Home::Session(_) | Home::BuiltIn(_) => None,
            })
            .collect();
        fresh.sort_by_key(|(index, ..)| *index);
        for (index, kept, has) in fresh {
            // What is still to come can be anything.
            let has = if kept.awaited { Type::Any } else { has };
            if let Some(awaited) = self.kept.get_mut(index as usize) {
                *awaited = kept;
                self.types[index as usize] = has;
            } else {
                self.kept.push(kept);
                self.types.push(has);
            }
        }
    }

    /// How everything is now. One copier for all, so that what is shared stays so.
    ///
    /// # Errors
    /// The copy is more than what the limits of the session allow.
    pub fn before(&self) -> Result<Before, Stopped> {
        let memory = &self.memory;
        let _entered = memory.heap.enter();
        let values = Contents::of(memory).copied(&mut Copier::default())?;
        Ok(Before {
            held: values.all().map(|value| self.held(value)).collect(),
            values,
            random: memory.random.clone(),
            kept: self.kept.len(),
            awaited: (0..self.kept.len())
                .filter(|&at| self.kept[at].awaited)
                .collect(),
            prepared: self.prepared.clone(),
        })
    }

    pub fn go_back(&mut self, before: Before) {
        let Before {
            values,
            random,
            kept,
            awaited,
            prepared,
            held,
        } = before;
        self.forget_since(kept, &awaited);
        self.prepared = prepared;
        values.put_into(&mut self.memory);
        self.memory.random = random;
        // They are roots again.
        drop(held);
    }

    /// Makes the names kept those that there were when there were so many, and these awaited.
    pub fn forget_since(&mut self, kept: usize, awaited: &[usize]) {
        self.kept.truncate(kept);
        self.types.truncate(kept);
        for &index in awaited {
            self.kept[index].awaited = true;
            self.types[index] = Type::Any;
        }
    }

    /// The names kept so far with their values, the latest of each name.
    pub fn names(&self) -> Vec<(&str, Option<Held>)> {
        let mut names: Vec<(&str, Option<Held>)> = Vec::new();
        for (index, kept) in self.kept.iter().enumerate() {
            let latest = self.kept[index + 1..]
                .iter()
                .all(|later| (&later.name, &later.space) != (&kept.name, &kept.space));
            if !latest || kept.name.is_empty() {
                continue;
            }
            let value = self.memory.session.get(index);
            let value = value.and_then(|value| value.if_set());
            names.push((&kept.name, value.map(|value| self.held(value))));
        }
        names
    }

    /// A function by its name: of an entry, or of the definition.
    pub fn function(&self, name: &str) -> Result<Function, Box<Diagnostic>> {
        let value = self.named(name)?;
        let function = value.as_ref().and_then(Held::as_function);
        function.ok_or_else(|| {
            let is = value.map_or("not set yet".to_owned(), |value| value.described());
            let message = format!("{} is no function: it is {is}", quote(name));
            Box::new(Diagnostic::error(codes::RUN_KIND, message))
        })
    }

    /// What a name is bound to, by an entry or by the definition; nothing if it is not set yet.
    fn named(&self, name: &str) -> Result<Option<Held>, Box<Diagnostic>> {
        let names = self.names();
        let bound = names.iter().rev().find(|(known, _)| *known == name);
        if let Some((_, value)) = bound {
            return Ok(value.clone());
        }
        let provided = &self.language().definition().provides;
        let index = provided.iter().position(|p| p.name.text == name);
        if let Some(index) = index {
            let source = &self.language().definition().source;
            let value = self.memory.built_in.ready(index);
            let told = |problem: Box<Problem>| Failure::at_start(*problem, source).diagnostic();
            let value = value.map_err(|problem| Box::new(told(problem)))?;
            return Ok(value.map(|value| self.held(value)));
        }
        let own = names.iter().map(|(name, _)| *name);
        let known = own.chain(provided.iter().map(|p| p.name.text.as_str()));
        let message = format!("no function is called {}", quote(name));
        let problem = Diagnostic::error(codes::NAME_UNBOUND, message);
        Err(Box::new(problem.did_you_mean(nearest(name, known))))
    }

    /// The names kept so far, as what is around the next entry.
    pub fn around(&self) -> Surroundings<'_> {
        Surroundings {
            names: Around::Session(&self.kept),
            types: &self.types,
        }
    }
}
