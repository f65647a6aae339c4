//! What the machine is measured against: the demo language again, by hand. A tree of the
//! program as one would make it for this language alone, a walker of that tree, a compiler to
//! bytecode with a machine, and the same work in Rust itself.

// It is as plain as the languages that people make for themselves.
#![allow(
    clippy::float_cmp,
    clippy::manual_let_else,
    clippy::match_wildcard_for_single_variants
)]

pub mod best;
pub mod native;
pub mod natural;
pub mod tree;
pub mod values;
pub mod walker;
