//! Operations that say themselves what they take: where a value has been let through once, it is not asked about
//! again, and programs still do the same as by the walking engine.

use crate::common::{language, value, with_tokens};
use crate::notation::prints;
use quillon_core::Language;

fn cistern() -> Language {
    language(include_str!("../../benches/peers/cistern.quillon"))
}

/// Programs with what they print, and with what they give or end in.
#[track_caller]
fn all(programs: &[(&str, &str)]) {
    prints(&cistern(), programs);
}

#[test]
fn what_stands_first_is_asked_about_first() {
    let shout = "make f():\n    tell \"called\"\n    give 1\n";
    all(&[
        (
            &format!("{shout}tell \"x\" - f()"),
            "4:6 a number is wanted here, not \"x\"",
        ),
        (
            &format!("{shout}tell f() - \"x\""),
            "called\n4:12 a number is wanted here, not \"x\"",
        ),
        (
            &format!("{shout}tell none < f()"),
            "called\n4:6 only numbers and texts have an order",
        ),
        ("tell 1 and yes", "1:6 a test is yes or no, not 1"),
        ("tell yes and 1", "1:14 a test is yes or no, not 1"),
        ("tell no and 1", "false\n"),
        (
            "tell 1 div (2 - 2)",
            "1:13 nothing can be divided by nothing",
        ),
        (
            "tell 1.5 mod 2",
            "1:6 a whole number is wanted here, not 1.5",
        ),
        ("tell -yes", "1:7 a number is wanted here, not true"),
    ]);
}

#[test]
fn what_fails_on_the_way_to_a_variable_leaves_it_as_it_was() {
    all(&[
        (
            "let x = 1\ntry:\n    x = x - \"a\"\ncaught e:\n    tell e\ntell x",
            "a number is wanted here, not \"a\"\n1\n",
        ),
        (
            "let x = 1\nlet l = [\"a\"]\ntry:\n    x += l[0]\ncaught e:\n    tell e\nx += 1\ntell x",
            "only a number can be added to a number\n2\n",
        ),
    ]);
}

#[test]
fn what_is_known_in_one_way_is_not_in_another() {
    let both = "make f(v):\n    try:\n        tell v + 1\n        fail \"no\"\n    caught e:\n        tell v + \"b\"\n";
    let one = "make g(v, on):\n    if on:\n        tell v - 1\n    give v\n";
    all(&[
        (&format!("{both}f(\"a\")"), "ab\n"),
        (
            &format!("{both}f(1)"),
            "2\n6:18 only a number can be added to a number",
        ),
        (&format!("{one}tell g(\"a\", no) + \"b\""), "ab\n"),
        (
            &format!("{one}tell g(3, yes) + \"b\""),
            "2\n5:18 only a number can be added to a number",
        ),
        // What a loop changes is something else at its next turn.
        (
            "let x = 1\nfor i in 1..3:\n    tell x + x\n    x = \"a{x}\"",
            "2\na1a1\naa1aa1\n",
        ),
        (
            "make h(v):\n    let t = v\n    while t != none:\n        tell t + t\n        t = \"b\" if t == 1 else none\nh(1)",
            "2\nbb\n",
        ),
        // A way that ends in a jump says nothing of what comes after.
        (
            "make k(v):\n    for i in 1..2:\n        if i == 1:\n            next\n        tell v - 1\n    give v + \"c\"\ntell k(2)",
            "1\n6:14 only a number can be added to a number",
        ),
        (
            "make k(v):\n    for i in 1..2:\n        if v == \"z\":\n            leave\n        tell v - 1\n    give v + \"c\"\ntell k(\"z\")",
            "zc\n",
        ),
    ]);
}

#[test]
fn a_function_is_what_its_variable_holds_then() {
    all(&[
        (
            "let f = given (n) => n + 1\ntell f(1)\nf = 3\ntell f(1)",
            "2\n4:6 only what was made by `make` can be called",
        ),
        (
            "make f(n):\n    give n if n < 2 else f(n - 1) + f(n - 2)\nlet g = f\ntell g(10), f(9)",
            "55 34\n",
        ),
        (
            "make f(n):\n    make inner(m):\n        give f(m - 1) + m if m > 0 else 0\n    give inner(n)\ntell f(3)",
            "6\n",
        ),
        ("tell round(2.6), root(9)", "3 3.0\n"),
        (
            "let r = round\ntell r(\"a\")",
            "2:8 a number is wanted here, not \"a\"",
        ),
        (
            "tell 3(4)",
            "1:6 only what was made by `make` can be called",
        ),
    ]);
}

