//! The conversation as tools have it: a question a line, and an answer a line.

use serde_json::Value;

use crate::common::{Folder, Ran};

/// A language with a state, types and something built-in.
const GATES: &str = r#"language Gates
  reads    ".gates"
  starts   Program
  entries  Program, Expr

tokens
  Blank  [ \n]+   ignored
  Whole  digit+   holds integer
  Name   letter+

state
  level = 0

precedence of Expr, loosest first
  left  Plus

form Program
  written  steps:Step+ by ";"
  means    all steps

form Let in Step
  written  "let" name:Name "=" value:Expr
  binds    name onward
  typed    value : T, name : T
  means    name := value

form Raise in Step
  written  "raise" by:Expr
  typed    by : integer
  means    level := level + by

form Say in Step
  written  "say" value:Expr
  typed    value : any
  means    output(value, "\n")

form Plus in Expr
  written  left:Expr "+" right:Expr
  typed    left, right : integer gives integer
  means    left + right

form Number in Expr
  written  value:Whole
  typed    gives integer
  means    value

form Open in Expr
  written  "open"
  typed    gives truth
  means    true

form Use in Expr
  written  name:Name
  uses     name
  typed    name : T gives T
  means    name
"#;

/// What is answered to questions, in order.
fn answers(folder: &Folder, asked: &[&str]) -> Vec<Value> {
    let ran: Ran = folder.quillon_with(
        &["repl", "--format", "json", "--keep-going"],
        &asked.join("\n"),
    );
    let lines = ran.out.lines();
    let answers: Vec<Value> = lines
        .map(|line| serde_json::from_str(line).unwrap_or_else(|e| panic!("{e}: {line}")))
        .collect();
    assert_eq!(answers.len(), asked.len(), "{ran}");
    answers
}

/// The message of the first problem that an answer tells.
fn problem(answer: &Value) -> &str {
    assert_eq!(answer["ok"], false, "{answer}");
    answer["diagnostics"][0]["message"].as_str().unwrap()
}

#[test]
fn names_and_cells_are_listed_with_what_they_hold() {
    let folder = Folder::with_definition(GATES);
    let answers = answers(
        &folder,
        &[
            r#"{"entry": "let inches = 4; raise inches"}"#,
            r#"{"order": "names"}"#,
            r#"{"order": "state"}"#,
        ],
    );
    let names = answers[1]["names"].as_array().unwrap();
    let inches = names.iter().find(|one| one["name"] == "inches").unwrap();
    assert_eq!(inches["value"], "4");
    assert_eq!(inches["kind"], "integer");
    assert_eq!(answers[2]["state"][0]["cell"], "level");
    assert_eq!(answers[2]["state"][0]["value"], "4");
}

#[test]
fn entries_are_taken_back_until_there_is_none() {
    let folder = Folder::with_definition(GATES);
    let answers = answers(
        &folder,
        &[
            r#"{"entry": "raise 2"}"#,
            r#"{"entry": "raise 3"}"#,
            r#"{"order": "undo"}"#,
            r#"{"order": "state"}"#,
            r#"{"order": "undo"}"#,
            r#"{"order": "undo"}"#,
        ],
    );
    assert_eq!(answers[2]["undone"], "raise 3");
    assert_eq!(answers[3]["state"][0]["value"], "2");
    assert_eq!(answers[4]["undone"], "raise 2");
    assert_eq!(problem(&answers[5]), "there is no entry to take back");
}

#[test]
fn views_of_a_text_that_is_not_made() {
    let folder = Folder::with_definition(GATES);
    let answers = answers(
        &folder,
        &[
            r#"{"entry": "let inches = 4"}"#,
            r#"{"look": "inches + 1", "views": ["types", "tree"]}"#,
            r#"{"look": "inches + open", "views": ["types", "scopes"]}"#,
            r#"{"look": "inches +", "views": ["tree", "types", "scopes", "core", "code"]}"#,
            r#"{"look": "feet", "views": ["core"]}"#,
            r#"{"look": "1", "views": ["time"]}"#,
            r#"{"look": "1", "views": ["weather"]}"#,
            r#"{"order": "names"}"#,
        ],
    );
    assert_eq!(answers[1]["ok"], true, "{}", answers[1]);
    let types = answers[1]["types"].to_string();
    assert!(types.contains("integer"), "{types}");
    // An error that several views meet is told once.
    assert_eq!(answers[2]["diagnostics"].as_array().unwrap().len(), 1);
    assert_eq!(answers[2]["diagnostics"][0]["code"], "type.mismatch");
    assert_eq!(answers[3]["unfinished"], true);
    assert_eq!(answers[3]["diagnostics"].as_array().unwrap().len(), 1);
    assert_eq!(answers[4]["diagnostics"][0]["code"], "name.unbound");
    assert!(problem(&answers[5]).contains("needs an entry that is made"));
    assert!(problem(&answers[6]).contains("there is no view \"weather\""));
    // Looking has left nothing behind.
    let names = answers[7]["names"].as_array().unwrap();
    assert_eq!(
        names.iter().filter(|one| one["name"] == "inches").count(),
        1
    );
}

#[test]
fn a_language_without_types_says_so_where_types_are_asked_for() {
    let folder = Folder::with_definition(
        &GATES
            .lines()
            .filter(|line| !line.contains("  typed "))
            .collect::<Vec<_>>()
            .join("\n"),
    );
    let answers = answers(&folder, &[r#"{"look": "1", "views": ["types"]}"#]);
    let message = problem(&answers[0]);
    assert!(message.contains("typed"), "{message}");
}

#[test]
fn what_is_made_is_saved_kept_and_read_anew() {
    let folder = Folder::with_definition(GATES);
    let changed = GATES.replace("level + by", "level + by + by");
    let asked = [
        r#"{"entry": "raise 2"}"#,
        r#"{"order": "save"}"#,
        r#"{"order": "save", "file": "all.gates"}"#,
        r#"{"order": "keep", "title": "a gate is raised"}"#,
        r#"{"order": "reload"}"#,
        r#"{"order": "save", "file": "saved/again/all.gates"}"#,
    ];
    let answers = answers(&folder, &asked);
    assert_eq!(problem(&answers[1]), "`save` needs a `file`");
    assert!(
        answers[2]["said"].as_str().unwrap().contains("all.gates"),
        "{}",
        answers[2]
    );
    let saved = std::fs::read_to_string(folder.path().join("all.gates")).unwrap();
    assert!(saved.contains("raise 2"), "{saved}");
    assert_eq!(answers[4]["lost"].as_array().unwrap().len(), 0);
    assert!(folder.path().join("saved/again/all.gates").is_file());
    folder.quillon(&["test"]).ends_with(0).shows("1 passed");
    // The case that was kept tells of a change of the definition.
    folder.write("own.quillon", changed);
    folder
        .quillon(&["test"])
        .ends_with(1)
        .shows("a gate is raised");
}

#[test]
fn what_is_no_question_is_told_and_the_next_is_answered() {
    let folder = Folder::with_definition(GATES);
    let answers = answers(
        &folder,
        &[
            "no question",
            r#"{"entry": "1", "order": "names"}"#,
            r#"{"order": "dance"}"#,
            r#"{"entry": "say 1; say open"}"#,
        ],
    );
    for answer in &answers[..3] {
        assert_eq!(answer["ok"], false, "{answer}");
    }
    assert_eq!(
        problem(&answers[1]),
        "a question has one of `entry`, `look` and `order`"
    );
    assert_eq!(answers[3]["printed"], "1\ntrue\n");
}
