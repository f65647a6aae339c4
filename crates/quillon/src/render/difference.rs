//! Expected against got, so that the difference is seen at once.

use std::time::Duration;

use anstyle::Style;
use quillon_core::testing::{Compared, Difference};
use similar::{ChangeTag, TextDiff};

use super::style::{ERROR, GOOD, QUIET, paint};

/// Texts up to this width are shown one above the other.
const WIDEST: usize = 76;

/// How long two texts are compared.
const LONGEST_COMPARISON: Duration = Duration::from_millis(300);

/// More lines than this are not shown.
const MOST_LINES: usize = 60;

/// Lines around a change that are shown with it.
const CONTEXT: usize = 2;

/// The two texts of a difference: what each is called, and how it looks.
type Sides = [(&'static str, Style); 2];

/// What was expected and what came, one above the other if short, and line by line if not.
pub fn lines(found: &Difference) -> Vec<String> {
    between(found, [("expected", GOOD), ("got", ERROR)])
}

/// The same for what was before a change and what is after it.
pub fn changed(found: &Difference) -> Vec<String> {
    between(found, [("old", ERROR), ("new", GOOD)])
}

fn between(found: &Difference, sides: Sides) -> Vec<String> {
    let shown = |text: &str| match found.what {
        Compared::Output => quillon_core::diagnostic::quoted(text),
        _ => text.to_owned(),
    };
    let (expected, got) = (shown(&found.expected), shown(&found.got));
    let has_lines = |text: &str| found.what == Compared::Output && text.lines().count() > 2;
    if has_lines(&found.expected) || has_lines(&found.got) {
        return line_by_line(&found.expected, &found.got, sides);
    }
    let is_short = |text: &str| text.chars().count() <= WIDEST && !text.contains('\n');
    if is_short(&expected) && is_short(&got) {
        return short(&expected, &got, sides);
    }
    match found.what {
        Compared::Output => line_by_line(&found.expected, &found.got, sides),
        Compared::Tree
        | Compared::Value
        | Compared::State
        | Compared::Tokens
        | Compared::Names
        | Compared::Types => line_by_line(&unfolded(&expected), &unfolded(&got), sides),
        _ => short(&expected, &got, sides),
    }
}

/// One above the other, the characters that differ marked.
fn short(expected: &str, got: &str, [before, after]: Sides) -> Vec<String> {
    let width = before.0.len().max(after.0.len()) + 2;
    let shown = |text: &str, marked: String| match text {
        "" => paint(QUIET, "nothing"),
        _ => marked,
    };
    let diff = TextDiff::from_chars(expected, got);
    let is_like = diff.ratio() > 0.5;
    let marked = |style: Style, own: ChangeTag| -> String {
        let strong = if is_like { style.underline() } else { style };
        diff.iter_all_changes()
            .filter(|change| change.tag() == ChangeTag::Equal || change.tag() == own)
            .map(|change| {
                let is_own = change.tag() == own;
                paint(if is_own { strong } else { style }, change.value())
            })
            .collect()
    };
    vec![
        format!(
            "{:width$}{}",
            before.0,
            shown(expected, marked(before.1, ChangeTag::Delete))
        ),
        format!(
            "{:width$}{}",
            after.0,
            shown(got, marked(after.1, ChangeTag::Insert))
        ),
    ]
}

/// Two long texts as one, with what is missing and what is there instead.
fn line_by_line(expected: &str, got: &str, [before, after]: Sides) -> Vec<String> {
    // Two long texts with nothing in common need not be compared to the end.
    let diff = TextDiff::configure()
        .timeout(LONGEST_COMPARISON)
        .diff_lines(expected, got);
    let mut lines = vec![format!(
        "{}  {}",
        paint(before.1, format_args!("- {}", before.0)),
        paint(after.1, format_args!("+ {}", after.0))
    )];
    for (number, group) in diff.grouped_ops(CONTEXT).iter().enumerate() {
        if number > 0 {
            lines.push(paint(QUIET, "  ⋮"));
        }
        for change in group.iter().flat_map(|op| diff.iter_changes(op)) {
            let text = change.value();
            let mut line = text.trim_end_matches('\n').replace('\t', "→   ");
            if change.tag() != ChangeTag::Equal {
                let kept = line.trim_end().len();
                let blanks = line.split_off(kept);
                line.extend(blanks.chars().map(|_| '·'));
                if !text.ends_with('\n') {
                    line.push_str(" (no line end)");
                }
            }
            lines.push(match change.tag() {
                ChangeTag::Equal => paint(QUIET, format_args!("  {line}")),
                ChangeTag::Delete => paint(before.1, format_args!("- {line}")),
                ChangeTag::Insert => paint(after.1, format_args!("+ {line}")),
            });
        }
    }
    if lines.len() > MOST_LINES {
        let more = lines.len() - MOST_LINES;
        lines.truncate(MOST_LINES);
        lines.push(paint(QUIET, format_args!("… {more} more lines")));
    }
    lines
}

/// A long term with each of its parts on a line of its own.
fn unfolded(text: &str) -> String {
    let mut out = String::new();
    let mut depth = 0usize;
    let mut quote: Option<char> = None;
    let mut chars = text.chars().peekable();
    while let Some(c) = chars.next() {
        if let Some(open) = quote {
            out.push(c);
            if c == '\\' && open == '"' {
                out.extend(chars.next());
            } else if c == open {
                quote = None;
            }
            continue;
        }
        match c {
            '"' | '`' => {
                quote = Some(c);
                out.push(c);
            }
            '(' | '[' | '{' => {
                out.push(c);
                // What has one short part only stays on its line.
                if let Some(inner) = simple(chars.clone()) {
                    for _ in 0..inner {
                        out.extend(chars.next());
                    }
                } else {
                    depth += 1;
                    new_line(&mut out, depth);
                }
            }
            ')' | ']' | '}' => {
                depth = depth.saturating_sub(1);
                new_line(&mut out, depth);
                out.push(c);
            }
            ',' => {
                out.push(c);
                while chars.peek() == Some(&' ') {
                    chars.next();
                }
                new_line(&mut out, depth);
            }
            c if c.is_whitespace() => out.push(' '),
            c => out.push(c),
        }
    }
    out.push('\n');
    out
}

/// How many characters there are up to and with the closing bracket, if there is neither a
/// comma nor another bracket before it.
fn simple(chars: impl Iterator<Item = char>) -> Option<usize> {
    const LONGEST: usize = 60;
    let mut quote: Option<char> = None;
    for (at, c) in chars.enumerate().take(LONGEST) {
        match quote {
            Some(open) if c == open => quote = None,
            Some(_) if c == '\\' => return None,
            None if "\"`".contains(c) => quote = Some(c),
            None if ")]}".contains(c) => return Some(at + 1),
            None if "([{,".contains(c) => return None,
            _ => {}
        }
    }
    None
}

fn new_line(out: &mut String, depth: usize) {
    out.push('\n');
    out.extend(std::iter::repeat_n("  ", depth));
}

#[cfg(test)]
mod tests {
    use super::unfolded;

    #[test]
    fn terms_unfold_part_by_part() {
        assert_eq!(
            unfolded("Add(Number(1), Words(\"a, (b\"))"),
            "Add(\n  Number(1),\n  Words(\"a, (b\")\n)\n"
        );
    }
}