#[test]
fn items_are_there_or_it_is_said_that_they_are_not() {
    all(&[
        ("let l = [1, 2]\ntell l[1], l[0]", "2 1\n"),
        ("let l = [1, 2]\ntell l[-1]", "2:8 the list has no place -1"),
        ("let l = [1, 2]\ntell l[2]", "2:8 the list has no place 2"),
        (
            "let l = [1, 2]\ntell l[1.0]",
            "2:8 a whole number is wanted here, not 1.0",
        ),
        ("let l = [1, 2]\nl[2] = 3", "2:3 the list has no place 2"),
        ("let l = [1, 2]\nl[1] += 3\ntell l[1]", "5\n"),
        ("tell \"abc\"[1], \"añb\"[1], \"añb\"[2]", "b ñ b\n"),
        ("tell \"abc\"[3]", "1:12 the text has no place 3"),
        ("tell \"añb\"[-1]", "1:12 the text has no place -1"),
        (
            "make at(it, i):\n    give it[i]\ntell at([1, 2], 1), at(\"abc\", 2), at(\"abc\", 0)\nat(3, 0)",
            "2 c a\n2:10 it has no places",
        ),
        (
            "make at(it, i):\n    give it[i]\nfor i in 0..3:\n    tell at(\"xy\", i)",
            "x\ny\n2:13 the text has no place 2",
        ),
    ]);
}

#[test]
fn fields_are_there_or_it_is_said_that_they_are_not() {
    let boat = "record Boat(name, tons)\nlet b = Boat(\"Rose\", 3)\n";
    let many: Vec<String> = (0..30).map(|n| format!("f{n}")).collect();
    let wide = format!(
        "record Wide({})\nlet w = Wide({})\n",
        many.join(", "),
        vec!["1"; 30].join(", ")
    );
    all(&[
        (
            &format!("{boat}b.tons = 4\nb.tons += 1\ntell b.tons, b.name"),
            "5 Rose\n",
        ),
        (
            &format!("{boat}tell b.draught"),
            "3:6 it has no field draught",
        ),
        (
            &format!("{boat}b.draught = 1"),
            "3:1 it has no field draught",
        ),
        (
            &format!("{boat}b.draught += 1"),
            "3:1 it has no field draught",
        ),
        ("let l = [1]\nl.tons = 1", "2:1 only records have fields"),
        (
            &format!("{wide}w.f29 = 2\nw.f29 += 1\ntell w.f29, w.f0"),
            "3 1\n",
        ),
        (&format!("{wide}w.g = 2"), "3:1 it has no field g"),
        // Records of two sorts at one place.
        (
            "record A(x)\nrecord B(y, x)\nfor one in [A(1), B(2, 3), A(4)]:\n    one.x += 1\n    tell one.x",
            "2\n4\n5\n",
        ),
    ]);
}

#[test]
fn a_text_is_put_together_of_what_it_shows() {
    all(&[
        ("tell \"\"", "\n"),
        (
            "tell \"a\", \"{1}\", \"{none}{yes}\", \"a{[1, \"b\"]}c\"",
            "a 1 nothingtrue a[1, \"b\"]c\n",
        ),
        (
            "let x = \"\"\nx += \"{x}a\"\nx += \"{x}{x}\"\ntell x",
            "aaa\n",
        ),
        (
            "let x = \"0123456789\"\ntell \"{x}{x}{x}{x}{x}{x}\".size()",
            "60\n",
        ),
        (
            "tell \"{1 - none}\"",
            "1:12 a number is wanted here, not nothing",
        ),
    ]);
}

#[test]
fn a_range_is_counted_by_way_of_a_helper_too() {
    all(&[
        ("for i in 3..1:\n    tell i", ""),
        ("for i in 1..2:\n    i = i * 10\n    tell i", "10\n20\n"),
        (
            "for i in 1..\"x\":\n    tell i",
            "1:13 a whole number is wanted here, not \"x\"",
        ),
        ("for c in \"ab\":\n    tell c", "a\nb\n"),
        (
            "for c in 5:\n    tell c",
            "1:10 there is nothing in it to go over",
        ),
        ("let r = 2..3\nfor i in r:\n    tell i", "2\n3\n"),
        (
            "for i in 1..1000000000000:\n    if i == 3:\n        leave\n    tell i",
            "1\n2\n",
        ),
    ]);
}

#[test]
fn what_is_declared_is_demanded_where_it_is_not_known() {
    all(&[(
        "make f(n: whole) -> text:\n    for i in 1..n:\n        if i == 2:\n            give i\n    give \"end\"\ntell f(1)\ntell f(2)",
        "end\n1:1 a text is needed here, and this is an integer: 2",
    )]);
}

