//! Fields and names in definitions: what is made twice, what is not written, what is passed on.

use crate::common;
use crate::common::{language, mistakes, said, value, with_tokens};
use crate::notation::{ATOMS, gives};
use quillon_core::diagnostic::codes;

#[test]
fn fields_that_a_meaning_makes_twice_are_noted() {
    let notes = |means: &str| {
        let own = with_tokens(&format!(
            "precedence of Expr, loosest first\n  left Or\nform Or in Expr\n  written  left:Expr \"or\" right:Expr (\"twice\" more:Whole)?\n  means    {means}\n{ATOMS}"
        ));
        let notes = own.advice();
        let notes = notes
            .iter()
            .filter(|note| note.code == codes::CHECK_MEANING);
        notes.map(said).collect::<Vec<_>>()
    };
    assert_eq!(
        notes("if left = 0 { right } else { left }"),
        ["15:41 `left` runs 2 times in one run of its form"]
    );
    assert_eq!(
        notes("attempt { left } rescue e { left }"),
        ["15:40 `left` stands in 2 different contexts"]
    );
    assert_eq!(
        notes("landing gone { left }; let f = function () { left }; left"),
        ["15:65 `left` runs 2 times in one run of its form"]
    );
    // Of branches one is run, and what both mention is made once.
    assert!(notes("if right = 0 { left } else { [left] }").is_empty());
    assert!(notes("match right { integer => left  text => [left]  else => nothing }").is_empty());
    assert!(notes("let a = left; if a = 0 { right } else { a }").is_empty());
    // Only one side of what is known beforehand is made.
    assert!(notes("if given more { left } else { left }").is_empty());
}

#[test]
fn a_name_can_be_bound_without_being_written() {
    let items = r#"
precedence of Expr, loosest first
  prefix  Each, With, Fn
  left    Add
  suffix  Send
form Object in Expr
  written  "object" "{" methods:Method* "}"
  means    let m = map.new(); each d in methods { map.put(m, d.name, d) }; m
form Method
  written  "to" name:Name "(" params:Name* by "," ")" body:Expr
  binds    params in body
  binds    "self" in body fixed
  means    function (self, params) { body }
form Each in Expr
  written  "each" list:Expr "do" body:Expr
  binds    "it" in body
  means    let out = []; each x in list { with it = x { list.add(out, body) } }; out
form With in Expr
  written  "with" value:Expr "do" body:Expr
  binds    "it" in body
  means    it := value; body
form Fn in Expr
  written  "fn" body:Expr
  means    function () { body }
form Run in Expr
  written  "run" body:Expr
  means    call body
form Word in Expr
  written  name:("self" | "it")
  uses     name
  means    name
usual Variable, Add
form Send in Expr
  written  object:Expr "." name:Name ~ "(" args:Expr* by "," ")"
  means    let o = object; call map.get(o, name) with o, args
"#;
    let own = with_tokens(&format!("{items}{ATOMS}"));
    gives(
        &own,
        &[
            ("each [1, 2] do it + 1", "[2, 3]"),
            ("each [1, 2] do each [10] do it + 1", "[[11], [11]]"),
            ("each [1] do with it + 1 do it + it", "[4]"),
            // Each turn has a variable of its own.
            ("each each [1, 2] do fn it do run it", "[1, 2]"),
            (
                "object { to two() 2 to more(n) each [1] do self.two() + n }.more(5)",
                "[7]",
            ),
            ("it", "1:1 there is no binding called `it`"),
            ("with 4 do self", "1:11 there is no binding called `self`"),
        ],
    );
    let wrong = |clause: &str| {
        mistakes(&format!(
            "language Own\n{}\nform F\n  written  \"f\" body:Whole\n  binds    {clause}\n  means    body\n",
            common::TOKENS
        ))
    };
    assert_eq!(
        wrong("\"it\" onward"),
        ["13:12 `it` is not written, and can only be bound in fields"]
    );
    assert_eq!(
        wrong("\"body\" in body"),
        ["13:12 `body` is a field of the form"]
    );
}

#[test]
fn code_points_may_stand_in_classes() {
    let own = language(
        "language Own\ntokens\n  Blank \" \"+ ignored\n  Low [#x41-#x43#x23]+\nform Letters in Expr\n  written value:Low\n  means value\n",
    );
    gives(&own, &[("ABC#", "\"ABC#\"")]);
}

#[test]
fn a_list_can_be_the_arguments_of_a_call() {
    let own = with_tokens(&format!(
        r#"
form Apply in Expr
  written  "apply" callee:Expr values:Expr
  means    let f = callee; let items = values; let kept = 7;
           let found = list.call(items, f); [kept, found]
form Function in Expr
  written  "fn" "(" params:Name* by "," ")" body:Expr
  binds    params in body
  means    function (params) {{ body }}
usual Group, Variable
{ATOMS}
provides
  most(xs...) means list.fold(xs, 0, function (a, b) {{ number.largest(a, b) }})
  item(xs, i) means list.at(xs, i)
  long means list.range(1, 5000)
  longer means list.range(1, 20000)
"#
    ));
    gives(
        &own,
        &[
            ("apply fn (a, b) [b, a] [1, 2]", "[7, [2, 1]]"),
            ("apply fn () 5 []", "[7, 5]"),
            (
                "apply fn (a) (apply fn (b) [a, b] [2]) [1]",
                "[7, [7, [1, 2]]]",
            ),
            ("apply most [1, 9, 4]", "[7, 9]"),
            ("apply most long", "[7, 5000]"),
            ("apply item [[4], 0]", "[7, 4]"),
            (
                "apply most longer",
                "1:1 a call has at most 10000 arguments, and here are 20000",
            ),
            (
                "apply 3 [1]",
                "1:1 a function is needed here, and this is an integer: 3",
            ),
            (
                "apply most 3",
                "1:1 a list is needed here, and this is an integer: 3",
            ),
        ],
    );
    assert!(value(&own, "apply fn (a) a [1, 2]").starts_with("1:1 "));
    assert!(value(&own, "apply item [[4], 9]").starts_with("1:1 "));
}
