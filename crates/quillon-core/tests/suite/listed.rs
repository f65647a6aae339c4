//! Arguments that come as one list, and lists whose items need not be in a list: nobody can tell, except by the
//! instructions.

use crate::common::{value, with_tokens};
use crate::kinds::code;

/// Functions whose arguments may be left out, methods that are told apart by name, lists like any other.
const LOCKS: &str = r#"
precedence of Expr, loosest first
  right   Set
  prefix  Show, Give, Repeat
  left    Plus, Minus
  left    Call, Send, Item
usual Program
form Alone in Step
  written  value:Expr
  means    value
form Way in Expr
  written  "way" params:Param* by "," ":" body:Expr "end"
  opens    scope
  binds    names of params in params, body
  means    function (values) { landing give { each param in params { param taking values }; body } }
form Param
  written  name:Name ("=" other:Expr)?
  takes    values
  offers   name
  means    name := if list.length(values) > 0 { list.take_first(values) }
           else if given other { other } else { fault "an argument is missing" }
form Craft in Expr
  written  "craft" params:Param* by "," ":" body:Expr "end"
  opens    scope
  binds    names of params in params, body, "me" in params, body
  means    function (me, values) { each param in params { param taking values }; body }
form Plain in Expr
  written  "plain" params:Name* by "," ":" body:Expr "end"
  opens    scope
  binds    params in body
  means    function (params) { body }
form Own in Step
  written  "own" name:Name "=" value:Expr
  binds    name in value, onward
  means    name := value
form Wants in Expr
  written  "whole" name:Name ":" body:Expr "end"
  opens    scope
  binds    name in body
  means    function (name) { body }
form Call in Expr
  written  callee:Expr "(" args:Expr* by "," ")"
  means    call callee with [args]
form Each in Expr
  written  "pass" args:Expr* by "," "to" callee:Expr "end"
  means    call callee with args
form Map in Expr
  written  "all" items:Expr "by" callee:Expr "end"
  means    list.map(items, callee)
form Steer in Expr
  written  "steer" of:Expr "by" callee:Expr "with" args:Expr* by "," "end"
  means    call callee with of, [args]
form Send in Expr
  written  target:Expr "." name:Name "(" args:Expr* by "," ")"
  means    send(target, spelling of name, [args])
form Block in Expr
  written  "{" steps:Step+ by ";" "}"
  opens    scope
  means    all steps
form Give in Expr
  written  "give" value:Expr
  means    jump give with value
form If in Expr
  written  "if" test:Expr "then" yes:Expr "else" no:Expr "end"
  means    if test = 0 { no } else { yes }
form Repeat in Expr
  written  "repeat" count:Expr body:Expr
  means    each n in list.range(1, count) { body }; nothing
form Set in Expr
  written  name:Name ":=" value:Expr
  uses     name to change
  means    name := value; name
form Item in Expr
  written  of:Expr "@" at:Expr
  means    list.at(of, at)
form Plus in Expr
  written  left:Expr "+" right:Expr
  means    left + right
form Minus in Expr
  written  left:Expr "-" right:Expr
  means    left - right
form Show in Expr
  written  "show" value:Expr
  means    output(shown(value), " ")
usual Let, Var, Number, List, Words, Group
define send(target, name, args) = match target {
  list l => if name = "push" { each a in args { list.add(l, a) }; l }
            else if name = "size" { list.length(l) }
            else if name = "keep" { let kept = args; list.add(l, args); kept }
            else if name = "later" { function (x) { list.length(args) + x } }
            else if name = "twice" { list.add(l, list.length(args)); list.add(l, list.at(args, 0)); args }
            else { fault "lists have no such way" at name }
  function f => if name = "call" { call f with args } else { fault "no such way" at name }
  else => fault "this has no ways" at target
}
provides
  first(args)   means list.at(args, 0)
  second(args)  means list.item(args, 2)
  count(args)   means list.length(args)
  either(args)  means if list.length(args) > 1 { list.at(args, 1) } else { list.at(args, 0) }
  same(args)    means args
"#;

fn all_give(cases: &[(&str, &str)]) {
    let locks = with_tokens(LOCKS);
    for (program, wanted) in cases {
        assert_eq!(value(&locks, program), *wanted, "{program}");
    }
}

