//! Texts that are carried out where a run stands still: what they do belongs to the run.

use quillon_core::debugging::{At, Order, Pace, Stopped};
use quillon_core::runtime::Limits;
use quillon_core::values::Held;
use quillon_core::{Language, diagnostic::Diagnostics};

use crate::common;
use crate::walk_checkpoints::{HOLDS, everything};
use crate::walks::{ON, Script};

const LINE: Order = Order::Forwards(Pace::Line);
const BACK: Order = Order::Backwards(Pace::Line);

/// The language with everything, where what is caught has a name.
fn guarded() -> Language {
    let guard = r#"form Guard in Step
  written  "guard" "{" steps:Step* by ";" "}" "as" name:Name "{" other:Step* by ";" "}"
  binds    name in other
  means    attempt { all steps } rescue e { with name = e { all other } }
state
"#;
    common::with_tokens(&HOLDS.replace("state\n", guard))
}

fn walked(script: &mut Script, text: &str) -> String {
    script.walk_by(&guarded().session().seed(7), text, "one\ntwo\nthree\n")
}

fn line(at: &Stopped<'_, '_, '_>) -> u32 {
    let calls = at.calls();
    calls[0].source.line_of(calls[0].span.start)
}

fn told(came: Result<Held, Diagnostics>) -> String {
    match came {
        Ok(value) => value.written(),
        Err(problems) => format!("{}: {}", problems[0].code.0, problems.first_message()),
    }
}

/// What a variable of a call holds.
fn held(at: &Stopped<'_, '_, '_>, call: usize, name: &str) -> String {
    let found = at.variables(call).into_iter().find(|one| one.name == name);
    found.map_or_else(|| "nothing".to_owned(), |one| one.value.written())
}

const ADDS: &str = "let total = 1;
let add = way (n) { total := total + n; say total; total };
add(1);
add(2);
say total";

#[test]
fn what_a_text_does_belongs_to_the_run() {
    let adding = |at: &mut Stopped<'_, '_, '_>| {
        let came = if line(at) == 4 && held(at, 0, "total") == "2" {
            told(at.carry_out(0, "add(100)"))
        } else {
            String::new()
        };
        format!("{} {} {came}", line(at), held(at, 0, "total"))
    };
    for apart in [u64::MAX, 1, 5] {
        let orders = [LINE, LINE, LINE, BACK, BACK, LINE, LINE, LINE, ON];
        let mut script = Script::new(orders).looking(adding).apart(apart);
        let printed = walked(&mut script, ADDS);
        assert_eq!(
            script.seen[1..],
            [
                "2 1",
                "3 1",
                "4 102 102",
                "3 1",
                "2 1",
                "3 1",
                "4 102",
                "5 104",
                "ended well"
            ]
        );
        // What has been printed is not printed again.
        assert_eq!(printed, "2\n102\n104\n104\n");
    }
}

#[test]
fn a_text_that_is_wrong_does_nothing() {
    let wrong = |at: &mut Stopped<'_, '_, '_>| match line(at) {
        3 => told(at.carry_out(0, "add(")) + &told(at.carry_out(0, "nobody(1)")),
        _ => String::new(),
    };
    let orders = [LINE, LINE, LINE, LINE, BACK, BACK, ON];
    let mut script = Script::new(orders).looking(wrong);
    // The run is as it was, so nothing comes out again.
    assert_eq!(walked(&mut script, ADDS), "2\n4\n4\n");
    assert!(script.seen[2].contains("nobody"), "{:?}", script.seen);
}

#[test]
fn a_text_that_fails_has_done_what_it_did_until_then() {
    let failing = |at: &mut Stopped<'_, '_, '_>| match line(at) {
        4 if at.state()[0].value.written() == "0" => {
            let came = told(at.carry_out(0, "count 5; total := 50; fail \"dry\"; count 7"));
            format!(
                "{came} {} {}",
                at.state()[0].value.written(),
                held(at, 0, "total")
            )
        }
        _ => String::new(),
    };
    let mut script = Script::new([LINE, LINE, LINE, BACK, ON]).looking(failing);
    assert_eq!(walked(&mut script, ADDS), "2\n52\n52\n");
    assert!(script.seen[3].ends_with(" 5 50"), "{:?}", script.seen);
    assert_eq!(script.seen.last().map(String::as_str), Some("ended well"));
}

