//! Types: what is found before anything runs, and what is said of what does not fit.

use crate::common::{TOKENS, language};
use quillon_core::runtime::Recorder;
use quillon_core::scoping::Around;
use quillon_core::source::SourceText;
use quillon_core::{Language, Reading};

/// A language with functions, a landing, clauses that are chosen among, and annotations.
fn own() -> Language {
    language(&format!(
        r#"language Own
  starts  Program
  entries Program, Expr
{TOKENS}
types
  metres
  pair of (A, B)

precedence of Expr, loosest first
  prefix If
  left   Add
  suffix Call

form Program
  written  steps:Step* by ";" trailing
  opens    scope
  means    all steps

form Let in Step
  written  "let" name:Name (":" kind:Type)? "=" value:Expr
  binds    name in value, onward general
  typed    name : kind, value : kind gives nothing
  means    name := value

form Set in Step
  written  name:Name ":=" value:Expr
  uses     name to change
  typed    name : T, value : T gives nothing
  means    name := value

form To in Step
  written  "to" name:Name "(" params:Name* by "," ")" body:Block
  binds    name throughout general
  binds    params in body
  typed    params : P, body : R, name : function (P) to R gives nothing
  means    name := function (params) {{ landing answer {{ body }} }}

form Answer in Step
  written  "answer" value:Expr?
  means    jump answer with value

form Do in Step
  written  value:Expr
  means    value

form Block
  written  "{{" steps:Step* by ";" trailing "}}"
  opens    scope
  means    all steps

form If in Expr
  written  "if" test:Expr "then" yes:Block ("else" no:Block)?
  typed    given no, test : truth, yes, no : T gives T
  typed    not given no, test : truth gives nothing
  means    if test {{ yes }} else {{ no }}

form Add in Expr
  written  left:Expr "+" right:Expr
  typed    left, right : T, T : number gives T
  typed    left, right : text gives text
  typed    left, right : metres gives metres
  means    let a = left; match a {{ text t => t & right  else => a + right }}

form Call in Expr
  written  callee:Expr ~ "(" args:Expr* by "," ")"
  typed    callee : function (A) to R, args : A gives R
  means    call callee with args

form Pair in Expr
  written  "<" a:Expr "," b:Expr ">"
  typed    a : A, b : B gives pair of (A, B)
  means    [a, b]

form Metres in Expr
  written  value:Whole ~ "m"
  typed    gives metres
  means    value

form Number in Expr
  written  value:(Whole | Decimal)
  typed    value : T gives T
  means    value

form Words in Expr
  written  value:Text
  typed    gives text
  means    value

form Yes in Expr
  written  "yes"
  typed    gives truth
  means    true

form Variable in Expr
  written  name:Name
  uses     name
  typed    gives type of name
  means    name

form NumberType in Type
  written  "num"
  denotes  number

form ListType in Type
  written  "[" inner:Type "]"
  denotes  list of inner

provides
  first(items)  typed items : list of T gives T  means list.at(items, 0)
  list(items...)  typed items : T gives list of T    means items
  unknown(x)   means x
"#
    ))
}

/// The type of a text, or the first error.
pub fn of(language: &Language, text: &str) -> String {
    let source = SourceText::new("program", text);
    let compiled = language.compiled(&source, Around::Nothing, Reading::Entry);
    match compiled.into_result() {
        Ok(compiled) => {
            let types = compiled.types.unwrap();
            let root = types.of_node(compiled.tree.root()).unwrap();
            root.shown(language.definition())
        }
        Err(problems) => {
            let place = problems[0].place.as_ref().unwrap();
            let at = place.source.position(place.span.start);
            format!("{} {at}: {}", problems[0].code.0, problems[0].message)
        }
    }
}

#[track_caller]
fn check(pairs: &[(&str, &str)]) {
    let language = own();
    for (text, expected) in pairs {
        assert_eq!(of(&language, text), *expected, "of {text}");
    }
}

#[test]
fn literals_and_what_is_made_of_them() {
    check(&[
        ("1", "integer"),
        ("1.5", "number"),
        ("1 + 2", "integer"),
        ("1 + 2.5", "number"),
        ("\"a\" + \"b\"", "text"),
        ("2m + 3m", "metres"),
        ("<1, \"two\">", "pair of (integer, text)"),
        ("list(1, 2.5)", "list of number"),
        ("first(list(\"a\"))", "text"),
        ("if yes then { 1 } else { 2.5 }", "number"),
        ("if yes then { 1 }", "nothing"),
        ("", "nothing"),
    ]);
}

