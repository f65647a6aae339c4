//! A second way to give meaning: programs are rewritten, step by step, until they are
//! finished (G. D. Plotkin, "A structural approach to operational semantics", 1981).
//!
//! `term` has programs that can be put together anew, `rules` uses the `reduces` clauses on
//! them, `substitute` replaces names without capturing any, and `steps` goes on until
//! nothing is left to do.

use crate::diagnostic::{Diagnostic, Outcome};
use crate::language::{Language, Reading, Stage};
use crate::scoping::Around;
use crate::source::{SourceText, Span};
use crate::tree::Tree;

mod rules;
mod steps;
mod substitute;
mod term;
mod walking;

pub use substitute::Renamed;
pub use walking::Walk;

/// A program on the way to its end.
#[derive(Clone, Debug)]
pub struct Shown {
    /// Its text.
    pub text: String,
    /// What in it has changed, and what will.
    pub marks: Marks,
    /// The form and the rule that made it of the one before.
    pub by: Option<String>,
    /// Binders that had to be renamed for that.
    pub renamed: Vec<Renamed>,
}

/// Stretches of a step's text; missing where the text cannot be read as the program it is of.
#[derive(Clone, Copy, Default, Debug)]
pub struct Marks {
    /// What the last step has made.
    pub changed: Option<Span>,
    /// What the next step replaces, or where there is none.
    pub will_change: Option<Span>,
}

/// How a reduction ended.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Ended {
    /// The program is finished.
    Value,
    /// No rule can be used, for these reasons.
    Stuck(Vec<String>),
    /// It is as it was after so many steps.
    Cycle(usize),
    /// There were as many steps as there may be.
    Limit,
    /// It has more parts than there may be.
    Size(usize),
    /// Its parts are deeper inside each other than they may be.
    Depth(u32),
}

/// How far a reduction may go.
#[derive(Clone, Copy, Debug)]
pub struct Bounds {
    /// The most steps.
    pub steps: usize,
    /// The most forms and tokens that the program may have on the way.
    pub parts: usize,
    /// Of which programs on the way the text is kept.
    pub kept: Kept,
}

/// Of which programs on the way the text is kept.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Kept {
    /// Of each, for whoever looks at them.
    Every,
    /// Of the last, which takes a fraction of the time.
    Last,
}

impl Default for Bounds {
    /// A thousand steps, of programs that can still be looked at.
    fn default() -> Bounds {
        Bounds {
            steps: 1000,
            parts: 50_000,
            kept: Kept::Every,
        }
    }
}

/// All steps of a program.
#[derive(Debug)]
pub struct Reduction {
    /// The program after each step that is kept, as it was at first to begin with.
    pub steps: Vec<Shown>,
    /// How it ended.
    pub ended: Ended,
    /// What it has come to.
    pub last: Tree,
}

/// Reduces a text within bounds.
pub fn reduce(
    language: &Language,
    source: &std::sync::Arc<SourceText>,
    reading: Reading<'_>,
    bounds: Bounds,
) -> Outcome<Reduction> {
    if let Some(lack) = language.lacks(Stage::Reduction) {
        return Outcome::failed(vec![lack]);
    }
    let parsed = language.tree(source, reading);
    let mut diagnostics = parsed.diagnostics;
    let Some(tree) = parsed.value else {
        return Outcome::failed(diagnostics);
    };
    let names = language.names(&tree, Around::Nothing);
    diagnostics.extend(names.diagnostics);
    let is_error = diagnostics.iter().any(Diagnostic::is_error);
    let value = (!is_error).then(|| steps::Reducer::new(language, reading).reduce(&tree, bounds));
    Outcome { value, diagnostics }
}
