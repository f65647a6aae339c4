//! Walking through runs over the Debug Adapter Protocol.

use std::path::PathBuf;

use serde_json::{Value, json};

use crate::common::walker::Walker;
use crate::common::{self, Folder};

/// A program of a language that comes along.
pub fn program(name: &str) -> PathBuf {
    let languages = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../languages");
    languages.join(name).canonicalize().expect("a program")
}

fn named(walker: &mut Walker, scope: &str) -> Vec<String> {
    let scopes = walker.ask("scopes", json!({ "frameId": 1 }))["scopes"].clone();
    let scopes = scopes.as_array().cloned().unwrap_or_default();
    let Some(found) = scopes.iter().find(|one| one["name"] == scope) else {
        return Vec::new();
    };
    let arguments = json!({ "variablesReference": found["variablesReference"] });
    let variables = walker.ask("variables", arguments)["variables"].clone();
    let variables = variables.as_array().cloned().unwrap_or_default();
    let shown = variables.iter().map(|one| {
        let part = |name: &str| one[name].as_str().unwrap_or_default();
        format!("{}={}", part("name"), part("value"))
    });
    shown.collect()
}

pub const TOLLS: &str = "way toll(tons, rate) {
  let base be tons * rate
  when base > 40 { change base to 40 }
  answer base
}
let sum be 0
each tons in [5, 12, 30] {
  change sum to sum + toll(tons, 2)
}
say sum
";

#[test]
fn a_run_is_walked_both_ways_with_all_that_is_seen() {
    let folder = Folder::with_demo();
    let path = folder.write("tolls.tow", TOLLS);
    let mut walker = Walker::launch(&path, &[2], json!({}));
    assert_eq!(walker.stopped(), "breakpoint");
    assert_eq!(
        walker.calls(),
        [("toll".to_owned(), 2), ("the program".to_owned(), 8)]
    );
    assert_eq!(named(&mut walker, "Variables"), ["tons=5", "rate=2"]);
    assert_eq!(walker.go("next"), "step");
    assert_eq!(walker.line(), 3);
    assert!(named(&mut walker, "Variables").contains(&"base=10".to_owned()));
    assert_eq!(walker.evaluate("base + toll(100, 1)"), "50");
    assert_eq!(
        walker.evaluate("based"),
        "there is no binding called `based`"
    );
    assert_eq!(walker.go("stepOut"), "step");
    assert_eq!(walker.line(), 8);
    assert_eq!(walker.go("continue"), "breakpoint");
    assert_eq!(walker.evaluate("tons"), "12");
    assert_eq!(walker.go("reverseContinue"), "breakpoint");
    assert_eq!(walker.evaluate("tons"), "5");
    assert_eq!(walker.go("stepBack"), "step");
    assert_eq!(walker.calls(), [("the program".to_owned(), 8)]);
    // What is asked for meanwhile does not keep a step from ending.
    walker.send("next", json!({ "threadId": 1 }));
    walker.send("threads", json!({}));
    assert_eq!(walker.stopped(), "breakpoint");
    walker.send("next", json!({ "threadId": 1 }));
    walker.send("threads", json!({}));
    assert_eq!(walker.stopped(), "step");
    assert_eq!(walker.line(), 3);
    walker.breakpoints(&path, json!([]));
    walker.ask("continue", json!({ "threadId": 1 }));
    assert_eq!(walker.event("exited")["exitCode"], 0);
    walker.event("terminated");
    assert_eq!(walker.printed(), "74\n");
    walker.end();
}

