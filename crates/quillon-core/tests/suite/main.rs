//! The core, through what it exports. One program, since linking one takes less time than thirty.

mod common;

mod agreement;
mod ambiguity;
mod bindings;
mod control;
mod corpus;
mod docs;
mod embedding;
mod functions;
mod grammars;
mod holes;
mod hosts;
mod layout;
mod limits;
mod machine;
mod meanings;
mod misfits;
mod notation;
mod operations;
mod printing;
mod reaches;
mod recovery;
mod reduction;
mod robust;
mod scopes;
mod sessions;
mod stages;
mod state;
mod sugar;
mod surfaces;
mod testing;
mod token_mistakes;
mod touching;
mod types;
mod wording;