/// Which of some instructions a program is compiled to.
fn made_with(program: &str) -> Vec<String> {
    let mut all = code(&with_tokens(LOCKS), program);
    all.retain(|name| ["list", "call_listed", "tail_call_listed", "try_given"].contains(&&**name));
    all.sort();
    all.dedup();
    all
}

#[test]
fn arguments_may_be_left_out_and_come_without_a_list() {
    let two = "let f = way a, b = a + 1: a + b end; ";
    assert_eq!(
        made_with(&format!("{two} show f(1); show f(1, 5)")),
        ["call_listed", "try_given"]
    );
    all_give(&[
        (&format!("{two} f(3, 4)"), "7"),
        (&format!("{two} f(3)"), "7"),
        // What is left over is not looked at.
        (&format!("{two} f(3, 4, 5, 6, 7, 8, 9)"), "7"),
        (&format!("{two} f()"), "1:13 an argument is missing"),
        ("let n = way: 7 end; n() + n(1)", "14"),
        // A later one sees those before it, and those outside.
        (
            "let k = 5; let f = way a, b = a + k, c = a + b: [a, b, c] end; f(1)",
            "[1, 6, 7]",
        ),
        (
            "let f = way a, b = a + 1: way c = b: a + c end end; f(1)() + f(1, 9)(4)",
            "8",
        ),
        // Made in a loop, called from elsewhere.
        (
            "let sum = 0; let f = way a, b = 2: { sum := sum + a + b } end; repeat 3 f(1); sum",
            "9",
        ),
    ]);
}

#[test]
fn a_function_that_wants_the_list_has_it() {
    all_give(&[
        ("let w = whole l: l end; w(1, 2)", "[1, 2]"),
        ("let w = whole l: l end; w()", "[]"),
        ("let p = plain l: l end; p(1, 2)", "[1, 2]"),
        // The list is one argument, whatever is in it.
        (
            "let p = plain a, b: a end; p(1, 2)",
            "1:28 `p` takes 2 arguments, and gets 1",
        ),
        (
            "let p = plain: 1 end; p()",
            "1:23 `p` takes 0 arguments, and gets 1",
        ),
        (
            "let w = whole l: l end; let a = w(1); let b = w(1); { a.push(2); b }",
            "[1]",
        ),
        // So many that no instruction counts them.
        (
            "let f = way a, b = 0: a + b end; f(1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29, 30, 31, 32, 33)",
            "3",
        ),
    ]);
}

#[test]
fn a_list_that_is_passed_is_the_list_that_was_made() {
    let two = "let f = way a, b = 10: a + b end; ";
    all_give(&[
        // Taking from it takes from the caller's.
        (
            &format!("{two} let l = [1, 2, 3]; show pass l to f end; l"),
            "3 [3]",
        ),
        (
            &format!("{two} let l = [1]; show pass l to f end; l"),
            "11 []",
        ),
        (&format!("{two} all [[1, 2], [3]] by f end"), "[3, 13]"),
        (
            &format!("{two} pass 5 to f end"),
            "1:13 a list is needed here, and this is an integer: 5",
        ),
        (
            &format!("{two} pass [] to f end"),
            "1:13 an argument is missing",
        ),
        // A number of items is not mistaken for a number.
        (
            "let f = way a, b = 10: a end; pass 1, 2 to f end",
            "1:31 `f` takes 1 argument, and gets 2",
        ),
    ]);
}

#[test]
fn what_comes_before_the_list_is_passed_with_it() {
    let craft = "let c = craft a, b = 1: [me, a, b] end; ";
    assert_eq!(
        made_with(&format!("{craft} steer 9 by c with 2 end")),
        ["call_listed", "list", "tail_call_listed", "try_given"]
            .into_iter()
            .filter(|name| *name != "tail_call_listed")
            .collect::<Vec<_>>()
    );
    all_give(&[
        (&format!("{craft} steer 9 by c with 2 end"), "[9, 2, 1]"),
        (&format!("{craft} steer 9 by c with 2, 3 end"), "[9, 2, 3]"),
        (
            &format!("{craft} steer 9 by c with end"),
            "1:15 an argument is missing",
        ),
        (
            &format!("{craft} c(2)"),
            "1:42 `c` takes 2 arguments, and gets 1",
        ),
        (
            "let f = way a: a end; steer 9 by f with 2 end",
            "1:23 `f` takes 1 argument, and gets 2",
        ),
    ]);
}