#[test]
fn breakpoints_have_conditions_counts_and_logs() {
    let folder = Folder::with_demo();
    let path = folder.write("tolls.tow", TOLLS);
    let mut walker = Walker::start();
    walker.ask("launch", json!({ "program": path }));
    let said = walker.breakpoints(
        &path,
        json!([
            { "line": 8, "condition": "tons > 20" },
            { "line": 4, "hitCondition": "2" },
            { "line": 4, "logMessage": "base is {base}" },
            { "line": 99 },
        ]),
    );
    let verified: Vec<&Value> = said
        .as_array()
        .unwrap()
        .iter()
        .map(|one| &one["verified"])
        .collect();
    assert_eq!(verified, [true, true, true, false]);
    walker.ask(
        "setFunctionBreakpoints",
        json!({ "breakpoints": [{ "name": "toll", "condition": "tons = 30" }] }),
    );
    walker.ask("configurationDone", json!({}));
    let stops: Vec<(String, u64)> = (0..4)
        .map(|number| {
            let reason = if number == 0 {
                walker.stopped()
            } else {
                walker.go("continue")
            };
            (reason, walker.line())
        })
        .collect();
    let at = |line: u64| ("breakpoint".to_owned(), line);
    assert_eq!(stops, [at(4), at(8), at(2), at(4)]);
    let logs: Vec<&Value> = walker
        .told
        .iter()
        .filter(|told| told["body"]["category"] == "console")
        .map(|told| &told["body"]["output"])
        .collect();
    assert!(logs.contains(&&json!("base is 10\n")), "{logs:?}");
    walker.end();
}

#[test]
fn what_fails_stops_before_it_goes_out() {
    let folder = Folder::with_demo();
    let path = folder.write(
        "fails.tow",
        "let boats be [1, 2]\nattempt { alarm \"ice\" } mend e { say e }\nsay boats#3\n",
    );
    let mut walker = Walker::start();
    walker.ask("launch", json!({ "program": path }));
    walker.ask("setExceptionBreakpoints", json!({ "filters": ["raised"] }));
    walker.ask("configurationDone", json!({}));
    assert_eq!(walker.stopped(), "exception");
    assert_eq!(walker.line(), 2);
    let info = walker.ask("exceptionInfo", json!({ "threadId": 1 }));
    assert_eq!(info["description"], "this is raised: \"ice\"");
    assert_eq!(info["breakMode"], "always");
    assert_eq!(walker.go("continue"), "exception");
    assert_eq!(walker.line(), 3);
    // Back from what failed to where it could still be helped.
    assert_eq!(walker.go("stepBack"), "step");
    walker.ask("setExceptionBreakpoints", json!({ "filters": [] }));
    walker.ask("continue", json!({ "threadId": 1 }));
    assert_eq!(walker.event("exited")["exitCode"], 1);
    walker.end();
}

#[test]
fn variables_are_unfolded_and_set() {
    let folder = Folder::with_demo();
    let path = folder.write("cards.tow", "let all be []\ncount i from 1 to 1000 { do add(all, [ton: i]) }\nlet level be 4\nsay level\nchange level to level + 1\nsay length(all), level\n");
    let mut walker = Walker::launch(&path, &[4], json!({}));
    walker.stopped();
    let scopes = walker.ask("scopes", json!({ "frameId": 1 }));
    let own = &scopes["scopes"][0]["variablesReference"];
    let variables =
        walker.ask("variables", json!({ "variablesReference": own }))["variables"].clone();
    let all = variables
        .as_array()
        .unwrap()
        .iter()
        .find(|one| one["name"] == "all")
        .unwrap()
        .clone();
    assert_eq!(all["indexedVariables"], 1000);
    // Among others in short; in full where it is asked for.
    let in_short = all["value"].as_str().unwrap().len();
    let in_full = walker.evaluate("all").as_str().unwrap().len();
    assert!(in_short < 1100 && in_full > 10_000, "{in_short} {in_full}");
    let page = walker.ask(
        "variables",
        json!({ "variablesReference": all["variablesReference"], "start": 998, "count": 5 }),
    );
    let page = page["variables"].as_array().unwrap();
    assert_eq!(page.len(), 2);
    assert_eq!(page[1]["name"], "[999]");
    let inner = walker.ask(
        "variables",
        json!({ "variablesReference": page[1]["variablesReference"] }),
    );
    assert_eq!(inner["variables"][0]["value"], "1000");
    let set = walker.ask(
        "setVariable",
        json!({ "variablesReference": own, "name": "level", "value": "level * 10" }),
    );
    assert_eq!(set["value"], "40");
    walker.ask("continue", json!({ "threadId": 1 }));
    walker.event("terminated");
    assert_eq!(walker.printed(), "40\n1000 41\n");
    // What was known while it stood still is not known any more.
    let gone = walker.ask("variables", json!({ "variablesReference": 1 }));
    assert!(gone.as_str().is_some(), "{gone}");
    walker.end();
}

