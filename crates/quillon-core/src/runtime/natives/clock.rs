//! The clock.

use std::time::{SystemTime, UNIX_EPOCH};

use super::Around;
use crate::runtime::number::Outcome;
use crate::values::{Heap, Value};

pub(super) fn now(_: &[Value], _: &mut Around<'_, '_>) -> Outcome {
    let now = SystemTime::now().duration_since(UNIX_EPOCH);
    Ok(Value::Number(now.map_or(0.0, |since| since.as_secs_f64())))
}

pub(super) fn running(_: &[Value], _: &mut Around<'_, '_>) -> Outcome {
    let running = Heap::with(|heap| heap.meter.running());
    Ok(Value::Number(running.as_secs_f64()))
}
