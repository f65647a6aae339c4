//! Fields of children: of one child, of each of many, of many in each.

use crate::common::{said, value, with_tokens};
use quillon_core::Language;

/// A language whose orders mean this.
fn orders(means: &str) -> Language {
    with_tokens(&format!(
        r#"form Program
  written  steps:Step* by ";"
  means    all steps
form Order in Step
  written  "order" entries:Entry* by ","
  means    {means}
form Entry
  written  name:Name ("=" worth:Expr)? rest:Rest?
  means    nothing
form Rest
  written  "(" items:Expr* by "," ")"
  means    nothing
form Number in Expr
  written  value:Whole
  means    value
"#
    ))
}

#[track_caller]
fn gives(means: &str, cases: &[(&str, &str)]) {
    let language = orders(means);
    for (program, wanted) in cases {
        assert_eq!(value(&language, program), *wanted, "{means}: {program}");
    }
}

#[test]
fn a_field_of_each_of_many_children_is_a_list() {
    let cases = [
        ("order", "[]"),
        ("order a = 1", "[1]"),
        ("order a = 1, b = 2", "[1, 2]"),
        // What is left out keeps its place.
        ("order a, b = 2", "[nothing, 2]"),
    ];
    gives("entries.worth", &cases);
    gives("[entries.worth]", &cases);
    gives("let all_of_them = entries.worth; all_of_them", &cases);
    gives(
        "[0, entries.worth, 9]",
        &[
            ("order", "[0, 9]"),
            ("order a = 1", "[0, 1, 9]"),
            ("order a = 1, b, c = 3", "[0, 1, nothing, 3, 9]"),
        ],
    );
}

#[test]
fn it_is_as_many_arguments_as_there_are_children() {
    gives(
        "call function (first, second) { first - second } with entries.worth",
        &[
            ("order a = 5, b = 2", "3"),
            (
                "order a = 5",
                "1:1 this function takes 2 arguments, and gets 1",
            ),
            (
                "order a = 5, b = 2, c = 1",
                "1:1 this function takes 2 arguments, and gets 3",
            ),
        ],
    );
    gives(
        "call function (first, second, third) { [third, second, first] } with 0, entries.worth",
        &[("order a = 1, b = 2", "[2, 1, 0]")],
    );
}

#[test]
fn its_spellings_and_turns_are_those_of_each_child() {
    let cases = [
        ("order", "[]"),
        ("order a", "[\"a\"]"),
        ("order a, b = 2", "[\"a\", \"b\"]"),
    ];
    gives("spelling of entries.name", &cases);
    gives(
        "let sum = 0; each worth in entries.worth { sum := sum * 10 + worth }; sum",
        &[
            ("order", "0"),
            ("order a = 1", "1"),
            ("order a = 1, b = 2", "12"),
        ],
    );
}

#[test]
fn a_repeated_field_of_a_child_is_all_that_it_has() {
    gives(
        "let out = []; each entry in entries { list.add(out, [entry.worth]) }; out",
        &[("order a = 1, b", "[[1], [nothing]]")],
    );
    let rests = |means: &str| {
        with_tokens(&format!(
            r#"form Program
  written  steps:Step* by ";"
  means    all steps
form Net in Step
  written  "net" rows:Row* one:One?
  means    {means}
form Row
  written  "(" items:Expr* by "," ")"
form One
  written  "one" items:Expr* by ","
form Number in Expr
  written  value:Whole
  means    value
"#
        ))
    };
    for (means, program, wanted) in [
        ("[rows.items]", "net (1, 2) () (3)", "[1, 2, 3]"),
        ("rows.items", "net (1, 2)", "[1, 2]"),
        ("[0, one.items]", "net one 4, 5", "[0, 4, 5]"),
        ("[0, one.items]", "net one 4", "[0, 4]"),
        ("one.items", "net one 4", "[4]"),
        (
            "call function (a, b) { b - a } with one.items",
            "net one 4, 9",
            "5",
        ),
        (
            "let out = []; each row in rows { list.add(out, [row.items]) }; out",
            "net (1, 2) () (3)",
            "[[1, 2], [], [3]]",
        ),
        (
            "let out = []; each row in rows { list.add(out, call function (a, b) { b - a } with row.items) }; out",
            "net (1, 2) (3, 7)",
            "[1, 4]",
        ),
    ] {
        assert_eq!(value(&rests(means), program), wanted, "{means}: {program}");
    }
}

#[test]
fn all_where_as_many_as_there_are_is_meant_is_told() {
    let told = |means: &str| {
        let language = orders(means);
        let advice = language.advice();
        let all = advice.iter().map(said);
        all.filter(|told| told.contains("`all "))
            .collect::<Vec<_>>()
    };
    for (means, wanted) in [
        (
            "let f = function (a) { a }; call f with all entries",
            "16:52 `all entries` is one argument here, the last value",
        ),
        (
            "[1, all entries]",
            "16:16 `all entries` is one item here, the last value",
        ),
    ] {
        assert_eq!(told(means), [wanted], "{means}");
    }
    // In a sequence, and where something is done before, it is what it says.
    for means in [
        "all entries",
        "let last = all entries; [last]",
        "[{ output(\"!\"); all entries }]",
        "[entries]",
    ] {
        assert_eq!(told(means), <[&str; 0]>::default(), "{means}");
    }
}
