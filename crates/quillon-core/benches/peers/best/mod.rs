//! The best machine one can write by hand for just the demo language: values of eight bytes,
//! objects from pools by size, handlers that jump to each other, everything that travels in
//! registers of the processor, operands that are constants, keys found by the shape of a card, calls of
//! a function by itself without asking. It trusts its compiler, and checks no place in its registers.
#![allow(
    unsafe_code,
    clippy::similar_names,
    clippy::inline_always,
    clippy::cast_ptr_alignment,
    // What a handler ends in is a jump.
    clippy::semicolon_if_nothing_returned
)]

mod arithmetic;
mod code;
pub mod compiler;
mod heap;
mod machine;
mod making;
mod slow;
mod word;

pub use code::Program;
pub use machine::run;
