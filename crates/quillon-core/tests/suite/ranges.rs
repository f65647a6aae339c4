//! Loops over the integers of a range count, and make no list; and variables that are set to what
//! another one has just been set to. Whatever the values are, both engines come to the same.

use crate::common::{value, value_within, with_tokens};
use crate::kinds::code;
use quillon_core::runtime::Limits;

/// A loop over anything, where a range is a thing like others; assignments that give a value; records that
/// give nothing for what they do not have.
const QUAY: &str = r#"
precedence of Expr, loosest first
  right Set, SetField
  prefix Task, Print, Let, Range, Peek, Keep
  none Less
  left Plus
  left Call, Field
form Program
  written  steps:Expr* by ";"
  opens    scope
  means    landing give { all steps }
form Let in Expr
  written  "let" name:Name "=" value:Expr
  binds    name in value, onward
  means    let v = value; name := v; v
form Keep in Expr
  written  "keep" (name:Name "as")? value:Expr
  binds    name onward
  means    let v = value; name := v; v
form Set in Expr
  written  name:Name ":=" value:Expr
  uses     name to change
  means    let v = value; name := v; v
form For in Expr
  written  "for" name:Name "in" items:Expr body:Block
  binds    name in body
  means    landing leave { each item in items { with name = item { body } } }; nothing
form Range in Expr
  written  "from" first:Expr "upto" last:Expr
  means    list.range(first, last)
form Leave in Expr
  written  "leave"
  means    jump leave
form Block in Expr
  written  "{" steps:Expr* by ";" "}"
  opens    scope
  means    all steps
form Print in Expr
  written  "show" value:Expr
  means    output(shown(value), " ")
form Less in Expr
  written  left:Expr "<" right:Expr
  means    left < right
form Plus in Expr
  written  left:Expr "+" right:Expr
  means    add(left, right)
form Record in Expr
  written  "@" "{" entries:Entry* by "," "}"
  means    let made = map.new(); each e in entries { map.put(made, spelling of e.key, e.value) }; made
form Entry
  written  key:Name "=" value:Expr
  means    value
form Field in Expr
  written  target:Expr "." name:Name
  means    find(target, spelling of name)
form SetField in Expr
  written  target:Expr "." name:Name ":=" value:Expr
  means    let v = value; map.put(target, spelling of name, v); v
form Peek in Expr
  written  "peek" name:Name "of" target:Expr
  means    map.find(target, spelling of name)
form Task in Expr
  written  "task" params:Name* by "," ":" body:Expr
  opens    scope
  binds    params in body
  means    function (params) { body }
form Call in Expr
  written  callee:Expr ~ "(" args:Expr* by "," ")"
  means    call callee with args
form Largest in Expr
  written  "largest"
  means    9223372036854775807
usual List, Number, Variable, Words, Group
define add(a, b) = match a { text t => t & shown(b)  else => match b { text u => shown(a) & u  else => a + b } }
define find(target, key) = match target {
  map m => if map.has(m, key) { map.get(m, key) } else { nothing }
  else => fault "only records have fields" at target
}
"#;

fn all_give(cases: &[(&str, &str)]) {
    let own = with_tokens(QUAY);
    for (program, wanted) in cases {
        assert_eq!(value(&own, program), *wanted, "{program}");
    }
}

#[test]
fn a_loop_over_a_range_counts_and_makes_no_list() {
    let own = with_tokens(QUAY);
    let names = code(
        &own,
        "let sum = 0; for n in from 1 upto 9 { sum := sum + n }; sum",
    );
    for (name, is_there) in [("count_next", true), ("each_next", false), ("move", false)] {
        let found = names.iter().any(|own| own == name);
        assert_eq!(found, is_there, "{name}: {names:?}");
    }
    // A range that is more than that is a list.
    let listed = code(&own, "let r = from 1 upto 9; for n in r { n }; r");
    assert!(listed.contains(&"each_next".to_owned()), "{listed:?}");
    all_give(&[
        ("for n in from 1 upto 4 { show n }", "1 2 3 4 nothing"),
        ("for n in from 2 upto 2 { show n }", "2 nothing"),
        ("for n in from 2 upto 1 { show n }; 7", "7"),
        (
            "let end = 3; for n in from 1 upto end { end := 9; show n }; end",
            "1 2 3 9",
        ),
        (
            "let r = from 1 upto 3; for n in r { show n }; r",
            "1 2 3 [1, 2, 3]",
        ),
        (
            "for n in from 1 upto 3 { for m in from n upto 3 { show n + m } }",
            "2 3 4 4 5 6 nothing",
        ),
    ]);
}

