//! `typed` clauses that cannot be right.

use crate::common::{TOKENS, language};
use quillon_core::Language;
use quillon_core::source::SourceText;

#[test]
fn judgments_that_contradict_each_other_are_found_for_own_types_too() {
    let of = |judgments: &str| -> Vec<String> {
        let own = language(&format!(
            r"language Own
{TOKENS}
types
  metres
  tons
  pair of (A, B)
form Program
  written  a:Expr b:Expr
  typed    {judgments}
form Length in Expr
  written  value:Whole
  typed    gives metres
form Both in Expr
  written  value:Text
  typed    gives pair of (metres, number)
"
        ));
        let found = own.advice().into_iter();
        let found = found.filter(|d| d.code.0 == "check.types");
        found.map(|d| d.message).collect()
    };
    for (judgments, wanted) in [
        ("a : metres, b : metres", &[][..]),
        (
            "a : tons",
            &["`a` can never be `tons`: no form that can stand there gives that"],
        ),
        (
            "a : metres, a : pair of (A, B)",
            &["`a` cannot be both `metres` and `pair of (A, B)`"],
        ),
        (
            "a : pair of (A, number), a : pair of (metres, text)",
            &[
                "`a` can never be `pair of (metres, text)`: no form that can stand there gives that",
                "`a` cannot be both `pair of (A, number)` and `pair of (metres, text)`",
            ],
        ),
        ("a : pair of (A, number), a : pair of (metres, B)", &[]),
    ] {
        assert_eq!(of(judgments), wanted, "{judgments}");
    }
}

#[test]
fn types_that_no_program_can_have_are_found_in_the_definition() {
    let language = language(&format!(
        r"language Own
{TOKENS}
form Program
  written  a:Number b:(Number | Words)
  typed    a : truth, b : number, b : list of T

form Number
  written  value:Whole
  typed    gives number

form Words
  written  value:Text
  typed    gives text
"
    ));
    let found = language.advice();
    let messages: Vec<&str> = found
        .iter()
        .filter(|d| d.code.0 == "check.types")
        .map(|d| d.message.as_str())
        .collect();
    assert_eq!(
        messages,
        [
            "`a` can never be `truth`: no form that can stand there gives that",
            "`b` can never be `list of T`: no form that can stand there gives that",
            "`b` cannot be both `number` and `list of T`"
        ]
    );
}

#[test]
fn mistakes_in_type_clauses_are_found_where_they_stand() {
    let definition = format!(
        r"language Own
{TOKENS}
types
  pair of (A, B)

form Program
  written  items:Number* more:Number?
  typed    itms : number
  typed    items : nubmer
  typed    items : pair of A
  typed    items : T gives function (T) to T
  typed    given items gives nothing
  typed    gives type of les
  typed    gives more

form Number
  written  value:Whole

provides
  up(x)  typed y : number gives number  means x
"
    );
    let outcome = Language::load(&SourceText::new("own.quillon", definition));
    let messages: Vec<String> = outcome
        .diagnostics
        .iter()
        .map(|d| d.message.clone())
        .collect();
    assert_eq!(
        messages,
        [
            "form `Program` has no field `itms`",
            "there is no type `nubmer`",
            "`pair` is made of 2 types, and here are 1",
            "T stands for the types of a repeated field, one for each, and there is room for one only here",
            "`given` asks whether an optional field is there, and `items` is repeated",
            "form `Program` has no field `les`",
            "`more` can be no form that denotes a type",
            "`up` has no parameter `y`",
        ]
    );
}
