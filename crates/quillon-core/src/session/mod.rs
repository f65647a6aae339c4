//! Running programs, and keeping what outlives a run.

use std::rc::Rc;
use std::sync::Arc;
use std::time::Duration;

use crate::bytecode::Function as Bytecode;
use crate::diagnostic::{Diagnostic, Diagnostics, Outcome, codes, nearest, quote};
use crate::language::{Language, Reading, Surroundings};
use crate::machine::{Leader, Probe, Until};
use crate::meaning::Marks;
use crate::runtime::{Host, Limits, Watcher};
use crate::scoping::Kept;
use crate::source::SourceText;
use crate::tree::Tree;
use crate::values::{Arguments, Function, Held};

mod asking;
mod builder;
mod entries;
mod inner;
mod rehearsal;
mod reload;
mod runs;

pub use asking::Answer;
pub(crate) use asking::Question;
pub use builder::SessionBuilder;
use inner::Inner;
pub use reload::Lost;

/// What runs programs.
#[derive(Clone, Copy, PartialEq, Eq, Default, Debug)]
pub enum Engine {
    /// Bytecode, run by the machine.
    #[default]
    Machine,
    /// Core, walked: the reference, and what can be watched.
    Walk,
}

/// Runs programs of one language, one after the other, with one host. It is made by
/// [`Language::session`].
///
/// A session stays on its thread, and so do its values; each thread has sessions of its own.
/// Values that are copied into it are copied whole; each entry copies all that the session holds,
/// so that one that fails can be taken back (see [`Session::enter`]).
#[derive(Debug)]
pub struct Session<H> {
    inner: Inner,
    host: H,
    /// What was said beside the last value.
    said: Vec<Diagnostic>,
}

impl<H: Host> Session<H> {
    /// Runs an entry of a conversation: names it binds at the top stay for the next entries. One
    /// that fails leaves names, state and all values as they were; what it has printed, or
    /// done by the host, stays done. For that, all values that the session holds are copied before
    /// an entry runs: some nanoseconds for each item. [`Session::run`] copies nothing.
    ///
    /// # Errors
    /// All that is wrong with the text, or the error that the run ended in.
    pub fn enter(&mut self, name: &str, text: impl Into<String>) -> Result<Held, Diagnostics> {
        let outcome = self.enter_source(&SourceText::new(name, text));
        self.result(outcome)
    }

    /// Runs a whole program, by itself: it finds none of the names of entries, and leaves none.
    ///
    /// # Errors
    /// As [`Session::enter`].
    pub fn run(&mut self, name: &str, text: impl Into<String>) -> Result<Held, Diagnostics> {
        let outcome = self.run_source(&SourceText::new(name, text), Reading::Program);
        self.result(outcome)
    }

    /// A function that an entry has bound to a name, or that the definition provides.
    ///
    /// # Errors
    /// Nothing is bound to the name, or no function.
    pub fn function(&self, name: &str) -> Result<Function, Box<Diagnostic>> {
        self.inner.function(name)
    }

    /// Calls a function of the session.
    ///
    /// # Errors
    /// The error that the run ended in, which may be another number of arguments than the function
    /// takes; or that the function, or a value, belongs to another session.
    pub fn call(
        &mut self,
        function: &Function,
        arguments: impl Arguments,
    ) -> Result<Held, Diagnostics> {
        let outcome = self.inner.call(function, arguments, &mut self.host);
        self.result(outcome)
    }

    /// What was said beside the last value that [`Session::enter`], [`Session::run`] or
    /// [`Session::call`] gave.
    pub fn warnings(&self) -> &[Diagnostic] {
        &self.said
    }

    fn result(&mut self, outcome: Outcome<Held>) -> Result<Held, Diagnostics> {
        if outcome.has_errors() || outcome.value.is_none() {
            return outcome.into_result();
        }
        self.said = outcome.diagnostics;
        outcome.value.ok_or_else(Diagnostics::default)
    }

    /// As [`Session::enter`], with a source that is made already, and with all that is said.
    pub fn enter_source(&mut self, source: &Arc<SourceText>) -> Outcome<Held> {
        self.inner.enter(source, &mut self.host)
    }

    /// As [`Session::run`], with a source that is made already, read as what it is to be, and with
    /// all that is said.
    pub fn run_source(&mut self, source: &Arc<SourceText>, reading: Reading<'_>) -> Outcome<Held> {
        self.inner.run(source, reading, &mut self.host)
    }

    /// Runs a tree, however it came to be.
    pub fn run_tree(&mut self, tree: &Tree) -> Outcome<Held> {
        self.inner.run_tree(tree, &mut self.host)
    }

    /// Runs bytecode that has been kept.
    pub fn run_code(&mut self, code: &Rc<Bytecode>) -> Outcome<Held> {
        self.inner.run_code(code, &mut self.host)
    }

    /// Runs a text, with the names kept before, while somebody watches what is marked in it.
    pub(crate) fn watch(
        &mut self,
        source: &Arc<SourceText>,
        reading: Reading<'_>,
        marks: Marks,
        watcher: &mut dyn Watcher,
    ) -> Outcome<Held> {
        self.inner
            .watch(source, reading, marks, &mut self.host, watcher)
    }

    /// Runs a text that somebody leads, as far as that goes first.
    pub(crate) fn lead(
        &mut self,
        source: &Arc<SourceText>,
        reading: Reading<'_>,
        until: Until,
        leader: &mut dyn Leader,
    ) -> Outcome<Held> {
        self.inner
            .lead(source, reading, &mut self.host, until, leader)
    }

