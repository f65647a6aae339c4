//! Maps that are made at once, with the values in a row: what a program sees of them is as if each key had been put by
//! itself.

use crate::common::{value, with_tokens};
use crate::kinds::code;
use quillon_core::Language;

/// Records that are made key by key, read, and changed.
const RECORDS: &str = r#"
precedence of Expr, loosest first
  prefix Fn
  left   Plus
  suffix Field, Call
form Program
  written  steps:Step* by ";"
  opens    scope
  means    all steps
form Set in Step
  written  name:Name ":=" value:Expr
  uses     name to change or binds it
  means    name := value
form SetField in Step
  written  owner:Expr "." name:Name ":=" value:Expr
  means    map.put(owner, spelling of name, value)
form Try in Step
  written  "try" "{" steps:Step* by ";" "}" "or" other:Step
  means    attempt { all steps } rescue e { other }
form Once in Step
  written  "once" "{" steps:Step* by ";" "}"
  means    landing out { all steps }
form Leave in Expr
  written  "leave"
  means    jump out with nothing
form Fresh in Expr
  written  "fresh"
  means    map.new()
form Twice in Step
  written  "twice" step:Step
  means    step; step
form Show in Step
  written  value:Expr
  means    value
form Plus in Expr
  written  left:Expr "+" right:Expr
  means    left + right
form Record in Expr
  written  "{" entries:Entry* by "," "}"
  means    let made = map.new(); each e in entries { map.put(made, spelling of e.name, e.value) }; made
form Entry
  written  name:Name ":" value:Expr
form Own in Expr
  written  "own" "{" first:Name ":" one:Expr "," second:Name "}"
  means    let made = map.new();
           map.put(made, spelling of first, one);
           map.put(made, spelling of second, map.get(made, spelling of first));
           made
form Pair in Expr
  written  "pair" left:Expr "," right:Expr
  means    map.of("left", left, "right", right)
form Seen in Expr
  written  "seen" value:Expr
  means    let made = map.new(); let look = function () { map.keys(made) }; map.put(made, "a", value); [call look, made]
form Field in Expr
  written  owner:Expr "." name:Name
  means    map.get(owner, spelling of name)
form Call in Expr
  written  callee:Expr "(" args:Expr* by "," ")"
  means    call callee with args
form Fn in Expr
  written  "fn" "(" params:Name* by "," ")" body:Expr
  opens    scope
  binds    params in body
  means    function (params) { body }
form Bad in Expr
  written  "bad"
  means    raise "bad"
usual List, Words, Number, Variable
"#;

fn records() -> Language {
    with_tokens(RECORDS)
}

/// How often an instruction stands in the code of a program.
fn count(language: &Language, program: &str, instruction: &str) -> usize {
    let all = code(language, program);
    all.iter().filter(|name| *name == instruction).count()
}

#[test]
fn a_record_is_made_by_one_instruction() {
    let language = records();
    let program = "a := 1; r := { x: a, y: a + 1, z: { w: 2 } }; r";
    assert_eq!(count(&language, program, "map_row"), 2);
    assert_eq!(count(&language, program, "map_put"), 0);
    assert_eq!(count(&language, program, "map_new"), 0);
    assert_eq!(
        value(&language, program),
        "{\"x\": 1, \"y\": 2, \"z\": {\"w\": 2}}"
    );
    assert_eq!(count(&language, "pair 1, 2", "map_row"), 1);
    assert_eq!(value(&language, "pair 1, 2"), "{\"left\": 1, \"right\": 2}");
    assert_eq!(value(&language, "{ }"), "{}");
}

#[test]
fn a_map_that_is_seen_before_it_is_whole_is_made_key_by_key() {
    let language = records();
    let program = "own { a: 4, b }";
    assert_eq!(value(&language, program), "{\"a\": 4, \"b\": 4}");
    assert_eq!(count(&language, program, "map_row"), 1);
    assert_eq!(count(&language, program, "map_put"), 1);
    assert_eq!(value(&language, "seen 1"), "[[\"a\"], {\"a\": 1}]");
}

