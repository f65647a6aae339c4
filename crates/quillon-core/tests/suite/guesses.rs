//! Operators behind what makes numbers of their operands, or tells kinds apart first: numbers are tried, and all
//! else does what the meaning says, in its order.

use crate::common::{value, with_tokens};
use crate::kinds::code;

/// Texts and truths count as numbers; places are counted from either end.
const WEIRS: &str = r#"
precedence of Expr, loosest first
  right  Set
  none   Less, Least
  left   Plus, Minus
  left   Times, Over, Rest
  left   Call, Item
usual Program
form Alone in Step
  written  value:Expr
  means    value
define figure(v) = match v {
  integer n => n
  number n => n
  truth t => if t { 1 } else { 0 }
  text t => match text.to_integer(t) { integer n => n  else => fault "no number is spelled here" at v }
  else => fault "only numbers can be reckoned with" at v
}
define only(v) = match v { integer => v  else => fault "an integer must stand here" at v }
define taken(a, b) = match a {
  integer => match b { integer => a - b  number => a - b  else => fault "cannot be taken" at b }
  number => match b { integer => a - b  number => a - b  else => fault "cannot be taken" at b }
  else => fault "nothing can be taken from this" at a
}
define before(a, b) = match a {
  text t => match b { text u => text.length(t) < text.length(u)  else => false }
  else => match b { text => true  else => a < b }
}
define item(l, place) = match l {
  list l => {
    let i = if place < 0 { list.length(l) + place } else { place };
    if i < 0 or i >= list.length(l) { nothing } else { list.at(l, i) }
  }
  else => fault "only lists have places" at l
}
define put(l, place, v) = match l {
  list l => {
    let i = if place < 0 { list.length(l) + place } else { place };
    if i = list.length(l) { list.add(l, v) } else { list.put(l, i, v) };
    v
  }
  else => fault "only lists have places" at l
}
define walked(v) = match v { list l => list.copy(l)  integer n => list.range(1, n)  else => fault "nothing to walk over" at v }
form Plus in Expr
  written  left:Expr "+" right:Expr
  means    figure(left) + figure(right)
form Minus in Expr
  written  left:Expr "-" right:Expr
  means    taken(left, right)
form Times in Expr
  written  left:Expr "*" right:Expr
  means    only(left) * right
form Over in Expr
  written  left:Expr "/" right:Expr
  means    figure(left) / figure(right)
form Rest in Expr
  written  left:Expr "rest" right:Expr
  means    integer.modulo(figure(left), figure(right))
form Less in Expr
  written  left:Expr "<" right:Expr
  means    figure(left) < figure(right)
form Least in Expr
  written  left:Expr "below" right:Expr
  means    before(left, right)
form If in Expr
  written  "if" test:Expr "then" yes:Expr "else" no:Expr "end"
  means    if test { yes } else { no }
form While in Expr
  written  "while" test:Expr "do" body:Expr "end"
  means    while test { body }
form Way in Expr
  written  "way" params:Name* by "," ":" body:Expr "end"
  opens    scope
  binds    params in body
  means    function (params) { body }
form Call in Expr
  written  callee:Expr "(" args:Expr* by "," ")"
  means    call callee with args
form Block in Expr
  written  "{" steps:Step+ by ";" "}"
  opens    scope
  means    all steps
form Set in Expr
  written  name:Name ":=" value:Expr
  uses     name to change
  means    name := value; name
form Item in Expr
  written  of:Expr "@" place:Expr
  means    item(of, place)
form Put in Expr
  written  "put" value:Expr "into" of:Expr "at" place:Expr "end"
  means    put(of, place, value)
form Below in Expr
  written  "minus" value:Expr
  means    0 - value
form Copy in Expr
  written  "each" name:Name "in" items:Expr "do" body:Expr "end"
  binds    name in body
  means    each item in list.copy(items) { with name = item { body } }
form Walk in Expr
  written  "walk" name:Name "in" items:Expr "do" body:Expr "end"
  binds    name in body
  means    each item in walked(items) { with name = item { body } }
form Range in Expr
  written  "from" first:Expr "upto" last:Expr "end"
  means    list.range(first, last)
form Largest in Expr
  written  "largest"
  means    9223372036854775807
form Show in Expr
  written  "show" value:Expr
  means    output(shown(value), " "); value
form Yes in Expr
  written  "yes"
  means    true
form Half in Expr
  written  value:Decimal
  means    value
usual Let, Var, Number, List, Words, Group
"#;

