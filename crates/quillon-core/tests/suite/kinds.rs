//! What the machine need not ask: kinds that are known. Programs do the same as by the walking
//! engine, whatever is left out.

use crate::common::{value, with_tokens};
use quillon_core::bytecode::listing;
use quillon_core::scoping::Around;
use quillon_core::source::SourceText;
use quillon_core::{Language, Reading};

/// Sums that also join texts, tests of anything, equality of anything.
const NATURAL: &str = r#"
precedence of Expr, loosest first
  prefix Way
  left   Or
  left   And
  left   Also
  none   Same, Less
  left   Plus, Minus
  left   Rest
  suffix Call
define truthy(v) = match v { truth t => t  nothing => false  else => true }
usual Program
form Set in Step
  written  name:Name ":=" value:Expr
  uses     name to change
  means    name := value
form Show in Step
  written  "show" value:Expr
  means    output(shown(value), " ")
form While in Step
  written  "while" test:Expr "{" steps:Step* by ";" "}"
  opens    scope around steps
  means    while truthy(test) { all steps }
form If in Step
  written  "if" test:Expr "{" steps:Step* by ";" "}"
  opens    scope around steps
  means    if truthy(test) { all steps } else { nothing }
form Try in Step
  written  "try" one:Step "or" name:Name other:Step
  opens    scope around other
  binds    name in other
  means    attempt { one } rescue e { name := e; other }
form Each in Step
  written  "each" name:Name "of" list:Expr "{" steps:Step* by ";" "}"
  opens    scope around steps
  binds    name in steps
  means    each item in list { name := item; all steps }
form Alone in Step
  written  value:Expr
  means    value
form Plus in Expr
  written  left:Expr "+" right:Expr
  means    match left { text a => a & right  else a => a + right }
form Minus in Expr
  written  left:Expr "-" right:Expr
  means    left - right
form Rest in Expr
  written  left:Expr "%" right:Expr
  means    integer.remainder(left, right)
form Less in Expr
  written  left:Expr "<" right:Expr
  means    left < right
form Same in Expr
  written  left:Expr "==" right:Expr
  means    left = right
form And in Expr
  written  left:Expr "and" right:Expr
  means    let a = left; if truthy(a) { right } else { a }
form Or in Expr
  written  left:Expr "or" right:Expr
  means    let a = left; if truthy(a) { a } else { right }
form Also in Expr
  written  left:Expr "also" right:Expr
  means    let a = left; if truthy(a) { let f = function () { a = right }; call f } else { a }
form Way in Expr
  written  "way" params:Name* by "," ":" body:Step "end"
  opens    scope
  binds    params in body
  means    function (params) { body }
form Call in Expr
  written  f:Expr "(" args:Expr* by "," ")"
  means    call f with args
form None in Expr
  written  "none"
  means    nothing
form Half in Expr
  written  value:Decimal
  means    value
usual Let, Var, Number, List, Words, Group
"#;

/// The instructions of a program's functions.
pub fn code(language: &Language, program: &str) -> Vec<String> {
    let source = SourceText::new("program", program.to_owned());
    let code = language.code(&source, Around::Nothing, Reading::Program);
    let listing = listing(&code.value.unwrap(), language.definition());
    let lines = listing.functions.iter().flat_map(|f| &f.lines);
    lines.map(|line| line.mnemonic.to_owned()).collect()
}

#[test]
fn known_kinds_are_not_asked_for() {
    let own = with_tokens(NATURAL);
    let program = "let i = 0; let sum = 0;
        while i < 100 {
          if i % 5 == 0 and i % 3 == 1 { sum := sum + i };
          if i == 7 or i % 2 == 0 { sum := sum + 1 };
          i := i + 1
        };
        sum";
    let code = code(&own, program);
    for needless in ["jump_kind", "move", "truth", "join", "jump_if"] {
        assert!(
            !code.iter().any(|name| name == needless),
            "{needless}: {code:?}"
        );
    }
    assert_eq!(value(&own, program), "336");
}

