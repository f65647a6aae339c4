//! What is tried before anything is asked: whatever a program does, it does the same as by the
//! walking engine.

use crate::common::{value, value_within, with_tokens};
use crate::kinds::code;
use quillon_core::runtime::Limits;

/// Items of whatever has some, sums of whatever can be added, tests of anything.
const WIDE: &str = r#"
precedence of Step
  right If
precedence of Expr, loosest first
  none  Same
  left  Plus
  left  Call
  left  Item
define truthy(v) = match v { truth t => t  nothing => false  else => true }
define add(a, b) = match a { text t => t & shown(b)  else => match b { text u => shown(a) & u  else => a + b } }
define get(from, at) = match from {
  list l => list.at(l, at)
  map m => if map.has(m, at) { map.get(m, at) } else { nothing }
  text t => text.at(t, at)
  else => fault "this has no items" at from
}
define put(from, at, v) = match from { list l => list.put(l, at, v)  map m => map.put(m, at, v)  else => fault "no items" at from }
usual Program
form Put in Step
  written  "put" from:Expr "," at:Expr "," value:Expr
  means    put(from, at, value); nothing
form PutMap in Step
  written  "key" from:Expr "," at:Expr "," value:Expr
  means    map.put(from, at, value)
form Show in Step
  written  "show" value:Expr
  means    output(shown(value), " ")
form If in Step
  written  "if" test:Expr yes:Step ("else" no:Step)?
  means    if truthy(test) { yes } else { if given no { no } else { nothing } }
form While in Step
  written  "while" test:Expr "{" steps:Step* by ";" "}"
  opens    scope around steps
  means    while truthy(test) { all steps }
form Set in Step
  written  name:Name ":=" value:Expr
  uses     name to change
  means    name := value
form Alone in Step
  written  value:Expr
  means    value
form Way in Expr
  written  "way" params:Name* by "," ":" body:Step "end"
  opens    scope
  binds    params in body
  means    function (params) { body }
form Block in Step
  written  "{" steps:Step* by ";" "}"
  opens    scope
  means    all steps
form Plus in Expr
  written  left:Expr "+" right:Expr
  means    add(left, right)
form Same in Expr
  written  left:Expr "==" right:Expr
  means    left = right
form Item in Expr
  written  from:Expr "@" at:Expr
  means    get(from, at)
form Look in Expr
  written  "look" from:Expr "," at:Expr "or" other:Expr "end"
  means    let m = from; let k = at; if map.has(m, k) { map.get(m, k) } else { other }
form First in Expr
  written  "first" of:Expr "or" other:Expr "end"
  means    match of { list l => list.at(l, 0)  text t => text.at(t, 0)  else => other }
form Pick in Expr
  written  "pick" test:Expr "then" yes:Expr "or" no:Expr "end"
  means    if truthy(test) { yes } else { no }
form Call in Expr
  written  f:Expr "(" args:Expr* by "," ")"
  means    call f with args
form Length in Expr
  written  "length" of:Expr
  means    match of { list l => list.length(l)  text t => text.length(t)  else => 0 }
form Slice in Expr
  written  "cut" of:Expr "from" from:Expr "to" to:Expr "end"
  means    text.slice(of, from, to)
form Empty in Expr
  written  "map"
  means    map.new()
form None in Expr
  written  "none"
  means    nothing
form Yes in Expr
  written  "yes"
  means    true
form No in Expr
  written  "no"
  means    false
form Half in Expr
  written  value:Decimal
  means    value
usual Let, Var, Number, List, Words, Group
"#;

fn all_give(programs: &[(&str, &str)]) {
    let own = with_tokens(WIDE);
    let each = programs
        .iter()
        .map(|(program, _)| (*program, value(&own, program)));
    let given: Vec<(&str, String)> = each.collect();
    let wanted: Vec<(&str, String)> = programs
        .iter()
        .map(|(program, wanted)| (*program, (*wanted).to_owned()))
        .collect();
    assert_eq!(given, wanted);
}

#[test]
fn a_sum_inside_several_matches_is_one_instruction() {
    let own = with_tokens(WIDE);
    let code = code(&own, "let f = way a, b: a + b end; f(1, 2)");
    assert!(code.contains(&"try_add".to_owned()), "{code:?}");
    all_give(&[
        ("let f = way a, b: a + b end; f(1, 2)", "3"),
        ("let f = way a, b: a + b end; f(1, 2.5)", "3.5"),
        ("let f = way a, b: a + b end; f(1, \"x\")", "\"1x\""),
        ("let f = way a, b: a + b end; f(\"x\", 1)", "\"x1\""),
        (
            "let f = way a, b: a + b end; f(\"x\", none)",
            "\"xnothing\"",
        ),
        (
            "let f = way a, b: a + b end; f(none, 1)",
            "1:19 a number is needed here, and this is nothing",
        ),
        (
            "let f = way a: a + 1 end; show f(1); show f(\"t\"); f([])",
            "2 t1 1:16 a number is needed here, and this is a list: []",
        ),
        (
            "let f = way a: 1 + a end; show f(1); show f(\"t\"); f(0.5)",
            "2 1t 1.5",
        ),
    ]);
}

