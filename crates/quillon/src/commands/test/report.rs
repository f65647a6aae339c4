//! What came of cases, for people.

use quillon_core::testing::{CaseResult, Difference, Verdict};

use super::running::Results;
use crate::render::diagnostic::rendered;
use crate::render::difference;
use crate::render::style::{ERROR, GOOD, QUIET, STRONG, WARNING, paint};

/// How much of a failing case's program is shown.
const MOST_PROGRAM_LINES: usize = 12;

/// Everything, text by text; the cases that passed are listed if asked for.
pub fn lines(results: &Results, list: bool) -> Vec<String> {
    let mut lines = Vec::new();
    for of_group in results.by_group() {
        lines.push(paint(QUIET, &of_group[0].0.group));
        let passed: Vec<&CaseResult> = of_group
            .iter()
            .map(|(_, result, _)| result)
            .filter(|result| result.verdict == Verdict::Passed)
            .collect();
        if list {
            let titles = passed.iter().map(|result| &result.title);
            lines.extend(titles.map(|title| format!("  {}  {title}", paint(GOOD, "pass"))));
        } else if !passed.is_empty() {
            lines.push(format!(
                "  {}  {} passed",
                paint(GOOD, "pass"),
                passed.len()
            ));
        }
        for (_, result, _) in of_group {
            lines.extend(not_passed(result));
        }
    }
    lines.push(closing(results));
    lines
}

/// A case that did not pass: where it stands, and expected against got.
fn not_passed(result: &CaseResult) -> Vec<String> {
    match result.verdict {
        Verdict::Passed => Vec::new(),
        Verdict::Waiting => {
            let reason = result
                .diagnostics
                .first()
                .map_or("", |d| d.message.as_str());
            let word = paint(WARNING, "wait");
            vec![format!("  {word}  {}: {reason}", result.title)]
        }
        Verdict::Failed => failed(result),
    }
}

/// A case that failed, as `test` shows it.
pub fn failed(result: &CaseResult) -> Vec<String> {
    let position = result.source.position(result.span.start);
    let at = paint(QUIET, format_args!("{}:{position}", result.source.name()));
    let mut lines = vec![format!(
        "  {}  {}   {at}",
        paint(ERROR, "FAIL"),
        paint(STRONG, &result.title)
    )];
    let program = result.program.trim_end();
    for line in program.lines().take(MOST_PROGRAM_LINES) {
        lines.push(format!("        {} {line}", paint(QUIET, "│")));
    }
    if program.lines().count() > MOST_PROGRAM_LINES {
        lines.push(format!("        {}", paint(QUIET, "│ …")));
    }
    for found in &result.differences {
        lines.push(format!("        {}", heading(result, found)));
        lines.extend(
            difference::lines(found)
                .into_iter()
                .map(|l| format!("          {l}")),
        );
    }
    for note in &result.notes {
        lines.push(format!("          {}", paint(QUIET, note)));
    }
    for diagnostic in &result.diagnostics {
        lines.extend(
            rendered(diagnostic)
                .trim_end()
                .lines()
                .map(|line| format!("        {line}")),
        );
    }
    lines
}

fn heading(result: &CaseResult, found: &Difference) -> String {
    let place = result.source.position(found.span.start);
    format!(
        "{} {}",
        found.what.words(),
        paint(QUIET, format_args!("at {place}"))
    )
}

/// The counts.
fn closing(results: &Results) -> String {
    let broken = results.broken();
    let failed = results.failed();
    let left_out = match results.left_out {
        0 => String::new(),
        count => format!(", {count} not asked for"),
    };
    if results.all.is_empty() && broken == 0 {
        return format!("no cases were run{left_out}");
    }
    let style = if failed > 0 || broken > 0 {
        ERROR
    } else {
        GOOD
    };
    let mut line = format!("{} passed, {failed} failed", results.count(Verdict::Passed));
    let waiting = results.count(Verdict::Waiting);
    if waiting > 0 {
        line.push_str(&format!(
            ", {waiting} waiting for clauses of the definition"
        ));
    }
    line.push_str(&left_out);
    if broken > 0 {
        let errors = quillon_core::diagnostic::plural(broken, "error");
        line.push_str(&format!(", {errors} in case files"));
    }
    paint(style, line)
}
