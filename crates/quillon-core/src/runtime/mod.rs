//! What both engines share: operations on values, how a run fails, what it can do to the
//! outside, and what outlives it.

mod built_in;
mod callback;
mod contents;
mod failure;
mod host;
mod memory;
mod natives;
mod number;
mod sorting;
mod watching;

pub use crate::metering::{Interrupt, Limits};
pub(crate) use built_in::{BuiltInValues, MakesBuiltIns};
pub use callback::Caller;
pub(crate) use callback::{CallBack, Waiting, on_heap};
pub(crate) use contents::Contents;
pub(crate) use failure::{
    Culprit, Failure, OfCall, Passed, Problem, is_limit, not_caught, not_set, too_deep, wrong_count,
};
pub(crate) use host::Metered;
pub use host::{Amount, Host, HostError, NotRead, Recorder, Refused, TooLarge};
pub(crate) use memory::{Compile, Loaded, Memory, Module, World};
pub(crate) use natives::{
    Around, ByHost, CarriedOut, Native, carried_out, integer_operand, list_room, spread,
    takes_input,
};
pub(crate) use number::{Division, binary, integer_division, negate};
pub(crate) use sorting::Sorting;
pub(crate) use watching::Watcher;
