//! Bytecode: what Core is compiled to, as data. It is shown, kept in files and checked here;
//! [`crate::machine`] runs it.

mod compile;
mod instruction;
mod listing;
mod unit;

pub use compile::MOST;
pub(crate) use compile::compile;
pub use instruction::{Description, Instruction, Op, Role};
pub use listing::{FunctionListing, Line, Listing, listing};
pub use unit::{Captured, Constant, From, Function, Handler, Local, Origin, Purpose, Site};
