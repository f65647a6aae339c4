//! Where a call can go on, and which names can be typed there, over the Debug Adapter Protocol.

use serde_json::{Value, json};

use crate::common::Folder;
use crate::common::walker::Walker;
use crate::debugger::TOLLS;
use crate::packing::TOOLS;

/// The labels of what a request gives.
fn labels(found: &Value) -> Vec<String> {
    let targets = found["targets"].as_array().cloned().unwrap_or_default();
    let label = |one: &Value| one["label"].as_str().unwrap_or_default().to_owned();
    targets.iter().map(label).collect()
}

#[test]
fn a_call_goes_on_at_another_line() {
    let folder = Folder::with_demo();
    let path = folder.write("tolls.tow", TOLLS);
    let mut walker = Walker::launch(&path, &[3], json!({}));
    assert_eq!(walker.stopped(), "breakpoint");
    assert_eq!(walker.evaluate("base"), "10");
    let source = json!({ "path": path });
    let at = |line: u32| json!({ "source": source, "line": line });
    let targets = walker.ask("gotoTargets", at(2));
    assert_eq!(labels(&targets), ["let base be tons * rate"]);
    let outside = walker.ask("gotoTargets", at(8));
    assert_eq!(labels(&outside), [""; 0], "another function");
    // The toll of 5 tons becomes that of 50, worked out once more.
    walker.ask(
        "setVariable",
        json!({ "variablesReference": 1, "name": "tons", "value": "50" }),
    );
    let target = json!({ "threadId": 1, "targetId": targets["targets"][0]["id"] });
    assert_eq!(walker.go_with("goto", target), "goto");
    assert_eq!(walker.line(), 2);
    walker.breakpoints(&path, json!([]));
    walker.ask("continue", json!({ "threadId": 1 }));
    walker.event("terminated");
    // 40, 24 and 40.
    assert_eq!(walker.printed(), "104\n");
}

#[test]
fn names_are_completed_where_a_run_stands() {
    let folder = Folder::with_demo();
    let path = folder.write("tolls.tow", TOLLS);
    let mut walker = Walker::launch(&path, &[3], json!({}));
    assert_eq!(walker.stopped(), "breakpoint");
    let mut completed = |text: &str, column: usize| {
        let arguments = json!({ "frameId": 1, "text": text, "column": column });
        walker.ask("completions", arguments)
    };
    let found = completed("1 + ba", 7);
    assert_eq!(labels(&found), ["base"]);
    assert_eq!(found["targets"][0]["start"], 4);
    assert_eq!(found["targets"][0]["length"], 2);
    let all = labels(&completed("", 1));
    for name in ["base", "tons", "rate"] {
        assert!(all.contains(&name.to_owned()), "{all:?}");
    }
    assert_eq!(labels(&completed("1 + xy", 7)), [""; 0]);
    assert_eq!(labels(&completed("base + 1", 3)), ["base"]);
}

#[test]
fn a_program_is_given_arguments_and_leaves_with_a_status() {
    let folder = Folder::with_definition(TOOLS);
    let path = folder.write("day.tool", "given; leave 7; say \"never\"");
    let mut walker = Walker::launch(&path, &[], json!({ "args": ["Heron", "two words"] }));
    let exited = walker.event("exited");
    assert_eq!(exited["exitCode"], 7, "{exited}");
    assert_eq!(walker.printed(), "Heron\ntwo words\n");
    assert!(
        walker
            .told
            .iter()
            .all(|told| told["body"]["category"] != "stderr")
    );
}
