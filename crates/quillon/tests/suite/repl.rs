//! The REPL from a pipe: entries, orders, errors.

use crate::common;
use crate::common::{Folder, program};

fn talk(input: &str) -> common::Ran {
    Folder::with_demo().quillon_with(&["repl", "--keep-going"], input)
}

#[test]
fn values_are_shown_and_names_are_kept() {
    let ran = talk("let boats be 3\nboats * 2\n\"gate\"\nnothing\nsay boats\n");
    ran.ends_with(0);
    assert_eq!(ran.out, "6\n\"gate\"\n3\n");
}

#[test]
fn an_unfinished_entry_goes_on_on_the_next_line() {
    let ran = talk("way toll(tons) {\n  answer tons *\n    4\n}\ntoll(3)\n[1,\n2]\n");
    ran.ends_with(0);
    assert_eq!(ran.out, "12\n[1, 2]\n");
}

#[test]
fn an_empty_line_ends_an_entry_that_never_would() {
    let ran = talk("say (1 +\n\nsay 2\n");
    ran.ends_with(1)
        .says("expected an expression, found the end of the text");
    assert_eq!(ran.out, "2\n");
}

#[test]
fn functions_and_closures_live_on() {
    let ran = talk(
        "way counter() { let n be 0 answer way () { change n to n + 1 answer n } }\nlet one be counter()\none()\none()\nlet n be 100\none()\nchange n to n + 1\nn\n",
    );
    assert_eq!(ran.out, "1\n2\n3\n101\n", "{ran}");
}

#[test]
fn names_can_be_bound_again_and_old_functions_keep_theirs() {
    let ran =
        talk("let rate be 4\nway toll(t) { answer t * rate }\nlet rate be 10\ntoll(2)\nrate\n");
    assert_eq!(ran.out, "8\n10\n", "{ran}");
}

#[test]
fn an_error_leaves_names_as_they_were() {
    let ran = talk(
        "let n be 1\nchange n to 1 / 0\nn\nlet m be 1 / 0\nm\nattempt { change n to 5 alarm \"no\" } mend what { say what }\nn\n",
    );
    ran.ends_with(1).says("no binding called `m`");
    assert_eq!(ran.out, "1\nno\n5\n", "{ran}");
}

#[test]
fn errors_in_old_entries_point_into_them() {
    let ran = talk("way toll(boat) { answer boat.tons }\ntoll([:])\n");
    ran.says("entry 1:1:25").says("toll called at entry 2:1:1");
}

#[test]
fn a_failed_entry_ends_it_unless_told_otherwise() {
    let folder = Folder::with_demo();
    let ran = folder.quillon_with(&["repl"], "say 1\nsay 1 / 0\nsay 2\n");
    ran.ends_with(1);
    assert_eq!(ran.out, "1\n");
}

#[test]
fn orders_show_stages_names_and_what_is_ready() {
    let ran = talk("let level be 2\n/names\n/tree 1 + 2\n/tokens say 1\n/ready\n/help\n");
    ran.ends_with(0)
        .shows("level  integer  2")
        .shows("right: Number")
        .shows("largest(first, rest...)")
        .shows("/leave");
    talk("/nmaes\n").ends_with(1).says("did you mean `/names`?");
    talk("/leave\nsay 1\n").ends_with(0);
    talk("/tree 1 +\n")
        .ends_with(1)
        .says("expected an expression");
}

#[test]
fn bytes_that_are_no_text_end_it_with_a_message() {
    let folder = Folder::with_demo();
    let output = assert_cmd::Command::from_std(program())
        .args(["repl"])
        .current_dir(folder.path())
        .write_stdin(&b"say 1\n\xff\n"[..])
        .output()
        .unwrap();
    assert_eq!(output.status.code(), Some(4));
    assert_eq!(output.stdout, b"1\n");
    let said = String::from_utf8(output.stderr).unwrap();
    assert!(
        said.contains("line 2 of standard input cannot be read"),
        "{said}"
    );
}

#[test]
fn a_failed_entry_leaves_lists_as_they_were() {
    let ran = talk("let l be [1]\ndo add(l, 2) alarm \"no\"\nl\n");
    ran.ends_with(1);
    assert_eq!(ran.out, "[1]\n", "{ran}");
}

#[test]
fn programs_read_the_lines_that_follow() {
    let ran = talk("let name be ask()\nHeron\nsay \"boat\", name\n");
    ran.ends_with(0);
    assert_eq!(ran.out, "boat Heron\n", "{ran}");
}

#[test]
fn an_entry_is_followed_on_a_copy_of_the_session_as_it_was_before() {
    let ran = talk(concat!(
        "way product(n) { when n <= 1 { answer 1 } answer n * product(n - 1) }\n",
        "let l be [1]\n",
        "do add(l, product(3))\n",
        "/trace\n",
        "l\n",
        "let name be ask()\nHeron\n",
        "/trace\n",
        "let k be 0 let bump be way() { change k to k + 1 answer k } do bump()\n",
        "/trace bump()\n",
        "bump()\n",
    ));
    ran.ends_with(0)
        // What it was called with, and what it read.
        .shows("Variable l  → [1]\n")
        .shows("└→ 6\n[1, 6]\n")
        .shows("name unset ⇒ \"Heron\"")
        // What functions share is shared in the copy too, and only there.
        .shows("k 1 ⇒ 2\n")
        .shows("└→ 2\n2\n");
}

