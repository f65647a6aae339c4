//! Steps of a run as data.

use quillon_core::debugging::Step;
use serde_json::{Value, json};

/// A step as data.
pub fn step(step: &Step) -> Value {
    let position = step.source.position(step.span.start);
    json!({
        "step": step.number,
        "depth": step.depth,
        "form": step.form,
        "text": step.source.slice(step.span),
        "place": {
            "file": step.source.name(),
            "line": position.line,
            "column": position.column,
            "start": step.span.start,
            "end": step.span.end,
        },
        "value": step.value,
        "changes": step.changes,
        "printed": step.printed,
    })
}