const CALLS: &str = "let gone = way (m) {
  m + 1 };
let f = way (n) {
  let own = 10;
  let got = gone(n);
  own + got };
say f(5);
say f(6)";

#[test]
fn the_variables_of_every_call_can_be_changed() {
    let changing = |at: &mut Stopped<'_, '_, '_>| {
        if line(at) != 2 || held(at, 0, "m") != "5" {
            return held(at, 0, "m");
        }
        let own = told(at.carry_out(1, "own := own + n"));
        let param = told(at.set(0, "m", "m + 100"));
        let around = told(at.set(1, "n", "n + 1"));
        let is_none = at.set(0, "own", "3").is_err() && at.carry_out(0, "own").is_err();
        format!("{own} {param} {around} {is_none}")
    };
    for apart in [u64::MAX, 3] {
        let mut script = Script::new([ON, BACK, ON, ON, ON])
            .stop(At::Line("lift".to_owned(), 2))
            .looking(changing)
            .apart(apart);
        assert_eq!(walked(&mut script, CALLS), "121\n17\n");
        let (stop, again) = (&script.seen[1], &script.seen[3]);
        assert_eq!(
            (&**stop, &**again),
            ("nothing 105 6 true stop 0", "105 stop 0")
        );
    }
}

const MADE: &str = "let total = 0;
let bump = way () { total := total + 1 };
let kept = way (n) { n };
let own = 7;
bump();
own := 8;
say kept(1);
say total";

#[test]
fn a_function_that_a_text_makes_can_be_called_later() {
    let making = |at: &mut Stopped<'_, '_, '_>| {
        if line(at) == 5 && at.moment() < 1000 && at.printed() == 0 {
            told(at.carry_out(
                0,
                "kept := way (n) { total := total + n; total + own }; bump(); total",
            ))
        } else {
            let calls = at.calls();
            format!("{} {}", calls[0].source.name(), held(at, 0, "n"))
        }
    };
    let into = Order::Forwards(Pace::IntoLine);
    let orders = [LINE, LINE, LINE, LINE, LINE, LINE, into, ON];
    let mut script = Script::new(orders).looking(making);
    // What only the call has is in such a function as it was.
    assert_eq!(walked(&mut script, MADE), "10\n3\n");
    assert_eq!(script.seen[4], "1");
    assert_eq!(script.seen[7], "what is asked 1");
}

/// Makes so much that what is out of use is freed.
const FILL: &str = "let row = [1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20];
let fill = way () { each a in row { each b in row { each c in row { [[a], [b, c], [a, b, c]] } } } };
let kept = [[1], [2, [3]]];
guard { fail [[4], [5, [6]]] } as e { say e };
let deep = way (n) { let own = [n, [n]]; keep own in kept; own };
say deep(7);
say kept";

#[test]
fn nothing_of_the_run_is_freed_meanwhile() {
    for apart in [u64::MAX, 50, 7] {
        let filling = |at: &mut Stopped<'_, '_, '_>| {
            if at.variables(0).iter().any(|one| one.name == "fill") {
                let came = told(at.carry_out(0, "fill(); fill(); [8, [9]]"));
                assert_eq!(came, "[8, [9]]");
            }
            everything(at)
        };
        let first = [ON, ON, Order::To(20), ON, ON, Order::To(20)];
        let orders = [first.to_vec(), vec![Order::ToBeginning], vec![ON; 9]].concat();
        let mut script = Script::new(orders)
            .stop(At::Line("lift".to_owned(), 5))
            .stop(At::Place("lift".to_owned(), 5, 46))
            .looking(filling)
            .apart(apart);
        script.stops.faults.raised = true;
        let printed = walked(&mut script, FILL);
        assert!(
            printed.ends_with("[[4], [5, [6]]]\n[7, [7]]\n[[1], [2, [3]], [7, [7]]]\n"),
            "{printed}"
        );
    }
}