#[test]
fn views_are_shown_for_an_entry_or_after_every_one() {
    let ran = talk("let n be 2\n/core n + 1\n/code n + 1\n/scopes n\n/trace n + 1\n");
    ran.ends_with(0)
        .shows("read n in session 0")
        .shows("get_session")
        .shows("Plus n + 1")
        .shows("→ 2");
    let ran = talk("/also tree time\n1 + 2\n/also tree time\n3 + 4\n");
    ran.ends_with(0)
        .shows("shown after every entry: tree, time")
        .shows("3\n── tree\nPlus")
        .shows("── time")
        .shows("nothing else is shown after an entry\n7\n");
    talk("/also trees\n")
        .ends_with(1)
        .says("there is no view `trees`; did you mean `tree`?");
    talk("/tree\n").ends_with(1).says("there is no entry yet");
}

#[test]
fn entries_are_taken_back() {
    let ran = talk("let l be [1]\ndo add(l, 2)\n/undo\nl\n/undo\n/undo\nl\n/undo\n");
    ran.ends_with(1)
        .shows("taken back: do add(l, 2)")
        .shows("[1]")
        .shows("taken back: let l be [1]")
        .says("no binding called `l`")
        .says("there is no entry to take back");
}

#[test]
fn entries_are_kept_as_cases_and_saved_as_a_program() {
    let folder = Folder::with_demo();
    let input = "let toll be 4\n~ a remark\nway twice(n) {\n  answer n * 2\n}\ntwice(toll)\n/keep\n/keep\nsay `\n/keep broken\n/save tolls.tow\n/load tolls.tow\n";
    let ran = folder.quillon_with(&["repl", "--keep-going"], input);
    ran.ends_with(1)
        .shows("kept in cases/towpath.cases as `twice(toll)`")
        .shows("kept in cases/towpath.cases as `broken`")
        .shows("saved in tolls.tow; 1 entry left out, being no part of a program: `twice(toll)`");
    let cases = std::fs::read_to_string(folder.path().join("cases/towpath.cases")).unwrap();
    assert!(
        cases.starts_with("case twice(toll)\n  after `let toll be 4`\n  after\n    | "),
        "{cases}"
    );
    folder
        .quillon(&["test", "cases/towpath.cases"])
        .ends_with(0)
        .shows("2 passed, 0 failed");
    folder.quillon(&["run", "tolls.tow"]).ends_with(0);
    let dice = "let chance be round(root(2) * 1000)\n/undo\n/keep\n";
    folder
        .quillon_with(&["repl"], dice)
        .ends_with(1)
        .says("there is no entry to keep yet");
    folder
        .quillon_with(&["repl"], "let a be 1\n/save programs/tolls.tow\n")
        .ends_with(1)
        .says("is there already, with something else in it");
}

#[test]
fn the_definition_is_reloaded_and_languages_are_swapped() {
    let folder = Folder::with_demo();
    folder.write(
        "other.quillon",
        "language Other\ntokens\n  Blank \" \"+ ignored\n  Whole digit+ holds integer\nform Number in Expr\n  written  value:Whole\n  means    value * 10\n",
    );
    let ran = folder.quillon_with(
        &["repl", "-l", "towpath.quillon", "--keep-going"],
        "let n be 2\n/reload\nn\n/language other\n7\nn\n/language towpath.quillon\nn + 1\n/language nowhere\n",
    );
    ran.ends_with(1)
        .shows("Towpath is reloaded; 1 name kept\n2\n")
        .shows("now it is Other\n70\n")
        .says("no token starts with")
        .shows("back to Towpath, with 1 name\n3\n")
        .says("nowhere.quillon");
    folder.write("other.quillon", "language Other\ntokens\n  Whole digit+\n");
    folder
        .quillon_with(&["repl", "-l", "other.quillon"], "1\n")
        .ends_with(3)
        .says("has no forms yet");
}

#[test]
fn what_is_built_in_has_help() {
    let ran = talk("/ready\n/ready largest\n/ready lenght\n");
    ran.ends_with(1)
        .shows("the square root; an error for a negative number")
        .shows("largest(first, rest...)  means")
        .says("nothing built-in is called `lenght`; did you mean `length`?");
}

