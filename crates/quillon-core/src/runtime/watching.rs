//! What a run tells somebody who watches it.

use std::sync::Arc;

use crate::meaning::Marked;
use crate::source::{SourceText, Span};
use crate::values::Value;

/// Somebody who watches a run whose Core has marks.
pub(crate) trait Watcher {
    /// A node or a branch begins; `state` is what the cells of the state hold now.
    fn begins(&mut self, marked: Marked, source: &Arc<SourceText>, span: Span, state: &[Value]);

    /// A node or a branch ends: with a value, or because something leads out of it. `state` is what the
    /// cells of the state hold now.
    fn ends(&mut self, marked: Marked, value: Option<&Value>, state: &[Value]);

    /// A variable that the program names is set.
    fn changes(&mut self, name: &str, before: Option<&Value>, after: &Value);

    /// Something is printed.
    fn prints(&mut self, text: &str);
}
