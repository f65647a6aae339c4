//! Operations that take whatever there is and make what they need of it: numbers of texts, an order of anything, places
//! of any number. What is frequent is tried first, and programs still do the same as by the walking engine.

use crate::common::{language, with_tokens};
use crate::notation::{gives, prints};

/// Programs of the bargees with what they print, and what they end in.
#[track_caller]
fn all(programs: &[(&str, &str)]) {
    prints(
        &language(include_str!("../../benches/peers/barge.quillon")),
        programs,
    );
}

/// What is asked about two values of any kind: less, at most, more, at least, the same, another.
const COMPARE: &str = "work f(a, b) do tell a < b, a <= b, a > b, a >= b, a == b, a <> b; end\n";

#[test]
fn two_values_are_in_the_order_that_a_helper_says() {
    let pairs = [
        ("1, 2", "yes yes no no no yes"),
        ("2, 2", "no yes no yes yes no"),
        ("2, 2.0", "no yes no yes yes no"),
        ("2.5, 2", "no no yes yes no yes"),
        ("2, 2.5", "yes yes no no no yes"),
        ("\"a\", \"b\"", "yes yes no no no yes"),
        ("\"10\", \"9\"", "yes yes no no no yes"),
        ("\"10\", 9", "no no yes yes no yes"),
        ("\"2\", 2", "no yes no yes yes no"),
        ("2, \"2\"", "no yes no yes yes no"),
        ("none, 0", "no yes no yes no yes"),
        ("none, none", "no yes no yes yes no"),
        ("yes, 1", "no yes no yes no yes"),
        (
            "9007199254740993, 9007199254740992.0",
            "no no yes yes no yes",
        ),
        (
            "9007199254740992.0, 9007199254740993",
            "yes yes no no no yes",
        ),
        ("9223372036854775807, 1", "no no yes yes no yes"),
    ];
    for (pair, wanted) in pairs {
        all(&[(&format!("{COMPARE}f({pair});"), &format!("{wanted}\n"))]);
    }
}

#[test]
fn what_has_no_order_is_neither_less_nor_more() {
    // Neither of both tests of the helper holds, so that both count as the same in order.
    let nan = "keep big = 1.0;\nfor i = 1 to 400 do big = big * 10; end\nkeep odd = big - big;\n";
    all(&[
        (
            &format!("{nan}{COMPARE}f(odd, 1); f(1, odd); f(odd, odd); f(big, big);"),
            "no yes no yes no yes\nno yes no yes no yes\nno yes no yes no yes\nno yes no yes yes no\n",
        ),
        (
            &format!(
                "{nan}if odd < 1 do tell 1; else tell 2; end\nif not (odd <= 1) do tell 3; else tell 4; end\nif odd == odd do tell 5; else tell 6; end"
            ),
            "2\n4\n6\n",
        ),
    ]);
}

#[test]
fn comparisons_decide_loops_and_choices_alike() {
    all(&[
        (
            "keep n = \"3\";\nkeep turns = 0;\nwhile n > 0 do n -= 1; turns += 1; end\ntell n, turns;",
            "0 3\n",
        ),
        (
            "keep n = 0.5;\nwhile n <> 8 do n = n * 2; end\ntell n;",
            "8.0\n",
        ),
        (
            "work f(x) do give x == 1 ? \"one\" ! x < 1 ? \"less\" ! \"more\"; end\ntell f(1), f(1.0), f(\"1\"), f(0.5), f(none), f(yes), f(\"b\");",
            "one one one less less more less\n",
        ),
        (
            "work f(x) do if x == none do give 1; end give 2; end\ntell f(none), f(0), f(\"\"), f([]), f(no);",
            "1 2 2 2 2\n",
        ),
        (
            "work f(x) do if x == \"a\" do give 1; end give 2; end\ntell f(\"a\"), f(0), f(\"\"), f([\"a\"]), f(none);",
            "1 1 2 2 2\n",
        ),
    ]);
}

#[test]
fn what_a_division_leaves_is_of_any_numbers() {
    let rest = "work m(a, b) do tell a rest b; end\n";
    all(&[
        (
            &format!(
                "{rest}m(7, 2); m(7.5, 2); m(-7, 3); m(7, -3); m(\"9\", 4); m(7, 2.5); m(none, 3); m(7, \"4\");"
            ),
            "1\n1.5\n2\n-2\n1\n2.0\n0\n3\n",
        ),
        (
            &format!(
                "{rest}m(7.0, 2); m(7, 2.0); m(6.0, 3.0); m(0.0, 3); m(-0.0, 3); m(5.0, -3); m(-5.0, 3); m(7.0, 2.5);"
            ),
            "1.0\n1.0\n0.0\n0.0\n-0.0\n-1.0\n1.0\n2.0\n",
        ),
        (
            &format!(
                "{rest}m(9007199254740991.0, 10); m(9007199254740993, 2.0); m(3, 9007199254740992.0); m(0.0, 0.5);"
            ),
            "1.0\n0.0\n3.0\n0.0\n",
        ),
        (
            "work m(a) do tell a rest 3; end\nm(7.0); m(-7.0); m(3.0); m(-3.0); m(1.5);",
            "1.0\n2.0\n0.0\n-0.0\n1.5\n",
        ),
        (
            "work m(a) do tell a rest 3; end\nm(7); m(7.5); m(\"8\"); m(-1); m(none); m(-0.5);",
            "1\n1.5\n2\n2\n0\n2.5\n",
        ),
        (
            &format!("{rest}m(1, 0);"),
            "1:22 this is zero, and nothing can be divided by zero",
        ),
        (
            &format!("{rest}m(1.5, none);"),
            "1:22 this is zero, and nothing can be divided by zero",
        ),
        (
            &format!("{rest}m([], 3);"),
            "1:22 it is no number and cannot be made one",
        ),
        (
            &format!("{rest}m(3, []);"),
            "1:29 it is no number and cannot be made one",
        ),
    ]);
}

