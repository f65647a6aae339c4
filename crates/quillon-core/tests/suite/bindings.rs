//! Names beyond plain scopes: spaces, hoisting, creation by assignment, parts of children.

use crate::common;
use crate::common::{language, mistakes, value, with_tokens};
use quillon_core::runtime::Recorder;
use quillon_core::source::SourceText;

const FORMS: &str = r#"
precedence of Expr, loosest first
  left  Less
  left  Add, Take
form Program
  written  steps:Step*
  opens    scope
  means    landing answer { all steps; nothing }
form Block
  written  "{" steps:Step* "}"
  opens    scope
  means    all steps
form Way in Step
  written  "way" name:Name "(" params:Param* by "," ")" body:Block
  opens    scope
  binds    name throughout as ways
  binds    params.name in body
  means    name := function (params.name) { landing answer { all params; body; nothing } }
form Param
  written  name:Name ("or" usual:Expr)?
  means    if given usual { nothing }
form Put in Step
  written  name:Name ":" value:Expr
  uses     name to change or binds it
  means    name := value
form Fix in Step
  written  "fix" name:Name ":" value:Expr
  binds    name onward fixed
  means    name := value
form When in Step
  written  "when" test:Expr yes:Block
  means    if test { yes }
form Answer in Step
  written  "answer" value:Expr
  means    jump answer with value
form Call in Expr
  written  name:Name ~ "(" args:Expr* by "," ")"
  uses     name as ways
  means    call name with args
form Less in Expr
  written  left:Expr "<" right:Expr
  means    left < right
usual Add, Number
form Take in Expr
  written  left:Expr "-" right:Expr
  means    left - right
form Var in Expr
  written  name:Name
  uses     name
  means    name
provides
  double(x)  means x * 2
"#;

#[test]
fn functions_have_names_of_their_own() {
    let own = with_tokens(FORMS);
    // The same word is a variable and a function.
    assert_eq!(
        value(
            &own,
            "way level(n) { answer n + 1 } level: 4 answer level(level)"
        ),
        "5"
    );
    assert_eq!(
        value(&own, "way level(n) { answer n } answer level"),
        "1:34 there is no binding called `level`"
    );
    assert_eq!(
        value(&own, "level: 4 answer level(1)"),
        "1:17 there is no binding called `level`"
    );
    // What is built in is found in every space.
    assert_eq!(value(&own, "answer double(4)"), "8");
}

#[test]
fn what_is_bound_throughout_is_seen_before_its_place() {
    let own = with_tokens(FORMS);
    let both = "
way even(n) { when n < 1 { answer 1 } answer odd(n - 1) }
way odd(n) { when n < 1 { answer 0 } answer even(n - 1) }
answer even(10) + odd(7)
";
    assert_eq!(value(&own, both), "2");
    assert_eq!(
        value(&own, "answer later(1) way later(n) { answer n }"),
        "1:8 `later` has no value yet"
    );
    // Only as far as the scope goes.
    assert_eq!(
        value(
            &own,
            "when 1 < 2 { way inner() { answer 1 } } answer inner()"
        ),
        "1:48 there is no binding called `inner`"
    );
    assert_eq!(
        value(&own, "way a() { } way a() { }"),
        "1:17 `a` is bound twice in the same scope"
    );
    let nested = "way outer(n) { way inner(m) { answer n + m } answer inner(10) } answer outer(1) + outer(2)";
    assert_eq!(value(&own, nested), "23");
}

#[test]
fn an_assignment_binds_what_nothing_binds() {
    let own = with_tokens(FORMS);
    assert_eq!(value(&own, "a: 1 a: a + 1 answer a"), "2");
    assert_eq!(
        value(&own, "a: a + 1"),
        "1:4 there is no binding called `a`"
    );
    assert_eq!(value(&own, "a: 1 when 0 < 1 { a: 5 b: 6 } answer a"), "5");
    assert_eq!(
        value(&own, "when 0 < 1 { b: 6 } answer b"),
        "1:28 there is no binding called `b`"
    );
    assert_eq!(
        value(&own, "fix a: 1 a: 2"),
        "1:10 `a` is fixed and cannot be changed"
    );
    // A name of one's own may be that of something built-in.
    assert_eq!(value(&own, "double: 3 answer double + double(1)"), "5");
}

