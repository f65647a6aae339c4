//! Loops that are functions which call themselves as the last thing they do: each turn takes the place of the one before.

use crate::common::{errors, value, value_within, with_tokens};
use crate::kinds::code;
use quillon_core::Language;
use quillon_core::runtime::Limits;

/// Everything in brackets; `round` makes a function that the loop goes on with as `again`.
fn wheel() -> Language {
    with_tokens(
        r#"
form Program
  written  steps:Expr*
  opens    scope
  means    all steps
form Let in Expr
  written  "(" "let" name:Name value:Expr ")"
  binds    name onward
  means    name := value; nothing
form Set in Expr
  written  "(" "set" name:Name value:Expr ")"
  uses     name to change
  means    name := value; nothing
form Start
  written  "(" name:Name value:Expr ")"
form Round in Expr
  written  "(" "round" "(" vars:Start* ")" body:Expr+ ")"
  opens    scope
  binds    vars.name in body, "again" in body
  means    again := function (vars.name) { all body }; call again with vars.value
form Fn in Expr
  written  "(" "fn" "(" params:Name* ")" body:Expr+ ")"
  opens    scope
  binds    params in body
  means    function (params) { all body }
form If in Expr
  written  "(" "if" test:Expr yes:Expr no:Expr? ")"
  means    if test { yes } else { if given no { no } else { nothing } }
form Under in Expr
  written  "(" "under" left:Expr right:Expr ")"
  means    left < right
form Sum in Expr
  written  "(" "sum" left:Expr right:Expr ")"
  means    left + right
form Less in Expr
  written  "(" "less" left:Expr right:Expr ")"
  means    left - right
form Push in Expr
  written  "(" "push" list:Expr value:Expr ")"
  means    list.add(list, value); nothing
form List in Expr
  written  "(" "list" args:Expr* ")"
  means    [args]
form Each in Expr
  written  "(" "each" list:Expr f:Expr ")"
  means    list.map(list, f)
form Size in Expr
  written  "(" "size" list:Expr ")"
  means    list.length(list)
form Try in Expr
  written  "(" "try" body:Expr other:Expr ")"
  means    attempt { body } rescue e { other }
form Down in Expr
  written  "(" "down" from:Expr ")"
  means    down(from)
form Turn in Expr
  written  "(" "turn" from:Expr ")"
  means    turn(from)
form Call in Expr
  written  "(" callee:Expr args:Expr* ")"
  means    call callee with args
form Number in Expr
  written  value:Whole
  means    value
form Word in Expr
  written  value:Text
  means    value
form Var in Expr
  written  name:Name
  uses     name
  means    name
define down(n) = { let go = nothing; go := function (k) { if k < 1 { "done" } else { call go with k - 1 } }; call go with n }
define turn(n) = { let even = nothing; let odd = function (k) { if k < 1 { false } else { call even with k - 1 } }; even := function (k) { if k < 1 { true } else { call odd with k - 1 } }; call even with n }
"#,
    )
}

#[test]
fn a_function_that_goes_on_by_calling_itself_jumps() {
    let own = wheel();
    let made = code(
        &own,
        "(round ((i 0) (all 0)) (if (under i 5) (again (sum i 1) (sum all i)) all))",
    );
    assert!(made.contains(&"tail_call_itself".to_owned()), "{made:?}");
    for other in ["tail_call", "get_captured", "jump"] {
        assert!(!made.contains(&other.to_owned()), "{other}: {made:?}");
    }
}

#[test]
fn the_next_turn_has_what_it_is_called_with() {
    let own = wheel();
    for (program, wanted) in [
        (
            "(round ((i 0) (all 0)) (if (under i 5) (again (sum i 1) (sum all i)) all))",
            "10",
        ),
        // All of it is made before any of it is there.
        (
            "(round ((a 1) (b 2) (n 0)) (if (under n 3) (again b a (sum n 1)) (list a b)))",
            "[2, 1]",
        ),
        (
            "(round ((a 1) (b 2) (n 0)) (if (under n 4) (again (sum a b) a (sum n 1)) (list a b)))",
            "[11, 7]",
        ),
        ("(round () 7)", "7"),
        // Functions that are made on the way have the variables of their own turn.
        (
            "(let seen (list)) (round ((i 0)) (if (under i 3) (again (sum i (if (under i 9) 1 (push seen 1)))) 0)) (size seen)",
            "0",
        ),
        (
            "(let seen (list)) (round ((i 0) (x 0)) (if (under i 3) (again (sum i 1) (push seen (fn () i))) 0)) (each seen (fn (f) (f)))",
            "[0, 1, 2]",
        ),
        (
            "(let seen (list)) (round ((i 0) (x 0)) (set i (sum i 10)) (if (under i 40) (again (sum i 1) (push seen (fn () (set i (sum i 1)) i))) 0)) (each seen (fn (f) (f) (f)))",
            "[12, 23, 34]",
        ),
        // What is called may be another one of the same code, or another function altogether.
        (
            "(let f (fn (k) (round ((i 0)) (if (under i k) (again (sum i 1)) (list k i))))) (list (f 2) (f 3))",
            "[[2, 2], [3, 3]]",
        ),
        (
            "(round ((i 0)) (set again (fn (x) (list x))) (again 5))",
            "[5]",
        ),
        // Inside what catches errors a turn takes nobody's place.
        (
            "(round ((i 0)) (if (under i 100) (try (again (sum i 1)) 0) i))",
            "100",
        ),
        ("(down 300000)", "\"done\""),
        ("(turn 300001)", "false"),
    ] {
        assert_eq!(value(&own, program), wanted, "{program}");
    }
}

#[test]
fn turns_need_neither_stack_nor_memory() {
    let own = wheel();
    let limits = Limits {
        depth: 50,
        memory: Some(4_000_000),
        ..Limits::default()
    };
    for (program, wanted) in [
        (
            "(round ((i 0)) (if (under i 400000) (again (sum i 1)) i))",
            "400000",
        ),
        ("(down 400000)", "\"done\""),
        ("(turn 400000)", "true"),
    ] {
        assert_eq!(value_within(&own, program, limits), wanted, "{program}");
    }
}

#[test]
fn each_turn_is_a_step() {
    let own = wheel();
    let limits = Limits {
        steps: Some(10_000),
        ..Limits::default()
    };
    let endless = value_within(&own, "(round ((i 0)) (again (sum i 1)))", limits);
    assert!(endless.contains("10000 steps"), "{endless}");
    let soon = value_within(
        &own,
        "(round ((i 0)) (if (under i 4000) (again (sum i 1)) i))",
        limits,
    );
    assert_eq!(soon, "4000");
}

#[test]
fn an_error_says_in_which_turn_it_is() {
    let own = wheel();
    let program = "(round ((i 0) (all 0))
  (if (under i 3)
    (again (sum i 1) (sum all i))
    (again (less all \"lock\") 0)))";
    let [error] = &errors(&own, program)[..] else {
        panic!("one error");
    };
    let place = error.place.as_ref().unwrap();
    assert_eq!(place.source.position(place.span.start).to_string(), "4:22");
    // The one that began it is gone: the turn before has taken its place.
    let calls = error.calls.iter().map(|call| {
        let at = call.place.source.position(call.place.span.start);
        format!("{} {at}", call.function)
    });
    let calls: Vec<String> = calls.collect();
    assert_eq!(calls, ["again 3:5"]);
    assert_eq!(
        value(
            &own,
            "(round ((i 0)) (if (under i 2) (again (sum i 1)) (again)))"
        ),
        "1:50 `again` takes 1 argument, and gets 0"
    );
}
