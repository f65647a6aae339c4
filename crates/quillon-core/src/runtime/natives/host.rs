//! What the program that runs this one gives.

use super::{Around, text};
use crate::diagnostic::codes;
use crate::runtime::number::Outcome;
use crate::values::{Heap, Held, Value};

pub(super) fn call(args: &[Value], around: &mut Around<'_, '_>) -> Outcome {
    Heap::with_shared(|heap| {
        let given: Vec<Held> = args[1..].iter().map(|arg| Held::of(heap, *arg)).collect();
        let result = around.host.call(&text(args, 0)?, &given);
        let result = result.map_err(|refused| refused.problem(0, codes::RUN_HOST))?;
        Ok(result.on(heap))
    })
}
