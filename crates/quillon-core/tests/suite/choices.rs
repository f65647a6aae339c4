//! `typed` clauses that are choices: what counts, and what `check` says of choices that undo each other.

use crate::common::{errors, said, with_tokens};
use quillon_core::Language;

/// Bindings with annotations, and calls of what takes one or two.
fn with(first: &str, second: &str) -> Language {
    with_tokens(&format!(
        r#"
types
  metres
form Program
  written  steps:Step+ by ";"
  typed    steps : any
  means    all steps
form Let in Step
  written  "let" name:Name (":" kind:Kind)? "=" value:Expr
  binds    name onward
  typed    {first}
  typed    {second}
  means    name := value
form Count in Kind
  written  "whole"
  denotes  integer
form Metres in Kind
  written  "metres"
  denotes  metres
form Long in Expr
  written  value:Whole "m"
  typed    gives metres
  means    value
form Number in Expr
  written  value:Whole
  typed    gives integer
  means    value
form Words in Expr
  written  value:Text
  typed    gives text
  means    value
"#
    ))
}

/// The warnings about types, with what is to be done.
fn warned(language: &Language) -> Vec<String> {
    let all = language.advice().into_iter();
    let about = all.filter(|found| found.code.0 == "check.types");
    about
        .map(|found| format!("{}: {}", said(&found), found.remedies.join("; ")))
        .collect()
}

fn wrong(language: &Language, program: &str) -> Vec<String> {
    errors(language, program).iter().map(said).collect()
}

#[test]
fn a_clause_for_a_field_that_is_there_is_not_undone_by_the_next() {
    let right = with(
        "given kind, value : kind, name : kind",
        "not given kind, value : T, name : T",
    );
    assert_eq!(warned(&right), [""; 0]);
    assert_eq!(wrong(&right, "let a : whole = 4; let b = \"x\""), [""; 0]);
    assert_eq!(
        wrong(&right, "let a : whole = \"x\""),
        ["1:17 `\"x\"` is a text, and an integer is needed here"]
    );
    assert_eq!(wrong(&right, "let a : metres = 4").len(), 1);
}

#[test]
fn a_clause_that_takes_what_the_one_before_refuses_is_warned_of() {
    let wrong_way = with(
        "given kind, value : kind, name : kind",
        "value : T, name : T",
    );
    assert_eq!(
        warned(&wrong_way),
        [
            "22:3 this counts as well where `kind` is there, and takes what does not fit the clause before: begin it with `not given kind`"
        ]
    );
    // And so it is.
    assert_eq!(wrong(&wrong_way, "let a : whole = \"x\""), [""; 0]);
}

#[test]
fn the_same_of_a_field_that_is_not_there() {
    let language = with(
        "not given kind, value : integer, name : integer",
        "value : T, name : T",
    );
    assert_eq!(
        warned(&language),
        [
            "22:3 this counts as well where `kind` is not there, and takes what does not fit the clause before: begin it with `given kind`"
        ]
    );
}

#[test]
fn choices_that_speak_of_the_field_are_meant() {
    // The second says what the annotation has to do with it.
    let language = with(
        "given kind, value : kind, name : kind",
        "value : integer, name : kind",
    );
    assert_eq!(warned(&language), [""; 0]);
    // Choices by what the operands are, with nothing optional.
    let language = with("value : integer, name : integer", "value : T, name : T");
    assert_eq!(warned(&language), [""; 0]);
}
