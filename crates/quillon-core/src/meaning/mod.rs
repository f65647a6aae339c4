//! From tree and names to Core: each node's `means` clause is a template, filled in
//! for that node. Running a program never looks at the definition again.

mod asking;
mod assigning;
mod branches;
mod built_ins;
mod checking;
mod closures;
mod constructs;
pub mod core;
mod fitting;
mod function;
mod instantiate;
mod landing;
mod local;
mod mentions;
mod naming;
mod outline;
mod renewing;
mod shared;
mod stepwise;
mod whole;

pub(crate) use branches::branches;
pub use branches::{Branch, BranchKind};
pub(crate) use built_ins::{BuiltIns, Fillable};
pub use checking::only_parts;
pub(crate) use checking::{check, repeats};
pub use core::FunctionCore;
pub(crate) use core::{
    ArmCore, Capture, Core, CoreKind, CorePart, Label, Marked, Marks, ParamCore, PartId, Variable,
    mentions,
};
pub(crate) use fitting::kind_of_letter;
pub use function::{Place, Places};
pub use outline::{CoreLine, core_lines};
pub(crate) use whole::{helper, initial, marked, module, places, program};