#[test]
fn functions_are_general_where_they_are_marked_so() {
    check(&[
        ("to same(x) { x }; same", "function (A) to A"),
        ("to same(x) { x }; same(yes); same(1)", "integer"),
        (
            "to twice(x) { x + x }; twice(1); twice(\"a\")",
            "type.mismatch 1:40: `\"a\"` is a text, and a number is needed here",
        ),
        ("to up(x) { x + 1.5 }; up(2)", "number"),
        // Before its definition, and through another.
        (
            "let a = same(1); let b = same(yes); to same(x) { x }; b",
            "truth",
        ),
        (
            "to one(x) { two(x) }; to two(x) { first(list(x)) }; one",
            "function (A) to A",
        ),
        (
            "to one(x) { two(x) }; to two(x) { one(x) }; one",
            "function (A) to B",
        ),
        ("let n = 1; n := 2.5; n", "number"),
    ]);
}

#[test]
fn what_jumps_to_a_landing_is_among_what_it_gives() {
    check(&[
        (
            "to f(x) { answer x + 1 }; f",
            "function (integer) to integer",
        ),
        (
            "to f(x) { if x then { answer 1 }; 2.5 }; f",
            "function (truth) to number",
        ),
        ("to f() { answer }; f", "function () to nothing"),
        (
            "to f(x) { if x then { answer \"a\" }; 2 }; f",
            "type.mismatch 1:37: `2` is an integer, and a text is needed here",
        ),
    ]);
}

#[test]
fn annotations_say_what_a_type_is() {
    check(&[
        ("let a : num = 1; a", "number"),
        ("let a : [num] = list(1); a", "list of number"),
        (
            "let a : [num] = list(\"x\"); a",
            "type.mismatch 1:17: `list(\"x\")` is a list of text, and a list of number is needed here",
        ),
        (
            "let a : num = 1; a := \"x\"",
            "type.mismatch 1:23: `\"x\"` is a text, and a number is needed here",
        ),
    ]);
}

#[test]
fn what_does_not_fit_is_said_with_both_sides() {
    check(&[
        (
            "1 + \"a\"",
            "type.choice 1:1: the types in `1 + \"a\"` do not go together: `1` is an integer, `\"a\"` is a text",
        ),
        (
            "2m + 1",
            "type.choice 1:1: the types in `2m + 1` do not go together: `2m` is a metres, `1` is an integer",
        ),
        (
            "if 1 then { 2 }",
            "type.mismatch 1:4: `1` is an integer, and a truth value is needed here",
        ),
        (
            "to f(x) { x }; f(1, 2)",
            "type.count 1:16: `f` takes 1 argument, and gets 2",
        ),
        (
            "first(1, 2)",
            "type.count 1:1: `first` takes 1 argument, and gets 2",
        ),
        ("list(1, 2, 3)", "list of integer"),
        (
            "1(2)",
            "type.mismatch 1:1: `1` is an integer, and a function is needed here",
        ),
        (
            "to f(g) { g(g) }; f",
            "type.endless 1:13: the type of `g` would have to contain itself",
        ),
        ("unknown(1)(2) + \"a\"", "text"),
    ]);
}

#[test]
fn the_cause_is_a_line_of_the_program() {
    let text = "let fare = \"twelve\";\nto up(x) { x + 1 };\nup(fare)";
    let source = SourceText::new("program", text);
    let compiled = own().compiled(&source, Around::Nothing, Reading::Program);
    let [problem] = &compiled.diagnostics[..] else {
        panic!("{:#?}", compiled.diagnostics);
    };
    assert_eq!(
        problem.why,
        [
            "`fare` is a text because of line 1",
            "a number is needed because of line 2"
        ]
    );
    let related: Vec<&str> = problem
        .related
        .iter()
        .map(|r| r.place.source.slice(r.place.span))
        .collect();
    assert_eq!(related, ["\"twelve\"", "x + 1"]);
}

#[test]
fn several_errors_are_found_in_one_go() {
    let source = SourceText::new("program", "if 1 then { 2 }; if \"a\" then { 3 }; 1(2)");
    let compiled = own().compiled(&source, Around::Nothing, Reading::Program);
    assert_eq!(compiled.diagnostics.len(), 3);
}