#[test]
fn tools_ask_and_are_answered_a_line_each() {
    let folder = Folder::with_demo();
    let asked = [
        r#"{"entry": "let n be ask() say n", "input": "lock\n", "id": 1}"#,
        r#"{"entry": "n & \"s\"", "views": ["tree", "state", "time"]}"#,
        r#"{"entry": "when yes {"}"#,
        r#"{"look": "n + 1", "views": ["tokens", "scopes", "core", "code"]}"#,
        r#"{"order": "names"}"#,
        r#"{"order": "undo"}"#,
        r#"{"order": "keep"}"#,
        r#"{"entry": "1", "look": "2"}"#,
        r#"{"entry": 1}"#,
        r#"{"order": "leave"}"#,
        r#"{"entry": "never"}"#,
    ];
    let ran = folder.quillon_with(
        &["repl", "--format", "json", "--keep-going"],
        &asked.join("\n"),
    );
    ran.ends_with(1);
    let answers: Vec<serde_json::Value> = ran
        .out
        .lines()
        .map(|line| serde_json::from_str(line).unwrap())
        .collect();
    assert_eq!(answers.len(), 10, "{ran}");
    let ok: Vec<bool> = answers.iter().map(|a| a["ok"].as_bool().unwrap()).collect();
    assert_eq!(
        ok,
        [
            true, true, false, true, true, true, true, false, false, true
        ],
        "{ran}"
    );
    assert_eq!(
        (&answers[0]["printed"], &answers[0]["id"]),
        (&"lock\n".into(), &1.into())
    );
    assert_eq!(answers[1]["value"], "\"locks\"");
    assert_eq!(answers[1]["tree"]["kind"], "Joined");
    assert_eq!(answers[2]["unfinished"], true);
    assert_eq!(answers[3]["tokens"].as_array().unwrap().len(), 3);
    assert_eq!(answers[4]["names"][0]["name"], "n");
    assert_eq!(answers[5]["undone"], "n & \"s\"");
    // The entry before the one taken back is the last one now.
    let said = answers[6]["said"].as_str().unwrap();
    assert!(said.contains("`let n be ask() say n`"), "{said}");
    assert!(
        answers[8]["diagnostics"][0]["message"]
            .as_str()
            .unwrap()
            .contains("this is no question")
    );
}

#[test]
fn entries_that_end_in_a_separator_are_saved_as_one_program_with_others() {
    let folder = Folder::new();
    folder.quillon(&["new", "lock"]).ends_with(0);
    let input = "let a = 1;\na\nlet b = a +\n 2; say b\n/save all.lock\n";
    folder
        .quillon_in("lock", &["repl"], input)
        .ends_with(0)
        .shows("3 entries saved in all.lock");
    let saved = std::fs::read_to_string(folder.path().join("lock/all.lock")).unwrap();
    assert_eq!(saved, "let a = 1;\na;\nlet b = a +\n 2; say b\n");
}

#[test]
fn what_was_entered_before_is_at_hand_after_undo_and_reload() {
    let ran =
        talk("let n be 2\nlet m be 3\n/undo\n/tree\n/time\n/keep the first\n/reload\n/tree\n");
    ran.ends_with(0)
        .shows("kept in cases/towpath.cases as `the first`");
    assert_eq!(ran.out.matches("Let").count(), 2, "{ran}");
    assert_eq!(ran.out.matches("name: n").count(), 2, "{ran}");
    assert!(!ran.err.contains("there is no entry yet"), "{ran}");
    // An entry that failed is the last one, until it or another is taken back.
    let ran = talk("let n be 2\nlet k be\n\n/tokens\n/undo\n/tokens\n");
    assert!(ran.out.contains("let"), "{ran}");
    ran.says("there is no entry yet; write one after `/tokens`");
}

#[test]
fn words_that_leave_elsewhere_say_what_leaves_here() {
    for (word, order) in [
        ("quit", "/leave"),
        ("exit()", "/leave"),
        (":q", "/leave"),
        ("help", "/help"),
        ("?", "/help"),
    ] {
        let ran = talk(&format!("{word}\n"));
        ran.says(&format!("if it was not meant as an entry: `{order}`"));
    }
    // A name of the program's own is one.
    let ran = talk("let help be 3\nhelp\n");
    assert_eq!((ran.out.as_str(), ran.err.as_str()), ("3\n", ""));
}

#[test]
fn entries_that_are_no_program_together_are_not_saved_as_one() {
    let ran = talk("let n be 2\nlet n be 3\n/save both.tow\n");
    ran.ends_with(1)
        .says("as one program, the entries would fail")
        .says("`n` is bound twice in the same scope")
        .says("undo the entry that is in the way with `/undo`");
}

#[test]
fn names_that_are_bound_throughout_are_bound_once_in_an_entry() {
    let folder = Folder::new();
    folder.write(
        "locks.quillon",
        r#"language Locks
  reads ".lock"
  entries Program

tokens
  Blank  [ \n]+  ignored
  Whole  digit+  holds integer
  Name   letter+

form Program
  written  steps:Step* by ";"
  means    all steps

form Way in Step
  written  "way" name:Name "(" param:Name ")" "gives" body:Step
  binds    name throughout, param in body
  means    name := function (param) { body }

form Call in Step
  written  callee:Name "(" arg:Step ")"
  uses     callee
  means    call callee with arg

form Use in Step
  written  name:Name
  uses     name
  means    name

form Number in Step
  written  value:Whole
  means    value
"#,
    );
    let ran = folder.quillon_with(
        &["repl"],
        "way first(n) gives second(n); way second(n) gives n\nfirst(4)\n",
    );
    assert_eq!(ran.ends_with(0).out, "4\n");
}
