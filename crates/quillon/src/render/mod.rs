//! How things look: diagnostics, tables, trees.

pub mod code;
pub mod core;
pub mod diagnostic;
pub mod difference;
pub mod names;
pub mod profile;
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
pub mod xml;

pub use diagnostic::{show, show_all};
