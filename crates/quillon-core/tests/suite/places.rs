//! Items asked for behind tests of their places, comparisons of what tests decide on, and operands whose
//! kind is demanded: fast where they are what they mostly are, and right where they are not.

use crate::common::{value, with_tokens};
use crate::kinds::code;

/// Places that count from the end below 0, places past the end that give nothing, comparisons by three ways.
const LOCKS: &str = r#"
precedence of Expr, loosest first
  none Less, AtMost, More
  left Plus
  left Item, Maybe, First, Held, Field
usual Program, Number, Words, Variable, List, Group, Let
form Set in Step
  written  name:Name ":=" value:Expr
  uses     name to change
  means    name := value
form Put in Step
  written  "put" from:Expr "," at:Expr "," value:Expr
  means    put(from, at, value); nothing
form Show in Step
  written  "show" value:Expr
  means    output(shown(value), " ")
form Alone in Step
  written  value:Expr
  means    value
form When in Step
  written  "when" test:Expr "{" steps:Step* by ";" "}"
  means    if test { all steps } else { nothing }
form Way in Expr
  written  "way" params:Name* by "," ":" body:Step "end"
  opens    scope
  binds    params in body
  means    function (params) { body }
form Steps in Step
  written  "{" steps:Step* by ";" "}"
  opens    scope
  means    all steps
form Call in Expr
  written  f:Name "(" args:Expr* by "," ")"
  uses     f
  means    call f with args
form Item in Expr
  written  from:Expr "@" at:Expr
  means    get(from, at)
form Maybe in Expr
  written  from:Expr "?" at:Expr
  means    maybe(from, at)
form First in Expr
  written  from:Expr "'" at:Expr
  means    counted(from, at)
form Less in Expr
  written  left:Expr "<" right:Expr
  means    order(left, right) < 0
form AtMost in Expr
  written  left:Expr "<=" right:Expr
  means    order(left, right) <= 0
form More in Expr
  written  left:Expr ">" right:Expr
  means    not (order(left, right) < 1)
form Minus in Expr
  written  "-" value:Number
  means    - value
form Held in Expr
  written  "held" value:Expr
  means    let n = demand value fits integer; n + n
form Same in Expr
  written  "same" left:Expr "," right:Expr "end"
  means    same(left) + right
form Sum in Expr
  written  "sum" left:Expr "," right:Expr "end"
  means    (demand left fits integer) + right
form Plus in Expr
  written  left:Expr "+" right:Expr
  means    left + right
form Change in Expr
  written  "change" name:Name "to" value:Expr "end"
  uses     name to change
  means    name := value; name
form Kept in Expr
  written  "kept" name:Name "end"
  uses     name to change
  means    match demand name fits list of any { list l => { name := 9; l }  else => 0 }
form Send in Expr
  written  "send" what:Name "to" list:Expr "end"
  means    send(list, spelling of what)
form Wide in Expr
  written  "wide" value:Expr "end"
  means    wide(value)
form Map in Expr
  written  "map" value:Expr
  means    { "tons": value }
form Field in Expr
  written  from:Expr "." name:Name
  means    map.get(demand from fits map of any, spelling of name)
define get(from, at) = match from {
  list l => if at < 0 { list.at(l, list.length(l) + at) } else { list.at(l, at) }
  text t => text.at(t, at)
  else => fault "this has no items" at from
}
define put(from, at, v) = match from {
  list l => if at >= 0 { list.put(l, at, v) } else { list.put(l, list.length(l) + at, v) }
  else => fault "this has no items" at from
}
define maybe(from, at) = match from {
  list l => if at >= 0 and at < list.length(l) { list.at(l, at) } else { nothing }
  else => nothing
}
define counted(from, at) = match from {
  list l => if at < 1 or at > list.length(l) { "none" } else { list.item(l, at) }
  else => from
}
define send(list, what) = if what = "size" { list.length(list) } else { if what /= "first" { "no " & what } else { list.at(list, 0) } }
define wide(v) = if v fits number { v + 1 } else { if not (v fits text) { nothing } else { v & "!" } }
define same(v) = match v { integer n => n  else => 0 }
define order(a, b) = if a < b { -1 } else { if a = b { 0 } else { 1 } }
"#;

fn all_give(cases: &[(&str, &str)]) {
    let own = with_tokens(LOCKS);
    for (program, wanted) in cases {
        assert_eq!(value(&own, program), *wanted, "{program}");
    }
}

/// What the code of a program has of some instructions.
fn has(program: &str, names: &[&str]) -> Vec<bool> {
    let code = code(&with_tokens(LOCKS), program);
    let found = |name: &&str| code.iter().any(|own| own == name);
    names.iter().map(found).collect()
}

