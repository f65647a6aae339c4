//! What a program has from outside while somebody walks through it.

use std::cell::RefCell;
use std::rc::Rc;
use std::sync::Arc;

use quillon_core::runtime::{Amount, Host, Interrupt, NotRead, Recorder, Refused, TooLarge};
use quillon_core::source::SourceText;

use super::drawing::Run;
use super::keys::Asked;
use super::window::Window;
use crate::host::Rehearsal;
use crate::reach::Reach;

/// The outside of a run.
pub struct Outside {
    window: Rc<RefCell<Window<Run>>>,
    /// The files and the programs that it may use.
    inside: Rehearsal,
    /// What has been typed or given for it to read.
    given: Recorder,
    /// Whether nothing more can be typed.
    is_all: bool,
}

impl Outside {
    pub fn new(
        reach: Reach,
        given: String,
        asks: bool,
        window: Rc<RefCell<Window<Run>>>,
    ) -> Outside {
        Outside {
            window,
            inside: Rehearsal::new(reach, ""),
            is_all: !asks,
            given: Recorder {
                input: given,
                ..Recorder::default()
            },
        }
    }

    /// Has lines typed until there is enough to be read.
    fn fill(&mut self, amount: Amount) {
        while !self.is_all && (amount == Amount::All || self.given.taken == self.given.input.len())
        {
            let typed = self.window.borrow_mut().ask(Asked::Input, String::new());
            match typed {
                Ok(Some(line)) => self.given.input += &(line + "\n"),
                Ok(None) | Err(_) => self.is_all = true,
            }
        }
    }
}

impl Host for Outside {
    fn output(&mut self, text: &str) {
        self.window.borrow_mut().screen.output.push(text);
    }

    fn input(&mut self, amount: Amount, most: usize) -> Result<Option<String>, TooLarge> {
        self.fill(amount);
        self.given.input(amount, most)
    }

    fn interrupt(&self) -> Option<Interrupt> {
        self.inside.interrupt()
    }

    fn read_file(&mut self, path: &str, most: usize) -> Result<String, NotRead> {
        self.inside.read_file(path, most)
    }

    fn write_file(&mut self, path: &str, text: &str) -> Result<(), Refused> {
        self.inside.write_file(path, text)
    }

    fn has_file(&mut self, path: &str) -> Result<bool, Refused> {
        self.inside.has_file(path)
    }

    fn arguments(&self) -> Vec<String> {
        self.inside.arguments()
    }

    fn program(
        &mut self,
        path: &str,
        from: &SourceText,
        most: usize,
    ) -> Result<Arc<SourceText>, NotRead> {
        self.inside.program(path, from, most)
    }
}
