//! A lock-keeper's office with rules that can be changed without building it anew: they are
//! written in a small language, described in `rules.quillon`, and this program runs them.
//!
//! It shows all that embedding takes: load a definition ([`language`]), let programs call
//! functions of one's own and call back functions of theirs ([`Host::call`]), begin with a state of
//! one's own and limits ([`Office::new`]), run programs, and call their functions later
//! ([`Office::toll`]).

use std::collections::BTreeMap;
use std::error::Error;
use std::fmt;

use quillon_core::diagnostic::Diagnostics;
use quillon_core::runtime::{Amount, Caller, Host, HostError, Limits, TooLarge};
use quillon_core::values::Held;
use quillon_core::{Language, Session};

/// The language of the rules, as it is described.
pub const DEFINITION: &str = include_str!("rules.quillon");

/// What the office knows, and what a rule can reach of it.
#[derive(Debug, Default)]
pub struct Books {
    /// The load of each boat, in tons.
    pub tons: BTreeMap<String, i64>,
    /// What the rules have noted.
    pub notes: String,
}

/// The books have no such boat.
#[derive(Debug)]
pub struct NoSuchBoat(String);

impl fmt::Display for NoSuchBoat {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "no boat is called {}", self.0)
    }
}

impl Error for NoSuchBoat {}

impl Books {
    fn tons(&self, boat: &str) -> Result<i64, NoSuchBoat> {
        let tons = self.tons.get(boat).copied();
        tons.ok_or_else(|| NoSuchBoat(boat.to_owned()))
    }

    /// What all boats pay together by a rule, which is called back for each.
    fn fleet(&mut self, rule: &Held, caller: &mut Caller<'_>) -> Result<i64, HostError> {
        let rule = rule.as_function().ok_or("a fleet pays by a rule")?;
        let boats: Vec<String> = self.tons.keys().cloned().collect();
        let mut sum = 0;
        for boat in boats {
            let toll = caller.call(&rule, (boat,), self)?;
            sum += toll.as_integer().ok_or("a toll is an integer")?;
        }
        Ok(sum)
    }
}

impl Host for Books {
    fn output(&mut self, text: &str) {
        self.notes.push_str(text);
    }

    fn input(&mut self, _: Amount, _: usize) -> Result<Option<String>, TooLarge> {
        Ok(None)
    }

    fn call(
        &mut self,
        name: &str,
        values: &[Held],
        caller: &mut Caller<'_>,
    ) -> Result<Held, HostError> {
        match (name, values) {
            ("tons", [boat]) => Ok(self.tons(&boat.shown())?.into()),
            ("fleet", [rule]) => Ok(self.fleet(rule, caller)?.into()),
            _ => Err(format!("the office has no {name}").into()),
        }
    }
}

/// The language of the rules, ready to run any of them.
///
/// # Errors
/// What is wrong with the definition, if it has been changed and is wrong.
pub fn language() -> Result<Language, Diagnostics> {
    Language::from_text("rules.quillon", DEFINITION)
}

/// An office at work: its books, and the rules it has been given.
#[derive(Debug)]
pub struct Office {
    session: Session<Books>,
}

impl Office {
    /// An office that lets no rule run for longer than a hundred thousand steps, and in
    /// which so many notes have been made before.
    ///
    /// # Errors
    /// What goes wrong in the definition's own constants and state.
    pub fn new(language: &Language, books: Books, noted: i64) -> Result<Office, Diagnostics> {
        let limits = Limits {
            steps: Some(100_000),
            memory: Some(1 << 20),
            ..Limits::default()
        };
        let session = language.session().limits(limits).state("noted", noted)?;
        let session = session.start(books)?;
        Ok(Office { session })
    }

    /// Takes rules in; they stay until the office closes.
    ///
    /// # Errors
    /// Everything wrong with them, each with its place.
    pub fn take_in(&mut self, rules: &str) -> Result<(), Diagnostics> {
        self.session.enter("today.rules", rules).map(|_| ())
    }

    /// What a boat pays by a rule: the office calls the function that the rule has become.
    ///
    /// # Errors
    /// There is no such rule, or what went wrong in it.
    pub fn toll(&mut self, rule: &str, boat: &str) -> Result<i64, Box<dyn Error>> {
        let rule = self.session.function(rule)?;
        Ok(self.session.call(&rule, (boat,))?.to()?)
    }

    /// How many notes have been made.
    pub fn noted(&self) -> Option<i64> {
        self.session.cell("noted")?.as_integer()
    }

    /// The books, open to rules and office alike.
    pub fn books(&mut self) -> &mut Books {
        self.session.host_mut()
    }
}
