//! What leaves the ordinary course: cleanups, tail calls, coroutines, functions called by
//! built-in ones, limits.

use crate::common;
use crate::common::{errors, general, value, value_with, value_within, with_tokens};
use quillon_core::diagnostic::codes;
use quillon_core::runtime::{Limits, Recorder};

#[track_caller]
fn gives(cases: &[(&str, &str)]) {
    let language = general();
    for (program, wanted) in cases {
        assert_eq!(value(&language, program), *wanted, "{program}");
    }
}

#[test]
fn a_cleanup_runs_whatever_happens() {
    gives(&[
        ("try { print 1 } lastly { print 2 }; 3", "1 2 3"),
        (
            "try { 1 / 0 } lastly { print 2 }",
            "2 1:11 this is zero, and nothing can be divided by zero",
        ),
        (
            "let f = fn () { try { give 1 } lastly { print 2 }; 3 }; f()",
            "2 1",
        ),
        (
            "loop { try { leave } lastly { print 1 } }; loop { try { next } lastly { leave } }; 5",
            "1 5",
        ),
        (
            "try { try { raise \"a\" } lastly { print 1 } } or e { print e }; 9",
            "1 a 9",
        ),
        // What the cleanup does comes last and wins.
        (
            "let f = fn () { try { raise \"a\" } lastly { give 7 } }; f()",
            "7",
        ),
        (
            "try { raise \"a\" } lastly { raise \"b\" }",
            "1:28 this was raised and nothing caught it: b",
        ),
        // A value handed on is what it was before the cleanup.
        (
            "let n = 1; let f = fn () { try { give n } lastly { n := 2 } }; [f(), n]",
            "[1, 2]",
        ),
    ]);
}

#[test]
fn errors_in_cures_in_loops_leave_everything_in_order() {
    gives(&[
        (
            "let n = 0; loop { n := n + 1; try { raise n } or e { when e == 3 { leave }; next } }; n",
            "3",
        ),
        (
            "let n = 0; loop { n := n + 1; try { try { 1 / 0 } or e { raise \"again\" } } or e { when n == 4 { leave } } }; n",
            "4",
        ),
        (
            "let f = fn (n) { loop { try { raise n } or e { give e + 1 } } }; f(1) + f(2) * f(3)",
            "14",
        ),
        (
            "let out = []; every x of [1, 2, 3] { try { when x == 2 { next }; push(out, x) } lastly { push(out, 0) } }; out",
            "[1, 0, 0, 3, 0]",
        ),
    ]);
}

#[test]
fn calls_in_tail_position_use_no_stack() {
    let limits = Limits {
        depth: 10,
        ..Limits::default()
    };
    let language = general();
    let deep = |program: &str| value_within(&language, program, limits);
    for (program, wanted) in [
        (
            "rec f = fn (n) { when n == 0 { give \"end\" }; f(n - 1) }; f(50000)",
            "\"end\"",
        ),
        (
            "rec f = fn (n) { when n == 0 { give \"end\" }; give f(n - 1) }; f(50000)",
            "\"end\"",
        ),
        (
            "rec f = fn (n) { loop { when n == 0 { give \"end\" }; loop { give f(n - 1) } } }; f(50000)",
            "\"end\"",
        ),
        (
            "let odd = 0; let even = fn (n) { when n == 0 { give yes }; odd(n - 1) }; odd := fn (n) { when n == 0 { give no }; even(n - 1) }; even(30001)",
            "false",
        ),
    ] {
        assert_eq!(deep(program), wanted, "{program}");
    }
    // What is left to do keeps its place.
    for program in [
        "rec f = fn (n) { when n == 0 { give 0 }; 1 + f(n - 1) }; f(20)",
        "rec f = fn (n) { when n == 0 { give 0 }; try { give f(n - 1) } or e { 1 } }; f(20)",
        "rec f = fn (n) { when n == 0 { give 0 }; try { give f(n - 1) } lastly { 1 } }; f(20)",
    ] {
        assert!(deep(program).contains("10 nested calls"), "{program}");
    }
}

