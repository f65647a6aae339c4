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

impl Stop {
    /// What keeps the command from going on, as one sentence.
    pub fn in_words(&self) -> String {
        let first = match self {
            Stop::Unreadable(problem) | Stop::Usage(problem) => Some(&**problem),
            Stop::Definition(diagnostics) => diagnostics.first(),
            Stop::Output(error) => return error.to_string(),
        };
        match first {
            Some(problem) => match &problem.place {
                Some(place) => {
                    let line = place.source.line_of(place.span.start);
                    let name = place.source.name();
                    format!("{name}, line {line}: {}", problem.message)
                }
                None => problem.message.clone(),
            },
            None => "the definition has errors".to_owned(),
        }
    }
}
