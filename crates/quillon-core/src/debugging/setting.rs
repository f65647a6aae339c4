//! Gives variables and cells other values.

use std::rc::Rc;

use super::known::Known;
use super::seen::{captured, evaluate};
use crate::diagnostic::{Diagnostic, Diagnostics, codes, quote};
use crate::machine::View;
use crate::session::SessionBuilder;
use crate::values::{Held, Value};

/// Gives a variable of the innermost call, or a cell of the state, what a text comes to.
pub(super) fn set(
    view: &mut View<'_, '_>,
    builder: &SessionBuilder,
    known: &Known,
    name: &str,
    text: &str,
) -> Result<Held, Diagnostics> {
    let held = evaluate(view, builder, known, 0, text)?;
    let heap = Rc::clone(&view.memory().heap);
    let value = held.on(&heap).map_err(Box::<Diagnostic>::from)?;
    let inner = view.innermost();
    let own = known.register(&inner, name);
    let own = own.map(|register| (register, inner.register(register)));
    let around = captured(&inner, name);
    let definition = builder.language().definition();
    match (own, around, definition.state_index(name)) {
        (Some((_, Value::Variable(shared))), ..) | (None, Some(Value::Variable(shared)), _) => {
            shared.set(value);
        }
        (Some((register, _)), ..) => view.set(register, value),
        (None, None, _) if known.kept.contains_key(name) => {
            let slot = known.kept[name];
            match view.memory().session.get(slot) {
                Some(Value::Variable(shared)) => shared.set(value),
                _ => view.memory_mut().session[slot] = value,
            }
        }
        (None, None, Some(cell)) => view.memory_mut().state[cell] = value,
        (None, ..) => {
            let message = format!("no variable {} can be changed here", quote(name));
            return Err(Box::new(Diagnostic::error(codes::USAGE, message)).into());
        }
    }
    Ok(Held::of(&heap, value))
}
