//! What a run can do to the outside.

use std::cell::Cell;
use std::error::Error;
use std::fmt;
use std::rc::Rc;
use std::sync::Arc;

use super::callback::Caller;
use super::failure::{Culprit, Problem};
use crate::diagnostic::{Code, codes, quote};
use crate::metering::{Interrupt, Limits, Stopped};
use crate::source::SourceText;
use crate::values::{Heap, Held, ask, spend};

/// How much input is asked for.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Amount {
    /// A line, without its line end.
    Line,
    /// A character; a line end is one.
    Character,
    /// All that is left.
    All,
}

/// Why a host does not do what a run asks for.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Refused {
    /// What cannot be done.
    pub message: String,
    /// Why not.
    pub why: Option<String>,
}

/// Why a function of the host fails: any error, or a text.
pub type HostError = Box<dyn Error + Send + Sync>;

impl fmt::Display for Refused {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.message)
    }
}

impl Error for Refused {}

impl Refused {
    /// A refusal with its cause.
    pub fn new(message: impl Into<String>, why: impl Into<String>) -> Refused {
        Refused {
            message: message.into(),
            why: Some(why.into()),
        }
    }

    /// As a problem with an operand.
    pub(crate) fn problem(self, operand: usize, code: Code) -> Box<Problem> {
        let problem = Problem::new(Culprit::Operand(operand), code, self.message);
        match self.why {
            Some(why) => problem.why(why),
            None => problem,
        }
    }

    fn no_files(path: &str) -> Refused {
        Refused::new(
            format!("the file {path} is out of reach"),
            "this run may not use files",
        )
    }
}

/// What is to be read has more bytes than there is room for.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct TooLarge;

/// Why something is not read for a run.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum NotRead {
    /// It may not be read, or cannot.
    Refused(Refused),
    /// There is no room for it.
    TooLarge,
}

impl From<Refused> for NotRead {
    fn from(refused: Refused) -> NotRead {
        NotRead::Refused(refused)
    }
}

impl From<TooLarge> for NotRead {
    fn from(_: TooLarge) -> NotRead {
        NotRead::TooLarge
    }
}

impl NotRead {
    /// As a problem with an operand.
    pub(crate) fn problem(self, operand: usize, code: Code) -> Box<Problem> {
        match self {
            NotRead::Refused(refused) => refused.problem(operand, code),
            NotRead::TooLarge => Stopped::Memory.into(),
        }
    }
}

/// What a run can do to the outside. Everything but output and input is refused unless a
/// host allows it.
pub trait Host {
    /// Prints text, without a line end of its own.
    fn output(&mut self, text: &str);

    /// Whether what is printed is kept in memory: it counts against the run's memory then.
    fn keeps_output(&self) -> bool {
        false
    }

    /// The next of the input, which is nothing at the end.
    ///
    /// # Errors
    /// It has more than `most` bytes.
    fn input(&mut self, amount: Amount, most: usize) -> Result<Option<String>, TooLarge>;

    /// What can end the run from outside, asked for when it begins.
    fn interrupt(&self) -> Option<Interrupt> {
        None
    }

    /// What is in a file of at most so many bytes.
    fn read_file(&mut self, path: &str, most: usize) -> Result<String, NotRead> {
        let _ = most;
        Err(Refused::no_files(path).into())
    }

    /// Makes a text what is in a file.
    fn write_file(&mut self, path: &str, text: &str) -> Result<(), Refused> {
        let _ = text;
        Err(Refused::no_files(path))
    }

    /// Whether there is a file.
    fn has_file(&mut self, path: &str) -> Result<bool, Refused> {
        Err(Refused::no_files(path))
    }

    /// What the program has been given to work on.
    fn arguments(&self) -> Vec<String> {
        Vec::new()
    }

    /// The program leaves, with an exit status: the run ends.
    fn leave(&mut self, status: u8) {
        let _ = status;
    }

    /// What `host.call` of a name gives: the functions of the program that runs this one. Functions
    /// among the values can be called back with the caller.
    ///
    /// # Errors
    /// Any error: its text becomes the message of the run's error, and it is kept as the source of
    /// that. A [`Refused`] says why, too.
    fn call(
        &mut self,
        name: &str,
        values: &[Held],
        caller: &mut Caller<'_>,
    ) -> Result<Held, HostError> {
        let _ = (values, caller);
        Err(Refused::new(
            format!("nothing here is called {}", quote(name)),
            "the program around this run offers no such function",
        )
        .into())
    }