#[test]
fn a_run_that_never_ends_is_paused_and_left() {
    let folder = Folder::with_demo();
    let path = folder.write(
        "ever.tow",
        "let n be 0\nway on() { change n to n + 1 }\nforever { do on() }\n",
    );
    let mut walker = Walker::launch(&path, &[], json!({}));
    walker.ask("threads", json!({}));
    assert!(
        walker
            .ask("stackTrace", json!({ "threadId": 1 }))
            .as_str()
            .is_some()
    );
    assert_eq!(walker.go("pause"), "pause");
    assert!([2, 3].contains(&walker.line()));
    walker.ask("continue", json!({ "threadId": 1 }));
    // A breakpoint that comes while it runs.
    walker.breakpoints(&path, json!([{ "line": 2 }]));
    assert_eq!(walker.stopped(), "breakpoint");
    assert_eq!(walker.go("stepOut"), "step");
    walker.breakpoints(&path, json!([]));
    walker.ask("continue", json!({ "threadId": 1 }));
    walker.close();
}

#[test]
fn languages_that_look_nothing_alike_are_walked() {
    for name in [
        "bank", "punt", "keel", "weir", "towpath", "fleet", "click", "gauge", "ledger", "reach",
    ] {
        let folder = program(name).join("programs");
        let entries = std::fs::read_dir(folder).unwrap();
        let mut files: Vec<PathBuf> = entries.map(|entry| entry.unwrap().path()).collect();
        files.sort();
        let path = files.iter().find(|path| !path.ends_with("long.punt"));
        let path = path.unwrap();
        let mut walker = Walker::launch(path, &[], json!({ "stopOnEntry": true }));
        assert_eq!(walker.stopped(), "entry", "{name}");
        let first = walker.line();
        let mut steps = 0;
        while steps < 6 && walker.go("stepIn") == "step" {
            steps += 1;
        }
        // A short program has come to its end.
        if steps == 6 {
            let back = (0..20).find(|_| walker.go("stepBack") == "entry");
            assert!(back.is_some(), "{name}");
            assert_eq!(walker.line(), first, "{name}");
        }
        walker.end();
    }
}

#[test]
fn what_cannot_be_run_is_said_and_garbage_is_passed_over() {
    let folder = Folder::with_demo();
    let mut walker = Walker::start();
    let why = walker.ask("launch", json!({}));
    assert!(why.as_str().unwrap().contains("`program`"), "{why}");
    let why = walker.ask("launch", json!({ "program": "nowhere.tow" }));
    assert!(why.is_string(), "{why}");
    walker.send_text("no JSON");
    walker.send_text("{}");
    walker.send_text("[1, 2]");
    assert!(walker.ask("dance", json!({})).is_string());
    let path = folder.write("wrong.tow", "say 1 +\n");
    walker.ask("launch", json!({ "program": path }));
    walker.ask("configurationDone", json!({}));
    let told = walker.event("output");
    assert_eq!(told["category"], "stderr");
    assert!(
        told["output"].as_str().unwrap().contains("wrong.tow:1:8: "),
        "{told}"
    );
    walker.event("terminated");
    walker.end();
}

#[test]
fn a_client_can_come_by_a_port() {
    use std::io::{BufRead, BufReader, Read, Write};
    let mut server = common::program()
        .args(["debugger", "--port", "0"])
        .stderr(std::process::Stdio::piped())
        .spawn()
        .unwrap();
    let mut line = String::new();
    BufReader::new(server.stderr.take().unwrap())
        .read_line(&mut line)
        .unwrap();
    let address = line.trim().rsplit(' ').next().unwrap().to_owned();
    let mut stream = std::net::TcpStream::connect(&address).unwrap();
    let body = json!({ "seq": 1, "type": "request", "command": "disconnect" }).to_string();
    write!(stream, "Content-Length: {}\r\n\r\n{body}", body.len()).unwrap();
    let mut answer = String::new();
    stream.read_to_string(&mut answer).unwrap();
    assert!(answer.contains("\"success\":true"), "{answer}");
    assert!(server.wait().unwrap().success());
}

