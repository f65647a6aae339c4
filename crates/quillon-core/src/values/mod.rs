//! Values, and the heap they live on: what both engines and the built-in operations work
//! with.

mod arguments;
mod callable;
mod conversions;
mod copier;
#[cfg(feature = "deserialize")]
mod deserialize;
mod equal;
mod function;
mod heap;
mod held;
mod list;
mod look;
mod map;
mod numeric;
mod pool;
mod rows;
mod show;
mod text;
mod value;

pub use crate::definition::template::ValueKind;
pub use arguments::Arguments;
pub use callable::Function;
pub(crate) use copier::{CodeAbroad, Copier};
pub(crate) use equal::{equal, same};
pub(crate) use function::{
    Closure, Code, Coroutine, EngineState, Inner, Param, Progress, Signature, Turns, Variable, fits,
};
pub(crate) use heap::{Heap, Marker, Reading, Roots, Traced, ask, spend};
pub(crate) use held::Foreign;
pub use held::Held;
pub(crate) use list::List;
pub(crate) use look::Look;
pub(crate) use map::{Key, LONGEST_ROW, Map, Shape};
pub(crate) use numeric::{compare, compare_numbers, exact_integer};
pub(crate) use pool::{Pool, Ref};
pub(crate) use rows::{Rows, ValueRow};
pub(crate) use show::{
    beginning, described, described_as, described_key, seen, seen_written, shown, told,
    told_written, written,
};
pub(crate) use text::{Text, join, join_integer};
pub(crate) use value::Value;

/// No text grows beyond this many bytes, and no list beyond this many items.
pub(crate) const LARGEST: usize = 1 << 28;
