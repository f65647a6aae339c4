//! Going on at another line than where a run stands.

use std::cell::Cell;

use quillon_core::debugging::{At, Order, Pace, Stopped};

use crate::walks::{ON, Script, variables};

const LINE: Order = Order::Forwards(Pace::Line);
const BACK: Order = Order::Backwards(Pace::Line);

fn line(at: &Stopped<'_, '_, '_>) -> u32 {
    let calls = at.calls();
    calls[0].source.line_of(calls[0].span.start)
}

/// The lines at which the innermost call can go on.
fn places(at: &mut Stopped<'_, '_, '_>) -> String {
    let places = at.elsewhere();
    let lines: Vec<String> = places.iter().map(|place| place.line.to_string()).collect();
    format!("{}>{}<", line(at), lines.join(","))
}

thread_local!(static GONE: Cell<u32> = const { Cell::new(0) });

/// On line 2 for the first time, goes on at line 4; what is seen there.
fn over_line_3(at: &mut Stopped<'_, '_, '_>) -> String {
    if line(at) == 2 && GONE.with(|gone| gone.replace(gone.get() + 1)) == 0 {
        let place = at.elsewhere().into_iter().find(|place| place.line == 4);
        at.go_on_at(place.unwrap());
    }
    format!("{} {}", line(at), variables(at))
}

const STEPS: &str = "let level = 1;\nlevel := 20;\nlevel := level + 1;\nsay level;\nsay \"over\"";

#[test]
fn what_lies_between_is_left_out() {
    GONE.set(0);
    // To line 2 and so to line 4, on to line 5, back over what was left out, and on to the end.
    let orders = [vec![LINE; 2], vec![BACK; 2], vec![LINE; 5]].concat();
    let mut script = Script::new(orders).looking(over_line_3);
    let printed = script.walk(STEPS, "");
    let seen: Vec<&str> = script.seen.iter().map(|one| &one[..1]).collect();
    assert_eq!(
        seen,
        ["1", "4", "5", "4", "1", "4", "5", "e"],
        "{:?}",
        script.seen
    );
    assert!(script.seen[1].contains("level=1"), "{:?}", script.seen);
    assert_eq!(printed, "1\nover\n");
}

/// On line 4 for the first time, goes on at line 2 once more.
fn once_more(at: &mut Stopped<'_, '_, '_>) -> String {
    if line(at) == 4 && GONE.with(|gone| gone.replace(gone.get() + 1)) == 0 {
        let place = at.elsewhere().into_iter().find(|place| place.line == 3);
        at.go_on_at(place.unwrap());
    }
    format!("{} {}", line(at), variables(at))
}

#[test]
fn what_has_been_done_is_done_again() {
    GONE.set(0);
    let mut script = Script::new(vec![LINE; 9]).looking(once_more);
    let printed = script.walk(STEPS, "");
    assert_eq!(printed, "22\nover\n", "{:?}", script.seen);
}

const LOOPS: &str = "let i = 0;
while i < 3 {
  i := i + 1;
  say i
};
say \"between\";
way other() {
  say \"other\"
};
other()";

#[test]
fn loops_are_left_and_not_gone_into() {
    let outside = || Script::new([ON]).stop(At::Line("lift".to_owned(), 6));
    let mut script = outside().looking(places);
    script.walk(LOOPS, "");
    assert_eq!(
        script.seen[1].trim_end_matches(" stop 0"),
        "6>1,6,7,10<",
        "not into the loop"
    );
    let mut script = Script::new([ON])
        .stop(At::Line("lift".to_owned(), 4))
        .looking(places);
    script.walk(LOOPS, "");
    assert!(
        script.seen[1].starts_with("4>1,2,3,4,6,7,10<"),
        "{:?}",
        script.seen
    );
}

#[test]
fn what_has_to_be_ended_is_neither_left_nor_gone_into() {
    let text = "let kept = 1;
keep kept {
  say kept;
  say \"in\"
};
say \"out\"";
    let language = crate::common::with_tokens(&format!(
        "{}{}",
        crate::walks::LIFTS,
        "form Keep in Step
  written  \"keep\" name:Name \"{\" steps:Step* by \";\" \"}\"
  uses     name
  means    attempt { all steps } always { output(\"ended\\n\") }
"
    ));
    let mut script = Script::new([ON])
        .stop(At::Line("lift".to_owned(), 3))
        .looking(places);
    script.walk_in(&language, text, "");
    assert!(script.seen[1].starts_with("3>"), "{:?}", script.seen);
    assert!(script.seen[1].contains("3,4<"), "{:?}", script.seen);
    let mut script = Script::new([ON])
        .stop(At::Line("lift".to_owned(), 6))
        .looking(places);
    script.walk_in(&language, text, "");
    assert!(!script.seen[1].contains(",3,"), "{:?}", script.seen);
}

#[test]
fn it_goes_on_in_its_own_function_only() {
    let mut script = Script::new([ON])
        .stop(At::Line("lift".to_owned(), 8))
        .looking(places);
    script.walk(LOOPS, "");
    assert_eq!(script.seen[1], "8>8< stop 0");
}

/// Where something fails, there is nowhere else to go on; what is not offered is not gone to.
fn none_of_a_fault(at: &mut Stopped<'_, '_, '_>) -> String {
    let count = at.elsewhere().len();
    if let Some(mut place) = at.elsewhere().first().copied() {
        place.at += 1;
        at.go_on_at(place);
    }
    format!("{} {count}", line(at))
}

#[test]
fn what_is_not_offered_is_not_gone_to() {
    let mut script = Script::new([ON]).looking(none_of_a_fault);
    script.stops.faults.uncaught = true;
    script.walk("say 1;\nfail 2", "");
    assert_eq!(script.seen[0], "1 2 begins");
    assert!(script.seen[1].starts_with("2 0 "), "{:?}", script.seen);
}