#[test]
fn what_is_known_to_be_a_text_is_joined_at_once() {
    let own = with_tokens(WIDE);
    let program =
        "let t = \"\"; let i = 0; while (i == 4) == no { t := t + \"n\" + i; i := i + 1 }; t";
    let joined = code(&own, program);
    for needless in ["try_add", "jump_kind", "shown"] {
        assert!(
            !joined.iter().any(|name| name == needless),
            "{needless}: {joined:?}"
        );
    }
    assert_eq!(value(&own, program), "\"n0n1n2n3\"");
    all_give(&[
        (
            "let f = way a: a + \"n\" end; show f(1); f(\"m\")",
            "1n \"mn\"",
        ),
        (
            "let f = way a: \"n\" + a end; show f(1); f([])",
            "n1 \"n[]\"",
        ),
        ("let t = \"\"; t := t + 1; t := 5; t + 1", "6"),
    ]);
}

#[test]
fn a_literal_that_nobody_asks_for_is_not_loaded() {
    let own = with_tokens(WIDE);
    let code = code(&own, "let i = 0; while i == none { i := i + 1 }; i");
    let loads = code.iter().filter(|name| *name == "integer").count();
    assert_eq!(loads, 1, "{code:?}");
}

#[test]
fn keys_are_looked_up_once() {
    let own = with_tokens(WIDE);
    let known = code(&own, "let m = map; let k = \"a\" + 1; m@k");
    assert!(known.contains(&"try_key".to_owned()), "{known:?}");
    assert!(!known.contains(&"try_item".to_owned()), "{known:?}");
    all_give(&[
        (
            "let m = map; put m, \"a\", 1; put m, 2, \"b\"; put m, \"a\", m@\"a\" + 1; show m@\"a\"; show m@2; m@3",
            "2 b nothing",
        ),
        (
            "let f = way m, k: m@k end; let m = map; put m, 1, none; show f(m, 1); show f([5], 0); show f(\"lock\", 3); f(m, [])",
            "nothing 5 k 1:21 a key is needed here, and this is a list: []",
        ),
        (
            "let f = way m, k: m@k end; f(7, 1)",
            "1:19 this has no items",
        ),
        (
            "let f = way m, k: m@k end; f([7], 1)",
            "1:21 there is no item 1",
        ),
        // A key of a table, which grows while it is filled.
        (
            "let m = map; let i = 0; while (i == 300) == no { put m, i, i + i; i := i + 1 }; m@299",
            "598",
        ),
        (
            "let f = way m: key m, 1, 2 end; f([])",
            "1:20 a map is needed here, and this is a list: []",
        ),
        (
            "let m = map; key m, m, 2",
            "1:21 a key is needed here, and this is a map: {}",
        ),
    ]);
}

#[test]
fn a_call_behind_what_is_tried_stays_in_the_place_of_the_function() {
    let own = with_tokens(WIDE);
    let limits = Limits {
        depth: 50,
        ..Limits::default()
    };
    for (program, wanted) in [
        (
            "let m = map; put m, 500, \"there\"; let f = way g, k: look m, k or g(g, k + 1) end end; f(f, 0)",
            "\"there\"",
        ),
        (
            "let f = way g, k: first k or g(g, pick k == 500 then \"done\" or k + 1 end) end end; f(f, 0)",
            "\"d\"",
        ),
    ] {
        assert_eq!(value_within(&own, program, limits), wanted, "{program}");
    }
}

#[test]
fn an_item_of_a_known_place_is_one_instruction() {
    let own = with_tokens(WIDE);
    let known = code(&own, "let l = [1]; l@0");
    assert!(known.contains(&"item_integer".to_owned()), "{known:?}");
    let tried = code(&own, "let f = way l: l@1 end; f([1])");
    assert!(tried.contains(&"try_item_integer".to_owned()), "{tried:?}");
    all_give(&[
        (
            "let l = [7, 8]; show l@0; show l@1; l@2",
            "7 8 1:39 there is no item 2",
        ),
        (
            "let f = way l: l@1 end; show f([5, 6]); show f(\"lock\"); f([5])",
            "6 o 1:18 there is no item 1",
        ),
        (
            "let m = map; put m, 1, 9; let f = way l: l@1 end; show f(m); f(none)",
            "9 1:42 this has no items",
        ),
    ]);
}