#[test]
fn a_key_that_is_written_twice_has_the_last_value_and_its_first_place() {
    assert_eq!(
        value(&records(), "{ a: 1, b: 2, a: 3 }"),
        "{\"a\": 3, \"b\": 2}"
    );
}

#[test]
fn many_keys_are_as_good_as_few() {
    let language = records();
    for most in [1, 4, 5, 23, 24, 25, 60] {
        let entries: Vec<String> = (0..most).map(|n| format!("{}: {n}", key(n))).collect();
        let reads: Vec<String> = (0..most).map(|n| format!("r.{}", key(n))).collect();
        let program = format!(
            "r := {{ {} }}; r.{} := 0; {}",
            entries.join(", "),
            key(0),
            reads.join(" + ")
        );
        let sum: usize = (0..most).sum();
        assert_eq!(value(&language, &program), sum.to_string(), "{most} keys");
    }
}

/// The name of a key: letters only, no word of the language.
fn key(n: usize) -> String {
    let letter = |n: usize| char::from(b'a' + n as u8);
    format!("k{}{}", letter(n / 26), letter(n % 26))
}

#[test]
fn keys_can_be_put_behind_those_of_a_row() {
    let language = records();
    let puts: Vec<String> = (0..40).map(|n| format!("r.{} := {n}", key(n))).collect();
    let program = format!(
        "r := {{ x: 1, y: 2 }}; {}; r.x + r.y + r.{}",
        puts.join("; "),
        key(39)
    );
    assert_eq!(value(&language, &program), "42");
}

#[test]
fn each_run_makes_a_map_of_its_own() {
    let program =
        "make := fn (n) { x: n, y: [n] }; a := make(1); b := make(2); a.x := 9; [a, b, make(3)]";
    assert_eq!(
        value(&records(), program),
        "[{\"x\": 9, \"y\": [1]}, {\"x\": 2, \"y\": [2]}, {\"x\": 3, \"y\": [3]}]"
    );
}

#[test]
fn maps_with_the_same_keys_in_another_order_are_read_right() {
    let program = "get := fn (r) r.x; get({ x: 1, y: 2 }) + get({ y: 3, x: 4 }) + get({ x: 5 }) + get({ x: 6, y: 7 })";
    assert_eq!(value(&records(), program), "16");
}

#[test]
fn a_value_that_fails_leaves_the_variable_as_it_was() {
    let language = records();
    assert_eq!(
        value(
            &language,
            "r := { a: 1 }; try { r := { a: 2, b: bad } } or 0; r"
        ),
        "{\"a\": 1}"
    );
    // The variable holds the empty map before its first key is put.
    assert_eq!(
        value(
            &language,
            "r := 1; try { r := { }; r.a := 2; r.b := bad } or 0; r"
        ),
        "{\"a\": 2}"
    );
    assert_eq!(
        value(&language, "try { r := { }; r.a := 2; r.b := bad } or 0; r"),
        "{\"a\": 2}"
    );
}

#[test]
fn what_is_made_twice_is_two_maps() {
    assert_eq!(
        value(
            &records(),
            "all := []; make := fn (n) { x: n }; twice all := [make(1), all]; all"
        ),
        "[{\"x\": 1}, [{\"x\": 1}, []]]"
    );
}

#[test]
fn a_value_that_jumps_out_leaves_what_was_put_before() {
    let language = records();
    for (program, wanted) in [
        ("once { r := fresh; r.a := leave }; r", "{}"),
        ("r := 1; once { r := fresh; r.a := leave }; r", "{}"),
        (
            "once { r := fresh; r.a := 1; r.b := [leave] }; r",
            "{\"a\": 1}",
        ),
        (
            "f := fn (n) n; once { r := fresh; r.a := 1; r.b := f(leave) }; [r]",
            "[{\"a\": 1}]",
        ),
        (
            "try { r := fresh; r.a := 1; r.b := bad } or 0; r",
            "{\"a\": 1}",
        ),
    ] {
        assert_eq!(value(&language, program), wanted, "{program}");
    }
    // Where nothing leads out, it is made at once.
    let program = "r := fresh; r.a := 1; r.b := [2]; r";
    assert_eq!(value(&language, program), "{\"a\": 1, \"b\": [2]}");
    assert_eq!(count(&language, program, "map_row"), 1);
}
