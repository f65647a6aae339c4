//! How things look: diagnostics, tables, trees.

pub mod changes;
pub mod code;
pub mod core;
pub mod diagnostic;
pub mod difference;
pub mod names;
pub mod profile;
pub mod progress;
pub mod ready;
pub mod screen;
pub mod state;
pub mod steps;
pub mod style;
pub mod table;
pub mod tokens;
pub mod trace;
pub mod tree;
pub mod types;

pub use diagnostic::{show, show_all};

/// So many levels are shown by how far to the right something stands.
const DEEPEST: usize = 40;

/// What stands before something so many levels deep, made of a sign for each level. Very deep
/// ones are told by their number: a line for each of them would be as long as all before it.
pub fn indent(sign: &str, depth: usize) -> String {
    if depth <= DEEPEST {
        return sign.repeat(depth);
    }
    format!("{}{depth}› ", sign.repeat(DEEPEST))
}