#[test]
fn coroutines_are_suspended_and_resumed_from_however_deep() {
    gives(&[
        (
            "let c = source { hand(1); hand(2); 3 }; [resume(c), resume(c), ended(c), resume(c), ended(c)]",
            "[1, 2, false, 3, true]",
        ),
        (
            "let c = source { let a = hand(1); let b = hand(a * 2); [a, b] }; resume(c); [resume(c, 5), resume(c, 6)]",
            "[10, [5, 6]]",
        ),
        // Items of a source, one after the other; its end is none.
        (
            "rec walk = fn (n) { when n == 0 { give 0 }; walk(n - 1); hand(n) }; let out = []; every x of source { walk(4); 9 } { push(out, x) }; out",
            "[1, 2, 3, 4]",
        ),
        (
            "every x of source { every y of source { hand(1); hand(2) } { hand(y * 10) } } { print x }; 0",
            "10 20 0",
        ),
        // Each keeps its own variables.
        (
            "let count = fn (from) { source { loop { hand(from); from := from + 1 } } }; let a = count(1); let b = count(5); [resume(a), resume(b), resume(a), resume(b)]",
            "[1, 5, 2, 6]",
        ),
        (
            "let c = source { try { hand(1); raise \"no\" } lastly { print 7 } }; resume(c); try { resume(c) } or e { print e }; ended(c)",
            "7 no true",
        ),
        (
            "every x of [1, 2] { let c = source { hand(x) }; print resume(c) }; 0",
            "1 2 0",
        ),
        (
            "hand(1)",
            "1:1 there is no coroutine here that could be suspended",
        ),
        (
            "let c = source { 1 }; resume(c); resume(c)",
            "1:41 this coroutine has come to its end",
        ),
        (
            "let c = 0; c := source { resume(c) }; resume(c)",
            "1:33 this coroutine is running already",
        ),
        (
            "resume(3)",
            "1:8 a coroutine is needed here, and this is an integer: 3",
        ),
        ("source { 1 }", "coroutine"),
    ]);
}

#[test]
fn stacks_that_were_deep_are_given_back_and_taken_again() {
    // 5,000 calls leave far more room than what comes after them needs, and the collections of that are many.
    let deep = "rec f = fn (n) { when n == 0 { give [0] }; let own = [n]; let under = f(n - 1); push(under, own); under }";
    let made = "let make = fn () { let out = []; let i = 0; loop { when i == 300 { leave }; out := [i, [i]]; i := i + 1 }; out }";
    let sum = "fold(all, 0, fn (sum, one) { sum + 1 })";
    gives(&[
        (
            &format!("{deep}; {made}; let all = f(5000); let out = make(); [{sum}, out]"),
            "[5001, [299, [299]]]",
        ),
        (
            &format!("{deep}; {made}; let all = f(5000); make(); all := f(4000); make(); {sum}"),
            "4001",
        ),
        // A coroutine that is suspended after it has been deep, and far down.
        (
            &format!(
                "{deep}; {made}; let c = source {{ let all = f(5000); hand({sum}); hand(make()); [{sum}] }}; let first = resume(c); make(); let second = resume(c); make(); [first, second, resume(c)]"
            ),
            "[5001, [299, [299]], [5001]]",
        ),
        (
            &format!(
                "{made}; rec g = fn (n) {{ when n == 0 {{ hand(\"low\"); give [\"end\"] }}; let own = [n]; let under = g(n - 1); push(under, own); under }}; let c = source {{ let all = g(2000); {sum} }}; let first = resume(c); [first, make(), resume(c)]"
            ),
            "[\"low\", [299, [299]], 2001]",
        ),
        // What resumes one has been deep, and is when it does.
        (
            &format!(
                "{deep}; {made}; let all = f(5000); let c = source {{ let i = 0; loop {{ hand([i]); i := i + 1 }} }}; rec h = fn (n) {{ when n == 0 {{ give resume(c) }}; let own = resume(c); let under = h(n - 1); push(under, own); under }}; all := h(500); make(); [{sum}, resume(c)]"
            ),
            "[501, [501]]",
        ),
    ]);
}

#[test]
fn built_in_functions_call_those_of_the_program() {
    gives(&[
        ("map([1, 2, 3], fn (x) { x * x })", "[1, 4, 9]"),
        (
            "let by = 3; filter([1, 2, 3, 4], fn (x) { less(x, by) })",
            "[1, 2]",
        ),
        ("fold([1, 2, 3], 10, fn (sum, x) { sum + x })", "16"),
        ("fold([], 10, fn (sum, x) { sum + x })", "10"),
        (
            "sorted([[3, \"a\"], [1, \"b\"], [3, \"c\"], [2, \"d\"], [1, \"e\"]], fn (a, b) { less(a[0], b[0]) })",
            "[[1, \"b\"], [1, \"e\"], [2, \"d\"], [3, \"a\"], [3, \"c\"]]",
        ),
        ("sorted([], less)", "[]"),
        (
            "sorted([5, 4, 9, 1, 3], fn (a, b) { less(b, a) })",
            "[9, 5, 4, 3, 1]",
        ),
        // One that suspends in the middle.
        (
            "let c = source { map([1, 2], fn (x) { hand(x) }) }; resume(c); resume(c, \"a\"); resume(c, \"b\")",
            "[\"a\", \"b\"]",
        ),
        // A jump out of the function that is called leaves only that function.
        ("map([1, 2], fn (x) { give x + 1 })", "[2, 3]"),
        (
            "map([1, 0], fn (x) { 1 / x })",
            "1:26 this is zero, and nothing can be divided by zero",
        ),
        (
            "filter([1], fn (x) { x })",
            "1:13 the function must give a truth value, and it gives an integer: 1",
        ),
        (
            "map([1], fn () { 1 })",
            "1:1 this function takes 0 arguments, and gets 1",
        ),
        (
            "map(1, less)",
            "1:5 a list is needed here, and this is an integer: 1",
        ),
        (
            "map([1], 2)",
            "1:10 a function is needed here, and this is an integer: 2",
        ),
    ]);
}

