//! Which parts of meanings the runs of a suite come to.

use std::sync::Arc;

use rustc_hash::FxHashSet;

use crate::meaning::Marked;
use crate::runtime::Watcher;
use crate::source::{SourceText, Span};
use crate::values::Value;

/// Which branches of meanings a run has come to, by where they stand in the definition.
#[derive(Debug, Default)]
pub(crate) struct Touched(pub FxHashSet<Span>);

impl Watcher for Touched {
    fn begins(&mut self, marked: Marked, _: &Arc<SourceText>, _: Span, _: &[Value]) {
        if let Marked::Branch(span) = marked {
            self.0.insert(span);
        }
    }

    fn ends(&mut self, _: Marked, _: Option<&Value>, _: &[Value]) {}

    fn changes(&mut self, _: &str, _: Option<&Value>, _: &Value) {}

    fn prints(&mut self, _: &str) {}
}
