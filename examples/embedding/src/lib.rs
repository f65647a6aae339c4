//! A lock-keeper's office with rules that can be changed without building it anew: they are
//! written in a small language, described in `rules.quillon`, and this program runs them.
//!
//! It shows all that embedding takes: load a definition ([`Office::new`]), let programs call
//! functions of one's own ([`Host::call`]) and find state of one's own
//! ([`Session::set_state`]), run a program within limits, and call back into it later
//! ([`Session::call`]).

use std::collections::BTreeMap;

use quillon_core::diagnostic::{Diagnostic, Diagnostics};
use quillon_core::runtime::{Amount, Host, Limits, Refused, TooLarge};
use quillon_core::source::SourceText;
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

impl Host for Books {
    fn output(&mut self, text: &str) {
        self.notes.push_str(text);
    }

    fn input(&mut self, _: Amount, _: usize) -> Result<Option<String>, TooLarge> {
        Ok(None)
    }

    fn call(&mut self, name: &str, args: &[Held]) -> Result<Held, Refused> {
        let first = args.first().and_then(Held::as_text);
        match (name, first) {
            ("tons", Some(boat)) => match self.tons.get(&boat) {
                Some(tons) => Ok(Held::from(*tons)),
                None => Err(Refused::new(
                    format!("no boat is called {boat}"),
                    "the books have no entry of it",
                )),
            },
            _ => Err(Refused::new(
                format!("the office has no {name}"),
                "it knows only `tons` of a boat",
            )),
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
    session: Session,
    /// The books, open to rules and office alike.
    pub books: Books,
}

impl Office {
    /// An office that lets no rule run for longer than a hundred thousand steps, and in
    /// which so many notes have been made before.
    ///
    /// # Errors
    /// What goes wrong in the definition's own constants and state.
    pub fn new(
        language: &Language,
        mut books: Books,
        noted: i64,
    ) -> Result<Office, Box<Diagnostic>> {
        let limits = Limits {
            steps: Some(100_000),
            memory: Some(1 << 20),
            ..Limits::default()
        };
        let mut session = Session::new(language, limits, &mut books)?;
        session.set_state("noted", &Held::from(noted));
        Ok(Office { session, books })
    }

    /// Takes rules in; they stay until the office closes.
    ///
    /// # Errors
    /// Everything wrong with them, each with its place.
    pub fn take_in(&mut self, rules: &str) -> Result<(), Diagnostics> {
        let source = SourceText::new("today.rules", rules);
        let outcome = self.session.enter(&source, &mut self.books);
        outcome.into_result().map(|_| ())
    }

    /// What a boat pays by a rule: the office calls the function that the rule has become.
    ///
    /// # Errors
    /// What went wrong in the rule; nothing in the list if there is no such rule.
    pub fn toll(&mut self, rule: &str, boat: &str) -> Result<Held, Diagnostics> {
        let function = self.rule(rule).ok_or_else(Diagnostics::default)?;
        let args = [Held::from(boat)];
        self.session
            .call(&function, &args, &mut self.books)
            .into_result()
    }

    fn rule(&self, wanted: &str) -> Option<Held> {
        let names = self.session.names();
        let (_, value) = names.into_iter().find(|(name, _)| *name == wanted)?;
        value
    }

    /// How many notes have been made.
    pub fn noted(&self) -> Option<i64> {
        let mut cells = self.session.state();
        let (_, value) = cells.find(|(name, _)| *name == "noted")?;
        value.as_integer()
    }
}