#[test]
fn functions_are_shown_with_what_they_captured() {
    gives(&[
        (
            "let make = fn (n) { fn (x) { x + n } }; make(3)",
            "function(x) with n = 3",
        ),
        (
            "let k = [1]; rec f = fn (x) { f(k) }; push(k, f); f",
            "function f(x) with f = function, k = [1, function f(x)]",
        ),
    ]);
}

#[test]
fn a_run_ends_at_each_of_its_limits() {
    let endless = "let list = []; loop { push(list, \"0123456789\" + \"x\") }";
    let language = general();
    let memory = |bytes| Limits {
        memory: Some(bytes),
        ..Limits::default()
    };
    let full = value_within(&language, endless, memory(1 << 20));
    assert!(full.contains("needs more than 1 MiB of memory"), "{full}");
    let growing = "let t = \"0123456789\"; loop { t := t + t }";
    let full = value_within(&language, growing, memory(1 << 20));
    assert!(full.contains("needs more than 1 MiB of memory"), "{full}");
    // What has been dropped does not count.
    let modest = "let n = 0; loop { let list = [n, [n, \"a\" + \"b\"]]; n := n + 1; when n == 100000 { leave } }; n";
    assert_eq!(value_within(&language, modest, memory(1 << 20)), "100000");
    let limits = Limits {
        steps: Some(1000),
        ..Limits::default()
    };
    let long = value_within(&language, "try { loop { 1 } } or e { 2 }", limits);
    assert!(long.contains("stopped after 1000 steps"), "{long}");
}

#[test]
fn input_comes_in_lines_characters_and_all_at_once() {
    let language = common::with_tokens(
        r#"
form Program
  written  calls:Call* by ";"
  means    calls
form Call
  written  name:Name
  uses     name
  means    call name
provides
  line()  means input()
  next()  means input.character()
  rest()  means input.all()
  dice()  means random.integer(1, 6)
"#,
    );
    let mut host = Recorder {
        input: "boat\r\né2\nlast".to_owned(),
        ..Recorder::default()
    };
    let limits = Limits::default();
    let said = value_with(
        &language,
        "line; next; next; next; rest; rest; line; next",
        limits,
        &mut host,
    );
    assert_eq!(
        said,
        "[\"boat\", \"é\", \"2\", \"\\n\", \"last\", \"\", nothing, nothing]"
    );
    // One number gives one course of chance.
    let throws = value(&language, "dice; dice; dice; dice; dice");
    assert_eq!(throws, value(&language, "dice; dice; dice; dice; dice"));
}

#[test]
fn what_is_caught_says_which_calls_it_led_out_of() {
    let language = with_tokens(
        r#"
form Program
  written  steps:Step* by ";"
  opens    scope
  means    all steps
form Way in Step
  written  "way" name:Name body:Step
  binds    name throughout
  means    name := function () { body }
form Go in Step
  written  "go" name:Name
  uses     name
  means    call name
form Sink in Step
  written  "sink"
  means    fault "it sinks"
form Alarm in Step
  written  "alarm" what:Whole
  means    raise what
form Try in Step
  written  "try" body:Step
  means    attempt { body } rescue e {
      each one in caught.calls(e) { output(map.get(one, "function"), " ", map.get(one, "line"), ":", map.get(one, "column"), "\n") };
      caught.kind(e) & ": " & caught.message(e)
    }
"#,
    );
    assert_eq!(value(&language, "try alarm 7"), "\"raised: 7\"");
    assert_eq!(
        value(&language, "way low sink; try go low"),
        "low 1:19\n\"run.fault: it sinks\""
    );
}

#[test]
fn a_suspension_where_no_coroutine_runs_has_a_code_of_its_own() {
    let language = with_tokens("form Go\n  written  \"go\"\n  means    coroutine.suspend(1)\n");
    assert_eq!(errors(&language, "go")[0].code, codes::RUN_SUSPEND);
    let language = with_tokens(
        "form Go\n  written  \"go\"\n  means    let c = coroutine.make(function () { 1 }); coroutine.resume(c); coroutine.resume(c)\n",
    );
    assert_eq!(errors(&language, "go")[0].code, codes::RUN_COROUTINE);
}