#[test]
fn the_names_of_parameters_may_stand_in_forms_of_their_own() {
    let own = with_tokens(FORMS);
    assert_eq!(
        value(&own, "way f(a, b or 3) { answer a + b } answer f(1, 2)"),
        "3"
    );
    assert_eq!(
        value(&own, "way f(a, a) { }"),
        "1:10 `a` is bound twice in the same scope"
    );
    let with = |clause: &str| {
        mistakes(&format!(
            "language Own\ntokens\n  Blank [ ]+ ignored\n  Name letter+\nform P\n  written name:Name\nform F\n  written ps:P* body:B\n  {clause}\nform B\n  written \"b\"\n"
        ))
    };
    assert_eq!(
        with("binds ps.nam in body"),
        ["9:12 what `ps` can be has no field `nam`"]
    );
    assert_eq!(
        with("means function (ps.name) { body }"),
        ["9:19 `ps.name` is not bound here"]
    );
    assert_eq!(
        with("binds ps.name inward"),
        ["9:17 expected `onward`, `throughout` or `in`, found `inward`"]
    );
}

#[test]
fn a_conversation_keeps_names_of_every_space() {
    let own = language(&format!(
        "language Own\n  entries Program, Expr\n{}\n{FORMS}",
        common::TOKENS
    ));
    let mut host = Recorder::default();
    let mut session = own.session().start(&mut host).unwrap();
    let mut enter = |text: &str| {
        let outcome = session.enter_source(&SourceText::new("entry", text));
        match outcome.value {
            Some(value) => value.written(),
            None => common::said(&outcome.diagnostics[0]),
        }
    };
    enter("way level(n) { answer n + 1 }");
    enter("level: 41");
    assert_eq!(enter("level(level)"), "42");
    assert_eq!(enter("level: level(level)"), "nothing");
    assert_eq!(enter("level"), "42");
}

/// A language in which assigning makes a variable, with functions, and symbols that nothing need
/// bind.
const ASSIGNING: &str = r#"
usual Program, Get, Number
form Assign in Step
  written  name:Name "=" value:Expr
  uses     name to change or binds it
  means    name := value
form Show in Step
  written  value:Expr
  means    value
form Way in Expr
  written  "way" "(" params:Name* by "," ")" body:Body
  binds    params in body
  means    function (params) { body }
form Body
  written  "{" steps:Step* by ";" "}"
  opens    scope
  means    all steps
form If in Expr
  written  "if" test:Expr "then" yes:Expr "else" no:Expr
  means    if test = 0 { no } else { yes }
form Call in Expr
  written  f:Expr ~ "(" args:Expr* by "," ")"
  means    call f with args
form Plus in Expr
  written  left:Expr "+" right:Expr
  means    left + right
form Symbol in Expr
  written  "'" ~ name:Name
  uses     name or free
  means    if given name { name } else { "free " & spelling of name }
form Itself in Expr
  written  "`" ~ name:Name
  uses     name or free
  means    name
precedence of Expr, loosest first
  prefix If, Way
  left   Plus
  suffix Call
"#;

#[test]
fn what_assigning_makes_can_be_used_in_functions_before_it() {
    let language = with_tokens(ASSIGNING);
    for (program, wanted) in [
        (
            "sum = way (n) { if n then n + sum(n + 0) else 0 }; sum(0)",
            "0",
        ),
        (
            "even = way (n) { if n then odd(0) else 1 }; odd = way (n) { if n then 5 else even(0) }; even(3)",
            "1",
        ),
        ("get = way () { rate }; rate = 4; get()", "4"),
        (
            "get = way () { rate }; get(); rate = 4",
            "1:16 `rate` has no value yet",
        ),
        // Where it runs at once, it must have been bound.
        ("rate = rate + 1", "1:8 there is no binding called `rate`"),
        ("rate; rate = 4", "1:1 there is no binding called `rate`"),
        // What a function assigns is its own, and so is the order in it.
        (
            "get = way () { rate; rate = 4 }; get()",
            "1:16 there is no binding called `rate`",
        ),
        (
            "get = way () { rate = 4; inner = way () { rate }; inner() }; get()",
            "4",
        ),
        (
            "get = way () { inner = way () { rate }; rate = 4; inner() }; get()",
            "4",
        ),
    ] {
        assert_eq!(value(&language, program), wanted, "{program}");
    }
}

#[test]
fn a_name_may_be_free() {
    let language = with_tokens(ASSIGNING);
    for (program, wanted) in [
        ("'rate", "\"free rate\""),
        ("rate = 4; 'rate", "4"),
        ("`rate", "\"rate\""),
        ("rate = 4; `rate", "4"),
        ("way (rate) { 'rate }(3)", "3"),
        ("get = way () { 'rate }; rate = 4; get()", "4"),
    ] {
        assert_eq!(value(&language, program), wanted, "{program}");
    }
    assert_eq!(
        mistakes(
            "language L\ntokens\n  Name  letter+\nform F\n  written  \"f\" name:Name\n  uses     name\n  means    given name\n"
        ),
        ["7:18 field `name` is always there exactly once"]
    );
}