#[test]
fn a_place_is_made_a_whole_number_of() {
    let at = "work at(l, i) do tell l[i]; end\nkeep l = [10, 20, 30];\n";
    let put = "work put(l, i, v) do l[i] = v; keep all = \"\"; for x in l do all &= x & \";\"; end tell all; end\n";
    all(&[
        (
            &format!("{at}at(l, 1); at(l, 3); at(l, 2.0); at(l, 2.9); at(l, \"3\"); at(l, yes);"),
            "10\n30\n20\n20\n30\n10\n",
        ),
        (
            &format!("{at}at(l, 0); at(l, 4); at(l, none); at(l, -1); at(none, 1);"),
            "\n\n\n\n\n",
        ),
        (
            &format!("{at}at(\"abc\", 2); at(\"abc\", \"3\"); at(\"abc\", 9); at(\"\", 1);"),
            "b\nc\n\n\n",
        ),
        (
            &format!("{at}at({{a: 1}}, \"a\"); at({{a: 1}}, \"b\");"),
            "1\n\n",
        ),
        (
            &format!(
                "{put}put([1, 2], 2, 7); put([1, 2], 4, 7); put([1, 2], \"1\", 7); put([1, 2], 1.5, 7); put([], 1, 7);"
            ),
            "1;7;\n1;2;;7;\n7;2;\n7;2;\n7;\n",
        ),
        (&format!("{put}put([1], 0, 7);"), "1:24 places begin at 1"),
        (
            &format!("{put}put(5, 1, 7);"),
            "1:22 nothing can be put into it",
        ),
    ]);
}

#[test]
fn what_is_told_is_worked_out_once() {
    all(&[
        (
            "work f() do tell \"called\"; give 1; end\ntell f(), f();",
            "called\n1called\n 1\n",
        ),
        (
            "keep n = 0;\nwork next_one() do n += 1; give n; end\ntell next_one();\ntell n;",
            "1\n1\n",
        ),
    ]);
}

#[test]
fn a_part_is_looked_for_in_all_that_something_is_like() {
    let chain = "class A has to f(x = 2) do give x; end to name() do give \"a\"; end end
class B like A has to name() do give \"b\"; end end
class C like B has end
class D like C has end
class E like D has to f(x) do give x & \"e\"; end end
";
    all(&[
        (
            &format!(
                "{chain}keep d = new D(); keep e = new E();\ntell d.f(), d.f(5), d.name(), e.f(1), e.name(), d.nothing;"
            ),
            "2 5 b 1e b \n",
        ),
        (
            &format!("{chain}keep d = new D(); d.f = 5; tell d.f; keep e = new E(); tell e.f(1);"),
            "5\n1e\n",
        ),
        (
            &format!("{chain}keep d = new D();\ntell d.g();"),
            "7:8 nothing of it is called so",
        ),
        ("tell (3).g();", "1:7 it has no parts"),
    ]);
}

#[test]
fn numbers_are_brought_to_whole_ones() {
    all(&[
        (
            "tell floor(2.5), floor(-2.5), floor(-2.0), floor(7), floor(\"3.7\"), floor(-0.5), floor(0.0);",
            "2 -3 -2 7 3 -1 0\n",
        ),
        (
            "tell floor(2251799813685249.5), floor(-2251799813685249.5), floor(9007199254740994.0);",
            "2251799813685249 -2251799813685250 9007199254740994\n",
        ),
    ]);
}

#[test]
fn a_helper_may_say_the_order_in_any_words() {
    let own = with_tokens(
        r#"
form Ask in Expr
  written  left:Expr "against" right:Expr asked:("below" | "level" | "above" | "off")
  means    let a = left; let b = right;
           if asked = "below" { if order(a, b) = "below" { 1 } else { 0 } }
           else if asked = "level" { if order(a, b) = "level" { 1 } else { 0 } }
           else if asked = "above" { if order(a, b) = "above" { 1 } else { 0 } }
           else { if not (order(a, b) = "level") { 1 } else { 0 } }
form Odd in Expr
  written  "odd"
  means    number.power(10.0, 400) - number.power(10.0, 400)
form Say in Expr
  written  "say" value:Expr
  means    text.join([value, ""], "")
precedence of Expr, loosest first
  none   Ask
  prefix Say
usual Number
define order(a, b) = match a {
  text => fault "no text is level with anything" at a
  else => match b {
    text => fault "nothing is level with a text" at b
    else => if a < b { "below" } else { if a = b { "level" } else { "above" } }
  }
}
"#,
    );
    gives(
        &own,
        &[
            ("1 against 2 below", "1"),
            ("2 against 1 below", "0"),
            ("2 against 2 level", "1"),
            ("2 against 3 level", "0"),
            ("3 against 2 above", "1"),
            ("2 against 2 above", "0"),
            ("2 against 2 off", "0"),
            ("1 against 2 off", "1"),
            ("odd against 2 below", "0"),
            ("odd against odd level", "0"),
            ("odd against 2 above", "1"),
            ("2 against odd off", "1"),
            ("say 1 against 2 off", "1:1 no text is level with anything"),
            ("2 against say 1 above", "1:11 nothing is level with a text"),
        ],
    );
}
