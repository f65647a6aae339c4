//! Conversations: what entries leave behind, what is taken back, and what outlives a change
//! of the definition.

use crate::common::with_tokens;
use quillon_core::runtime::{Limits, Recorder};
use quillon_core::source::SourceText;
use quillon_core::{Language, Reading, Session};

/// Lists that can be changed in place, functions that share variables, and a cell.
const ITEMS: &str = "
state
  rung = 0
provides
  pair(a, b)  means [a, b]   -- a list of two
  most        means [9]
  tide()      means depths(3, rung)
define depths(n, from) = if n = 0 { [] } else { let rest = depths(n - 1, from + 1); list.insert(rest, 0, from); rest }
form Program
  written  steps:Step*
  means    all steps
usual Let, Variable, Number
form Set in Step
  written  \"set\" name:Name \"=\" value:Expr
  uses     name to change
  means    name := value
form Push in Step
  written  \"push\" list:Expr value:Expr
  means    list.add(list, value)
form Ring in Step
  written  \"ring\"
  means    rung := rung + 1
form Break in Step
  written  \"break\"
  means    fault \"broken\"
form Rouse in Expr
  written  \"rouse\" \"{\" steps:Step* \"}\"
  opens    scope
  means    coroutine.make(function () { all steps })
form Show in Step
  written  \"show\" value:Expr
  means    value
form Function in Expr
  written  \"fn\" \"{\" steps:Step* \"}\"
  opens    scope
  means    function () { all steps }
form Call in Expr
  written  \"call\" callee:Expr
  means    call callee
form List in Expr
  written  \"[\" items:Expr* \"]\"
  means    items
";

struct Talk {
    session: Session<Recorder>,
}

impl Talk {
    fn new(language: &Language) -> Talk {
        let session = language.session().start(Recorder::default());
        Talk {
            session: session.unwrap(),
        }
    }

    /// What an entry gives, or its error.
    fn enter(&mut self, text: &str) -> String {
        let outcome = self.session.enter_source(&SourceText::new("entry", text));
        match outcome.value {
            Some(value) => value.written(),
            None => outcome.diagnostics[0].message.clone(),
        }
    }

    fn cells(&self) -> String {
        let cells = self.session.state();
        let cells: Vec<String> = cells
            .map(|(n, value)| format!("{n} {}", value.written()))
            .collect();
        cells.join(", ")
    }
}

#[test]
fn a_failed_entry_leaves_lists_functions_constants_and_state_as_they_were() {
    let mut talk = Talk::new(&with_tokens(ITEMS));
    talk.enter("let l = [1] let other = l let n = 0");
    talk.enter("let count = fn { push l 7 set n = 5 }");
    assert_eq!(
        talk.enter("push l 2 push most 8 ring set n = 1 let m = call count break"),
        "broken"
    );
    assert_eq!(talk.enter("show [l other n most]"), "[[1], [1], 0, [9]]");
    assert_eq!(talk.cells(), "rung 0");
    // What was shared is shared still.
    talk.enter("push l 3");
    assert_eq!(talk.enter("show other"), "[1, 3]");
    talk.enter("show call count");
    assert_eq!(talk.enter("show [l n]"), "[[1, 3, 7], 5]");
}

#[test]
fn variables_that_functions_capture_come_back_too() {
    let own = with_tokens(&format!(
        "{ITEMS}
form Counter in Expr
  written  \"counter\"
  means    let n = 0; function () {{ n := n + 1; n }}
"
    ));
    let mut talk = Talk::new(&own);
    talk.enter("let one = counter");
    assert_eq!(talk.enter("show call one"), "1");
    assert_eq!(talk.enter("let x = call one break"), "broken");
    assert_eq!(talk.enter("show call one"), "2");
}

#[test]
fn entries_are_taken_back_one_by_one() {
    let mut talk = Talk::new(&with_tokens(ITEMS));
    assert!(!talk.session.undo());
    talk.session.remember(2);
    talk.enter("let l = [1]");
    talk.enter("push l 2 ring");
    talk.enter("let l = [0]");
    assert!(talk.session.undo());
    assert_eq!(talk.enter("show l"), "[1, 2]");
    assert!(talk.session.undo(), "of `show l`");
    assert!(talk.session.undo());
    assert_eq!(
        (talk.enter("show l"), talk.cells()),
        ("[1]".into(), "rung 0".into())
    );
    assert!(talk.session.undo());
    assert!(!talk.session.undo(), "only two are remembered");
}

#[test]
fn a_changed_definition_keeps_names_values_and_cells() {
    let mut talk = Talk::new(&with_tokens(ITEMS));
    talk.enter("let l = [1] let f = fn { push l 2 show l } ring");
    let grown = with_tokens(&format!(
        "{}
form Twice in Expr
  written  \"twice\" value:Expr
  means    value * 2
",
        ITEMS.replace("rung = 0", "rung = 5\n  late = 1")
    ));
    let lost = talk.session.reload(&grown).unwrap();
    assert_eq!(lost, []);
    assert_eq!(talk.enter("show call f"), "[1, 2]");
    assert_eq!(talk.enter("show twice 21"), "42");
    assert_eq!(talk.cells(), "rung 1, late 1");
    assert!(
        !talk.session.undo(),
        "what was before is of another language"
    );
}