    /// The text of another program of at most so many bytes, by its path from the one that
    /// asks; its name tells programs apart.
    fn program(
        &mut self,
        path: &str,
        from: &SourceText,
        most: usize,
    ) -> Result<Arc<SourceText>, NotRead> {
        let _ = (from, most);
        let refused = Refused::new(
            format!("the program {path} is out of reach"),
            "this run has no other programs",
        );
        Err(refused.into())
    }
}

/// A host that somebody else has.
impl<H: Host + ?Sized> Host for &mut H {
    fn output(&mut self, text: &str) {
        (**self).output(text);
    }

    fn keeps_output(&self) -> bool {
        (**self).keeps_output()
    }

    fn input(&mut self, amount: Amount, most: usize) -> Result<Option<String>, TooLarge> {
        (**self).input(amount, most)
    }

    fn interrupt(&self) -> Option<Interrupt> {
        (**self).interrupt()
    }

    fn read_file(&mut self, path: &str, most: usize) -> Result<String, NotRead> {
        (**self).read_file(path, most)
    }

    fn write_file(&mut self, path: &str, text: &str) -> Result<(), Refused> {
        (**self).write_file(path, text)
    }

    fn has_file(&mut self, path: &str) -> Result<bool, Refused> {
        (**self).has_file(path)
    }

    fn arguments(&self) -> Vec<String> {
        (**self).arguments()
    }

    fn leave(&mut self, status: u8) {
        (**self).leave(status);
    }

    fn call(
        &mut self,
        name: &str,
        values: &[Held],
        caller: &mut Caller<'_>,
    ) -> Result<Held, HostError> {
        (**self).call(name, values, caller)
    }

    fn program(
        &mut self,
        path: &str,
        from: &SourceText,
        most: usize,
    ) -> Result<Arc<SourceText>, NotRead> {
        (**self).program(path, from, most)
    }
}

/// A host with a limit on what is printed.
pub(crate) struct Metered<'a> {
    pub host: &'a mut dyn Host,
    /// The limit.
    limit: u64,
    /// What is left of it: the same for all that is called back inside of the run.
    pub left: Rc<Cell<u64>>,
    keeps_output: bool,
}

impl<'a> Metered<'a> {
    /// With what is left, if a part of it has been printed before.
    pub fn new(host: &'a mut dyn Host, limits: Limits, left: Option<Rc<Cell<u64>>>) -> Metered<'a> {
        let limit = limits.output.unwrap_or(u64::MAX);
        let keeps_output = host.keeps_output();
        Metered {
            host,
            limit,
            left: left.unwrap_or_else(|| Rc::new(Cell::new(limit))),
            keeps_output,
        }
    }

    /// Prints a text, or as much of it as may still be printed.
    pub fn output(&mut self, text: &str) -> Result<(), Box<Problem>> {
        spend(2 * text.len())?;
        let left = self.left.get();
        let mut room = usize::try_from(left).unwrap_or(usize::MAX);
        if text.len() <= room {
            if self.keeps_output {
                ask(text.len())?;
                Heap::with(|heap| heap.meter.keep(text.len()));
            }
            self.left.set(left - text.len() as u64);
            self.host.output(text);
            return Ok(());
        }
        self.left.set(0);
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
}

impl<'a> std::ops::Deref for Metered<'a> {
    type Target = dyn Host + 'a;

    fn deref(&self) -> &(dyn Host + 'a) {
        self.host
    }
}

impl<'a> std::ops::DerefMut for Metered<'a> {
    fn deref_mut(&mut self) -> &mut (dyn Host + 'a) {
        self.host
    }
}

/// A host that keeps what is printed and has prepared input.
#[derive(Clone, Debug, Default)]
pub struct Recorder {
    /// Everything printed so far.
    pub printed: String,
    /// The input.
    pub input: String,
    /// How many bytes of it have been read.
    pub taken: usize,
}

impl Host for Recorder {
    fn output(&mut self, text: &str) {
        self.printed.push_str(text);
    }

    fn keeps_output(&self) -> bool {
        true
    }

    fn input(&mut self, amount: Amount, most: usize) -> Result<Option<String>, TooLarge> {
        let left = &self.input[self.taken..];
        let Some(first) = left.chars().next() else {
            return Ok(None);
        };
        let end = match amount {
            Amount::Line => left.find('\n').map_or(left.len(), |at| at + 1),
            Amount::Character => first.len_utf8(),
            Amount::All => left.len(),
        };
        if end > most {
            return Err(TooLarge);
        }
        let mut taken = left[..end].to_owned();
        self.taken += end;
        if amount == Amount::Line {
            taken.truncate(taken.trim_end_matches(['\n', '\r']).len());
        }
        Ok(Some(taken))
    }
}