#[test]
fn an_item_behind_a_test_of_its_place_is_tried_first() {
    for place in ["@", "?", "'"] {
        let program = format!("let f = way l, i: l {place} i end; f([1], 0)");
        assert_eq!(has(&program, &["try_item"]), [true], "{place}");
    }
    let program = "let f = way l, i: { put l, i, 3; i } end; f([1], 0)";
    assert_eq!(has(program, &["try_put_item"]), [true]);
    all_give(&[
        (
            "let f = way l, i: l @ i end; let l = [4, 5, 6]; show f(l, 0); show f(l, 2); show f(l, -1); show f(l, -3); show f(\"abc\", 1); f(l, 3)",
            "4 6 6 4 b 1:23 there is no item 3",
        ),
        (
            "let f = way l, i: l @ i end; f([1], -2)",
            "1:19 there is no item -1",
        ),
        (
            "let f = way l, i: l @ i end; f([1], [])",
            "1:23 a number or a text is needed here, and this is a list: []",
        ),
        (
            "let f = way l, i: l ? i end; let l = [4, 5]; show f(l, 0); show f(l, 1); show f(l, 2); show f(l, -1); f(7, 0)",
            "4 5 nothing nothing nothing",
        ),
        (
            "let f = way l, i: l ' i end; let l = [4, 5]; show f(l, 1); show f(l, 2); show f(l, 3); show f(l, 0); f(7, 0)",
            "4 5 none none 7",
        ),
        (
            "let l = [4, 5]; let f = way i, v: { put l, i, v; v } end; f(0, 1); f(-1, 2); show l; f(2, 0)",
            "[1, 2] 1:44 there is no item 2",
        ),
    ]);
}

#[test]
fn tests_alone_decide_on_a_comparison_of_what_they_lead_to() {
    let program = "let f = way a, b: when a < b { show a } end; f(1, 2)";
    let names = ["jump_less", "jump_less_integer", "jump_equal"];
    assert_eq!(has(program, &names), [true, false, false]);
    let program = "let f = way a, b: when a <= b { show a } end; f(1, 2)";
    assert_eq!(
        has(program, &["jump_less", "jump_equal", "integer"]),
        [true, true, true]
    );
    let each = "let f = way a, b: { when a < b { show 1 }; when a <= b { show 2 }; when a > b { show 3 }; a } end; ";
    for (args, wanted) in [
        ("1, 2", "1 2 1"),
        ("2, 2", "2 2"),
        ("3, 2", "3 3"),
        ("\"b\", \"a\"", "3 \"b\""),
        (
            "[], 1",
            "1:26 a number or a text is needed here, and this is a list: []",
        ),
    ] {
        let program = format!("{each}f({args})");
        assert_eq!(value(&with_tokens(LOCKS), &program), wanted, "{args}");
    }
    all_give(&[(
        "let a = 3; show a < 4; show a <= 2; a > 2",
        "true false true",
    )]);
}

#[test]
fn what_is_demanded_is_an_operand_where_it_is() {
    let program = "let f = way m: m.tons end; f(map 3)";
    assert_eq!(has(program, &["map_get", "jump_kind"]), [true, true]);
    let function = "let f = way m: m.tons end; f(map 3)";
    let moves = code(&with_tokens(LOCKS), function);
    let moves: Vec<&String> = moves.iter().filter(|name| *name == "move").collect();
    // Only on the way to the error.
    assert_eq!(moves.len(), 1, "{moves:?}");
    all_give(&[
        (
            "let f = way m: m.tons end; show f(map 3); f(4)",
            "3 1:45 a map is needed here, and this is an integer: 4",
        ),
        // The variable has been looked at before it changes.
        ("let a = 1; same a, change a to 5 end end", "6"),
        ("let a = 1; sum a, change a to 5 end end", "6"),
        (
            "let a = 1; let f = way: sum a, change a to 5 end end end; show f(); a",
            "6 5",
        ),
        ("let a = [2]; show kept a end; a", "[2] 9"),
        ("let f = way a: { show kept a end; a } end; f([3])", "[3] 9"),
        (
            "let a = 2; let b = held a; a := 7; show b; held []",
            "4 1:49 an integer is needed here, and this is a list: []",
        ),
    ]);
}

#[test]
fn names_that_are_known_are_not_compared() {
    let program = "let f = way l: send size to l end end; f([])";
    let names = ["jump_equal_constant", "constant", "given_length"];
    assert_eq!(has(program, &names), [false, false, true]);
    all_give(&[(
        "let l = [7, 8]; show send size to l end; show send first to l end; send last to l end",
        "2 7 \"no last\"",
    )]);
}

#[test]
fn a_kind_that_is_asked_for_as_a_type_is_a_jump() {
    let program = "let f = way v: wide v end end; f(1)";
    assert_eq!(has(program, &["apply_two", "jump_kind"]), [false, true]);
    let wide = "let f = way v: wide v end end; ";
    for (arg, wanted) in [
        ("1", "2"),
        ("\"a\"", "\"a!\""),
        ("[]", "nothing"),
        ("f(\"b\")", "\"b!!\""),
    ] {
        let program = format!("{wide}f({arg})");
        assert_eq!(value(&with_tokens(LOCKS), &program), wanted, "{arg}");
    }
}
