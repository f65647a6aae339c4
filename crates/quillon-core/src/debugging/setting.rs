//! Gives variables and cells other values.

use std::rc::Rc;

use super::asking::Asked;
use super::known::Known;
use super::names::named;
use crate::diagnostic::{Diagnostic, Diagnostics, codes, quote};
use crate::machine::View;
use crate::session::SessionBuilder;
use crate::values::Held;

/// Gives a variable of a call, or a cell of the state, what a text comes to there.
pub(super) fn set(
    view: &mut View<'_, '_>,
    builder: &SessionBuilder,
    known: &Known,
    (call, name): (usize, &str),
    text: &str,
) -> Result<Held, Diagnostics> {
    let asked = Asked::new(view, builder, known, call, text)?;
    let held = asked.answer(view)?.value;
    let heap = Rc::clone(&view.memory().heap);
    let value = held.on(&heap).map_err(Box::<Diagnostic>::from)?;
    let state = builder.language().definition().state_index(name);
    let is_set = match (named(view, known, call, name), state) {
        (Some(own), _) => own.put(view, value),
        (None, Some(at)) => {
            view.memory_mut().state[at] = value;
            true
        }
        (None, None) => false,
    };
    if is_set {
        return Ok(Held::of(&heap, value));
    }
    let message = format!("no variable {} can be changed here", quote(name));
    Err(Box::new(Diagnostic::error(codes::USAGE, message)).into())
}
