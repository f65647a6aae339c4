//! Walks through a run in the terminal, or through a reduction, forwards and backwards.
//!
//! `guide` leads the run as keys say, `keys` says what each is for, `shown` holds what is seen where the run
//! stands, `values` the values with their parts, `output` what has been printed, `drawing` puts it all on the
//! screen, `window` is the terminal, `outside` what the program has from outside, and `reduced` walks
//! through a reduction.

mod drawing;
mod guide;
mod keys;
mod output;
mod outside;
mod reduced;
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
use quillon_core::reduction::Reduction;
use quillon_core::runtime::Host;
use quillon_core::source::SourceText;

use crate::exit::Exit;
use crate::reach::Reach;
use crate::stop::Stop;
use drawing::Run;
use guide::Led;
use outside::Outside;
use reduced::Reduced;
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
    check_terminal("`quillon trace` prints each step of a run instead")?;
    let window = Rc::new(RefCell::new(Window::open(Run::default())?));
    let mut led = Led::new(&walked, Rc::clone(&window));
    let mut outside = Outside::new(walked.reach, walked.given, walked.asks, window);
    run(&mut outside, &mut led);
    Ok(Exit::Done)
}

/// Walks through a reduction until whoever does has seen enough.
///
/// # Errors
/// That there is no terminal.
pub fn walk_reduction(
    language: &quillon_core::Language,
    name: &str,
    found: Reduction,
) -> Result<Exit, Stop> {
    check_terminal("`quillon steps` prints each step of a reduction instead")?;
    let mut window = Window::open(Reduced::new(language.definition(), name, found))?;
    reduced::walk(&mut window)?;
    Ok(Exit::Done)
}

/// That there is a terminal; `instead` says what does without.
fn check_terminal(instead: &str) -> Result<(), Stop> {
    if io::stdin().is_terminal() && io::stdout().is_terminal() {
        return Ok(());
    }
    let problem = "a walk needs a terminal, for its keys and its screen";
    let problem = Diagnostic::error(codes::USAGE, problem).remedy(instead);
    Err(Stop::Usage(Box::new(problem)))
}
