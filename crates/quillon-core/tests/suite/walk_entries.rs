//! Walking through the entries of a conversation.

use quillon_core::Session;
use quillon_core::debugging::{At, Order, Pace, StopAt, Stopped, walk_entry};
use quillon_core::runtime::Recorder;
use quillon_core::source::SourceText;

use crate::walks::{ON, Script, lifts, variables};

const FORM: Order = Order::Forwards(Pace::IntoForm);
const LINE: Order = Order::Forwards(Pace::IntoLine);

fn conversation() -> Session<Recorder> {
    let session = lifts().session().start(Recorder::default());
    let mut session = session.unwrap();
    for entry in [
        "let a = 2",
        "way raised(n) {\n  let more = n + a;\n  more + 1\n}",
        "count 5",
    ] {
        session.enter("entry", entry).unwrap();
    }
    session
}

fn walked(session: &Session<Recorder>, script: &mut Script, entry: &str) -> String {
    let mut host = Recorder::default();
    let source = SourceText::new("entry 4", entry);
    walk_entry(session, 0, &source, &mut host, script);
    host.printed
}

#[test]
fn an_entry_is_walked_among_what_earlier_entries_have_left() {
    let session = conversation();
    let mut script = Script::new(std::iter::repeat_n(LINE, 12)).looking(variables);
    let printed = walked(
        &session,
        &mut script,
        "let b = raised(a);\nsay b;\na := b;\ncount 1",
    );
    assert_eq!(printed, "5\n");
    let seen = script.seen.join("\n");
    assert!(seen.contains("a=2"), "{seen}");
    assert!(
        seen.contains("n=2"),
        "into a function of an earlier entry: {seen}"
    );
    assert!(seen.contains("b=5 "), "{seen}");
    assert!(script.seen.iter().any(|one| one.contains("a=5")), "{seen}");
    assert_eq!(script.seen.last().unwrap(), "ended well");
    // The conversation is as it was.
    let names: Vec<String> = session
        .names()
        .into_iter()
        .filter_map(|(name, value)| Some(format!("{name}={}", value?.written())))
        .collect();
    assert!(names.contains(&"a=2".to_owned()), "{names:?}");
    assert!(names.iter().all(|one| !one.starts_with("b=")), "{names:?}");
    assert_eq!(session.cell("counted").unwrap().written(), "5");
}

fn sum(at: &mut Stopped<'_, '_, '_>) -> String {
    at.evaluate(0, "a + 1")
        .map_or_else(|_| "nothing".to_owned(), |answer| answer.value.written())
}

#[test]
fn an_expression_alone_is_walked_both_ways_and_what_a_session_keeps_is_set() {
    let session = conversation();
    let orders = [
        FORM,
        FORM,
        Order::Backwards(Pace::IntoForm),
        Order::ToBeginning,
        Order::End,
    ];
    let mut script = Script::new(orders).looking(sum);
    walked(&session, &mut script, "raised(a) + a");
    assert_eq!(script.seen.len(), 5, "{:?}", script.seen);
    assert!(
        script.seen.iter().all(|one| one.starts_with('3')),
        "{:?}",
        script.seen
    );

    // Also where the names of a call stand before those of the session.
    let called = |at: &mut Stopped<'_, '_, '_>| match at.evaluate(0, "raised(10)") {
        Ok(answer) => answer.value.written(),
        Err(_) => "nothing".to_owned(),
    };
    let mut script = Script::new(std::iter::repeat_n(LINE, 3)).looking(called);
    walked(&session, &mut script, "raised(a)");
    let all = script.seen.iter().filter(|one| !one.starts_with("ended"));
    assert!(all.clone().count() > 2, "{:?}", script.seen);
    assert!(
        all.clone().all(|one| one.starts_with("13")),
        "{:?}",
        script.seen
    );

    let set = |at: &mut Stopped<'_, '_, '_>| match at.set(0, "a", "7") {
        Ok(value) => value.written(),
        Err(_) => "not set".to_owned(),
    };
    let mut script = Script::new([ON]).looking(set);
    assert_eq!(walked(&session, &mut script, "say a"), "7\n");
    assert_eq!(script.seen[0], "7 begins");

    // A text that is carried out finds the names of the session, and those that the entry is about to bind.
    let carried = |at: &mut Stopped<'_, '_, '_>| {
        let carried = at.carry_out(0, "a := raised(a) + a");
        carried.map_or_else(|problems| problems.to_string(), |_| sum(at))
    };
    let mut script = Script::new([ON]).looking(carried);
    assert_eq!(
        walked(&session, &mut script, "let more = a; say more"),
        "7\n"
    );
    assert_eq!(script.seen, ["8 begins", "ended well"]);

    let mut script = Script::new([ON, ON, ON]).looking(sum);
    script
        .stops
        .all
        .push(StopAt::new(At::Change("a".to_owned())));
    walked(&session, &mut script, "a := 2;\na := 3;\nsay a");
    assert_eq!(script.seen[1..], ["4 stop 0", "ended well"]);
}

#[test]
fn an_entry_that_has_been_made_is_walked_from_how_all_was_before_it() {
    let mut session = lifts().session().start(Recorder::default()).unwrap();
    session.remember(9);
    for entry in ["let a = 2", "let b = 3", "a := a + b"] {
        session.enter("entry", entry).unwrap();
    }
    let walked = |back: usize, entry: &str| {
        let mut script = Script::new([ON]).looking(variables);
        let source = SourceText::new("entry", entry);
        walk_entry(
            &session,
            back,
            &source,
            &mut Recorder::default(),
            &mut script,
        );
        script.seen
    };
    assert_eq!(
        walked(1, "a := a + b"),
        ["^b=3 ^a=2 counted=0 begins", "ended well"]
    );
    assert_eq!(walked(0, "say a")[0], "^b=3 ^a=5 counted=0 begins");
    assert_eq!(walked(2, "let b = 4")[0], "^a=2 counted=0 begins");
    assert!(walked(9, "say a")[0].contains("cannot be followed"));
}
