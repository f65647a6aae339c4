//! Stops at forms and at changes, and what is around a place where a run stands.

use quillon_core::debugging::{At, Order, Pace, Stopped};

use crate::walks::{ON, PROGRAM, Script, lines, variables};

const BACK: Order = Order::Backwards(Pace::Stop);

#[test]
fn a_run_stops_where_a_form_begins() {
    let all = || std::iter::repeat_n(ON, 20);
    let mut script = Script::new(all()).stop(At::Form("Add".to_owned()));
    script.walk(PROGRAM, "");
    // Each addition of both calls, and what a function is made of is not where it is made.
    assert_eq!(
        lines(&script)[1..],
        ["2:3", "2:4", "2:3", "2:4", "ended"],
        "{:?}",
        script.seen
    );
    let mut script = Script::new(all()).stop(At::Form("Way".to_owned()));
    script.walk(PROGRAM, "");
    assert_eq!(lines(&script)[1..], ["1:2", "ended"], "{:?}", script.seen);

    let nested = "let i = 0;\nwhile i < 2 {\n  while i + 1 < 2 { i := i + 1 };\n  i := i + 1\n}";
    let mut script = Script::new(all()).stop(At::Form("While".to_owned()));
    script.walk(nested, "");
    let at: Vec<&str> = lines(&script)[1..].to_vec();
    assert_eq!(
        at[..2],
        ["1:2", "1:3"],
        "the outer before the inner: {at:?}"
    );

    let mut script = Script::new(all()).stop(At::Form("Nothing".to_owned()));
    script.walk(nested, "");
    assert_eq!(lines(&script)[1..], ["ended"]);
}

const CHANGES: &str = "let level = 1;
let other = 1;
other := 2;
level := 1;
level := 3;
count 0;
count 2;
way deeper(level) { let more = level + 1; more };
say deeper(7);
level := 4";

#[test]
fn a_run_stops_where_something_has_another_value() {
    let mut script = Script::new(std::iter::repeat_n(ON, 20))
        .stop(At::Change("level".to_owned()))
        .stop(At::Change("counted".to_owned()))
        .looking(variables);
    script.walk(CHANGES, "");
    let seen: Vec<(bool, bool)> = script.seen[1..]
        .iter()
        .map(|one| (one.ends_with("stop 0"), one.ends_with("stop 1")))
        .collect();
    // Given 1, 3 and 4; the 1 once more changes nothing, and a call's own begins with what it has.
    let told = [
        (true, false),
        (true, false),
        (false, true),
        (true, false),
        (false, false),
    ];
    assert_eq!(seen, told, "{:?}", script.seen);
    assert!(script.seen[2].contains("level=3"), "{:?}", script.seen);
    assert!(script.seen[3].contains("counted=2"), "{:?}", script.seen);

    let orders = [vec![ON; 4], vec![BACK; 3], vec![Order::End]].concat();
    let mut script = Script::new(orders)
        .stop(At::Change("level".to_owned()))
        .looking(variables);
    script.walk(CHANGES, "");
    let back: Vec<&String> = script.seen[5..].iter().collect();
    assert!(back[0].contains("level=4"), "{:?}", script.seen);
    assert!(back[1].contains("level=3"), "{:?}", script.seen);
    assert!(back[2].contains("level=1"), "{:?}", script.seen);
}

fn around(at: &mut Stopped<'_, '_, '_>) -> String {
    let call = &at.calls()[0];
    let forms = at.around(0).into_iter().map(|one| {
        let text = call.source.slice(one.span);
        format!("{}[{}]", one.form, text.lines().next().unwrap_or_default())
    });
    forms.collect::<Vec<_>>().join(" ") + &format!(" {}", at.printed())
}

#[test]
fn the_forms_around_a_place_are_seen_and_what_has_been_printed() {
    let orders = [ON, ON, Order::Backwards(Pace::Stop), Order::End];
    let mut script = Script::new(orders)
        .stop(At::Place("lift".to_owned(), 4, 3))
        .looking(around);
    script.walk(PROGRAM, "");
    let inside = "Program[let a = 1;] Way[way raised(n) {] Do[more + a] Add[more + a]";
    let at = |printed: usize| format!("{inside} {printed} stop 0");
    assert_eq!(script.seen[1..], [at(0), at(2), at(0)]);
}
