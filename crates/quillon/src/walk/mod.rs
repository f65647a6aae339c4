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
mod texts;
mod values;
mod window;

use std::cell::RefCell;
use std::io::{self, IsTerminal};
use std::rc::Rc;
use std::sync::Arc;

use quillon_core::debugging::Guide;
use quillon_core::diagnostic::{Diagnostic, codes};
use quillon_core::runtime::Host;
use quillon_core::source::SourceText;

use crate::exit::Exit;
use crate::reach::Reach;
use crate::stop::Stop;
use guide::Led;
use outside::Outside;
use window::Window;

/// What is walked through.
pub struct Walked<'w> {
    pub language: &'w quillon_core::Language,
    pub source: &'w Arc<SourceText>,
    /// The lines of it that do something.
    pub lines: Vec<u32>,
    pub reach: Reach,
    /// What it reads first.
    pub given: String,
    /// Whether who walks is asked for what it reads then.
    pub asks: bool,
}

/// Walks through a run until whoever does has seen enough; `run` is told what leads it.
///
/// # Errors
/// That there is no terminal.
pub fn walk(
    walked: Walked<'_>,
    run: impl FnOnce(&mut dyn Host, &mut dyn Guide),
) -> Result<Exit, Stop> {
    if !io::stdin().is_terminal() || !io::stdout().is_terminal() {
        let problem = "a walk needs a terminal, for its keys and its screen";
        let problem = Diagnostic::error(codes::USAGE, problem);
        let problem = problem.remedy("`quillon trace` prints each step of a run instead");
        return Err(Stop::Usage(Box::new(problem)));
    }
    let window = Rc::new(RefCell::new(Window::open()?));
    let mut led = Led::new(&walked, Rc::clone(&window));
    let mut outside = Outside::new(walked.reach, walked.given, walked.asks, window);
    run(&mut outside, &mut led);
    Ok(Exit::Done)
}
