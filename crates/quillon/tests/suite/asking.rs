//! What is typed first: texts that begin with a sign, words that no case has, folders with two
//! definitions; and expectations written down that can be read again.

use crate::common::Folder;

const TOLLS: &str = r#"language Tolls
  reads ".toll"
  entries Program, Expr

tokens
  Blank  [ \n]+  ignored
  Whole  digit+  holds integer

precedence of Expr, loosest first
  left   Sum
  left   Share
  prefix Minus

form Program
  written  value:Expr
  means    value

form Sum in Expr
  written  left:Expr "+" right:Expr
  means    left + right

form Share in Expr
  written  left:Expr "/" right:Expr
  means    left / right

form Minus in Expr
  written  "-" value:Expr
  means    - value

form Number in Expr
  written  value:Whole
  means    value
"#;

const CASES: &str = "\
cases of tolls
  `1 + 2`                       gives 4
  `-9223372036854775807 + -1`   gives 0
  `-9223372036854775807 + -1`   tree Number(1)
  `1 / 0`
";

fn tolls() -> Folder {
    let folder = Folder::new();
    folder.write("tolls.quillon", TOLLS);
    folder
}

#[test]
fn a_text_may_begin_with_a_sign() {
    let folder = tolls();
    for (text, value) in [("-3", "-3\n"), ("- 2 + 4", "2\n"), ("--3", "3\n")] {
        let run = folder.quillon(&["run", "--value", "--text", text]);
        assert_eq!(run.ends_with(0).out, value);
    }
    for command in ["tokens", "tree", "scopes", "code", "trace", "profile"] {
        folder.quillon(&[command, "-t", "-3"]).ends_with(0);
    }
}

#[test]
fn a_definition_may_be_named_like_a_program() {
    let folder = Folder::new();
    folder.write("far/tolls.quillon", TOLLS);
    folder.write("a.toll", "1 + 2");
    for args in [
        &["run", "far/tolls.quillon", "--value", "-t", "1 + 2"][..],
        &["run", "--value", "a.toll", "far/tolls.quillon"],
        &["run", "--value", "--language=far/tolls.quillon", "a.toll"],
    ] {
        assert_eq!(folder.quillon(args).ends_with(0).out, "3\n", "{args:?}");
    }
    let repl = folder.quillon_with(&["repl", "far/tolls.quillon"], "1 + 2\n");
    repl.ends_with(0).shows("3");
    folder
        .quillon(&["tree", "far/tolls.quillon"])
        .ends_with(2)
        .says("<PROGRAMS>");
}

#[test]
fn a_folder_with_two_definitions_for_a_program_says_so() {
    let folder = tolls();
    folder.write("more.quillon", TOLLS);
    folder.write("a.toll", "1 + 2");
    folder
        .quillon(&["run", "a.toll"])
        .ends_with(4)
        .says("several definitions read `a.toll`: `more.quillon`, `tolls.quillon`")
        .says("name the definition with `-l FILE.quillon`");
    let run = folder.quillon(&["run", "--value", "-l", "more.quillon", "a.toll"]);
    assert_eq!(run.ends_with(0).out, "3\n");
}

#[test]
fn words_that_no_case_has_in_its_title_are_an_error() {
    let folder = tolls();
    folder.write("tolls.cases", CASES);
    folder
        .quillon(&["test", "--only", "tols (1)"])
        .ends_with(2)
        .says("no case has `tols (1)` in its title")
        .says("did you mean `tolls (1)`?");
}

#[test]
fn the_hint_of_a_case_without_expectations_is_about_that_case() {
    let folder = tolls();
    let path = folder.write("tolls.cases", CASES);
    folder
        .quillon(&["test"])
        .ends_with(1)
        .says("run `quillon test --accept --only \"tolls (4)\"`");
    folder
        .quillon(&["test", "--accept", "--only", "tolls (4)"])
        .ends_with(0)
        .shows("wrote 1 expectation into tolls.cases");
    let text = std::fs::read_to_string(path).unwrap();
    let others = CASES.strip_suffix("  `1 / 0`\n").unwrap();
    let (before, after) = text.split_at(others.len());
    assert_eq!(before, others);
    assert!(after.starts_with("  `1 / 0`   fails \""), "{after}");
}

#[test]
fn what_is_written_down_can_be_read_again() {
    let folder = tolls();
    let path = folder.write("tolls.cases", CASES);
    folder.quillon(&["test", "--accept"]);
    let text = std::fs::read_to_string(path).unwrap();
    assert!(text.contains("gives -9223372036854775808"), "{text}");
    folder
        .quillon(&["test"])
        .ends_with(0)
        .shows("4 passed, 0 failed");
    // Its digits alone are another number, which is none.
    folder.write(
        "tolls.cases",
        "cases of a\n  `1`  gives 9223372036854775808\n  `1`  gives -9223372036854775809\n",
    );
    folder
        .quillon(&["test"])
        .ends_with(1)
        .says("`9223372036854775808` is too large for an integer")
        .says("`-9223372036854775809` is too small for an integer");
}