#[test]
fn what_decides_for_itself_is_tried_first() {
    let own = with_tokens(WIDE);
    let asked = code(&own, "let f = way a: if a { 1 } else { 2 } end; f(yes)");
    assert!(asked.contains(&"try_jump_if".to_owned()), "{asked:?}");
    let program = "let f = way a: if a { show 1 } else { show 2 } end;
        f(yes); f(no); f(none); f(0); f(\"\");
        let i = [yes, 7, none, 1]; let n = 0;
        while i@n { n := n + 1 }; n";
    assert_eq!(value(&own, program), "1 2 2 1 1 2");
}

#[test]
fn what_is_nothing_is_asked_by_its_kind() {
    let own = with_tokens(WIDE);
    let asked = code(
        &own,
        "let f = way a: if a == none { 1 } else { 2 } end; f(1)",
    );
    assert!(asked.contains(&"jump_unless_kind".to_owned()), "{asked:?}");
    all_give(&[(
        "let f = way a: if a == none { show 1 } else { show 2 } end; f(none); f(no); f([]); let g = way a: if none == a { 3 } else { 4 } end; show g(none); show none == none; g(\"\")",
        "1 2 2 3 true 4",
    )]);
}

#[test]
fn characters_are_found_from_wherever_one_has_looked_before() {
    all_give(&[
        (
            "let t = \"lock\"; show t@0; show t@3; show length t; t@4",
            "l k 4 1:54 there is no character 4",
        ),
        (
            "let t = \"水門 e\u{301}f\"; show t@4; show t@1; show t@3; show length t; show t@0; show t@4; t@5",
            "f 門 e\u{301} 5 水 f 1:85 there is no character 5",
        ),
        // Grown in place, plain and not.
        ("let t = \"a\\r\\nb\"; show length t; t@2", "3 \"b\""),
        (
            "let t = \"水門水門\"; show cut t from 1 to 3 end; show cut t from 3 to 1 end; show cut t from 4 to 4 end; cut t from 3 to 5 end",
            "門水   1:117 there is no position 5",
        ),
        (
            "let t = \"lock\"; show cut t from 1 to 3 end; show cut t from 3 to 1 end; show cut t from 4 to 4 end; cut t from 3 to 5 end",
            "oc   1:117 there is no position 5",
        ),
    ]);
}

#[test]
fn a_part_of_a_text_up_to_the_next_place_is_a_letter() {
    let get = |slice: &str| {
        with_tokens(&format!(
            r#"
state
  cell = nothing
usual Program, Let, Number, Words, List, Var
form At in Step
  written  "at" of:Expr "," place:Expr
  means    cell := of; let i = place; let out = match cell {{ text t => {slice}  list l => list.at(l, i)  else => fault "no places" at of }}; output(out, " ")
"#
        ))
    };
    let texts = [
        "let t = \"lock\"; at t, 0; at t, 3",
        "let t = \"lock\"; at t, 3; at t, 4",
        "let t = \"lock\"; let i = 5; at t, i",
        "let t = \"水門 e\u{301}f\"; at t, 1; at t, 3; at t, 4; at t, 0; at t, 5",
        "let t = \"\"; at t, 0",
        "let t = [7, 8]; at t, 1; at t, 1; at t, 2",
    ];
    let first = |slice: &str| {
        let own = get(slice);
        let each = texts.iter().map(|text| value(&own, text));
        each.collect::<Vec<_>>()
    };
    assert_eq!(
        first("text.slice(t, i, i + 1)"),
        [
            "l k nothing",
            "k 1:26 there is no position 5",
            "1:34 there is no position 5",
            "門 e\u{301} f 水 1:54 there is no position 6",
            "1:13 there is no position 1",
            "8 8 1:41 there is no item 2"
        ]
    );
    assert_eq!(
        first("text.slice(t, i, 1 + i)")[3],
        first("text.slice(t, i, i + 1)")[3]
    );
    for (slice, is_letter) in [
        ("text.slice(t, i, i + 1)", true),
        ("text.slice(t, i, 1 + i)", true),
        ("text.slice(t, i - 1, i)", true),
        ("text.slice(t, i, i + 2)", false),
        ("text.slice(t, i, i)", false),
        ("text.slice(t, 0, i)", false),
        ("text.slice(t, i, place)", false),
        ("text.slice(t, i - 2, i)", false),
    ] {
        let made = code(&get(slice), "let t = \"lock\"; at t, 3");
        let found = made.contains(&"try_letter".to_owned());
        assert_eq!(found, is_letter, "{slice}: {made:?}");
    }
    // One place earlier.
    let own = get("text.slice(t, i - 1, i)");
    assert_eq!(
        value(&own, "let t = \"lock\"; at t, 1; at t, 4"),
        "l k nothing"
    );
}

#[test]
fn an_item_of_what_is_known_to_be_a_list_is_found_behind_its_test() {
    let own = with_tokens(
        r#"
state
  base = 0
usual Program, Number
form Put in Step
  written  "put" place:Expr value:Expr
  means    let l = [base, 2, 3]; let i = base + place; let v = value; if i < 1 or i > list.length(l) { fault "no such place" at place } else { list.put(l, i - 1, v) }; l
"#,
    );
    let made = code(&own, "put 2 9");
    assert!(made.contains(&"try_put_item".to_owned()), "{made:?}");
    for (program, wanted) in [
        ("put 2 9", "[0, 9, 3]"),
        ("put 3 9", "[0, 2, 9]"),
        ("put 0 9", "1:5 no such place"),
        ("put 4 9", "1:5 no such place"),
    ] {
        assert_eq!(value(&own, program), wanted, "{program}");
    }
}
