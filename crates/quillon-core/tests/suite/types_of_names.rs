//! Types of names: those that are not written, those that are annotated, and general ones.

use crate::common;
use crate::common::with_tokens;
use crate::types::of;
use quillon_core::Language;
use quillon_core::source::SourceText;

#[test]
fn a_name_that_is_not_written_has_a_type() {
    let own = common::with_tokens(
        r#"
precedence of Expr, loosest first
  prefix  Each
  left    Add
form Each in Expr
  written  "each" list:Expr "do" body:Expr
  binds    "it" in body
  typed    list : list of A, it : A, body : B gives list of B
  means    let out = []; each x in list { with it = x { list.add(out, body) } }; out
form It in Expr
  written  name:"it"
  uses     name
  typed    gives type of name
  means    name
form Add in Expr
  written  left:Expr "+" right:Expr
  typed    left, right : number gives number
  means    left + right
form List in Expr
  written  "[" items:Expr* by "," "]"
  typed    items : T gives list of T
  means    items
usual Number, Words
"#,
    );
    assert_eq!(common::value(&own, "each [1, 2] do it + 1"), "[2, 3]");
    assert_eq!(
        common::value(&own, "each [\"a\"] do it + 1"),
        "1:6 `[\"a\"]` is a list of text, and a list of number is needed here"
    );
}

#[test]
fn what_an_annotation_says_counts_before_what_is_made_of_it() {
    // In whichever order the clause has it.
    for clause in [
        "name : T, kind : T, body : R",
        "body : R, name : T, kind : T",
        "body : R, kind : T, name : T",
    ] {
        let own = with_tokens(
            &format!(
                r#"
form Program
  written  value:Expr
  typed    gives type of value
form Way in Expr
  written  "fn" "(" name:Name ":" kind:Type ")" "->" body:Expr
  binds    name in body
  typed    {clause} gives function (T) to R
form Itself in Expr
  written  "self" name:Name "->" body:Expr
  binds    name in body
  typed    name : T, body : R gives function (T) to R
form Call in Expr
  written  f:Expr "." arg:Expr
  typed    f : function (A) to R, arg : A gives R
form Plus in Expr
  written  left:Expr "+" right:Expr
  typed    left : integer, right : integer gives integer
form Counted in Type
  written  "whole"
  denotes  integer
form Yes in Type
  written  "yes_or_no"
  denotes  truth
form Use in Expr
  written  name:Name
  uses     name
  typed    name : T gives T
form Number in Expr
  written  value:Whole
  typed    gives integer
precedence of Expr, loosest first
  prefix Way, Itself
  left   Plus
  left   Call
"#
            )
            .replace("  typed ", "  means    nothing\n  typed "),
        );
        let types = |text: &str| of(&own, text);
        assert_eq!(
            types("fn (x : yes_or_no) -> x + 1"),
            "type.mismatch 1:23: `x` is a truth value, and an integer is needed here",
            "{clause}"
        );
        assert_eq!(
            types("fn (x : whole) -> x + 1"),
            "function (integer) to integer"
        );
    }
}

/// Functions that may be used in general, and sums of integers.
const WAYS: &str = r#"
precedence of Expr, loosest first
  prefix  Way
  left    Plus
  left    Call
form Program
  written  steps:Step+ by ";"
  opens    scope
  typed    gives nothing
  means    all steps
form Bind in Step
  written  "let" name:Name "=" value:Expr
  binds    name onward general
  typed    value : T, name : T gives nothing
  means    name := value
form Show in Step
  written  value:Expr
  typed    value : T gives T
  means    value
form Way in Expr
  written  "way" param:Name "." body:Expr
  binds    param in body
  typed    param : A, body : B gives function (A) to B
  means    function (param) { body }
form Plus in Expr
  written  left:Expr "+" right:Expr
  typed    left, right : integer gives integer
  means    left + right
form Root in Expr
  written  "root" value:Expr
  typed    value : number gives number
  means    number.root(value)
form Call in Expr
  written  callee:Expr arg:Expr
  typed    callee : function (A) to B, arg : A gives B
  means    call callee with arg
form Many in Expr
  written  "[" items:Expr* by "," "]"
  typed    items : T gives list of T
  means    items
form Group in Expr
  written  "(" inner:Expr ")"
  becomes  inner
form Half in Expr
  written  value:Decimal
  means    value
form Var in Expr
  written  name:Name
  uses     name
  typed    gives type of name
  means    name
usual Number
"#;

#[test]
fn an_integer_is_called_so_where_it_is_one() {
    let language = with_tokens(WAYS);
    for (program, name, wanted) in [
        (
            "let inc = way x. x + 1",
            "inc",
            "function (integer) to integer",
        ),
        (
            "let twice = way f. f (f 1)",
            "twice",
            "function (function (A) to A) to A",
        ),
        ("let same = way x. x", "same", "function (A) to A"),
        (
            "let all = way x. [x, 1]",
            "all",
            "function (A) to list of A",
        ),
        ("let three = way x. 3", "three", "function (A) to integer"),
        ("let wide = way x. root 4", "wide", "function (A) to number"),
    ] {
        let cases = format!("cases of types\n  `{program}`   types {name} : {wanted}\n");
        let source = SourceText::new("own.cases", cases);
        let prepared = quillon_core::Prepared::new(&language);
        for case in quillon_core::definition::read_cases(&source)
            .value
            .unwrap()
            .cases
        {
            let limits = quillon_core::testing::case_limits();
            let result = quillon_core::testing::run_case(&prepared, &source, &case, limits);
            let differences = result.differences.iter().map(|d| &d.got);
            assert_eq!(differences.collect::<Vec<_>>(), [""; 0], "{program}");
        }
    }
    // What is an integer is accepted where a number is needed all the same, later too.
    let mut host = quillon_core::runtime::Recorder::default();
    let mut session = language.session().start(&mut host).unwrap();
    for entry in ["let three = way x. 3", "[three 1, 2.5]", "root (three 1)"] {
        let source = SourceText::new("entry", entry.to_owned());
        let outcome = session.enter_source(&source);
        let told: Vec<String> = outcome.diagnostics.iter().map(common::said).collect();
        assert_eq!(told, [""; 0], "{entry}");
    }
    assert_eq!(
        mistakes_of(&language, "let a = way x. x + 1; root (a way y. y)"),
        ["1:31 `way y. y` is a function, and an integer is needed here"]
    );
}

fn mistakes_of(language: &Language, program: &str) -> Vec<String> {
    let found = common::errors(language, program);
    found.iter().map(common::said).collect()
}