#[test]
fn a_run_stops_where_a_variable_has_another_value_and_begins_again() {
    let folder = Folder::with_demo();
    let path = folder.write("tolls.tow", TOLLS);
    let mut walker = Walker::launch(&path, &[], json!({ "stopOnEntry": true }));
    assert_eq!(walker.stopped(), "entry");
    let info = walker.ask("dataBreakpointInfo", json!({ "name": "sum" }));
    let wanted = json!({ "breakpoints": [{ "dataId": info["dataId"], "accessType": "write" }] });
    let said = walker.ask("setDataBreakpoints", wanted);
    assert_eq!(said["breakpoints"][0]["verified"], true);
    let mut sums = Vec::new();
    for _ in 0..4 {
        assert_eq!(walker.go("continue"), "data breakpoint");
        sums.push(walker.evaluate("sum"));
    }
    assert_eq!(sums, ["0", "10", "34", "74"]);
    assert_eq!(walker.go("reverseContinue"), "data breakpoint");
    assert_eq!(walker.evaluate("sum"), "34");
    assert_eq!(walker.go("restart"), "entry");
    assert_eq!(walker.line(), 1);
    walker.ask("setDataBreakpoints", json!({ "breakpoints": [] }));
    walker.send("continue", json!({ "threadId": 1 }));
    walker.event("terminated");
    assert_eq!(walker.printed(), "74\n");
    walker.end();
}

#[test]
fn places_within_a_line_are_counted_as_clients_count_them() {
    let folder = Folder::with_demo();
    let text = "let a be 1\nlet b be 2\nsay \"😀😀😀😀😀😀😀😀\", a + 1, b + 2\n";
    let path = folder.write("wide.tow", text);
    let mut walker = Walker::launch(&path, &[], json!({ "stopOnEntry": true }));
    assert_eq!(walker.stopped(), "entry");
    walker.breakpoints(&path, json!([{ "line": 3, "column": 25 }]));
    assert_eq!(walker.go("continue"), "breakpoint");
    let calls = walker.ask("stackTrace", json!({ "threadId": 1 }));
    assert_eq!(calls["stackFrames"][0]["column"], 25);
    walker.end();
}

/// The frames where the run stands, as they are told.
fn frames(walker: &mut Walker) -> Vec<Value> {
    let trace = walker.ask("stackTrace", json!({ "threadId": 1 }));
    trace["stackFrames"].as_array().cloned().unwrap_or_default()
}

#[test]
fn a_designer_steps_through_meanings() {
    let folder = Folder::with_demo();
    let path = folder.write("tolls.tow", TOLLS);
    let definition = folder.path().join("towpath.quillon");
    let text = std::fs::read_to_string(&definition).unwrap();
    let form = text.find("form When ").unwrap();
    let means = form + text[form..].find("means").unwrap();
    let line = text[..means].lines().count();
    let mut walker = Walker::start();
    walker.ask("launch", json!({ "program": path, "meanings": true }));
    // In the line with the name of the form nothing is done: it is what comes next.
    let first = text[..form].lines().count() + 1;
    let said = walker.breakpoints(&definition, json!([{ "line": first }]));
    assert_eq!(said[0]["verified"], true);
    assert_eq!(said[0]["line"], line);
    walker.ask("configurationDone", json!({}));
    assert_eq!(walker.stopped(), "breakpoint");
    let seen = frames(&mut walker);
    assert_eq!(seen[0]["line"], line);
    assert_eq!(seen[0]["name"], "what When means");
    assert_eq!(seen[0]["source"]["name"], "towpath.quillon");
    assert_eq!(seen[1]["name"], "toll");
    assert_eq!(seen[1]["line"], 3);
    // Its variables are those of the call.
    let scopes = walker.ask("scopes", json!({ "frameId": seen[0]["id"] }));
    let of_call = walker.ask("scopes", json!({ "frameId": seen[1]["id"] }));
    assert_eq!(scopes["scopes"][0]["name"], of_call["scopes"][0]["name"]);
    let value = walker.ask(
        "evaluate",
        json!({ "frameId": seen[0]["id"], "expression": "tons" }),
    );
    assert_eq!(value["result"], "5");
    // Only one frame is asked for.
    let trace = walker.ask(
        "stackTrace",
        json!({ "threadId": 1, "startFrame": 1, "levels": 1 }),
    );
    assert_eq!(trace["totalFrames"], 3);
    assert_eq!(trace["stackFrames"], json!([seen[1]]));
    // Each step is to another part, and the way back is the way there.
    let place = |walker: &mut Walker| {
        let seen = frames(walker);
        (
            seen[0]["line"].clone(),
            seen[0]["column"].clone(),
            seen[1]["column"].clone(),
        )
    };
    walker.breakpoints(&definition, json!([]));
    walker.breakpoints(&path, json!([{ "line": 2 }]));
    assert_eq!(walker.go("continue"), "breakpoint");
    let start = place(&mut walker);
    assert_eq!(walker.go("next"), "step");
    assert_ne!(place(&mut walker), start);
    assert_eq!(walker.go("stepBack"), "step");
    assert_eq!(place(&mut walker), start);
    // By the line where that is asked for.
    walker.ask("next", json!({ "threadId": 1, "granularity": "line" }));
    assert_eq!(walker.stopped(), "step");
    assert_eq!(frames(&mut walker)[1]["line"], 3);
    walker.end();
}

