//! Where a call can go on, and which names can be typed there, over the Debug Adapter Protocol.

use serde_json::{Value, json};

use crate::common::Folder;
use crate::common::walker::Walker;
use crate::debugger::{TOLLS, program};
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
    walker.ask("scopes", json!({ "frameId": 1 }));
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

/// What a walk through a reduction shows: its step, the rule that made it, and the text that is marked.
fn step(walker: &mut Walker) -> [String; 3] {
    let frame = walker.ask("stackTrace", json!({ "threadId": 1 }))["stackFrames"][0].clone();
    let reference = frame["source"]["sourceReference"].clone();
    let text = walker.ask("source", json!({ "sourceReference": reference }))["content"].clone();
    let at = |name: &str| frame[name].as_u64().unwrap_or_default() as usize - 1;
    let lines: Vec<&str> = text.as_str().unwrap_or_default().lines().collect();
    let line = lines[at("line")];
    let end = if at("line") == at("endLine") {
        at("endColumn")
    } else {
        line.len()
    };
    let part = |value: &Value| value.as_str().unwrap_or_default().to_owned();
    [
        part(&frame["source"]["name"]),
        part(&frame["name"]),
        line[at("column")..end].to_owned(),
    ]
}

#[test]
fn a_reduction_is_walked_step_by_step_both_ways() {
    let folder = Folder::new();
    let definition = program("sluice/sluice.quillon");
    let path = folder.write("sum.sluice", "turn 1 < 2 ? 3 + 4: 5\n");
    let more = json!({ "definition": definition, "reduction": true, "stopOnEntry": true });
    let mut walker = Walker::launch(&path, &[], more);
    assert_eq!(walker.stopped(), "entry");
    let first = step(&mut walker);
    assert_eq!(first, ["step 0 of 3", "the program", "1 < 2"]);
    assert_eq!(walker.go("next"), "step");
    let [at, by, part] = step(&mut walker);
    assert_eq!([&*at, &*part], ["step 1 of 3", "turn open ? 3 + 4: 5"]);
    assert!(by.starts_with("Under: reduces left is"), "{by}");
    assert_eq!(walker.go("stepIn"), "step");
    let seen = walker.ask("variables", json!({ "variablesReference": 1 }));
    assert_eq!(seen["variables"][0]["value"], "2 of 3");
    assert_eq!(walker.go("stepBack"), "step");
    assert_eq!(step(&mut walker)[0], "step 1 of 3");
    assert_eq!(walker.go("reverseContinue"), "step");
    assert_eq!(step(&mut walker), first);
    assert_eq!(
        walker.ask("evaluate", json!({ "expression": "1" })),
        "a reduction has nothing beside its steps: expressions are evaluated in runs"
    );
    let stops = json!({ "breakpoints": [{ "name": "Plus" }] });
    walker.ask("setFunctionBreakpoints", stops);
    assert_eq!(walker.go("continue"), "breakpoint");
    assert_eq!(step(&mut walker)[0], "step 3 of 3");
    assert_eq!(step(&mut walker)[2], "7");
    walker.ask("continue", json!({ "threadId": 1 }));
    assert_eq!(walker.event("exited")["exitCode"], 0);
    assert_eq!(walker.printed(), "7\n");
    walker.close();
}

#[test]
fn a_reduction_that_is_stuck_says_why() {
    let folder = Folder::new();
    let definition = program("sluice/sluice.quillon");
    let path = folder.write("stuck.sluice", "open + 1\n");
    let more = json!({ "definition": definition, "reduction": 20 });
    let mut walker = Walker::launch(&path, &[], more);
    assert_eq!(walker.event("exited")["exitCode"], 1);
    let told = walker.told.iter();
    let told: Vec<&Value> = told
        .filter(|told| told["body"]["category"] == "stderr")
        .collect();
    assert_eq!(told.len(), 1, "{told:?}");
    walker.close();
}