#[test]
fn a_text_that_never_ends_is_given_up_and_the_run_goes_on() {
    let text = "let on = way (self) { self(self) };\nsay 1";
    let endless = |at: &mut Stopped<'_, '_, '_>| match line(at) {
        2 => told(at.carry_out(0, "on(on)")),
        _ => String::new(),
    };
    let mut script = Script::new([LINE, ON]).looking(endless);
    assert_eq!(walked(&mut script, text), "1\n");
    assert!(
        script.seen[1].contains("20000000 steps"),
        "{:?}",
        script.seen
    );
    assert_eq!(script.seen[2], "ended well");

    // Where the run itself may not take as many, it is over, too.
    let limits = Limits {
        steps: Some(100_000),
        ..Limits::default()
    };
    let mut script = Script::new([LINE, ON]).looking(endless);
    let printed = script.walk_by(&guarded().session().limits(limits), text, "");
    assert_eq!(printed, "");
    assert!(script.seen[2].starts_with("ended"), "{:?}", script.seen);
    assert!(script.seen[2].contains("100000 steps"), "{:?}", script.seen);
}

#[test]
fn what_a_text_reads_is_read_once() {
    let text = "let first = 1;\nlet second = ask;\nsay second";
    let reading = |at: &mut Stopped<'_, '_, '_>| {
        if line(at) == 2 && held(at, 0, "first") == "1" {
            told(at.carry_out(0, "first := ask"));
        }
        held(at, 0, "first")
    };
    let mut script = Script::new([LINE, LINE, BACK, BACK, LINE, LINE, ON]).looking(reading);
    assert_eq!(walked(&mut script, text), "two\n");
    assert_eq!(
        script.seen[1..],
        [
            "\"one\"",
            "\"one\"",
            "\"one\"",
            "nothing",
            "\"one\"",
            "\"one\"",
            "ended well"
        ]
    );
}

#[test]
fn a_text_is_carried_out_where_nothing_can_be_copied() {
    let text = "let flow = stream way () { yield 1; yield 2; yield 3 };
let got = next flow;
say got;
say next flow";
    let nexts = |at: &mut Stopped<'_, '_, '_>| match line(at) {
        3 if at.printed() == 0 => {
            let copied = at.evaluate(0, "got").is_ok();
            format!("{copied} {}", told(at.carry_out(0, "next flow")))
        }
        _ => String::new(),
    };
    let mut script = Script::new([LINE, LINE, ON]).looking(nexts);
    assert_eq!(walked(&mut script, text), "1\n3\n");
    assert_eq!(script.seen[2], "false 2");
}

#[test]
fn it_is_told_whether_a_text_would_do_anything() {
    let text =
        "let total = 1;\nlet kept = [1];\nlet add = way (n) { total := total + n };\nsay total";
    let asked = |at: &mut Stopped<'_, '_, '_>| {
        let texts = [
            "total",
            "kept",
            "let more = total; more",
            "total := 2",
            "add(1)",
            "keep 2 in kept",
            "count 1",
            "say 1",
        ];
        let answers = texts.map(|text| at.evaluate(0, text).map(|answer| answer.has_effects));
        format!(
            "{:?}",
            answers.map(Result::ok).map(Option::unwrap_or_default)
        )
    };
    let mut script = Script::new([LINE, LINE, LINE, ON]).looking(asked);
    assert_eq!(walked(&mut script, text), "1\n");
    assert_eq!(
        script.seen[3],
        "[false, false, false, true, true, true, true, true]"
    );
}

#[test]
fn a_variable_that_functions_share_is_the_same_in_a_text() {
    let text = "let total = 1;\nlet add = way (n) { total := total + n };\nsay total";
    let both = |at: &mut Stopped<'_, '_, '_>| match line(at) {
        3 => {
            let copies = at.evaluate(0, "add(10); total").map(|answer| answer.value);
            format!(
                "{} {}",
                told(copies),
                told(at.carry_out(0, "add(1); total := total + 5; add(1); total"))
            )
        }
        _ => String::new(),
    };
    let mut script = Script::new([LINE, LINE, ON]).looking(both);
    assert_eq!(walked(&mut script, text), "8\n");
    assert_eq!(script.seen[2], "11 8");
}