#[test]
fn the_instructions_around_a_place_are_told() {
    let folder = Folder::with_demo();
    let path = folder.write("tolls.tow", TOLLS);
    let mut walker = Walker::launch(&path, &[3], json!({}));
    assert_eq!(walker.stopped(), "breakpoint");
    let seen = frames(&mut walker);
    let here = seen[0]["instructionPointerReference"].clone();
    let asked = |before: i64, count: i64| json!({ "memoryReference": here, "instructionOffset": -before, "instructionCount": count });
    let told = walker.ask("disassemble", asked(2, 4))["instructions"].clone();
    let told = told.as_array().unwrap();
    assert_eq!(told.len(), 4);
    assert_eq!(told[2]["address"], here);
    assert_eq!(told[2]["line"], 3);
    assert!(
        told[2]["instruction"].as_str().unwrap().contains("40"),
        "{told:?}"
    );
    assert_eq!(told[2]["location"]["name"], "tolls.tow");
    // There are as many as are asked for, also before the first.
    let told = walker.ask("disassemble", asked(50, 20))["instructions"].clone();
    let told = told.as_array().unwrap();
    assert_eq!(told.len(), 20);
    assert_eq!(told[0]["presentationHint"], "invalid");
    // However far away.
    for far in [i64::MAX, i64::MIN] {
        let mut asked = asked(0, 2);
        asked["offset"] = far.into();
        asked["instructionOffset"] = far.into();
        let told = walker.ask("disassemble", asked)["instructions"].clone();
        assert!(told.as_array().unwrap().len() <= 2);
    }
    // An instruction on is another address.
    walker.ask(
        "next",
        json!({ "threadId": 1, "granularity": "instruction" }),
    );
    assert_eq!(walker.stopped(), "step");
    assert_ne!(frames(&mut walker)[0]["instructionPointerReference"], here);
    assert_eq!(
        walker.ask(
            "disassemble",
            json!({ "memoryReference": "0x7", "instructionCount": 1 })
        ),
        "no instruction is at this address"
    );
    walker.end();
}

#[test]
fn what_is_set_stays_until_a_restart() {
    let folder = Folder::with_demo();
    let path = folder.write(
        "levels.tow",
        "let level be 1\nsay level\nlet more be level + 1\nsay more\n",
    );
    let mut walker = Walker::launch(&path, &[2], json!({}));
    assert_eq!(walker.stopped(), "breakpoint");
    let scopes = walker.ask("scopes", json!({ "frameId": 1 }));
    let reference = scopes["scopes"][0]["variablesReference"].clone();
    let set = json!({ "variablesReference": reference, "name": "level", "value": "30" });
    assert_eq!(walker.ask("setVariable", set)["value"], "30");
    assert_eq!(walker.go("next"), "step");
    assert_eq!(walker.go("next"), "step");
    assert_eq!(walker.go("stepBack"), "step");
    assert_eq!(walker.evaluate("level"), "30");
    assert_eq!(walker.go("restart"), "breakpoint");
    assert_eq!(walker.evaluate("level"), "1");
    walker.ask("continue", json!({ "threadId": 1 }));
    walker.event("terminated");
    assert_eq!(walker.printed(), "30\n1\n2\n");
    walker.end();
}
