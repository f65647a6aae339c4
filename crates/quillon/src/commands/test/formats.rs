//! What came of cases, for tools: JSON, JUnit XML and TAP 14.

use std::time::Duration;

use quillon_core::testing::{CaseResult, Verdict};
use serde_json::{Value, json};

use super::running::{Results, Task};
use quillon_render::xml::escaped;

/// As JSON.
pub fn json(results: &Results) -> Value {
    let cases: Vec<Value> = results
        .all
        .iter()
        .map(|(task, result, time)| {
            let position = result.source.position(result.span.start);
            let differences: Vec<Value> = result
                .differences
                .iter()
                .map(|d| json!({ "what": d.what.words(), "expected": d.expected, "got": d.got }))
                .collect();
            json!({
                "title": result.title,
                "file": result.source.name(),
                "line": position.line,
                "definition": task.definition.display().to_string(),
                "verdict": result.verdict,
                "seconds": time.as_secs_f64(),
                "differences": differences,
                "diagnostics": result.diagnostics,
            })
        })
        .collect();
    json!({
        "passed": results.count(Verdict::Passed),
        "failed": results.failed(),
        "waiting": results.count(Verdict::Waiting),
        "cases": cases,
        "diagnostics": results.diagnostics,
    })
}

/// What a case that did not pass came to, in lines.
fn told(result: &CaseResult) -> Vec<String> {
    let mut lines = Vec::new();
    for found in &result.differences {
        lines.push(format!("{}:", found.what.words()));
        lines.push(format!("  expected {:?}", found.expected));
        lines.push(format!("  got      {:?}", found.got));
    }
    for diagnostic in &result.diagnostics {
        lines.push(diagnostic.in_one_line());
    }
    lines
}

fn seconds(time: Duration) -> String {
    format!("{:.6}", time.as_secs_f64())
}

/// As JUnit XML, a suite for each text.
pub fn junit(results: &Results) -> String {
    let total: Duration = results.all.iter().map(|(.., time)| *time).sum();
    let mut out = format!(
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<testsuites tests=\"{}\" failures=\"{}\" errors=\"{}\" skipped=\"{}\" time=\"{}\">\n",
        results.all.len() + results.broken(),
        results.failed(),
        results.broken(),
        results.count(Verdict::Waiting),
        seconds(total)
    );
    for of_group in results.by_group() {
        out.push_str(&junit_suite(of_group));
    }
    if results.broken() > 0 {
        let broken = results.broken();
        out.push_str(&format!(
            "  <testsuite name=\"case files\" tests=\"{broken}\" failures=\"0\" errors=\"{broken}\" skipped=\"0\" time=\"0\">\n"
        ));
        for problem in results.diagnostics.iter().filter(|d| d.is_error()) {
            let text = escaped(&problem.in_one_line());
            out.push_str(&format!(
                "    <testcase name=\"{text}\" classname=\"case files\" time=\"0\"><error message=\"{text}\"/></testcase>\n"
            ));
        }
        out.push_str("  </testsuite>\n");
    }
    out.push_str("</testsuites>\n");
    out
}

fn junit_suite(of_group: &[(Task, CaseResult, Duration)]) -> String {
    let count = |verdict| {
        of_group
            .iter()
            .filter(|(_, r, _)| r.verdict == verdict)
            .count()
    };
    let total: Duration = of_group.iter().map(|(.., time)| *time).sum();
    let name = escaped(of_group[0].0.group.as_str());
    let mut out = format!(
        "  <testsuite name=\"{name}\" tests=\"{}\" failures=\"{}\" errors=\"0\" skipped=\"{}\" time=\"{}\">\n",
        of_group.len(),
        count(Verdict::Failed),
        count(Verdict::Waiting),
        seconds(total)
    );
    for (_, result, time) in of_group {
        let line = result.source.position(result.span.start).line;
        out.push_str(&format!(
            "    <testcase name=\"{}\" classname=\"{name}\" file=\"{}\" line=\"{line}\" time=\"{}\"",
            escaped(&result.title),
            escaped(result.source.name()),
            seconds(*time)
        ));
        let lines = told(result);
        let first = escaped(lines.first().map_or("", String::as_str));
        match result.verdict {
            Verdict::Passed => out.push_str("/>\n"),
            Verdict::Waiting => {
                out.push_str(&format!("><skipped message=\"{first}\"/></testcase>\n"));
            }
            Verdict::Failed => {
                let all = escaped(&lines.join("\n"));
                out.push_str(&format!(
                    ">\n      <failure message=\"{first}\">{all}</failure>\n    </testcase>\n"
                ));
            }
        }
    }
    out.push_str("  </testsuite>\n");
    out
}

/// As TAP 14.
pub fn tap(results: &Results) -> String {
    let errors: Vec<_> = results
        .diagnostics
        .iter()
        .filter(|d| d.is_error())
        .collect();
    let count = results.all.len() + errors.len();
    let mut out = format!("TAP version 14\n1..{count}\n");
    for (number, (_, result, time)) in results.all.iter().enumerate() {
        let title = tap_title(&result.title);
        let number = number + 1;
        match result.verdict {
            Verdict::Passed => out.push_str(&format!("ok {number} - {title}\n")),
            Verdict::Waiting => {
                let reason = result.diagnostics.first().map_or("", |d| &d.message);
                out.push_str(&format!(
                    "ok {number} - {title} # SKIP {}\n",
                    tap_title(reason)
                ));
            }
            Verdict::Failed => {
                out.push_str(&format!("not ok {number} - {title}\n"));
                out.push_str(&tap_block(result, *time));
            }
        }
    }
    for (index, problem) in errors.iter().enumerate() {
        let number = results.all.len() + index + 1;
        let text = tap_title(&problem.in_one_line());
        out.push_str(&format!("not ok {number} - {text}\n"));
    }
    out
}

/// What came of a case that failed, as a block of YAML; a JSON text is one of YAML, too.
fn tap_block(result: &CaseResult, time: Duration) -> String {
    let position = result.source.position(result.span.start);
    let text = |text: &str| Value::from(text).to_string();
    let at = format!("{}:{}", result.source.name(), position.line);
    let mut out = format!("  ---\n  at: {}\n", text(&at));
    out.push_str(&format!("  seconds: {}\n  found:\n", seconds(time)));
    for found in &result.differences {
        out.push_str(&format!(
            "    - what: {}\n      expected: {}\n      got: {}\n",
            text(found.what.words()),
            text(&found.expected),
            text(&found.got)
        ));
    }
    for diagnostic in &result.diagnostics {
        out.push_str(&format!(
            "    - error: {}\n",
            text(&diagnostic.in_one_line())
        ));
    }
    out.push_str("  ...\n");
    out
}

/// A text on one line in which nothing has a meaning of its own.
fn tap_title(text: &str) -> String {
    let line = text.replace(['\n', '\r'], " ");
    line.replace('\\', "\\\\").replace('#', "\\#")
}
