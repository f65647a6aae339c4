//! Texts in the console of a debugger: on copies, or carried out in the run.

use serde_json::{Value, json};

use crate::common::Folder;
use crate::common::walker::Walker;
use crate::debugger::TOLLS;

/// What comes of a text in the console.
fn typed(walker: &mut Walker, frame: u64, text: &str) -> Value {
    let arguments = json!({ "expression": text, "frameId": frame, "context": "repl" });
    let answer = walker.ask("evaluate", arguments);
    answer.get("result").cloned().unwrap_or(answer)
}

#[test]
fn a_text_in_the_console_is_carried_out_if_that_is_asked_for() {
    let folder = Folder::with_demo();
    let path = folder.write("tolls.tow", TOLLS);
    let mut walker = Walker::launch(&path, &[4], json!({}));
    assert_eq!(walker.stopped(), "breakpoint");
    typed(&mut walker, 1, "change base to 1");
    let hint = walker.event("output");
    assert_eq!(
        (hint["category"].as_str(), hint["output"].as_str()),
        (
            Some("console"),
            Some(
                "that was worked out on copies, and the run is as it was: /do change base to 1 does it there\n"
            )
        )
    );
    assert_eq!(walker.evaluate("base"), "10");
    typed(&mut walker, 1, "/do change base to base + 7");
    assert_eq!(walker.event("invalidated")["areas"], json!(["variables"]));
    assert_eq!(walker.evaluate("base"), "17");
    // In the call outside; there is no stop on the way.
    typed(&mut walker, 2, "/do change sum to 1000");
    typed(&mut walker, 2, "/do say sum + toll(1, 1)");
    assert_eq!(walker.printed(), "1001\n");
    assert_eq!(
        typed(&mut walker, 1, "/do based"),
        "there is no binding called `based`"
    );
    // Only the console can ask for it.
    walker.evaluate("/do change base to 0");
    assert_eq!(walker.go("stepBack"), "step");
    assert_eq!(walker.evaluate("base"), "10");
    assert_eq!(walker.go("continue"), "breakpoint");
    assert_eq!(walker.evaluate("base"), "17");
    let scopes = walker.ask("scopes", json!({ "frameId": 2 }));
    let reference = &scopes["scopes"][0]["variablesReference"];
    let set = json!({ "variablesReference": reference, "name": "sum", "value": "sum + 1" });
    assert_eq!(walker.ask("setVariable", set)["value"], "1001");
    walker.breakpoints(&path, json!([]));
    walker.ask("continue", json!({ "threadId": 1 }));
    walker.event("terminated");
    assert_eq!(walker.printed(), "1001\n1082\n");
    walker.end();
}

#[test]
fn the_parts_of_a_value_are_changed_by_the_language() {
    let folder = Folder::with_demo();
    let path = folder.write("berths.tow", "let berths be [1, 2]\nsay berths\n");
    let mut walker = Walker::launch(&path, &[2], json!({}));
    assert_eq!(walker.stopped(), "breakpoint");
    let scopes = walker.ask("scopes", json!({ "frameId": 1 }));
    let own = json!({ "variablesReference": scopes["scopes"][0]["variablesReference"] });
    let berths = walker.ask("variables", own)["variables"][0]["variablesReference"].clone();
    let set = json!({ "variablesReference": berths, "name": "[0]", "value": "5" });
    assert_eq!(
        walker.ask("setVariable", set),
        "the language itself changes the parts of a value: write /do and how it says that, in the console"
    );
    assert_eq!(typed(&mut walker, 1, "/do change berths#1 to 5"), "nothing");
    walker.ask("continue", json!({ "threadId": 1 }));
    walker.event("terminated");
    assert_eq!(walker.printed(), "[5, 2]\n");
    walker.end();
}
