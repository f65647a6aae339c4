//! Bytecode: what Core is compiled to, as data. It is shown, kept in files and checked here;
//! the machine runs it.

mod compile;
mod file;
mod instruction;
mod listing;
mod nature;
mod unit;
mod verify;

pub use compile::MOST;
pub(crate) use compile::{Names, compile};
pub use file::{Program, Unusable, is_program, load, save};
pub(crate) use instruction::Counts;
pub use instruction::{Description, Instruction, MOST_REGISTERS, Op, Role};
pub use listing::{FunctionListing, Line, Listing, listing};
pub use unit::{Captured, Constant, From, Function, Handler, Last, Local, Origin, Purpose, Site};
pub use verify::verify;
