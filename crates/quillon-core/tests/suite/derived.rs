//! Types that no clause says: what the meaning of a form says of them.

use crate::common::with_tokens;
use crate::stated::got;

/// Forms without `gives`, whose types are found in their meanings; with a form that wants a truth value.
fn language() -> quillon_core::Language {
    with_tokens(
        r#"
precedence of Expr, loosest first
  none  Same
form Program
  written  steps:Step+ by ";"
  means    all steps
form Let in Step
  written  "let" name:Name "=" value:Expr
  binds    name onward
  typed    value : T, name : T
  means    name := value
form Value in Step
  written  value:Expr
  means    value
form Loop in Step
  written  "loop" body:Step
  means    while false { body }
form Sure in Step
  written  "sure" test:Expr
  typed    test : truth
  means    if test { 1 } else { 2 }
form Same in Expr
  written  left:Expr "is" right:Expr
  typed    left, right : any
  means    left = right
form Yes in Expr
  written  "yes"
  means    true
form Word in Expr
  written  "word" name:Name
  means    spelling of name
form Empty in Expr
  written  "empty"
  means    nothing
form Note in Expr
  written  "note"
  means    "a note"
form Number in Expr
  written  value:Whole
  typed    gives integer
  means    value
form Use in Expr
  written  name:Name
  uses     name
  typed    name : T gives T
  means    name
form Any in Expr
  written  "any"
  means    list.at([1], 0)
form Way in Expr
  written  "way" body:Step
  typed    body : R gives function () to R
  means    function () { landing answer { body } }
form Answer in Step
  written  "answer" value:Expr
  means    jump answer with value
form Inside in Expr
  written  "(" value:Expr ")"
  becomes  value
form Local in Expr
  written  "local" name:Name "in" value:Expr
  opens    scope
  binds    name in value
  typed    name : integer
  means    with name = 1 { value }
"#,
    )
}

#[test]
fn the_type_is_that_of_what_the_meaning_gives() {
    let cases = "
cases of types
  `yes`                types truth
  `1 is 2`             types truth
  `word gate`          types text
  `note`               types text
  `empty`              types nothing
  `any`                types any
  `4`                  types integer
  `let a = yes; a`     types a : truth
  `let a = word b; a`  types a : text
  `let a = 1; a`       types integer
  `loop 1`             types nothing
  `let a = 1`          types nothing
  `local a in a`       types integer
  `local a in yes`     types truth
  `way answer 4`       types function () to integer
  `way note`           types function () to text
";
    assert_eq!(got(&language(), cases), [""; 0]);
}

#[test]
fn what_a_meaning_gives_has_to_fit_where_it_stands() {
    let cases = "
cases of types
  `sure yes`        gives 1
  `sure 1 is 2`     gives 2
  `sure any`        fails run.kind
  `sure note`       fails type.mismatch at 1:6
  `sure word a`     fails type.mismatch at 1:6
  `sure empty`      fails type.mismatch at 1:6
  `sure (local a in a)`   fails type.mismatch at 1:18
  `let a = note; sure a`  fails type.mismatch at 1:20
";
    assert_eq!(got(&language(), cases), [""; 0]);
}
