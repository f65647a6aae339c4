//! Stops at forms and at changes, and what is around a place where a run stands.

use std::cell::Cell;

use quillon_core::Reading;
use quillon_core::debugging::{At, Guide, Order, Pace, Reason, StopAt, Stopped, Stops, walk};
use quillon_core::diagnostic::Outcome;
use quillon_core::runtime::Recorder;
use quillon_core::source::SourceText;
use quillon_core::values::Held;

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

/// Gives a variable another value, if nobody has; what is seen then.
fn set_level(at: &mut Stopped<'_, '_, '_>) -> String {
    let line = at.calls()[0].source.line_of(at.calls()[0].span.start);
    if line == 3
        && at
            .evaluate(0, "level")
            .is_ok_and(|answer| answer.value.written() == "1")
    {
        at.set(0, "level", "level + 49").unwrap();
    }
    format!("{line} {}", variables(at))
}

#[test]
fn what_is_changed_belongs_to_the_run() {
    let text = "let level = 1;\nlet other = 2;\nsay other;\nsay level;\nlevel := 7;\nsay level";
    let forwards = Order::Forwards(Pace::Line);
    let back = Order::Backwards(Pace::Line);
    // To line 3, where it is changed, on to line 5, back over that to line 2, and on to the end.
    let there = vec![forwards.clone(); 4];
    let orders = [there, vec![back; 3], vec![forwards; 9]].concat();
    let mut script = Script::new(orders).looking(set_level);
    let printed = script.walk(text, "");
    let level = |number: usize| {
        let seen = &script.seen[number];
        let held = seen.split("level=").nth(1).unwrap_or("none");
        (
            seen[..1].to_owned(),
            held.split(' ').next().unwrap().to_owned(),
        )
    };
    let told: Vec<(String, String)> = (2..script.seen.len() - 1).map(level).collect();
    let told: Vec<(&str, &str)> = told.iter().map(|(a, b)| (&**a, &**b)).collect();
    assert_eq!(
        told,
        [
            ("3", "50"),
            ("4", "50"),
            ("5", "50"),
            // Back over it, and on.
            ("4", "50"),
            ("3", "50"),
            ("2", "1"),
            ("3", "50"),
            ("4", "50"),
            ("5", "50"),
            ("6", "7"),
        ],
        "{:?}",
        script.seen
    );
    assert_eq!(printed, "2\n50\n7\n", "each line once");
}

thread_local!(static PASSED: std::cell::Cell<bool> = const { std::cell::Cell::new(false) });

/// On line 4 first, and further back then; what is seen.
fn set_back(at: &mut Stopped<'_, '_, '_>) -> String {
    let line = at.calls()[0].source.line_of(at.calls()[0].span.start);
    let held = at.evaluate(0, "level").map(|answer| answer.value.written());
    match (line, held.as_deref()) {
        (4, Ok("2")) => drop(at.set(0, "level", "100").unwrap()),
        // Back on line 3 after that: what was done on line 4 is not done any more.
        (3, Ok("2")) if PASSED.with(|passed| passed.replace(true)) => {
            at.set(0, "level", "\"low\"").unwrap();
        }
        _ => {}
    }
    let held = at.evaluate(0, "level").map(|answer| answer.value.written());
    format!("{line} {}", held.unwrap_or_default())
}

#[test]
fn a_change_further_back_takes_the_place_of_what_came_after() {
    let text = "let level = 1;\nlevel := level + 1;\nsay level;\nlevel := level + 1;\nsay level";
    let forwards = || Order::Forwards(Pace::Line);
    let orders = [
        vec![forwards(); 3],
        vec![Order::Backwards(Pace::Line)],
        vec![forwards(); 9],
    ];
    let mut script = Script::new(orders.concat()).looking(set_back);
    let printed = script.walk(text, "");
    // Line 3 as 2, line 4 as 100, back on line 3 as a text: what follows fails on it.
    assert_eq!(
        script.seen[2..5],
        ["3 2", "4 100", "3 \"low\""],
        "{:?}",
        script.seen
    );
    assert_eq!(printed, "2\nlow\n", "{:?}", script.seen);
    let last = script.seen.last().unwrap();
    assert!(
        last.starts_with("ended") && !last.ends_with("well"),
        "{last}"
    );
}

/// Gives the level another value on line 2; what is seen then.
fn set_early(at: &mut Stopped<'_, '_, '_>) -> String {
    let line = at.calls()[0].source.line_of(at.calls()[0].span.start);
    if line == 2 {
        at.set(0, "level", "50").unwrap();
    }
    format!("{line} {}", variables(at))
}

