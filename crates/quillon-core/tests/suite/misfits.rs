//! Mistakes of meanings that are found with the definition: jumps without a landing, kinds
//! that never fit.

use crate::common::{TOKENS, mistakes};

/// The mistakes of a language with these forms.
fn found(forms: &str) -> Vec<String> {
    let text = format!("language Own\n{TOKENS}\n{forms}");
    let said = mistakes(&text).into_iter();
    said.map(|said| {
        said.split_once(' ')
            .map_or(said.clone(), |(_, rest)| rest.to_owned())
    })
    .collect()
}

#[test]
fn a_jump_needs_a_landing_in_some_form_around_it() {
    let forms = |around: &str, stop: &str| {
        format!(
            "
form Program
  written  steps:Step*
  means    all steps
form Loop in Step
  written  \"loop\" body:Block
  means    {around}
form Block
  written  \"{{\" steps:Step* \"}}\"
  means    each step in steps {{ step }}
form Stop in Step
  written  \"stop\"
  means    {stop}
"
        )
    };
    let none: [&str; 0] = [];
    assert_eq!(
        found(&forms("landing out { while true { body } }", "jump out")),
        none
    );
    assert_eq!(found(&forms("body", "landing out { jump out }")), none);
    assert_eq!(
        found(&forms("landing out { while true { body } }", "jump ouf")),
        ["no form that form `Stop` can stand in lands `ouf`"]
    );
    // A function is the end of what a jump can reach.
    assert_eq!(
        found(&forms(
            "landing out { call function () { body } }",
            "jump out"
        )),
        ["no form that form `Stop` can stand in lands `out`"]
    );
    // A landing beside the field is none around it.
    assert_eq!(
        found(&forms("landing out { 1 }; body", "jump out")),
        ["no form that form `Stop` can stand in lands `out`"]
    );
    // What has no meaning yet may have the landing one day.
    let growing =
        forms("landing out { body }", "jump out").replace("  means    landing out { body }\n", "");
    assert_eq!(found(&growing), none);
}

#[test]
fn kinds_that_never_fit_are_found_with_the_definition() {
    let means = |means: &str| {
        found(&format!(
            "
form Go
  written  \"go\" count:Whole name:Text items:Whole* maybe:Whole?
  means    {means}
"
        ))
    };
    let none: [&str; 0] = [];
    for (text, wanted) in [
        (
            "count + name",
            "`name` is always a text, and an integer or a number is needed here",
        ),
        (
            "if count { 1 }",
            "`count` is always an integer, and a truth value is needed here",
        ),
        (
            "not \"a\"",
            "`\"a\"` is always a text, and a truth value is needed here",
        ),
        (
            "call 3 with 4",
            "`3` is always an integer, and a function is needed here",
        ),
        (
            "text.length(items)",
            "`items` is always a list, and a text is needed here",
        ),
        (
            "list.at(items, name)",
            "`name` is always a text, and an integer is needed here",
        ),
        (
            "integer.modulo(count, 1.5)",
            "`1.5` is always a number, and an integer is needed here",
        ),
        (
            "shown(count) - 1",
            "`shown(count)` is always a text, and an integer or a number is needed here",
        ),
        (
            "name & items",
            "`items` is always a list, and the other side of `&` is a text",
        ),
        (
            "name < count",
            "`count` is always an integer, and the other side of `<` is a text",
        ),
        (
            "list.map(items, 3)",
            "`3` is always an integer, and a function is needed here",
        ),
        (
            "- (1 < 2)",
            "`1 < 2` is always a truth value, and an integer or a number is needed here",
        ),
        (
            "while nothing { 1 }",
            "`nothing` is always nothing, and a truth value is needed here",
        ),
    ] {
        assert_eq!(means(text), [wanted], "{text}");
    }
    for fine in [
        "count + 1.5",
        "maybe + 1",
        "let name = 3; name + 1",
        "each count in items { count & \"\" }",
        "if count = name { 1 }",
        "shown(count) & name",
        "list.at(items, count) & name",
    ] {
        assert_eq!(means(fine), none, "{fine}");
    }
}

#[test]
fn kinds_that_never_fit_are_found_in_helpers_and_cells_too() {
    let told = crate::common::mistakes(
        r#"language Own
tokens
  Blank  " "     ignored
  Whole  digit+  holds integer
state
  level = 1 + "a"
define twice(f) = f & 2
define many(f) = { let go = function (n) { call f with n, function (m) { m } or n = 0 }; go }
form Number
  written  value:Whole
  means    call many(function (n, on) { n }) with value
"#,
    );
    assert_eq!(
        told,
        [
            "6:15 `\"a\"` is always a text, and an integer or a number is needed here",
            "7:23 `2` is always an integer, and a text or a list is needed here",
            "8:59 `function (m) { m }` is always a function, and a truth value is needed here",
        ]
    );
}

#[test]
fn a_field_that_cannot_be_called_so_is_told_once() {
    let form = |means: &str| {
        found(&format!(
            "form Mend\n  written  \"mend\" rescue:Whole\n  means    {means}\n"
        ))
    };
    let field = "a field cannot be called `rescue`: it is a word of the meaning notation";
    assert_eq!(form("{ rescue }"), [field]);
    assert_eq!(form("attempt { rescue } rescue e { 1 }"), [field]);
    // What is wrong beside it is told all the same.
    assert_eq!(
        form("let let = 1; 2"),
        [
            field,
            "`let` is a word of the meaning notation and cannot be a name"
        ]
    );
}
