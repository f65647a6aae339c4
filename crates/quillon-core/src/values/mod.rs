//! Values, and the heap they live on: what both engines and the ready-made operations work
//! with.

mod copier;
mod equal;
mod function;
mod heap;
mod held;
mod list;
mod map;
mod pool;
mod show;
mod text;
mod value;

pub(crate) use copier::Copier;
pub(crate) use equal::{equal, same};
pub(crate) use function::{Closure, Code, Coroutine, Inner, Progress, Suspended, Turns, Variable};
pub(crate) use heap::{Heap, Marker, Roots, Traced};
pub use held::Held;
pub(crate) use list::List;
pub(crate) use map::{Key, Map, Shape};
pub(crate) use pool::{Pool, Ref};
pub(crate) use show::{described, shown, written};
pub(crate) use text::{Text, append, join};
pub(crate) use value::Value;
