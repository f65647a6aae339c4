//! Programs that try to break Quillon. Each target makes inputs from random numbers, and says
//! of any input whether it is met as it should be: with a result or with an error that has a place,
//! within its limits. A panic, an abort or a hang is a finding.

pub mod author;
pub mod corpus;
pub mod mutate;
pub mod targets;

use std::panic::AssertUnwindSafe;

use fastrand::Rng;

/// What is tried.
pub trait Target: Sync {
    /// What it is called on the command line, and in the folder of findings.
    fn name(&self) -> &'static str;

    /// An input.
    fn make(&self, random: &mut Rng) -> Vec<u8>;

    /// Meets an input; what is wrong with how that went, if anything is.
    ///
    /// # Errors
    /// Something came of it that must not.
    fn meet(&self, input: &[u8]) -> Result<(), String>;
}

/// Meets an input; a panic is wrong, too.
///
/// # Errors
/// What is wrong.
pub fn meet(target: &dyn Target, input: &[u8]) -> Result<(), String> {
    let met = std::panic::catch_unwind(AssertUnwindSafe(|| target.meet(input)));
    met.unwrap_or_else(|panic| {
        let said = panic.downcast_ref::<String>().map(String::as_str);
        let said = said.or_else(|| panic.downcast_ref::<&str>().copied());
        Err(format!("a panic: {}", said.unwrap_or("without words")))
    })
}