#[test]
fn each_turn_has_a_variable_of_its_own() {
    all_give(&[
        (
            "let last = 0; for n in from 1 upto 3 { n := n + 10; show n }; last",
            "11 12 13 0",
        ),
        (
            "let f = 0; let g = 0; for n in from 1 upto 2 { g := f; f := task: { n := n + 5; n } }; show f(); show f(); show g(); g()",
            "7 12 6 11",
        ),
        (
            "let f = 0; for n in from 1 upto 3 { f := task m: n + m }; f(10)",
            "13",
        ),
    ]);
}

#[test]
fn a_range_of_any_length_begins_at_once_and_ends_at_the_largest_integer() {
    all_give(&[
        (
            "for n in from 1 upto largest { show n; leave }",
            "1 nothing",
        ),
        (
            "let turns = 0; for n in from largest + (0 + 0) upto largest { turns := turns + 1 }; turns",
            "1",
        ),
    ]);
    let own = with_tokens(QUAY);
    let little = Limits {
        memory: Some(8 << 20),
        ..Limits::default()
    };
    let program = "let sum = 0; for n in from 1 upto 600000 { sum := sum + 1 }; sum";
    assert_eq!(value_within(&own, program, little), "600000");
}

#[test]
fn what_is_no_bound_is_named_where_it_stands() {
    all_give(&[
        (
            "for n in from \"a\" upto 2 { n }",
            "1:15 an integer is needed here, and this is a text: \"a\"",
        ),
        (
            "for n in from 1 upto [] { n }",
            "1:22 an integer is needed here, and this is a list: []",
        ),
    ]);
}

#[test]
fn what_is_set_to_what_has_just_been_set_is_set_at_once() {
    let own = with_tokens(QUAY);
    let names = code(&own, "let n = 1; let m = n + 1; n := n + m; n := n + 2; m");
    assert!(!names.contains(&"move".to_owned()), "{names:?}");
    all_give(&[
        (
            "let a = 1; let b = a := a + 4; show a; show b; a := b := 2; a + b",
            "5 5 4",
        ),
        ("let a = 1; show (a := a + 1) + (a := a + 1); a", "5 3"),
        ("let b = 3; let a = b; b := 4; show a; b", "3 4"),
        // There may be nothing to be set.
        ("show keep n as 3; show keep 4; n", "3 4 3"),
        ("let a = 1; show keep a := 5; a", "5 5"),
        (
            "let f = task n: { n := n + 1; n := n + n }; show f(2); f(\"a\")",
            "6 \"a1a1\"",
        ),
        (
            "let a = 5; let f = task: a; a := 6; show f(); let g = task: { a := a + 1; a }; show g(); a",
            "6 7 7",
        ),
    ]);
}

#[test]
fn a_key_that_may_be_missing_is_remembered_like_one_that_is_there() {
    let own = with_tokens(QUAY);
    let names = code(&own, "let m = @{a = 1}; m.a");
    assert!(names.contains(&"try_map_get".to_owned()), "{names:?}");
    all_give(&[
        (
            "let f = task m: m.tons; show f(@{tons = 1}); show f(@{name = 2, tons = 3}); show f(@{name = 2}); show f(@{}); f(@{tons = 4})",
            "1 3 nothing nothing 4",
        ),
        (
            "let f = task m: m.tons; let b = @{}; show f(b); b.tons := 5; show f(b); b.tons := 6; show f(b); b.name := 7; f(b)",
            "nothing 5 6 6",
        ),
        (
            "let f = task m: peek tons of m; show f(@{tons = 1}); show f(@{name = 2}); f(@{name = 2, tons = 3})",
            "1 nothing 3",
        ),
        (
            "let f = task m: m.tons; f(7)",
            "1:17 only records have fields",
        ),
        (
            "let f = task m: peek tons of m; f(7)",
            "1:30 a map is needed here, and this is an integer: 7",
        ),
        // More keys than a shape has: a table.
        (
            "let m = @{}; for n in from 1 upto 3 { m.a := n; m.b := n; m.c := n; m.d := n; m.e := n; m.f := n; m.g := n; m.h := n; m.i := n; m.j := n; m.k := n; m.l := n; m.o := n; m.p := n; m.q := n; m.r := n; m.s := n; m.t := n; m.u := n; m.v := n; m.w := n; m.x := n; m.y := n; m.z := n; m.aa := n; m.bb := n; show m.bb }; m.cc",
            "1 2 3 nothing",
        ),
    ]);
}
