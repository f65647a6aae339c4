//! What has changed in a text, as a unified diff (POSIX, `diff -u`).

use similar::TextDiff;

use super::style::{ERROR, GOOD, HEADING, QUIET, paint};

/// Lines around a change that are shown with it.
const CONTEXT: usize = 3;

/// The changes of a file from one text to another.
pub fn lines(name: &str, before: &str, after: &str) -> Vec<String> {
    let diff = TextDiff::from_lines(before, after);
    let mut unified = diff.unified_diff();
    let text = unified
        .context_radius(CONTEXT)
        .header(name, name)
        .to_string();
    let style = |line: &str| match line.as_bytes().first() {
        Some(b'-') if line.starts_with("---") => HEADING,
        Some(b'+') if line.starts_with("+++") => HEADING,
        Some(b'-') => ERROR,
        Some(b'+') => GOOD,
        _ => QUIET,
    };
    text.lines().map(|line| paint(style(line), line)).collect()
}