fn all_give(cases: &[(&str, &str)]) {
    let weirs = with_tokens(WEIRS);
    for (program, wanted) in cases {
        assert_eq!(value(&weirs, program), *wanted, "{program}");
    }
}

/// How the instructions of the first function begin: up to where numbers are done.
fn up_to_done(program: &str) -> Vec<String> {
    let all = code(&with_tokens(WEIRS), program);
    let done = all.iter().position(|name| name == "done").unwrap_or(0);
    all[..done].to_vec()
}

#[test]
fn two_numbers_take_one_instruction() {
    for (program, wanted) in [
        (
            "let f = way a, b: a + b end; f",
            vec!["function", "return", "add"],
        ),
        (
            "let f = way a: a + 1 end; f",
            vec!["function", "return", "add_integer"],
        ),
        (
            "let f = way a: 1 + a end; f",
            vec!["function", "return", "add_integer"],
        ),
        (
            "let f = way a: a - 1 end; f",
            vec!["function", "return", "subtract_integer"],
        ),
        (
            "let f = way a, b: a rest b end; f",
            vec!["function", "return", "modulo"],
        ),
        (
            "let f = way a, b: if a < b then 1 else 2 end end; f",
            vec!["function", "return", "jump_less"],
        ),
        (
            "let f = way a, b: if a below b then 1 else 2 end end; f",
            vec!["function", "return", "jump_less"],
        ),
    ] {
        assert_eq!(up_to_done(program), wanted, "{program}");
    }
}

#[test]
fn what_is_no_number_is_made_one() {
    let plus = "let f = way a, b: a + b end; ";
    all_give(&[
        (
            &format!("{plus} [f(1, 2), f(1, 2.5), f(0.5, 1), f(0.25, 0.5)]"),
            "[3, 3.5, 1.5, 0.75]",
        ),
        (
            &format!("{plus} [f(yes, 2), f(2, yes), f(yes, yes), f(\"7\", yes)]"),
            "[3, 3, 2, 8]",
        ),
        (
            &format!("{plus} f([], 2)"),
            "1:19 only numbers can be reckoned with",
        ),
        (
            &format!("{plus} f(2, [])"),
            "1:23 only numbers can be reckoned with",
        ),
        (
            &format!("{plus} f(\"x\", [])"),
            "1:19 no number is spelled here",
        ),
        (
            &format!("{plus} f(largest, 1)"),
            "1:19 9223372036854775807 + 1 is too large for an integer",
        ),
        // A text that is less than another is no number that is less.
        (
            "let f = way a, b: if a < b then 1 else 2 end end; [f(\"10\", \"9\"), f(\"9\", \"10\"), f(1, 1.5)]",
            "[2, 1, 1]",
        ),
        (
            "let f = way a, b: a < b end; [f(\"10\", \"9\"), f(9, \"10\"), f(1.5, 1)]",
            "[false, true, false]",
        ),
        (
            "let f = way a, b: a / b end; [f(1, 2), f(\"1\", 4)]",
            "[0.5, 0.25]",
        ),
        (
            "let f = way a, b: a / b end; f(1, 0)",
            "1:19 this is zero, and nothing can be divided by zero",
        ),
        (
            "let f = way a, b: a rest b end; [f(7, 4), f(\"7\", \"4\"), f(yes, 4)]",
            "[3, 3, 1]",
        ),
        (
            "let f = way a, b: a rest b end; f(7, 0)",
            "1:19 this is zero, and nothing can be divided by zero",
        ),
        ("let x = 5; { x := x + 1; x := \"4\"; x := x + x; x }", "8"),
        (
            "let f = way a: { a := a + 1; a := 1 + a; a } end; [f(1), f(\"1\"), f(yes)]",
            "[3, 3, 3]",
        ),
    ]);
}

#[test]
fn operands_are_made_numbers_of_in_their_order() {
    all_give(&[
        // The left one fails before the right one runs.
        ("[] + show 2", "1:1 only numbers can be reckoned with"),
        (
            "let l = []; l + show 2",
            "1:13 only numbers can be reckoned with",
        ),
        (
            "let f = way a: a + show 2 end; [f(1), f(\"5\"), f(yes)]",
            "2 2 2 [3, 7, 3]",
        ),
        // The right one changes the left one, whose value has been taken.
        ("let x = 1; x + { x := 10; x }", "11"),
        ("let x = \"1\"; x + { x := 10; x }", "11"),
        ("let x = 1; { x := 5; x } + x", "10"),
        ("let f = way a: (show a) + (show a) end; f(\"4\")", "4 4 8"),
        (
            "(show 1) + (show [])",
            "1 [] 1:13 only numbers can be reckoned with",
        ),
        (
            "let f = way a, b, c: a + b + c + a end; [f(1, 2, 3), f(\"1\", yes, 0.5)]",
            "[7, 3.5]",
        ),
    ]);
}

