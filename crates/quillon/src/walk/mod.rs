//! Walks through a run in the terminal, forwards and backwards.
//!
//! `guide` leads the run as keys say, `keys` says what each is for, `shown` holds what is seen where the run
//! stands, `values` the values with their parts, `output` what has been printed, `drawing` puts it all on the
//! screen, `window` is the terminal, and `outside` what the program has from outside.

mod drawing;
mod guide;
mod keys;
mod output;
mod outside;
mod shown;
mod values;
mod window;

use std::cell::RefCell;
use std::io::{self, IsTerminal};
use std::rc::Rc;
use std::sync::Arc;

use quillon_core::diagnostic::{Diagnostic, codes};
use quillon_core::source::SourceText;
use quillon_core::{Reading, SessionBuilder, debugging};

use crate::exit::Exit;
use crate::reach::Reach;
use crate::stop::Stop;
use guide::Led;
use outside::Outside;
use window::Window;

/// A run that is to be walked through.
pub struct Walked<'w> {
    /// What runs it.
    pub builder: SessionBuilder,
    pub source: Arc<SourceText>,
    pub reading: Reading<'w>,
    pub reach: Reach,
    /// What it reads; without it, who walks is asked.
    pub input: Option<String>,
}

/// Walks through a run until whoever does has seen enough.
///
/// # Errors
/// That there is no terminal.
pub fn walk(walked: Walked<'_>) -> Result<Exit, Stop> {
    if !io::stdin().is_terminal() || !io::stdout().is_terminal() {
        let problem = Diagnostic::error(
            codes::USAGE,
            "a walk needs a terminal, for its keys and its screen",
        );
        let problem = problem.remedy("`quillon trace` prints each step of a run instead");
        return Err(Stop::Usage(Box::new(problem)));
    }
    let window = Rc::new(RefCell::new(Window::open()?));
    let mut outside = Outside::new(walked.reach, walked.input, Rc::clone(&window));
    let mut led = Led::new(&walked.builder, &walked.source, walked.reading, window);
    debugging::walk(
        &walked.builder,
        &walked.source,
        walked.reading,
        &mut outside,
        &mut led,
    );
    Ok(Exit::Done)
}
