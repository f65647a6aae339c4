//! Core as an outline.

use quillon_core::meaning::CoreLine;

use super::indent;
use super::style::{FORM, QUIET, VALUE, paint};

/// A line for each piece, with where in the program it comes from.
pub fn outline(lines: &[CoreLine]) -> Vec<String> {
    let place = |line: &CoreLine| format!("{}:{}", line.line, line.column);
    let width = lines
        .iter()
        .map(|line| place(line).len())
        .max()
        .unwrap_or(0);
    lines
        .iter()
        .map(|line| {
            let at = paint(QUIET, format_args!("{:>width$}", place(line)));
            let indent = indent("  ", line.depth);
            let does = paint(FORM, line.does);
            let what = match line.with.as_str() {
                "" => String::new(),
                what => format!(" {}", paint(VALUE, what)),
            };
            format!("{at}  {indent}{does}{what}")
        })
        .collect()
}