#[test]
fn a_walk_back_over_a_long_line_is_not_misled_by_what_was_changed_before_it() {
    let text = "let level = 1;\nlet i = 0;\nwhile i < 30000 { i := i + 1 };\nlet last = level";
    let forwards = Order::Forwards(Pace::Line);
    let back = Order::Backwards(Pace::Line);
    let orders = [vec![forwards; 3], vec![back; 2], vec![Order::End]].concat();
    let mut script = Script::new(orders).looking(set_early);
    script.walk(text, "");
    let seen = &script.seen;
    assert!(
        seen[3].starts_with("4 ") && seen[3].contains("i=30000"),
        "{seen:?}"
    );
    assert!(
        seen[4].starts_with("3 ") && seen[4].contains("i=0"),
        "{seen:?}"
    );
    assert!(seen[4].contains("level=50"), "{seen:?}");
    assert!(seen[5].starts_with("2 "), "{seen:?}");
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

#[test]
fn what_is_set_once_something_has_failed_is_set_then_again() {
    let text = "let depth = \"low\";\ntry {\n  say depth + 6\n} else say depth;\nsay depth + 1";
    let mut script = Script::new([ON, Order::Forwards(Pace::Line), Order::ToBeginning, ON, ON])
        .looking(|at| {
            let is_fault = matches!(at.reason(), Reason::Fault { .. });
            if is_fault
                && at
                    .evaluate(0, "depth")
                    .is_ok_and(|answer| answer.value.as_text().is_some())
            {
                at.set(0, "depth", "3").expect("it is a variable");
            }
            at.evaluate(0, "depth")
                .map_or_else(|_| String::new(), |answer| answer.value.written())
        });
    script.stops.faults.raised = true;
    let printed = script.walk(text, "");
    // It fails again, though what it fails for has been set by then.
    assert_eq!(printed, "3\n4\n", "{:?}", script.seen);
    assert!(script.seen[4].starts_with("3 "), "{:?}", script.seen);
}

/// Asks for the run to stand still so many questions after it has been told to go on; after that it does not ask.
struct Impatient {
    stops: Stops,
    questions: Cell<Option<u32>>,
    orders: Vec<(Order, Option<u32>)>,
    seen: Vec<(u64, Reason)>,
}

impl Impatient {
    fn next(&mut self) -> Order {
        let (order, questions) = self.orders.pop().unwrap_or((Order::End, None));
        self.questions.set(questions);
        order
    }
}

impl Guide for Impatient {
    fn stops(&self) -> &Stops {
        &self.stops
    }

    fn stopped(&mut self, at: &mut Stopped<'_, '_, '_>) -> Order {
        self.seen.push((at.moment(), at.reason().clone()));
        self.next()
    }

    fn logged(&mut self, _text: &str) {}

    fn is_asked_for(&self) -> bool {
        let left = self.questions.get();
        self.questions
            .set(left.and_then(|left| left.checked_sub(1)));
        left == Some(0)
    }

    fn ended(&mut self, _outcome: &Outcome<Held>) -> Order {
        self.next()
    }
}

/// Where a long run stands while orders are followed, each given up after so many questions.
fn impatient(orders: &[(Order, Option<u32>)]) -> Vec<(u64, Reason)> {
    let text =
        "let first = 1;\nlet i = 0;\nwhile i < 2000000 { i := i + 1 };\nlet last = 2;\nsay last";
    let mut guide = Impatient {
        stops: Stops::default(),
        questions: Cell::new(None),
        orders: orders.iter().rev().cloned().collect(),
        seen: Vec::new(),
    };
    let source = SourceText::new("lift", text);
    let mut host = Recorder::default();
    let session = crate::walks::lifts().session();
    walk(&session, &source, Reading::Program, &mut host, &mut guide);
    guide.seen
}

#[test]
fn whoever_goes_back_far_can_stop_on_the_way() {
    let seen = impatient(&[
        (ON, None),
        (Order::Backwards(Pace::Line), None),
        // No stop lies before: the whole run is gone through once more.
        (BACK, Some(0)),
        (Order::On, None),
        (ON, None),
    ]);
    let (last, middle) = (seen[1].0, seen[2].0);
    assert_eq!(seen[1].1, Reason::Went);
    assert_eq!(seen[2].1, Reason::Asked, "the search was given up");
    assert!(0 < middle && middle < last);
    assert_eq!(seen[3], (0, Reason::Beginning), "as it was going");
    assert_eq!(seen.len(), 4);

    // To a moment, too, and from there on forwards.
    let seen = impatient(&[
        (ON, None),
        (Order::To(last), None),
        (Order::Backwards(Pace::Line), Some(0)),
        (Order::Forwards(Pace::Line), None),
    ]);
    assert_eq!(seen[2].1, Reason::Asked);
    assert!(seen[2].0 < seen[1].0);
    assert_eq!(seen[3].1, Reason::Went);
    assert!(seen[2].0 < seen[3].0 && seen[3].0 < seen[1].0);
}

#[test]
fn a_condition_means_the_names_of_where_it_is_worked_out() {
    let text = "let far = 0;\nway one(n) {\n  say n\n};\nway two(more) {\n  let n = more + 10;\n  say n\n};\nway none(other) {\n  say other\n};\none(1); one(20); two(1); two(20); none(1); one(3)";
    let mut script = Script::new(std::iter::repeat_n(ON, 6)).looking(variables);
    for line in [3, 7, 10] {
        script.stops.all.push(StopAt {
            condition: Some("n < 12".to_owned()),
            ..StopAt::new(At::Line("lift".to_owned(), line))
        });
    }
    script.walk(text, "");
    let seen: Vec<&str> = script.seen[1..].iter().map(String::as_str).collect();
    assert!(
        seen[0].contains("n=1") && seen[0].ends_with("stop 0"),
        "{seen:?}"
    );
    assert!(
        seen[1].contains("n=11") && seen[1].ends_with("stop 1"),
        "{seen:?}"
    );
    assert!(
        seen[2].contains("other=1") && seen[2].contains("nothing binds")
            || seen[2].contains("there is no binding called `n`"),
        "{seen:?}"
    );
    assert!(
        seen[3].contains("n=3") && seen[3].ends_with("stop 0"),
        "{seen:?}"
    );
    assert_eq!(seen[4..], ["ended well"]);
}
