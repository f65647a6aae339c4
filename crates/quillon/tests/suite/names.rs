//! What the names of a program mean, as its user sees it; and the state around a run.

use crate::common::Folder;

const TINY: &str = r#"language Tiny
  reads    ".tiny"

tokens
  Blank  [ \n]+  ignored
  Whole  digit+  holds integer
  Name   letter+

state
  level = 1
  log   = []

form Program
  written  steps:Step*
  opens    scope
  means    all steps

form Let in Step
  written  "let" name:Name value:Expr
  binds    name onward
  means    name := value; level := level + 1

form Set in Step
  written  "set" name:Name value:Expr
  uses     name to change
  means    name := value

form Block in Step
  written  "{" steps:Step* "}"
  opens    scope
  means    all steps

form Number in Expr
  written  value:Whole
  means    value

form Variable in Expr
  written  name:Name
  uses     name
  means    name

provides
  top  means 9
"#;

fn tiny(program: &str) -> Folder {
    let folder = Folder::new();
    folder.write("tiny.quillon", TINY);
    folder.write("a.tiny", program);
    folder
}

#[test]
fn names_stand_under_their_source() {
    let folder = tiny("let a 1\nlet b a\n{\n  let a top\n  set b a\n}\n");
    let shown = folder.quillon(&["scopes", "a.tiny"]);
    shown.ends_with(0);
    let expected = "   1 ┌  let a 1
     │      =1
   2 │  let b a
     │      =2 1
   3 │┌ {
   4 ││   let a top
     ││       =3 4
   5 ││   set b a
     ││       !2 3
   6 └└ }

=1 bound here   1 used   !1 changed
built-in: 4 top
";
    assert_eq!(shown.out, expected);
}

#[test]
fn names_are_listed_with_where_they_are_bound() {
    let folder = tiny("let a 1\n{ set a a }\n");
    folder
        .quillon(&["scopes", "--as", "table", "a.tiny"])
        .ends_with(0)
        .shows("2:7  a     changes  1:5                1");
    let json = folder
        .quillon(&["scopes", "--format", "json", "a.tiny"])
        .json();
    let names = &json["names"];
    assert_eq!(names[0]["role"], "binds");
    assert_eq!(names[0]["scopesOut"], serde_json::Value::Null);
    assert_eq!(names[1]["role"], "changes");
    assert_eq!(names[1]["scopesOut"], 1);
    assert_eq!(names[1]["binding"]["place"]["line"], 1);
    assert_eq!(names[2]["place"]["column"], 9);
    folder
        .quillon(&["scopes", "--text", "set a 1", "-l", "tiny.quillon"])
        .ends_with(1)
        .says("there is no binding called `a`");
}

#[test]
fn notes_point_at_names_that_may_not_be_meant_so() {
    let folder = tiny("let a 1\nlet b a\n{ let a 2 set a 3 let top a }\n");
    folder
        .quillon(&["scopes", "--notes", "a.tiny"])
        .ends_with(0)
        .says("`b` is never used")
        .says("`a` is never changed")
        .says("`a` hides another `a` around it")
        .says("`top` hides another `top` around it")
        .says("the other one is built in");
}

#[test]
fn the_state_is_shown_and_given() {
    let folder = tiny("let a 1 let b 2");
    folder
        .quillon(&["run", "--show-state", "a.tiny"])
        .ends_with(0)
        .shows("state  before  after\nlevel  1       3\nlog    []      []\n");
    folder.write("state.json", r#"{"level": 40, "log": [{"a": 1.5}, null]}"#);
    let json = folder
        .quillon(&[
            "run",
            "--show-state",
            "--state",
            "state.json",
            "--format",
            "json",
            "a.tiny",
        ])
        .json();
    assert_eq!(json["state"]["before"]["level"], "40");
    assert_eq!(json["state"]["after"]["level"], "42");
    assert_eq!(json["state"]["after"]["log"], r#"[{"a": 1.5}, nothing]"#);
    folder.write("state.json", r#"{"levle": 40}"#);
    folder
        .quillon(&["run", "--state", "state.json", "a.tiny"])
        .ends_with(4)
        .says("the state has no `levle`")
        .says("did you mean `level`?");
    folder.write("state.json", "[40]");
    folder
        .quillon(&["run", "--state", "state.json", "a.tiny"])
        .ends_with(4)
        .says("is no JSON object");
    folder
        .quillon_with(&["repl"], "let a 1\n/state\n")
        .ends_with(0)
        .shows("level  1       2");
}

#[test]
fn limits_end_a_run_with_an_error_of_their_own() {
    let folder = Folder::with_demo();
    let endless = "let n be 0 forever { change n to n + 1 }";
    folder
        .quillon(&["run", "--time", "0.05", "--text", endless])
        .ends_with(1)
        .says("the run was stopped after 0.05 seconds")
        .says("run.time");
    folder
        .quillon(&["run", "--steps", "1000", "--text", endless])
        .ends_with(1)
        .says("the run was stopped after 1000 steps");
    let printed = folder.quillon(&["run", "--output", "8", "--text", "forever { say \"é!\" }"]);
    printed.ends_with(1).says("after 8 bytes of output");
    assert_eq!(printed.out, "é!\né!\n");
    // No `attempt` catches them.
    folder
        .quillon(&[
            "run",
            "--output",
            "3",
            "--text",
            "attempt { say \"long\" } mend e { say e }",
        ])
        .ends_with(1)
        .says("run.output");
    folder
        .quillon(&["run", "--time", "soon", "--text", "say 1"])
        .ends_with(2)
        .says("write seconds, as `1.5`");
}
