//! State that outlives a run.

use crate::common::{language, mistakes, value};
use quillon_core::Prepared;
use quillon_core::definition::Literal;
use quillon_core::runtime::Recorder;
use quillon_core::source::SourceText;
use quillon_core::testing::{Verdict, case_limits, examples, run_case};
use quillon_core::values::Held;
use quillon_core::{Language, Session};

const GAUGE: &str = "language Gauge
  entries  Program, Command
tokens
  Blank  [ \\n]+ ignored
  Whole  digit+  holds integer
state
  level = 2 * 3
  log   = [[0], []]
form Program
  written  steps:Command*
  means    all steps
form Up in Command
  written  \"up\" by:Whole
  means    level := level + by; list.add(list.item(log, 1), level)
  example  `up 3 up 1`   gives nothing
  example  `up 3 up 1`   leaves level = 10   leaves log = [[0, 9, 10], []]
  example  `up 3`        given state level = 1   leaves level = 4
form Share in Command
  written  \"share\"
  means    list.add(log, list.item(log, 1))
form Read in Command
  written  \"read\"
  means    level
form Ask in Command
  written  \"ask\"
  means    input()
  example  `ask ask`     given input \"one\\ntwo\"   gives \"two\"
form Break in Command
  written  \"break\"
  means    list.add(list.item(log, 1), 1); level := 0; fault \"broken\"
";

fn gauge() -> Language {
    language(GAUGE)
}

fn state<H>(session: &Session<H>) -> String {
    let cells = session
        .state()
        .map(|(name, value)| format!("{name} {}", value.written()));
    cells.collect::<Vec<_>>().join(", ")
}

/// A host can make a value in any way: nested deeper than a native stack, and looked into before it
/// was ever in a session.
#[test]
fn values_from_outside_are_like_those_of_a_program() {
    let mut deep = Literal::Integer(1);
    for _ in 0..200_000 {
        deep = Literal::List(vec![deep]);
    }
    let deep = Held::new(deep);
    let mut host = Recorder::default();
    let mut session = gauge().session().start(&mut host).unwrap();
    assert!(session.set_state("level", &deep).is_ok());
    let (_, level) = session.state().next().unwrap();
    assert!(level.shown().starts_with("[[[[["));
    drop(level.clone());

    let text = |text: &str| Literal::Text(text.to_owned());
    let boat = Held::new(Literal::Map(vec![
        (text("name"), text("Heron")),
        (text("lengths"), Literal::List(vec![Literal::Integer(12)])),
    ]));
    assert_eq!(boat.keys(), ["name", "lengths"]);
    assert_eq!(boat.entry("name").unwrap().as_text().unwrap(), "Heron");
    assert_eq!(boat.entry("lengths").unwrap().written(), "[12]");
    assert!(boat.entry("width").is_none());
}

#[test]
fn cells_are_read_and_set_by_name_and_begin_anew_in_each_session() {
    let own = gauge();
    assert_eq!(value(&own, "up 3 up 1 read"), "10");
    assert_eq!(value(&own, "read"), "6");
    for example in examples(&own) {
        let result = run_case(
            &Prepared::new(&own),
            &own.definition().source,
            example,
            case_limits(),
        );
        assert_eq!(
            result.verdict,
            Verdict::Passed,
            "{}: {:?}",
            result.title,
            result.differences
        );
    }
}

#[test]
fn a_failed_entry_leaves_the_state_as_it_was_inside_and_out() {
    let own = gauge();
    let mut host = Recorder::default();
    let mut session = own.session().start(&mut host).unwrap();
    let mut enter = |text: &str| {
        let outcome = session.enter_source(&SourceText::new("entry", text));
        format!("{} {}", outcome.value.is_some(), state(&session))
    };
    assert_eq!(enter("up 1"), "true level 7, log [[0, 7], []]");
    assert_eq!(enter("break"), "false level 7, log [[0, 7], []]");
    // What the state shares with itself it still shares after an error.
    assert_eq!(enter("share"), "true level 7, log [[0, 7], [], [0, 7]]");
    enter("break");
    assert_eq!(
        enter("up 1"),
        "true level 8, log [[0, 7, 8], [], [0, 7, 8]]"
    );
    assert!(session.set_state("level", 1).is_ok());
    let unknown = session.set_state("levl", 1).unwrap_err();
    assert_eq!(unknown.message, "the state has no `levl`");
    assert_eq!(unknown.remedies, ["did you mean `level`?"]);
    assert!(state(&session).starts_with("level 1,"));
}

#[test]
fn mistakes_in_the_state_are_said() {
    let with = |state: &str, means: &str| {
        mistakes(&format!(
            "language Own\ntokens\n  Name letter+\nstate\n{state}\nform F\n  written \"f\"\n  means {means}\n"
        ))
    };
    assert_eq!(
        with("  level = 0", "level := levle"),
        ["8:18 form `F` has no field `levle`"]
    );
    assert_eq!(
        with("  level = 0\n  level = 1", "level"),
        ["6:3 state `level` is described twice"]
    );
    assert_eq!(with("  level 0", "nothing"), ["5:8 `=` is missing here"]);
    let own = language(
        "language Own\ntokens\n  Name letter+\nstate\n  level = 1 / 0\nform F\n  written \"f\"\n  means level\n  example `f` leaves depth = 1\n  example `f` given state depth = 1 gives 1\n",
    );
    assert!(value(&own, "f").contains("divided by zero"));
}
