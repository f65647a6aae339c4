//! Steps of a run, a line or a few each.

use quillon_core::debugging::{Change, Step};
use quillon_core::diagnostic::quoted;
use quillon_core::source::floor;
use unicode_width::UnicodeWidthStr;

use super::style::{FORM, GOOD, QUIET, RELATED, VALUE, paint};

/// Longer texts and values are cut; JSON has the whole.
const LONGEST: usize = 60;

/// A step in which others begin.
pub fn opens(step: &Step) -> Vec<String> {
    vec![line(step, step.depth, "")]
}

/// What a step has changed and printed since it was shown last.
pub fn meanwhile(step: &Step) -> Vec<String> {
    effects(step.untold_changes(), step.untold_printed(), step.depth)
}

/// A step that has ended, on a line of its own, so far indented.
pub fn whole(step: &Step, depth: usize) -> Vec<String> {
    let value = match &step.value {
        Some(value) if value == "nothing" => String::new(),
        Some(value) => format!("  {} {}", paint(QUIET, "→"), paint(VALUE, cut(value))),
        None => paint(QUIET, "  left"),
    };
    let mut lines = vec![line(step, depth, &value)];
    lines.extend(effects(&step.changes, &step.printed, depth));
    lines
}

/// The end of a step in which there were others.
pub fn closes(step: &Step) -> Vec<String> {
    let mut lines = meanwhile(step);
    let value = match &step.value {
        Some(value) if value == "nothing" => return lines,
        Some(value) => paint(VALUE, cut(value)),
        None => paint(QUIET, "left"),
    };
    let text = format!("{}{} {value}", bars(step.depth), paint(QUIET, "└→"));
    lines.push(format!("{}{text}", " ".repeat(MARGIN)));
    lines
}

/// The columns before the text of a step: its number and its place.
const MARGIN: usize = 16;

fn line(step: &Step, depth: usize, end: &str) -> String {
    let place = step.source.position(step.span.start).to_string();
    let margin = format!("{:>6} {place:>7}  ", step.number);
    // What is shown of it is in its first few bytes, however long it is.
    let whole = step.source.slice(step.span);
    let text = cut(&whole[..floor(whole, 8 * LONGEST)]
        .split_whitespace()
        .collect::<Vec<_>>()
        .join(" "));
    format!(
        "{}{}{} {text}{end}",
        paint(QUIET, margin),
        bars(depth),
        paint(FORM, &step.form)
    )
}

/// What a step has changed and printed itself.
fn effects(changes: &[Change], printed: &str, depth: usize) -> Vec<String> {
    let indent = format!("{}{}", " ".repeat(MARGIN), bars(depth + 1));
    let told = |change: &Change| {
        let before = change.before.as_deref().unwrap_or("unset");
        format!(
            "{indent}{} {} {} {}",
            paint(RELATED, &change.name),
            paint(QUIET, cut(before)),
            paint(QUIET, "⇒"),
            paint(VALUE, cut(&change.after))
        )
    };
    let mut lines: Vec<String> = changes.iter().map(told).collect();
    if !printed.is_empty() {
        lines.push(format!(
            "{indent}{} {}",
            paint(GOOD, "prints"),
            cut(&quoted(printed))
        ));
    }
    lines
}

fn bars(depth: usize) -> String {
    paint(QUIET, super::indent("│ ", depth))
}

fn cut(text: &str) -> String {
    if text.width() <= LONGEST {
        return text.to_owned();
    }
    let mut shown: String = text.chars().take(LONGEST - 1).collect();
    shown.push('…');
    shown
}
