//! Names that reach further: dynamic bindings, and names that nested forms offer.

use crate::common;
use crate::common::{mistakes, value, with_tokens};
use quillon_core::Language;

/// The same little language with lexical or dynamic bindings.
fn scoped(dynamic: &str) -> Language {
    with_tokens(&format!(
        r#"
precedence of Expr, loosest first
  left Add
  left Call

form Program
  written  steps:Step* by ";" trailing
  opens    scope
  means    all steps
form Block
  written  "{{" steps:Step* by ";" "}}"
  opens    scope
  means    landing give {{ all steps }}
form Let in Step
  written  "let" name:Name "=" value:Expr
  binds    name onward {dynamic}
  means    name := value
form Set in Step
  written  "set" name:Name "=" value:Expr
  uses     name to change
  means    name := value
form Give in Step
  written  "give" value:Expr
  means    jump give with value
form Say in Step
  written  value:Expr
  means    value
form Fun in Expr
  written  "fn" "(" params:Name* by "," ")" body:Block
  binds    params in body {dynamic}
  means    function (params) {{ body }}
form Call in Expr
  written  callee:Expr ~ "(" args:Expr* by "," ")"
  means    call callee with args
form Try in Expr
  written  "try" body:Block
  means    attempt {{ body }} rescue e {{ 0 }}
usual Add, Variable, Number, List
"#
    ))
}

#[test]
fn the_difference_between_lexical_and_dynamic_scope_can_be_shown() {
    let (lexical, dynamic) = (scoped(""), scoped("dynamic"));
    for (program, by_text, by_time) in [
        (
            "let toll = 1; let fare = fn () { toll }; let day = fn () { let toll = 5; fare() }; [day(), toll]",
            "[1, 1]",
            "[5, 1]",
        ),
        (
            "let n = 1; let f = fn () { set n = n + 1 }; let g = fn (n) { f(); n }; [g(10), n]",
            "[10, 2]",
            "[11, 1]",
        ),
        // What was held before is back however the binding ends.
        (
            "let n = 1; let f = fn () { let n = 2; give n; 3 }; let g = fn () { let n = 4; n() }; [f(), n, try { g() }, n]",
            "[2, 1, 0, 1]",
            "[2, 1, 0, 1]",
        ),
        (
            "let f = fn (x) { g(x) }; let g = fn (y) { x + y }; f(2)",
            "1:18 there is no binding called `g`",
            "4",
        ),
        (
            "let f = fn () { x }; let g = fn (x) { f() }; g(7) + f()",
            "1:17 there is no binding called `x`",
            "1:17 `x` has no value yet",
        ),
        (
            "let a = 1; b",
            "1:12 there is no binding called `b`",
            "1:12 there is no binding called `b`",
        ),
    ] {
        assert_eq!(value(&lexical, program), by_text, "lexical: {program}");
        assert_eq!(value(&dynamic, program), by_time, "dynamic: {program}");
    }
}

const PATTERNS: &str = r#"
form Program
  written  steps:Step* by ";" trailing
  opens    scope
  means    all steps
form Take in Step
  written  "take" target:Pattern "from" value:Expr
  binds    names of target onward
  means    target taking value
form Say in Step
  written  value:Expr
  means    value
form NamePattern in Pattern
  written  name:Name
  takes    subject
  offers   name
  means    name := subject
form ListPattern in Pattern
  written  "[" items:Pattern* by "," "]"
  takes    subject
  offers   names of items
  means    if list.length(subject) /= list.length(spelling of items) { fault "the list has another length" }; let i = 0; each item in items { item taking list.at(subject, i); i := i + 1 }
usual Variable, Number, List
"#;

#[test]
fn patterns_of_any_depth_bind_the_names_that_they_offer() {
    let language = with_tokens(PATTERNS);
    for (program, wanted) in [
        ("take a from 3; a", "3"),
        (
            "take [a, [b, c], d] from [1, [2, 3], 4]; [d, c, b, a]",
            "[4, 3, 2, 1]",
        ),
        ("take [] from []; 7", "7"),
        (
            "take [a, a] from [1, 2]",
            "1:10 `a` is bound twice in the same scope",
        ),
        ("take [a, b] from [1]; b", "1:6 the list has another length"),
        (
            "take [[a], b] from [1, 2]",
            "1:7 a list is needed here, and this is an integer: 1",
        ),
        (
            "take [a, q] from [1, 2]; z",
            "1:26 there is no binding called `z`",
        ),
        (
            "take [a] from 5",
            "1:15 a list is needed here, and this is an integer: 5",
        ),
    ] {
        assert_eq!(value(&language, program), wanted, "{program}");
    }
}

#[test]
fn mistakes_around_offers_and_takes_are_found_with_the_definition() {
    let whole = |form: &str| {
        format!(
            "language Own\n{}\nform P\n  written  target:T\n{form}\nform T\n  written  name:Name\n  takes    subject\n  offers   name\n  means    name := subject\n",
            common::TOKENS
        )
    };
    for (clauses, wanted) in [
        (
            "  binds names of target in target\n  means target",
            "`target` can be form `T`, which is run on something",
        ),
        (
            "  binds names of goal onward\n  means 1",
            "form `P` has no field `goal`",
        ),
        (
            "  binds names of target onward\n  means other taking 1",
            "form `P` has no field `other`",
        ),
    ] {
        let found = mistakes(&whole(clauses));
        assert!(
            found.iter().any(|said| said.contains(wanted)),
            "{clauses}: {found:#?}"
        );
    }
    let plain = "language Own\ntokens\n  Name letter+\nform P\n  written target:T\n  binds names of target onward\n  means target taking 1\nform T\n  written name:Name\n  means 1\n";
    let found = mistakes(plain).join("\n");
    assert!(
        found.contains("`target` can be no form that offers a name"),
        "{found}"
    );
    assert!(
        found.contains("`target` can be no form that takes a value"),
        "{found}"
    );
}