    /// How long a run of a program takes, reading and compiling it apart.
    pub fn time(&mut self, source: &Arc<SourceText>, reading: Reading<'_>) -> Duration {
        self.inner.time(source, reading, &mut self.host)
    }

    /// Goes on with another version of the definition: names keep their values and cells
    /// of the state what they hold, as far as that can be; what is lost is told. If the new
    /// constants or cells cannot be made, all stays as it was.
    ///
    /// # Errors
    /// Why they cannot be made.
    pub fn reload(&mut self, language: &Language) -> Result<Vec<Lost>, Diagnostics> {
        self.inner.reload(language, &mut self.host)
    }
}

impl<H> Session<H> {
    /// A copy of the session with a host of its own, in which runs can be watched
    /// ([`crate::debugging::trace`]): what is run there changes nothing here. It is as all was before the last
    /// `back` entries; that is known of as many as the session remembers
    /// ([`Session::remember`]).
    ///
    /// # Errors
    /// That is not known, or there is a coroutine among the values: where one stands cannot be
    /// copied.
    pub fn rehearsal<G: Host>(&self, host: G, back: usize) -> Result<Session<G>, Box<Diagnostic>> {
        Ok(Session {
            inner: self.inner.rehearsal(back, &host)?,
            host,
            said: Vec::new(),
        })
    }

    /// The names that were kept before the last `back` entries.
    pub(crate) fn kept_before(&self, back: usize) -> &[Kept] {
        self.inner.kept_before(back)
    }

    /// A copy of the session with a host of its own, in which runs can be led: as all was before the last
    /// `back` entries.
    ///
    /// # Errors
    /// That is not known, or there is a coroutine among the values: where one stands cannot be copied.
    pub(crate) fn led_copy<G: Host>(
        &self,
        host: G,
        back: usize,
    ) -> Result<Session<G>, Box<Diagnostic>> {
        Ok(Session {
            inner: self.inner.led_copy(back, &host)?,
            host,
            said: Vec::new(),
        })
    }

    /// The host.
    pub fn host(&self) -> &H {
        &self.host
    }

    /// The host, to be changed between two runs.
    pub fn host_mut(&mut self) -> &mut H {
        &mut self.host
    }

    /// Ends the session; its host is left.
    pub fn into_host(self) -> H {
        self.host
    }

    /// The language.
    pub fn language(&self) -> &Language {
        self.inner.language()
    }

    /// How far each run may go.
    pub fn limits(&self) -> Limits {
        self.inner.limits
    }

    /// Changes how far each run may go, from the next on.
    pub fn set_limits(&mut self, limits: Limits) {
        self.inner.memory.heap.set_most(limits.memory);
        self.inner.limits = limits;
    }

    /// Makes chance take the same course in every run with this number.
    pub fn seed(&mut self, seed: u64) {
        self.inner.memory.random = fastrand::Rng::with_seed(seed);
    }

    /// The cells of the state, in the definition's order, with what they hold.
    pub fn state(&self) -> impl Iterator<Item = (&str, Held)> {
        let cells = self.language().definition().state.iter();
        let cells = cells.zip(&self.inner.memory.state);
        let own = cells.filter(|(cell, _)| !cell.is_for_checks);
        own.map(|(cell, value)| (cell.name.text.as_str(), self.inner.held(*value)))
    }

    /// What a cell of the state holds; nothing if there is no such cell.
    pub fn cell(&self, name: &str) -> Option<Held> {
        let mut cells = self.state();
        cells
            .find(|(known, _)| *known == name)
            .map(|(_, held)| held)
    }

    /// Puts a value into a cell of the state.
    ///
    /// # Errors
    /// There is no such cell, or the value has a function of another session in it.
    pub fn set_state(&mut self, name: &str, value: impl Into<Held>) -> Result<(), Box<Diagnostic>> {
        let index = cell_index(self.language(), name)?;
        Ok(self.inner.set_cell(index, &value.into())?)
    }

    /// The names kept so far with their values, the latest of each name.
    pub fn names(&self) -> Vec<(&str, Option<Held>)> {
        self.inner.names()
    }

    /// The names kept so far, as what is around the next entry.
    pub fn around(&self) -> Surroundings<'_> {
        self.inner.around()
    }

    /// Makes the session remember how all was before so many entries, for `undo`. None
    /// are remembered unless asked for: each takes the room of all values there are.
    pub fn remember(&mut self, entries: usize) {
        self.inner.remembers = entries;
    }

    /// Goes back to how all was before the last entry that did not fail: names, what they
    /// hold, and the state. False if that is not known.
    pub fn undo(&mut self) -> bool {
        self.inner.undo()
    }

    /// The bytes that all values take, those that nobody has any more included until they
    /// are collected.
    pub fn bytes(&self) -> usize {
        self.inner.memory.heap.used()
    }

    /// Takes every chance to free memory, so many times: a value that somebody has lost sight
    /// of is then found out at once. For tests.
    #[doc(hidden)]
    pub fn collect_always(&mut self, times: u32) {
        self.inner.memory.heap.set_stress(times);
    }

    /// What has been counted so far; from here on it is counted anew.
    pub(crate) fn take_probe(&mut self) -> Option<Probe> {
        self.inner.take_probe()
    }
}

/// The number of a cell of the state.
fn cell_index(language: &Language, name: &str) -> Result<usize, Box<Diagnostic>> {
    let definition = language.definition();
    definition.state_index(name).ok_or_else(|| {
        let known = definition.state.iter().map(|cell| cell.name.text.as_str());
        let message = format!("the state has no {}", quote(name));
        let problem = Diagnostic::error(codes::FILE_STATE, message);
        Box::new(problem.did_you_mean(nearest(name, known)))
    })
}