#[test]
fn what_is_tried_behind_a_guard_is_what_it_lets_through() {
    let items = r#"
usual Program
form Alone in Step
  written  value:Expr
  means    value
form Put in Step
  written  "put" list:Expr "," at:Expr "," value:Expr
  means    let l = list; put(l, at, value); l
form Only in Expr
  written  "only" list:Expr "," at:Expr
  means    only(list, at)
form Sure in Expr
  written  "sure" list:Expr "," at:Expr
  means    sure(list, at)
usual Number, Words, List
define number(v) = match v { integer n => n  number n => n  else => fault "no number" at v }
define real(v) = match v { number n => n  else => fault "no fraction" at v }
define put(l, at, v) = {
  let n = number(v);
  if at < 0 or at >= list.length(l) { fault "no place" at at };
  list.put(l, at, n)
}
define only(l, at) = {
  let i = real(at);
  if i < 0 or i >= list.length(l) { fault "no place" at at };
  list.at(l, i)
}
define sure(l, at) = {
  let whole = demand l fits list of number;
  let i = number(at);
  if i < 0 or i >= list.length(whole) { fault "no place" at at };
  list.at(whole, i)
}
"#;
    let own = with_tokens(items);
    for (program, wanted) in [
        ("put [1, 2], 1, 3", "[1, 3]"),
        ("put [1, 2], 1, \"b\"", "1:16 no number"),
        ("put [1, 2], 2, 3", "1:13 no place"),
        ("only [1, 2], 1", "1:14 no fraction"),
        ("sure [1, 2], 1", "2"),
        ("sure [1, 2], 2", "1:14 no place"),
        ("sure [1, 2], \"b\"", "1:14 no number"),
        (
            "sure [1, \"b\"], 0",
            "1:6 a list of numbers is needed here, and in this one there is a text: \"b\"",
        ),
    ] {
        assert_eq!(value(&own, program), wanted, "{program}");
    }
}

#[test]
fn what_is_passed_over_leaves_no_variable_unset() {
    let items = r#"
usual Program
form Alone in Step
  written  value:Expr
  means    value
form Take in Step
  written  "take" name:Name "from" list:Expr "," at:Expr
  binds    name onward
  means    let l = list; let p = at;
           { name := p; if p < 0 or p >= list.length(l) { fault "no place" at p }; list.at(l, p) }
form Item in Step
  written  "item" name:Name "of" list:Expr "," at:Expr
  binds    name onward
  means    let l = list; let p = at;
           { if p < 0 or p >= list.length(l) { fault "no place" at p }; name := list.at(l, p); name }
usual Number, List, Variable
"#;
    let own = with_tokens(items);
    for (program, wanted) in [
        ("take i from [5, 6], 1", "6"),
        ("take i from [5, 6], 1; i", "1"),
        ("take i from [5, 6], 2; i", "1:21 no place"),
        ("item i of [5, 6], 1; i", "6"),
        ("item i of [5, 6], 2; i", "1:19 no place"),
    ] {
        assert_eq!(value(&own, program), wanted, "{program}");
    }
}

#[test]
fn what_a_guard_mentions_is_there() {
    let items = r#"
usual Program
form Probe in Step
  written  "probe" value:Expr "with" items:Expr* by ","
  means    probe(value, [items])
form Last in Step
  written  "last" items:Expr* by ","
  means    last([items])
usual Number, Words
define checked(v, args) = match v { integer n => n  else => fault "not with " & shown(args) at v }
define probe(v, args) = { let n = checked(v, args); n + list.at(args, 0) }
define whole(l) = match l { list l => l  else => fault "no list" at l }
define last(args) = { let them = whole(args); list.at(them, list.length(args) - 1) }
"#;
    let own = with_tokens(items);
    for (program, wanted) in [
        ("probe 1 with 2, 3", "3"),
        ("probe \"b\" with 2, 3", "1:7 not with [2, 3]"),
        ("probe 1 with 2; probe \"b\" with 4", "1:23 not with [4]"),
        ("last 5, 6, 7", "7"),
    ] {
        assert_eq!(value(&own, program), wanted, "{program}");
    }
}

#[test]
fn a_type_that_does_not_fit_leaves_the_others() {
    let items = r#"
usual Program
form Alone in Step
  written  value:Expr
  means    value
form Sort in Expr
  written  "sort" value:Expr
  means    let v = value;
           if v fits integer { v + 1 }
           else { match v { integer n => "never"  number n => n * 2  text t => t  else => "other" } }
form Both in Expr
  written  "both" value:Expr
  means    let v = value;
           if v fits number and v < 5 { match v { integer => "small"  number => "some"  else => "never" } }
           else { match v { number n => "large"  integer n => "great"  text t => t  else => "other" } }
usual Number, Words, List
form Part in Expr
  written  value:Decimal
  means    value
"#;
    let own = with_tokens(items);
    for (program, wanted) in [
        ("sort 1", "2"),
        ("sort 1.5", "3.0"),
        ("sort \"a\"", "\"a\""),
        ("sort [1]", "\"other\""),
        ("both 1", "\"small\""),
        ("both 1.5", "\"some\""),
        ("both 9", "\"great\""),
        ("both 9.5", "\"large\""),
        ("both \"a\"", "\"a\""),
        ("both [1]", "\"other\""),
    ] {
        assert_eq!(value(&own, program), wanted, "{program}");
    }
}
