//! What both engines share: operations on values, how a run fails, what it can do to the
//! outside, and what outlives it.

mod failure;
mod host;
mod limits;
mod memory;
mod natives;
mod number;
mod sorting;

pub(crate) use failure::{
    Culprit, Failure, OfCall, Problem, is_limit, not_caught, not_set, too_deep, wrong_count,
};
pub(crate) use host::Metered;
pub use host::{Amount, Host, Recorder, Refused};
pub(crate) use limits::Budget;
pub use limits::Limits;
pub(crate) use memory::{Compile, Loaded, Memory, Module, World};
pub(crate) use natives::{apply, bounded, spread};
pub(crate) use number::{Division, binary, compare, exact_integer, integer_division, negate};
pub(crate) use sorting::Sorting;
