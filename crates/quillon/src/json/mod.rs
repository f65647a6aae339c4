//! What the stages give, as data in JSON.

mod names;
mod steps;
mod stream;
mod tokens;
mod types;

pub use names::names;
pub use steps::step;
pub use stream::Streamed;
pub use tokens::{OneToken, token};
pub use types::{derivation, types};