#[test]
fn a_call_at_the_end_takes_the_place_of_the_function() {
    let program = "own down = way n, sum = 0: if n then give down(n - 1, sum + n) else sum end end; down(20000)";
    all_give(&[
        (program, "200010000"),
        (
            "let p = plain l: l end; let f = way n: give p(n, 1, 2) end; f(5)",
            "[5, 1, 2]",
        ),
        (
            "let f = way n: give 3(n) end; f(5)",
            "1:21 a function is needed here, and this is an integer: 3",
        ),
    ]);
    assert!(made_with(program).contains(&"tail_call_listed".to_owned()));
}

#[test]
fn what_is_built_in_and_only_looks_at_items_needs_no_list() {
    assert_eq!(
        made_with("let x = 4; show first(x, 5) + count(1, 2)"),
        Vec::<String>::new()
    );
    all_give(&[
        ("first(4, 5)", "4"),
        ("second(4, 5)", "5"),
        ("count(1, 2, 3) + count()", "3"),
        ("either(1) + either(1, 20)", "21"),
        ("same(1, 2)", "[1, 2]"),
        ("first()", "1:1 there is no item 0"),
        ("second(1)", "1:1 there is no item 2"),
        ("let f = first; f(3, 4)", "3"),
        ("let f = first; f()", "1:16 there is no item 0"),
        ("let f = second; f(7)", "1:17 there is no item 2"),
        ("all [[1, 2], [3, 4]] by second end", "[2, 4]"),
        ("let x = 1; let y = first(x, { x := 5 }); [x, y]", "[5, 1]"),
    ]);
}

#[test]
fn a_list_that_a_helper_gets_is_made_where_it_is_wanted() {
    assert_eq!(
        made_with("let l = [0]; let x = 1; repeat 3 l.push(x); show l.size()"),
        ["list"],
        "the list of the program, and no other"
    );
    all_give(&[
        ("let l = [0]; l.push(1, 2).push(3)", "[0, 1, 2, 3]"),
        ("let l = []; { l.push(); l }", "[]"),
        ("let l = []; { repeat 3 l.push(l.size()); l }", "[0, 1, 2]"),
        // Five are gone over by a loop.
        ("let l = []; l.push(1, 2, 3, 4, 5)", "[1, 2, 3, 4, 5]"),
        // The list that is kept is the one that is given back.
        (
            "let l = []; let k = l.keep(1, 2); { k.push(3); l }",
            "[[1, 2, 3]]",
        ),
        ("let l = []; l.twice(8, 9)", "[8, 9]"),
        ("let l = []; { l.twice(8, 9); l }", "[2, 8]"),
        (
            "let l = []; let f = l.later(1, 2, 3); pass 10 to f end",
            "13",
        ),
        (
            "let f = way a, b = 5: a + b end; f.call(1) + f.call(1, 2)",
            "9",
        ),
        ("let l = [1]; l.sail(2)", "1:14 lists have no such way"),
        ("5 .push(2)", "1:1 this has no ways"),
    ]);
}

#[test]
fn lists_that_are_looked_at_once_and_again_are_lists() {
    all_give(&[
        ("let l = [1, 2]; l @ 0 + l @ 1", "3"),
        ("let l = [1, 2]; let m = l; { m.push(3); l }", "[1, 2, 3]"),
        ("let l = [1, 2]; { repeat 2 l.push(0); l.size() }", "4"),
        (
            "let l = [1, 2]; let f = way: l end; { l.push(3); f() }",
            "[1, 2, 3]",
        ),
        (
            "let f = way: { let l = [1]; l.push(2) } end; f().push(f() @ 0)",
            "[1, 2, 1]",
        ),
        ("let x = 1; let l = [x, { x := 2 }, x]; l", "[1, 2, 2]"),
        ("[1, 2] @ 5", "1:10 there is no item 5"),
    ]);
}
