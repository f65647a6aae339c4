//! Why a command cannot go on.

use quillon_core::diagnostic::Diagnostic;

/// Why an input cannot be used.
pub type Unreadable = Box<Diagnostic>;

/// Why a command cannot go on.
#[derive(Debug)]
pub enum Stop {
    /// An input that cannot be read.
    Unreadable(Unreadable),
    /// A definition with errors.
    Definition(Vec<Diagnostic>),
    /// Output that cannot be written.
    Output(std::io::Error),
    /// Something asked for that cannot be done, with what to do instead.
    Usage(Box<Diagnostic>),
}

impl From<std::io::Error> for Stop {
    fn from(error: std::io::Error) -> Stop {
        Stop::Output(error)
    }
}

impl From<Unreadable> for Stop {
    fn from(problem: Unreadable) -> Stop {
        Stop::Unreadable(problem)
    }
}
