//! What a run has from outside, and what goes out: recorded the first time, and the same again when the run is
//! run again.

use std::cell::Cell;
use std::rc::Rc;
use std::sync::Arc;

use crate::definition::Literal;
use crate::metering::Interrupt;
use crate::runtime::{Amount, Caller, Host, HostError, NotRead, Refused, TooLarge};
use crate::source::SourceText;
use crate::values::Held;

/// What has come from outside, in its order.
#[derive(Debug)]
enum Came {
    Input(Result<Option<String>, TooLarge>),
    Read(Result<String, NotRead>),
    Wrote(Result<(), Refused>),
    Has(Result<bool, Refused>),
    Left(()),
    Called(Result<Literal, String>),
    Program(Result<Arc<SourceText>, NotRead>),
}

/// How far a run is with the outside.
#[derive(Clone, Copy, Default, Debug)]
pub(super) struct Place {
    /// How much it has had of what is recorded.
    had: usize,
    /// How many bytes have gone out in it.
    shown: usize,
}

/// How far the run under way is with the outside.
#[derive(Clone, Default, Debug)]
pub(super) struct Outside(Rc<Cell<Place>>);

impl Outside {
    /// How far it is.
    pub fn place(&self) -> Place {
        self.0.get()
    }

    /// From there again.
    pub fn go_back(&self, to: Place) {
        self.0.set(to);
    }

    /// How many bytes have gone out in this run.
    pub fn shown(&self) -> usize {
        self.0.get().shown
    }

    fn show(&self, shown: usize) {
        self.0.set(Place {
            shown,
            ..self.0.get()
        });
    }

    fn have(&self, had: usize) {
        self.0.set(Place {
            had,
            ..self.0.get()
        });
    }
}

/// What has been recorded of a run.
#[derive(Debug, Default)]
pub(super) struct Record {
    came: Vec<Came>,
    /// The bytes that have gone out in all.
    printed: usize,
    outside: Outside,
    /// Whether the run goes on otherwise than before from here on.
    diverges: Rc<Cell<bool>>,
}

impl Record {
    /// Nothing yet, of a run that can be changed.
    pub fn of(diverges: Rc<Cell<bool>>) -> Record {
        Record {
            diverges,
            ..Record::default()
        }
    }

    /// From the beginning again.
    pub fn rewind(&mut self) {
        self.settle();
        self.outside.go_back(Place::default());
    }

    /// Has everything that goes out go out again.
    pub fn forget_printed(&mut self) {
        self.printed = 0;
    }

    /// Where the run goes on otherwise than before, what came and went out after that is forgotten.
    fn settle(&mut self) {
        if self.diverges.take() {
            let Place { had, shown } = self.outside.place();
            self.came.truncate(had);
            self.printed = self.printed.min(shown);
        }
    }

    /// How far the run under way is with the outside, as long as it goes on.
    pub fn outside(&self) -> Outside {
        self.outside.clone()
    }

    /// A host with what is recorded before it.
    pub fn host<'r>(&'r mut self, host: &'r mut dyn Host) -> Recorded<'r> {
        Recorded { record: self, host }
    }

    /// What comes next if it has come before.
    fn next(&mut self) -> Option<&Came> {
        self.settle();
        let had = self.outside.place().had;
        let came = self.came.get(had);
        self.outside.have(had + usize::from(came.is_some()));
        came
    }

    fn keep(&mut self, came: Came) {
        self.came.push(came);
        self.outside.have(self.came.len());
    }
}

/// A host of which everything is recorded.
pub(super) struct Recorded<'r> {
    record: &'r mut Record,
    host: &'r mut dyn Host,
}

/// Gives what has been recorded, or what comes now and records that.
macro_rules! once {
    ($own:expr, $kind:ident, $now:expr) => {{
        if let Some(Came::$kind(known)) = $own.record.next() {
            return known.clone();
        }
        let came = $now;
        $own.record.keep(Came::$kind(came.clone()));
        came
    }};
}

impl Host for Recorded<'_> {
    fn output(&mut self, text: &str) {
        self.record.settle();
        let before = self.record.outside.shown();
        let known = self.record.printed.saturating_sub(before);
        let shown = before + text.len();
        self.record.outside.show(shown);
        // What is said on the way to where the run has been is said already.
        if let Some(new) = text
            .get(known.min(text.len())..)
            .filter(|new| !new.is_empty())
        {
            self.host.output(new);
        }
        self.record.printed = self.record.printed.max(shown);
    }

    fn keeps_output(&self) -> bool {
        self.host.keeps_output()
    }

    fn input(&mut self, amount: Amount, most: usize) -> Result<Option<String>, TooLarge> {
        once!(self, Input, self.host.input(amount, most))
    }

    fn interrupt(&self) -> Option<Interrupt> {
        self.host.interrupt()
    }

    fn read_file(&mut self, path: &str, most: usize) -> Result<String, NotRead> {
        once!(self, Read, self.host.read_file(path, most))
    }

    fn write_file(&mut self, path: &str, text: &str) -> Result<(), Refused> {
        once!(self, Wrote, self.host.write_file(path, text))
    }

    fn has_file(&mut self, path: &str) -> Result<bool, Refused> {
        once!(self, Has, self.host.has_file(path))
    }

    fn arguments(&self) -> Vec<String> {
        self.host.arguments()
    }

    fn leave(&mut self, status: u8) {
        once!(self, Left, self.host.leave(status));
    }

    fn call(
        &mut self,
        name: &str,
        values: &[Held],
        caller: &mut Caller<'_>,
    ) -> Result<Held, HostError> {
        if let Some(Came::Called(known)) = self.record.next() {
            return known.clone().map(Held::new).map_err(HostError::from);
        }
        let came = self.host.call(name, values, caller);
        let kept = match &came {
            Ok(value) => value
                .literal()
                .ok_or_else(|| "what the host gave cannot be given again".to_owned()),
            Err(error) => Err(error.to_string()),
        };
        self.record.keep(Came::Called(kept));
        came
    }

    fn program(
        &mut self,
        path: &str,
        from: &SourceText,
        most: usize,
    ) -> Result<Arc<SourceText>, NotRead> {
        once!(self, Program, self.host.program(path, from, most))
    }
}
