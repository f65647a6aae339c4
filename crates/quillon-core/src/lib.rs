//! Quillon's computation: from a described language to running programs.
//!
//! ```text
//! NAME.quillon --definition--> Language  (compiled once: token automaton, parse tables)
//!                                 |
//! program text --lexing--> Tokens --parsing--> Tree --scoping--> Names
//!                                                |                 |--typing--> Types
//!                                                +---- meaning ----+--> Core --> evaluation
//! every stage: a pure function of its input, returning its result and Diagnostics;
//! none prints, none exits
//! ```
//!
//! A stage knows only the stages to its left. [`Language`] compiles a definition and
//! offers each stage; [`Session`] runs programs and keeps what outlives a run.
//!
//! ```
//! use quillon_core::{Language, runtime::Recorder};
//!
//! let definition = "language Sum
//!   starts Sum
//!
//! tokens
//!   Blank  [ ]+      ignored
//!   Whole  digit+    holds integer
//!
//! form Sum
//!   written  items:Item+ by \"+\"
//!   means    let total = 0; each item in items { total := total + item }; total
//!
//! form Item
//!   written  value:Whole
//!   means    value
//! ";
//! let language = Language::from_text("sum.quillon", definition)?;
//! let mut session = language.session().start(Recorder::default())?;
//! let value = session.run("program", "1 + 2 + 3")?;
//! assert_eq!(value.shown(), "6");
//! # Ok::<(), quillon_core::diagnostic::Diagnostics>(())
//! ```

mod advising;
pub mod ambiguity;
pub mod bytecode;
pub mod debugging;
pub mod definition;
pub mod diagnostic;
pub mod editing;
pub mod evaluation;
pub mod grammar;
mod language;
mod lazy;
pub mod lexing;
mod machine;
pub mod meaning;
mod metering;
pub mod native_stack;
pub mod operations;
pub mod parsing;
pub mod printing;
pub mod profiling;
mod purposes;
pub mod reduction;
pub mod reference;
pub mod runtime;
pub mod scoping;
mod session;
pub mod source;
pub mod testing;
pub mod tree;
pub mod typing;
pub mod values;

pub use language::{
    Compiled, Examined, Language, Possible, Prepared, Reading, Stage, Surroundings,
};
pub use session::{Engine, Lost, Session, SessionBuilder};
