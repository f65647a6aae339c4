//! Names and meanings: scopes, closures, control, values, faults.

use crate::common;
use crate::common::{general, mistakes, value, value_within, with_tokens};
use quillon_core::runtime::Limits;

#[track_caller]
fn gives(cases: &[(&str, &str)]) {
    let language = general();
    for (program, wanted) in cases {
        assert_eq!(value(&language, program), *wanted, "{program}");
    }
}

#[test]
fn scopes_nest_shadow_and_end() {
    gives(&[
        ("let a = 1; loop { let a = 2; leave }; a", "1"),
        ("let a = 1; let b = fn () { let a = a + 1; a }; b()", "2"),
        ("let a = 1; a := a + 1; a", "2"),
        ("with a = 2 do a * with a = 3 do a", "6"),
        ("with a = 1 do a; a", "1:18 there is no binding called `a`"),
        ("let a = a", "1:9 there is no binding called `a`"),
        (
            "rec f = fn (n) { when n == 0 { give 0 }; n + f(n - 1) }; f(10)",
            "55",
        ),
        (
            "let f = fn (n) { f(n) }",
            "1:18 there is no binding called `f`",
        ),
        (
            "let a = 1; let a = 2",
            "1:16 `a` is bound twice in the same scope",
        ),
        (
            "fn (a, a) { 1 }",
            "1:8 `a` is bound twice in the same scope",
        ),
        (
            "const a = 1; a := 2",
            "1:14 `a` is fixed and cannot be changed",
        ),
        ("four := 2", "1:1 `four` is built in and cannot be changed"),
        ("let four = 2; four", "2"),
    ]);
}

#[test]
fn closures_share_variables_and_each_turn_has_its_own() {
    gives(&[
        (
            "let make = fn () { let n = 0; fn () { n := n + 1; n } }; let a = make(); let b = make(); a(); a(); [a(), b()]",
            "[3, 1]",
        ),
        (
            "let pair = fn () { let n = 0; [fn () { n := n + 1 }, fn () { n }] }; let p = pair(); p[0](); p[0](); p[1]()",
            "2",
        ),
        (
            "let all = []; let i = 0; loop { when i == 3 { leave }; let k = i; push(all, fn () { k }); i := i + 1 }; [all[0](), all[1](), all[2]()]",
            "[0, 1, 2]",
        ),
        (
            "let f = fn (x) { fn (y) { fn (z) { x * 100 + y * 10 + z } } }; f(1)(2)(3)",
            "123",
        ),
        ("let x = 1; let f = fn () { x }; x := 5; f()", "5"),
        (
            "let get = fn () { later }; let later = 3",
            "1:19 there is no binding called `later`",
        ),
        ("rec f = f; f", "1:9 `f` has no value yet"),
    ]);
}

#[test]
fn jumps_land_in_their_own_function() {
    gives(&[
        (
            "let n = 0; loop { n := n + 1; when n == 3 { next }; when n == 5 { leave } }; n",
            "5",
        ),
        (
            "leave",
            "1:1 there is nothing here that this `leave` could end",
        ),
        (
            "loop { let f = fn () { leave }; f() }",
            "1:24 there is nothing here that this `leave` could end",
        ),
        ("give 4; 5", "4"),
        ("let f = fn () { loop { loop { give 7 } } }; f() + 1", "8"),
        ("let f = fn () { try { give 1 } or e { give 2 } }; f()", "1"),
        (
            "let n = 0; loop { try { n := n + 1; when n == 4 { leave }; raise \"x\" } or e { next } }; n",
            "4",
        ),
    ]);
}

#[test]
fn what_goes_wrong_can_be_caught() {
    gives(&[
        ("try { raise [1, 2] } or e { e[1] }", "2"),
        ("try { 1 / 0 } or e { e[\"code\"] }", "\"run.division\""),
        (
            "let f = fn () { [1][3] }; try { f() } or e { [e[\"line\"], e[\"column\"]] }",
            "[1, 21]",
        ),
        (
            "try { try { raise 1 } or e { raise e + 1 } } or e { e }",
            "2",
        ),
        (
            "raise \"the gate\"",
            "1:1 this was raised and nothing caught it: the gate",
        ),
        ("refuse(1, 2 + 3)", "1:11 refused: 5"),
    ]);
}

#[test]
fn faults_point_at_the_operand() {
    gives(&[
        (
            "1 + yes",
            "1:5 a number is needed here, and this is a truth value: true",
        ),
        (
            "(1 * 2) - \"a\"",
            "1:11 a number is needed here, and this is a text: \"a\"",
        ),
        (
            "[] * 2",
            "1:1 a number is needed here, and this is a list: []",
        ),
        (
            "when 1 { 2 }",
            "1:6 a truth value is needed here, and this is an integer: 1",
        ),
        (
            "3(1)",
            "1:1 a function is needed here, and this is an integer: 3",
        ),
        (
            "1 / (2 - 2)",
            "1:6 this is zero, and nothing can be divided by zero",
        ),
        ("half(1 + 2, 3)", "1:1 `half` takes 1 argument, and gets 2"),
        (
            "half(yes)",
            "1:6 an integer is needed here, and this is a truth value: true",
        ),
        (
            "four(\"a\")",
            "1:6 a number is needed here, and this is a text: \"a\"",
        ),
        ("pair()", "1:1 `pair` takes 1 argument or more, and gets 0"),
        (
            "fn (a, b) { a }(1)",
            "1:1 this function takes 2 arguments, and gets 1",
        ),
        ("[1, 2][2]", "1:8 there is no item 2"),
        ("new()[\"a\"]", "1:7 there is no key \"a\""),
        (
            "9223372036854775807 + 1",
            "1:1 9223372036854775807 + 1 is too large for an integer",
        ),
        (
            "new()[[1]]",
            "1:7 a key is needed here, and this is a list: [1]",
        ),
    ]);
}

