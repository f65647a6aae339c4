//! The Core of a program as `core` shows it: each thing that meanings can do.

use crate::common::Folder;

/// The lines of the Core of `run ab 3 4`, where that has this meaning; without places.
fn core(means: &str) -> Vec<String> {
    let folder = Folder::with_definition(&format!(
        r#"language Own
  reads ".own"
tokens
  Blank  [ \n]+   ignored
  Whole  digit+   holds integer
  Name   letter+
state
  level = 0
form Program
  written  "run" name:Name a:Whole b:Whole
  binds    name onward
  means    {means}
provides
  twice(n)  means n * 2
"#
    ));
    let ran = folder.quillon(&["core", "--text", "run ab 3 4"]);
    ran.ends_with(0);
    let lines = ran.out.lines();
    lines
        .filter_map(|line| Some(line.trim_start().split_once(' ')?.1.trim().to_owned()))
        .collect()
}

/// Checks that some lines stand there, in this order.
fn has(means: &str, wanted: &[&str]) {
    let lines = core(means);
    let mut left = lines.iter();
    for line in wanted {
        assert!(
            left.any(|one| one == line),
            "no {line:?} in its place in:\n{}",
            lines.join("\n")
        );
    }
}

#[test]
fn values_variables_and_cells() {
    has("name := a", &["write ab in slot 0", "value 3"]);
    has(
        "level := level + 1",
        &[
            "write level in state 0",
            "operator +",
            "read level in state 0",
            "value 1",
        ],
    );
    has(
        "[a, \"x\", true, nothing]",
        &[
            "list",
            "value 3",
            "value \"x\"",
            "value true",
            "value nothing",
        ],
    );
    has(
        "let x = a; x - b",
        &[
            "write slot 1",
            "value 3",
            "operator -",
            "read x in slot 1",
            "value 4",
        ],
    );
}

#[test]
fn choices_and_loops() {
    has(
        "if a < b { 1 } else { 2 }",
        &[
            "if",
            "operator <",
            "value 3",
            "value 4",
            "value 1",
            "value 2",
        ],
    );
    has(
        "while not (a = b or false) { level := 1 }",
        &["while", "not", "or", "operator ="],
    );
    has(
        "if a < b and level > 2 { 1 }",
        &["if", "and", "operator <", "operator >"],
    );
    has(
        "match level { text t => t  integer n => n  else => 0 }",
        &[
            "match",
            "read level in state 0",
            "arm text in slot 1",
            "arm integer in slot 2",
            "arm else",
            "value 0",
        ],
    );
    has(
        "each x in [a, b] { level := x }",
        &[
            "each in slot 1",
            "list",
            "write level in state 0",
            "read x in slot 1",
        ],
    );
}

#[test]
fn ways_out() {
    has(
        "landing out { while true { jump out with a } }",
        &["landing 1", "while", "jump 1", "value 3"],
    );
    // A jump that is the last thing done in its landing is its value.
    let lines = core("landing out { if a = b { jump out with a }; b }");
    let has_jumps = lines
        .iter()
        .any(|line| line.contains("landing") || line.contains("jump"));
    assert!(!has_jumps, "{lines:?}");
    has(
        "landing out { if a = b { jump out with a }; b }",
        &["if", "operator =", "value 3", "value 4"],
    );
    has("fault \"low\" at name", &["fault", "value \"low\""]);
    has("raise a", &["raise", "value 3"]);
    has(
        "attempt { raise a } rescue e { e }",
        &["attempt caught in slot 1", "raise", "read e in slot 1"],
    );
    has(
        "attempt { a } always { level := b }",
        &["cleanup", "value 3", "write level in state 0"],
    );
}

#[test]
fn functions_and_calls() {
    has(
        "let n = a; let f = function (x) { x + n }; call f with b",
        &["call", "read f in slot 2", "value 4"],
    );
    let lines = core("let n = a; let f = function (x) { n := x; n }; call f with b");
    let function = lines.iter().find(|line| line.starts_with("function"));
    let function = function.unwrap_or_else(|| panic!("{lines:?}"));
    assert!(function.contains("(x in slot 0)"), "{function}");
    assert!(function.contains("captures n from "), "{function}");
    has("text.upper(\"a\")", &["apply text.upper", "value \"a\""]);
    has("- level", &["negate", "read level in state 0"]);
}

#[test]
fn each_line_says_where_it_comes_from() {
    let folder = Folder::with_demo();
    let ran = folder.quillon(&["core", "--text", "say 4 + 2"]);
    ran.ends_with(0).shows("1:5").shows("1:9");
}
