//! How what Quillon finds looks: diagnostics with the lines of source they speak of, and pictures of
//! trees, scopes, grammars and calls. Needs no terminal: texts have roles, and whoever shows them
//! chooses the styles; pictures are SVG, DOT and HTML.
//!
//! The command line shows diagnostics with [`diagnostic()`]; so can every program that embeds a
//! language.

mod diagnostic;
pub mod diagram;
pub mod flame;
pub mod picture;
pub mod plain;
pub mod reference;
mod styled;
pub mod xml;

pub use diagnostic::diagnostic;
pub use styled::{Role, Styled};