#[test]
fn the_least_integer_can_stand_in_a_meaning() {
    let folder = tolls();
    let text = TOLLS.replace("  means    - value", "  means    - 9223372036854775808");
    folder.write("tolls.quillon", text);
    let run = folder.quillon(&["run", "--value", "--text", "-1"]);
    assert_eq!(run.ends_with(0).out, "-9223372036854775808\n");
    let text = TOLLS.replace("  means    - value", "  means    1 - 9223372036854775808");
    folder.write("tolls.quillon", text);
    folder
        .quillon(&["check"])
        .ends_with(3)
        .says("9223372036854775808 is too large for an integer");
}

#[test]
fn programs_of_a_definition_without_meanings_are_read_all_the_same() {
    let folder = Folder::new();
    let tokens =
        "language Tolls\n  reads \".toll\"\n\ntokens\n  Blank  [ \\n]+  ignored\n  Whole  digit+\n";
    folder.write("tolls.quillon", tokens);
    folder.write("programs/right.toll", "1 2\n");
    folder.write("programs/wrong.toll", "1 - 2\n");
    folder
        .quillon(&["test"])
        .ends_with(1)
        .shows("1 passed, 1 failed")
        .shows("no token starts with `-`");
    let written = format!("{tokens}\nform Program\n  written  steps:Whole*\n");
    folder.write(
        "tolls.quillon",
        format!("{written}\nform Other\n  written  \"-\"\n"),
    );
    folder
        .quillon(&["test"])
        .ends_with(1)
        .shows("1 passed, 1 failed")
        .shows("expected a whole or the end of the text, found `-`");
}

#[test]
fn check_says_where_a_word_may_touch_a_number() {
    let folder = Folder::new();
    let definition = |name: &str| {
        format!(
            "language Tolls\n\ntokens\n  Blank  [ \\n]+  ignored\n  Whole  digit+\n  Name   {name}\n\nform Program\n  written  \"open\" lock:Whole gate:Name?\n"
        )
    };
    folder.write("tolls.quillon", definition("letter+"));
    folder
        .quillon(&["check"])
        .ends_with(0)
        .shows("a word may touch a number: `open1` is `open` and `1`");
    // Where names may have digits, that is a name.
    folder.write("tolls.quillon", definition("letter (letter | digit)*"));
    let check = folder.quillon(&["check"]);
    assert!(!check.ends_with(0).out.contains("touch"), "{check}");
}

#[test]
fn check_says_once_what_is_lacking() {
    let folder = Folder::new();
    folder.write(
        "tolls.quillon",
        "language Tolls\n\ntokens\n  Whole  digit+\n",
    );
    let check = folder.quillon(&["check"]);
    let lacks = check.out.matches("and has no forms yet").count();
    assert_eq!(lacks, 1, "{}", check.out);
}

#[test]
fn an_arm_that_is_an_error_is_touched_by_an_example_that_fails() {
    let folder = Folder::new();
    let arm =
        "  means    match right { integer n => left / n  else => fault \"no share\" at right }\n";
    let example = "  example  `1 / 2`  gives 0.5\n  example  `1 / 2 / 3`  gives 1.5\n";
    let text = TOLLS.replace("  means    left / right\n", &format!("{arm}{example}"));
    let text = text.replace("  left   Share", "  right  Share");
    folder.write(
        "tolls.quillon",
        text.replace("gives 1.5", "fails \"no share\" at 1:5"),
    );
    folder
        .quillon(&["test", "--coverage=branches"])
        .ends_with(0)
        .shows("2 of 2     branches of meanings");
}

#[test]
fn a_language_of_tokens_alone_can_say_what_fails() {
    let folder = Folder::new();
    folder.write(
        "tolls.quillon",
        "language Tolls\n  reads \".toll\"\n\ntokens\n  Blank  [ \\n]+  ignored\n  Whole  digit+\n",
    );
    folder.write(
        "tolls.cases",
        "cases of tokens\n  `1 - 2`  fails \"no token starts with `-`\" at 1:3\n  `1 - 2`  fails token.unknown at 1:3 tokens [Whole, Whole]\n",
    );
    folder
        .quillon(&["test"])
        .ends_with(0)
        .shows("2 passed, 0 failed");
    folder.write(
        "tolls.cases",
        "cases of tokens\n  `1 - 2`  fails \"other\"\n  `1 2`  fails \"nothing is wrong yet\"\n  `1 - 2`  tokens [Whole, Whole]\n",
    );
    folder
        .quillon(&["test"])
        .ends_with(1)
        .shows("0 passed, 2 failed, 1 waiting");
}
