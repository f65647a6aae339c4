//! What a careful person would write by hand for just the demo language: a lexer that
//! switches on bytes, and a recursive-descent parser with binding powers that makes the
//! same kind of tree (an arena of nodes with their spans).

mod lexer;
mod parser;

pub use lexer::tokens;
pub use parser::parse;