#[test]
fn only_what_all_numbers_come_to_is_tried() {
    // One kind of number is refused.
    let names = code(&with_tokens(WEIRS), "let f = way a: a * 2 end; f");
    assert!(!names.contains(&"done".to_owned()), "{names:?}");
    all_give(&[
        ("let f = way a: a * 2 end; f(4)", "8"),
        (
            "let f = way a: a * 2 end; f(0.5)",
            "1:16 an integer must stand here",
        ),
        (
            "let f = way a, b: a - b end; [f(5, 3), f(5, 0.5), f(0.5, 2)]",
            "[2, 4.5, -1.5]",
        ),
        (
            "let f = way a, b: a - b end; f(5, \"3\")",
            "1:23 cannot be taken",
        ),
        (
            "let f = way a, b: a - b end; f(\"5\", 3)",
            "1:19 nothing can be taken from this",
        ),
        (
            "let f = way a, b: if a below b then 1 else 2 end end; [f(1, 2), f(2, 1), f(\"aa\", \"b\"), f(\"b\", \"aa\"), f(1, \"x\"), f(\"x\", 1)]",
            "[1, 2, 2, 1, 1, 2]",
        ),
        (
            "let f = way a, b: if a below b then 1 else 2 end end; f(1, [])",
            "1:30 a number is needed here, and this is a list: []",
        ),
        ("let n = 0; { while n below 3 do n := n + 1 end; n }", "3"),
        (
            "let n = \"0\"; { while n < \"3\" do n := n + 1 end; n }",
            "3",
        ),
    ]);
}

#[test]
fn items_are_found_from_either_end() {
    let l = "let l = [10, 20, 30]; let get = way i: l @ i end; ";
    let names = code(&with_tokens(WEIRS), &format!("{l} get"));
    assert!(names.contains(&"try_item".to_owned()), "{names:?}");
    all_give(&[
        (
            &format!("{l} [get(0), get(2), get(3), get(minus 1), get(minus 3), get(minus 4)]"),
            "[10, 30, nothing, 30, 10, nothing]",
        ),
        (
            &format!("{l} get(0.5)"),
            "1:40 an integer is needed here, and this is a number: 0.5",
        ),
        (
            &format!("{l} get(\"x\")"),
            "1:40 a text is needed here, and this is an integer: 0",
        ),
        (
            "let get = way l: l @ 1 end; [get([1, 2]), get([1])]",
            "[2, nothing]",
        ),
        (
            "let get = way l: l @ 1 end; get(5)",
            "1:18 only lists have places",
        ),
        (
            &format!(
                "{l} {{ put 5 into l at 1 end; put 6 into l at minus 1 end; put 7 into l at 3 end; l }}"
            ),
            "[10, 5, 6, 7]",
        ),
        (&format!("{l} put 5 into l at 0 end"), "5"),
        (
            &format!("{l} put 5 into l at 4 end"),
            "1:52 there is no item 4",
        ),
    ]);
}

#[test]
fn a_loop_over_a_copy_goes_over_what_there_was() {
    all_give(&[
        (
            "let l = [1, 2]; { each x in l do put x into l at 2 end end; l }",
            "[1, 2, 2]",
        ),
        (
            "let l = [1, 2, 3]; { each x in l do { show x; l := [] } end; l }",
            "1 2 3 []",
        ),
        ("each x in from 1 upto 3 end do show x end", "1 2 3 nothing"),
        (
            "each x in 5 do show x end",
            "1:11 a list is needed here, and this is an integer: 5",
        ),
        (
            "let l = [1, 2, 3]; { walk x in l do { show x; l := [x] } end; l }",
            "1 2 3 [3]",
        ),
        (
            "let l = [1, 2]; { l := [7, 8]; walk x in l do { show x; l := [9] } end; walk x in l do show x end }",
            "7 8 9 nothing",
        ),
        (
            "let f = way l: walk x in l do { show x; l := 5 } end end; { f([1, 2]); f(2); f([]) }",
            "1 2 1 2 nothing",
        ),
        (
            "let f = way l: walk x in l do show x end end; f(yes)",
            "1:26 nothing to walk over",
        ),
        ("walk x in from 2 upto 4 end do show x end", "2 3 4 nothing"),
        ("from largest upto largest end", "[9223372036854775807]"),
        ("from 3 upto 2 end", "[]"),
    ]);
}
