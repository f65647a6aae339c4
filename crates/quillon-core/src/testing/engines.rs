//! What running a case came to, and whether both engines came to the same.

use std::sync::Arc;

use super::{CaseResult, Difference, case_limits, give};
use crate::definition::Example;
use crate::diagnostic::Diagnostic;
use crate::language::{Language, Reading};
use crate::runtime::{Recorder, is_limit};
use crate::session::{Engine, Session};
use crate::source::SourceText;
use crate::values::Held;

/// What running a program came to.
pub(super) struct Ran {
    pub value: Option<Held>,
    /// The error it ended in, if any.
    pub error: Option<Diagnostic>,
    pub printed: String,
    /// What the cells of the state held at the end.
    pub left: Vec<(String, Held)>,
    /// What is wrong with the case itself.
    pub problems: Vec<Diagnostic>,
}

/// Runs the program of a case by an engine.
pub(super) fn run_by(
    engine: Engine,
    language: &Language,
    program: &Arc<SourceText>,
    case: &Example,
    source: &Arc<SourceText>,
) -> Ran {
    let mut host = Recorder::default();
    let mut problems = Vec::new();
    let mut left = Vec::new();
    let (value, diagnostics) = match Session::by(engine, language, case_limits(), &mut host) {
        Ok(mut session) => {
            // A case ends the same way each time, also where chance plays a part.
            session.seed(0);
            give(&mut session, case, &mut host, source, &mut problems);
            let outcome = session.run_as(program, Reading::Entry, &mut host);
            let cells = session.state();
            left.extend(cells.map(|(name, value)| (name.to_owned(), value)));
            (outcome.value, outcome.diagnostics)
        }
        Err(diagnostic) => (None, vec![*diagnostic]),
    };
    Ran {
        value,
        error: diagnostics.into_iter().find(Diagnostic::is_error),
        printed: host.printed,
        left,
        problems,
    }
}

impl Ran {
    /// All that engines must agree on, as texts with what they are.
    fn traits(&self) -> [(&'static str, String); 4] {
        let error = self.error.as_ref().map(|error| {
            let place = error.place.as_ref();
            let at = place.map(|p| p.source.position(p.span.start).to_string());
            format!(
                "{}: {:?} at {}",
                error.code.0,
                error.message,
                at.unwrap_or_default()
            )
        });
        let left = self.left.iter();
        let left: Vec<String> = left
            .map(|(n, v)| format!("{n} = {}", v.written()))
            .collect();
        [
            (
                "value",
                self.value.as_ref().map_or_else(String::new, Held::written),
            ),
            ("error", error.unwrap_or_default()),
            ("output", crate::diagnostic::quoted(&self.printed)),
            ("state", left.join(", ")),
        ]
    }

    /// Whether a limit ended it, which each engine counts in its own way.
    fn is_cut_short(&self) -> bool {
        let error = self.error.as_ref();
        error.is_some_and(|error| is_limit(error.code))
    }
}

/// Checks that the walking engine comes to the same.
pub(super) fn check_engines(
    ran: &Ran,
    language: &Language,
    program: &Arc<SourceText>,
    case: &Example,
    result: &mut CaseResult,
) {
    let by = |engine| run_by(engine, language, program, case, &result.source);
    let walked = by(Engine::Walk);
    if ran.is_cut_short() || walked.is_cut_short() {
        return;
    }
    let pairs = ran.traits().into_iter().zip(walked.traits());
    let differing = pairs.filter(|(machine, walk)| machine != walk);
    let differing: Vec<_> = differing.collect();
    // A program that looks at the clock never comes to the same.
    if differing.is_empty() || by(Engine::Machine).traits() != ran.traits() {
        return;
    }
    for ((what, machine), (_, walk)) in differing {
        result.differences.push(Difference {
            what: "engines",
            expected: format!("{what} {walk}, as walked"),
            got: format!("{what} {machine}, by the machine"),
            span: result.span,
        });
    }
}
