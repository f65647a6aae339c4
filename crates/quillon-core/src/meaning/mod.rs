//! From tree and names to Core: each node's `means` clause is a template, filled in
//! for that node. Running a program never looks at the definition again.

pub mod check;
mod constructs;
pub mod core;
mod function;
mod instantiate;
pub mod operations;

pub use check::check;
pub use core::{ArmCore, Capture, Core, CoreKind, FunctionCore, Label, Part, Variable};
pub use instantiate::{initial, module, program, ready_made};
pub use operations::{Arity, Operation};