#[test]
fn what_can_be_of_several_kinds_is_asked_for() {
    let own = with_tokens(NATURAL);
    for (program, wanted) in [
        // A variable that becomes a text in a loop.
        (
            "let x = 1; let i = 0; while i < 3 { if i == 1 { x := \"a\" }; if i == 2 { x := x + \"b\" }; i := i + 1 }; x",
            "\"ab\"",
        ),
        // Set by a function, and by one in a function.
        (
            "let x = 1; let f = way : x := \"t\" end; f(); x + \"u\"",
            "\"tu\"",
        ),
        (
            "let x = 1; let f = way a: if 1 { let g = way : x := a end; g() } end; f(\"t\"); x + \"u\"",
            "\"tu\"",
        ),
        // From a call, a parameter, an item, what is caught.
        ("let f = way a: a + a end; show f(2); f(\"n\")", "4 \"nn\""),
        (
            "each x of [1, \"a\", 2.5] { show x + x }",
            "2 aa 5.0 nothing",
        ),
        (
            "try 1 + none or e if e { show 1 }; try show \"a\" + 1 or e show 2",
            "1 2 nothing",
        ),
        // Tests of anything.
        (
            "if 0 { show 1 }; if none { show 2 }; if \"\" { show 3 }; if 1 < 2 { show 4 }",
            "1 3 4 nothing",
        ),
        (
            "show none or 3; show 4 and 5; show 1 < 2 and 6; show 2 < 1 or none",
            "3 5 6 nothing nothing",
        ),
        (
            "let a = 1 < 2; show a and 7; show (a and none) or 8; a := none; show a or 9",
            "7 8 9 nothing",
        ),
        (
            "let a = 1 < 2; if a and a == a { show 1 }; if a or none { show 2 }",
            "1 2 nothing",
        ),
        // A truth value that a function has.
        (
            "if 1 < 2 also 3 == 3 { show 1 }; if 1 < 2 also none { show 2 }; if 2 < 1 also 2 < 1 { show 3 }",
            "1 nothing",
        ),
        // Numbers that are none or both.
        ("let x = 1; x := x + 0.5; x := x + 1; x", "2.5"),
        (
            "let x = 1; let i = 0; while i < 2 { x := x + 0.25; i := i + 1 }; x + 1",
            "2.5",
        ),
        // Remainders by what is written there.
        (
            "show (0 - 7) % 3; show 7 % 3; show 5000000000 % 7; try show 7.5 % 2 or e show 9",
            "-1 1 2 9 nothing",
        ),
        (
            "try 7 % 0 or e show 1; try 7 % (0 - 2) or e show 3; 7 % (0 - 2)",
            "1 1",
        ),
    ] {
        assert_eq!(value(&own, program), wanted, "{program}");
    }
}

#[test]
fn what_never_runs_does_not_matter() {
    let own = with_tokens(NATURAL);
    let program = "let i = 0; while i < 2 { if i == 5 { let z = 1; show z }; i := i + 1 }; i";
    assert_eq!(value(&own, program), "2");
}

#[test]
fn a_sum_of_what_is_not_known_is_tried_before_kinds_are_asked_for() {
    let own = with_tokens(NATURAL);
    let most = i64::MAX;
    for (program, wanted) in [
        ("f(1, 2)", "3".to_owned()),
        ("f(1.5, 0.5)", "2.0".to_owned()),
        ("f(1, 0.5)", "1.5".to_owned()),
        ("f(0.5, 1)", "1.5".to_owned()),
        ("f(\"a\", \"b\")", "\"ab\"".to_owned()),
        ("g(1)", "3".to_owned()),
        ("g(0.5)", "2.5".to_owned()),
        // Beyond 64 bits, and of what is no number: at the place of the sum, or of the operand.
        (
            &*format!("f({most}, 1)"),
            "2:19 9223372036854775807 + 1 is too large for an integer".to_owned(),
        ),
        (
            "f(1, \"b\")",
            "2:23 a number is needed here, and this is a text: \"b\"".to_owned(),
        ),
        (
            "f(none, 1)",
            "2:19 a number is needed here, and this is nothing".to_owned(),
        ),
        (
            "g(\"a\")",
            "3:20 a text is needed here, and this is an integer: 2".to_owned(),
        ),
    ] {
        let program =
            format!("\nlet f = way a, b: a + b end;\nlet g = way a: a + 2 end; {program}");
        let code = code(&own, &program);
        assert!(code.contains(&"try_add".to_owned()), "{code:?}");
        assert!(code.contains(&"try_add_integer".to_owned()), "{code:?}");
        assert_eq!(value(&own, &program), wanted, "{program}");
    }
}
