//! Places where a description says one thing, and another could be read without a word.

use crate::common::{language, mistakes, tree, value};

#[test]
fn a_word_of_the_language_wins_over_what_is_ignored() {
    let language = language(
        r#"
language Notes
tokens
  Blank   [ ]+             ignored
  Stops   ";"+             ignored
  Remark  "rem" [a-z]*     ignored
  Whole   digit+           holds integer
form Program
  written  steps:Step*
form Do in Step
  written  "do" value:Whole ";"
form Rest in Step
  written  "rem" value:Whole
"#,
    );
    assert_eq!(
        tree(&language, "do 1; rem 2 ;; remark do 3;"),
        "Program([Do(1), Rest(2), Do(3)])"
    );
}

/// A language with loops that can be left, and something more.
fn loops(more: &str) -> String {
    format!(
        r#"
language Loops
  entries Program
tokens
  Blank  [ ]+     ignored
  Whole  digit+   holds integer
form Program
  written  steps:Step* by ";"
  means    all steps
form Loop in Step
  written  "loop" body:Step
  means    landing leave {{ while true {{ body }} }}
form Leave in Step
  written  "leave"
  means    jump leave
form Answer in Step
  written  "answer" value:Whole
  means    jump answer with value
{more}"#
    )
}

#[test]
fn a_form_in_the_place_of_another_hides_no_stray_jump() {
    let stray = ["18:17 no form that form `Answer` can stand in lands `answer`"];
    assert_eq!(mistakes(&loops("")), stray);
    let brackets = "form Group in Step\n  written \"(\" inner:Step \")\"\n  becomes inner\n";
    assert_eq!(mistakes(&loops(brackets)), stray);
    let forever = "form Forever in Step\n  written \"forever\" body:Step\n  becomes Loop(body)\n";
    assert_eq!(mistakes(&loops(forever)), stray);
    // What only another way of writing puts into a field has the landings of that field.
    let block = "form Body in Inner\n  written \"[\" value:Whole \"]\"\n  means jump leave\n\
                 form Once in Step\n  written \"once\" body:Inner\n  becomes Loop(body)\n";
    assert_eq!(mistakes(&loops(block)), stray);
}

#[test]
fn fields_that_take_turns_are_looked_up_in_the_order_of_the_text() {
    let language = language(
        r#"
language Turns
tokens
  Blank  [ ]+     ignored
  Whole  digit+   holds integer
  Name   letter+
form Program
  written  (steps:Step ";" | defs:Def ";")* last:Value
  opens    scope
  means    { all defs; all steps; last }
form Def
  written  "level" name:Name "is" value:Value
  binds    name onward
  means    name := value
form Say in Step
  written  "say" value:Value
  means    output(shown(value), "\n")
form Number in Value
  written  value:Whole
  means    value
form Get in Value
  written  name:Name
  uses     name
  means    name
"#,
    );
    assert_eq!(
        value(
            &language,
            "level low is 2; say low; level high is low; say high; high"
        ),
        "2\n2\n2"
    );
    assert_eq!(
        value(&language, "say low; level low is 2; low"),
        "1:5 there is no binding called `low`"
    );
}