#[test]
fn types_are_kept_in_a_session() {
    let language = own();
    let mut host = Recorder::default();
    let mut session = language.session().start(&mut host).unwrap();
    let mut enter = |text: &str| -> String {
        let outcome = session.enter_source(&SourceText::new("entry", text));
        match outcome.into_result() {
            Ok(value) => value.written(),
            Err(problems) => problems[0].message.clone(),
        }
    };
    enter("to same(x) { x }; let n = 1; let t = \"a\"");
    assert_eq!(enter("same(yes); same(n)"), "1");
    assert_eq!(
        enter("if t then { 1 }"),
        "`t` is a text, and a truth value is needed here"
    );
    assert_eq!(enter("n := 2; n"), "2");
}

#[test]
fn a_program_runs_without_its_types_if_that_is_asked_for() {
    let source = SourceText::new("program", "if 1 then { 2 }");
    let found = own()
        .without_types()
        .compiled(&source, Around::Nothing, Reading::Program);
    assert!(found.value.unwrap().types.is_none());
}

#[test]
fn a_deep_program_and_a_long_one_are_typed() {
    let language = own();
    let long = vec!["1"; 20_000].join(" + ");
    quillon_core::native_stack::on_deep_stack(|| {
        assert_eq!(of(&language, &long), "integer");
        let nested = format!("{}1{}", "list(".repeat(2000), ")".repeat(2000));
        assert!(of(&language, &nested).starts_with("list of list of"));
    });
}

/// Each use of a general name has variables of its own, also where one is made of another, and
/// whatever is looked into first.
#[test]
fn uses_of_a_general_name_have_nothing_to_do_with_each_other() {
    check(&[
        (
            "to same(x) { x }; let both = <same, same>; both",
            "pair of (function (A) to A, function (B) to B)",
        ),
        (
            "to same(x) { x }; let both = <list(same), list(same)>; let again = both; again",
            "pair of (list of function (A) to A, list of function (B) to B)",
        ),
        // What is shared within one use stays so.
        (
            "to two(x) { <x, list(x)> }; let also = two; also(yes)",
            "pair of (truth, list of truth)",
        ),
        (
            "let ones = list(1); let a = list(ones, list(2.5)); let b = list(ones, list(2)); <a, b>",
            "pair of (list of list of number, list of list of integer)",
        ),
        // A parameter is no general name: its uses have one type.
        (
            "to outer(y) { let inner = list(y); <first(inner) + 1.5, inner> }; outer",
            "function (number) to pair of (number, list of number)",
        ),
        (
            "to outer(y) { let inner = list(list(y)); <inner, y> }; outer(\"a\")",
            "pair of (list of list of text, text)",
        ),
        // A name at the top that changes has one type for all functions that use it.
        (
            "let kept = list(); to add(x) { kept := list(x) }; add(1); add(yes)",
            "type.mismatch 1:63: `yes` is a truth value, and a number is needed here",
        ),
    ]);
}

/// Types as large as the program, each made of the one before: of texts, of numbers that could
/// be integers, of functions, general and not. On a thread with a stack as threads have it.
#[test]
fn types_can_grow_with_a_program() {
    let language = own();
    let grown = |first: &str, next: &dyn Fn(usize) -> String| {
        let steps: Vec<String> = (1..6000).map(next).collect();
        format!("let b0 = {first}; {}; 1", steps.join("; "))
    };
    let list = |at: usize| format!("let b{at} = list(b{})", at - 1);
    let pair = |at: usize| format!("let b{at} = <b{}, b{0}>", at - 1);
    let function = |at: usize| format!("let b{at} = same(list(same(b{})))", at - 1);
    let set = |at: usize| {
        format!(
            "to f{at}(x) {{ answer list(b{0}, x) }}; let b{at} = list(b{0})",
            at - 1
        )
    };
    let chain: Vec<String> = (0..6000)
        .map(|at| format!("to f{at}(x) {{ f{}(x) }}", at + 1))
        .collect();
    let programs = [
        chain.join("; ") + "; to f6000(x) { x }; f0(1)",
        grown("list(\"a\")", &list),
        grown("list(1)", &list),
        grown("list(same)", &list) + "; to same(x) { x }",
        grown("list(1)", &pair),
        grown("list(1)", &function) + "; to same(x) { x }",
        grown("list(1)", &set),
    ];
    for program in programs {
        let language = language.clone();
        let typed = std::thread::Builder::new()
            .stack_size(2 << 20)
            .spawn(move || {
                let source = SourceText::new("program", program);
                let tree = language.tree(&source, Reading::Program).value.unwrap();
                let names = language.names(&tree, Around::Nothing).value.unwrap();
                let types = language.types(&tree, &names, &[]);
                assert!(types.diagnostics.is_empty(), "{:?}", types.diagnostics[0]);
                types.value.unwrap().of_node(tree.root());
            });
        typed.unwrap().join().unwrap();
    }
}
