//! Walks Core: the reference for what a program means.

use std::rc::Rc;
use std::time::Duration;

use crate::definition::Definition;
use crate::diagnostic::codes;
use crate::meaning::FunctionCore;

mod calls;
mod failure;
mod natives;
mod number;
mod show;
mod snapshot;
mod value;
mod walk;

pub use failure::{Culprit, Failure, Problem, described};
pub use show::{shown, written};
pub(crate) use snapshot::Copier;
pub use value::{Cell, Closure, Key, List, Map, Value, equal, same};

/// What a run can do to the outside.
pub trait Host {
    /// Prints text, without a line end of its own.
    fn output(&mut self, text: &str);

    /// The next line of input, without its line end; nothing at the end.
    fn input(&mut self) -> Option<String>;
}

/// A host with a limit on what is printed.
pub(crate) struct Metered<'a> {
    host: &'a mut dyn Host,
    /// The limit, and what is left of it.
    limit: u64,
    left: u64,
}

impl<'a> Metered<'a> {
    pub fn new(host: &'a mut dyn Host, limits: Limits) -> Metered<'a> {
        let limit = limits.output.unwrap_or(u64::MAX);
        Metered {
            host,
            limit,
            left: limit,
        }
    }

    /// Prints a text, or as much of it as may still be printed.
    pub fn output(&mut self, text: &str) -> Result<(), Box<Problem>> {
        let mut room = usize::try_from(self.left).unwrap_or(usize::MAX);
        if text.len() <= room {
            self.left -= text.len() as u64;
            self.host.output(text);
            return Ok(());
        }
        self.left = 0;
        while !text.is_char_boundary(room) {
            room -= 1;
        }
        self.host.output(&text[..room]);
        Err(Problem::new(
            Culprit::Whole,
            codes::RUN_OUTPUT,
            format!("the run was stopped after {} bytes of output", self.limit),
        )
        .why("it may never stop printing; if it does, it needs a higher limit"))
    }

    /// The next line of input.
    pub fn input(&mut self) -> Option<String> {
        self.host.input()
    }
}

/// A host that keeps what is printed and has prepared lines to read.
#[derive(Clone, Debug, Default)]
pub struct Recorder {
    /// Everything printed so far.
    pub printed: String,
    /// Lines still to be read, the next one first.
    pub lines: std::collections::VecDeque<String>,
}

impl Host for Recorder {
    fn output(&mut self, text: &str) {
        self.printed.push_str(text);
    }

    fn input(&mut self) -> Option<String> {
        self.lines.pop_front()
    }
}

/// How far a run may go.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Limits {
    /// The most steps (nodes of Core walked); no limit when missing.
    pub steps: Option<u64>,
    /// The most calls one inside the other. The native stack may allow fewer: then a
    /// run ends with the same error.
    pub depth: u32,
    /// How long it may take; no limit when missing.
    pub time: Option<Duration>,
    /// The most bytes it may print; no limit when missing.
    pub output: Option<u64>,
}

impl Default for Limits {
    fn default() -> Limits {
        Limits {
            steps: None,
            depth: 1_000_000,
            time: None,
            output: None,
        }
    }
}

/// What outlives a run: the session's variables, and the values that are ready-made.
#[derive(Debug, Default)]
pub struct Memory {
    /// The variables of the session; empty until first set.
    pub session: Vec<Option<Value>>,
    /// The ready-made functions and constants, in the definition's order.
    pub ready_made: Vec<Value>,
    /// The cells of the state, in the definition's order.
    pub state: Vec<Value>,
    /// The definition, if it words errors: for those that a program catches.
    pub wording: Option<Rc<Definition>>,
}

/// Runs a program's Core: gives its value, or how it went wrong.
pub fn run(
    program: &Rc<FunctionCore>,
    memory: &mut Memory,
    limits: Limits,
    host: &mut dyn Host,
) -> Result<Value, Box<Failure>> {
    walk::Walker::new(memory, limits, host).program(program)
}