#[test]
fn kinds_of_value_and_built_in_things() {
    gives(&[
        (
            "[kind(1), kind([]), kind(yes), kind(nothing_much()), kind(1.5)]",
            "[\"integer 1\", \"a list\", \"truth\", \"nothing\", \"number\"]",
        ),
        ("1 + 2.0", "3.0"),
        ("6 / 3", "2.0"),
        ("1 == 1.0", "true"),
        ("[[1], \"a\"] == [[1.0], \"a\"]", "true"),
        ("\"a\" + \"b\"", "\"ab\""),
        ("four(3)", "12"),
        ("limit", "100"),
        ("[count(), count(1, 2)]", "[0, 2]"),
        ("pair(1, 2, 3)", "[1, [2, 3]]"),
        ("print 1, \"a\", [\"b\"]", "1 a [\"b\"] nothing"),
        ("when no { 1 }", "\"no\""),
        (
            "let m = new(); put(m, 1, \"a\"); put(m, \"1\", 2); m",
            "{1: \"a\", \"1\": 2}",
        ),
        ("let a = [1]; push(a, a); a", "[1, […]]"),
        ("four", "function four(x)"),
        ("let f = fn (a, b) { a }; f", "function f(a, b)"),
        ("", "nothing"),
    ]);
}

#[test]
fn deep_recursion_ends_in_a_value_or_in_an_error() {
    let deep = |calls: u32| {
        format!("rec f = fn (n) {{ when n == 0 {{ give 0 }}; 1 + f(n - 1) }}; f({calls})")
    };
    assert_eq!(value(&general(), &deep(99_000)), "99000");
    let limits = Limits {
        depth: 1_000_001,
        ..Limits::default()
    };
    assert_eq!(value_within(&general(), &deep(999_999), limits), "999999");
    let shallow = value_within(&general(), &deep(1_000_001), limits);
    assert!(shallow.contains("1000001 nested calls"), "{shallow}");
    let small = Limits {
        memory: Some(10 << 20),
        ..Limits::default()
    };
    let full = value_within(&general(), &deep(1_000_000), small);
    assert!(full.contains("needs more than 10 MiB of memory"), "{full}");
}

#[test]
fn a_body_that_opens_no_scope_of_its_own_is_still_fresh_at_each_call() {
    let language = with_tokens(
        "
usual Program, Let
form Plain in Step
  written  value:Expr
  means    value
form Fun in Expr
  written  \"fn\" param:Name \"{\" steps:Step* by \";\" \"}\"
  opens    scope
  binds    param in steps
  means    function (param) { all steps }
form Call in Expr
  written  name:Name \"<\" value:Expr \">\"
  uses     name
  means    call name with value
form Choice in Expr
  written  \"zero\" test:Expr \"then\" yes:Expr \"else\" no:Expr \"end\"
  means    if test = 0 { yes } else { no }
form Less in Expr
  written  \"before\" value:Expr
  means    value - 1
form Sum in Expr
  written  \"sum\" left:Expr \",\" right:Expr
  means    left + right
form V in Expr
  written  name:Name
  uses     name
  means    name
form N in Expr
  written  value:Whole
  means    value
",
    );
    // The variable `own` must belong to the call, not to the making of the function.
    let program = "let f = fn g { let own = g; fn x { sum own, x } }; let a = f<1>; let b = f<10>; sum a<1>, b<1>";
    assert_eq!(value(&language, program), "13");
}

#[test]
fn meanings_are_checked_with_the_definition() {
    let wrong = |means: &str| {
        let text = format!(
            "language Own\n{}\nform A\n  written  \"a\" name:Name values:Whole* one:Whole?\n  {means}\n",
            common::TOKENS
        );
        mistakes(&text)
            .into_iter()
            .map(|m| m.split_once(' ').unwrap().1.to_owned())
            .collect::<Vec<_>>()
    };
    let check = |means: &str, said: &str| assert_eq!(wrong(means), [said], "{means}");
    check("means    nam", "form `A` has no field `nam`");
    check(
        "means    list.size(values)",
        "there is no helper or operation `list.size`",
    );
    check(
        "means    list.length(values, 1)",
        "`list.length` takes 1 operand, and gets 2",
    );
    check(
        "means    given name",
        "field `name` is always there exactly once",
    );
    check(
        "means    all name",
        "field `name` is always there exactly once",
    );
    check(
        "means    name := 1",
        "`name` is not a variable: no clause of form `A` binds or uses it",
    );
    check(
        "means    each v in values { w }",
        "form `A` has no field `w`",
    );
    check(
        "means    name.part",
        "what `name` can be has no field `part`",
    );
    check(
        "means    text.upper",
        "`text.upper` is an operation: its operands stand in parentheses after it",
    );
    check(
        "means    match name { integr n => 1 }",
        "`integr` is no kind of value; the kinds are nothing, truth, integer, number, text, list, map and function",
    );
    check(
        "means    let if = 1",
        "`if` is a word of the meaning notation and cannot be a name",
    );
    check("binds    nme onward", "form `A` has no field `nme`");
    check(
        "becomes  values",
        "a form can only become a field that is always there, and `values` is repeated",
    );
    check(
        "uses     name twice",
        "expected the end of the clause, found `twice`",
    );
    check(
        "binds    name upward",
        "expected `onward`, `throughout` or `in`, found `upward`",
    );
    assert_eq!(
        mistakes(&format!(
            "language Own\n{}\ndefine f(x) = if x {{ jump stop }} else {{ f(not x) }}\n",
            common::TOKENS
        )),
        ["11:27 `jump stop` cannot leave helper `f`"]
    );
}
