//! What is tried: each target in a file of its own.

mod cases;
mod definition;
pub mod engines;
mod instructions;
mod orders;
mod print_back;
mod program;
mod saved;
mod walks;

use std::rc::Rc;
use std::time::Duration;

use quillon_core::bytecode::Function;
use quillon_core::runtime::{Limits, Recorder};
use quillon_core::{Engine, Prepared};

use crate::Target;

/// All targets.
pub static ALL: [&dyn Target; 10] = [
    &definition::Definition,
    &program::Program,
    &cases::Cases,
    &saved::Raw,
    &saved::RightSum,
    &instructions::Instructions,
    &orders::Orders,
    &engines::Engines,
    &walks::Walks,
    &print_back::PrintBack,
];

/// The target of a name.
pub fn named(name: &str) -> Option<&'static dyn Target> {
    ALL.into_iter().find(|target| target.name() == name)
}

/// Limits within which nothing takes long.
fn limits() -> Limits {
    Limits {
        steps: Some(20_000),
        depth: 500,
        time: Some(Duration::from_secs(1)),
        output: Some(1 << 20),
        memory: Some(64 << 20),
    }
}

/// Runs code that was found to be good by the machine: to an end, with collections now and then
/// as well.
fn runs(prepared: &Prepared, code: &Rc<Function>) -> Result<(), String> {
    for collect in [0, 50] {
        let mut host = Recorder::default();
        let session = prepared
            .session()
            .engine(Engine::Machine)
            .limits(limits())
            .start(&mut host);
        let Ok(mut session) = session else {
            return Ok(());
        };
        session.collect_always(collect);
        let outcome = session.run_code(code);
        said(&outcome.diagnostics)?;
        outcome.value.map(|value| value.written());
    }
    Ok(())
}

/// Whether every error has words and a code.
fn said(diagnostics: &[quillon_core::diagnostic::Diagnostic]) -> Result<(), String> {
    let wordless = diagnostics.iter().find(|d| d.message.is_empty());
    wordless.map_or(Ok(()), |d| {
        Err(format!("an error without words: {}", d.code.0))
    })
}