#[test]
fn what_a_changed_definition_cannot_keep_is_told() {
    let mut talk = Talk::new(&with_tokens(ITEMS));
    talk.enter("let l = [1] let f = fn { show pair } let held = [f] ring");
    // What is built in has other numbers now: functions would mean something else.
    let other = with_tokens(
        &ITEMS
            .replace("pair(a, b)", "first(a, b)")
            .replace("rung", "bell"),
    );
    let lost = talk.session.reload(&other).unwrap();
    let lost: Vec<(&str, bool)> = lost.iter().map(|l| (l.name.as_str(), l.is_state)).collect();
    assert_eq!(lost, [("rung", true), ("f", false), ("held", false)]);
    assert_eq!(talk.enter("show l"), "[1]");
    assert_eq!(talk.enter("show f"), "there is no binding called `f`");
    assert_eq!(talk.cells(), "bell 0");
}

#[test]
fn constants_that_fail_leave_the_session_as_it_was() {
    let mut talk = Talk::new(&with_tokens(ITEMS));
    talk.enter("let l = [1] ring");
    let broken = with_tokens(
        &ITEMS
            .replace("means [9]", "means [1 / 0]")
            .replace("depths(3, rung)", "0"),
    );
    assert!(talk.session.reload(&broken).is_err());
    // Nobody has asked for it before.
    assert_eq!(talk.enter("show call tide"), "[1, 2, 3]");
    assert_eq!(talk.enter("show [l most]"), "[[1], [9]]");
    assert_eq!(talk.cells(), "rung 1");
}

/// What an entry gives where it is followed, on a copy of a session as it was some entries before.
fn followed(talk: &Talk, back: usize, text: &str) -> String {
    let mut copy = match talk.session.rehearsal(Recorder::default(), back) {
        Ok(copy) => copy,
        Err(problem) => return problem.why.join("; "),
    };
    let source = SourceText::new("entry", text);
    let mut steps = 0;
    let outcome =
        quillon_core::debugging::trace(&mut copy, &source, Reading::Entry, &mut |_| steps += 1);
    match outcome.value {
        Some(value) => {
            assert!(steps > 0, "{text} is followed");
            value.written()
        }
        None => outcome.diagnostics[0].message.clone(),
    }
}

#[test]
fn what_is_followed_on_a_copy_is_what_the_session_would_do() {
    let language = with_tokens(ITEMS);
    let mut talk = Talk::new(&language);
    talk.session.remember(10);
    for entry in [
        "let a = [1 2]",
        "let b = a",
        "let n = 1",
        // One that shares a variable with the session, one that has captured one that never
        // changes, and one that calls itself.
        "let up = fn { set n = [n] show n }",
        "let make = fn { let own = 5 let also = own show fn { push a also set own = [own] show own } }",
        "let own = call make",
        "ring",
    ] {
        talk.enter(entry);
    }
    for entry in [
        "push a 3 show b",
        "show call up",
        "show call own show call own",
        "ring show most",
        "push most 1 show most",
        "show pair",
        "show call tide",
        "ring show [call tide tide]",
        "break",
        "show missing",
    ] {
        let before = (talk.cells(), talk.enter("show [a b n]"));
        let copied = followed(&talk, 1, entry);
        assert_eq!(followed(&talk, 0, entry), copied, "{entry}");
        assert_eq!(
            (talk.cells(), talk.enter("show [a b n]")),
            before,
            "{entry}"
        );
        assert_eq!(talk.enter(entry), copied, "{entry}");
    }
}

#[test]
fn a_copy_is_as_all_was_before_some_entries() {
    let language = with_tokens(ITEMS);
    let mut talk = Talk::new(&language);
    talk.session.remember(3);
    for entry in [
        "let a = [1]",
        "push a 2",
        "push a 3",
        "push a 4",
        "push a 5",
    ] {
        talk.enter(entry);
    }
    assert_eq!(followed(&talk, 0, "show a"), "[1, 2, 3, 4, 5]");
    assert_eq!(followed(&talk, 2, "show a"), "[1, 2, 3]");
    assert_eq!(
        followed(&talk, 4, "show a"),
        "how all was before it is not remembered any more"
    );
    assert_eq!(talk.enter("let c = 1"), "nothing");
    assert_eq!(
        followed(&talk, 1, "show c"),
        "there is no binding called `c`"
    );
    assert_eq!(followed(&talk, 0, "show c"), "1");
    talk.enter("let later = rouse { show 1 }");
    assert_eq!(
        followed(&talk, 0, "show a"),
        "a value of the session is a coroutine, and where that stands cannot be copied"
    );
}

#[test]
fn a_copy_has_the_limits_of_the_session() {
    let language = with_tokens(ITEMS);
    let mut talk = Talk::new(&language);
    let mut entry = "let a = [".to_owned();
    entry.push_str(&"1 ".repeat(20_000));
    talk.enter(&(entry + "]"));
    talk.session.set_limits(Limits {
        memory: Some(100_000),
        ..Limits::default()
    });
    assert_eq!(
        followed(&talk, 0, "show 1"),
        "the session had to be copied, and the run was stopped: it needs more than 98 KiB of memory"
    );
}
