//! What `test` reports in the formats of other tools: also of case files that cannot be read, and of cases that wait.

use crate::common::Folder;

const SUMS: &str = r#"language Sums
  reads ".sums"

tokens
  Blank  [ \n]+   ignored
  Whole  digit+   holds integer

form Sum in Expr
  written  left:Number "+" right:Expr
  means    left + right

form Number in Expr
  written  value:Whole
  means    value
"#;

fn folder() -> Folder {
    let folder = Folder::with_definition(SUMS);
    folder.write(
        "good.cases",
        "cases of sums\n  `1 + 2`   gives 3\n  `1 + 2`   gives 4\n",
    );
    folder.write("bad.cases", "cases of sums\n  `1 + 2`   gves 3\n");
    folder
}

#[test]
fn what_cannot_be_read_is_an_error_in_each_format() {
    let folder = folder();
    let junit = folder.quillon(&["test", "--format", "junit"]);
    junit
        .ends_with(1)
        .shows("<testsuites tests=\"3\" failures=\"1\" errors=\"1\"")
        .shows("classname=\"case files\" time=\"0\"><error message=\"")
        .shows("bad.cases:2:13");
    let tap = folder.quillon(&["test", "--format", "tap"]);
    tap.ends_with(1).shows("1..3\n").shows("not ok 3 - ");
    let json = folder.quillon(&["test", "--format", "json"]).json();
    assert_eq!(json["passed"], 1);
    assert_eq!(json["failed"], 1);
    assert_eq!(json["diagnostics"].as_array().unwrap().len(), 1);
    folder
        .quillon(&["test"])
        .ends_with(1)
        .shows("1 passed, 1 failed, 1 error in case files")
        .says("did you mean `gives`?");
}

#[test]
fn a_case_of_a_stage_that_is_not_there_yet_waits() {
    let lines = SUMS.lines().filter(|line| !line.contains("means"));
    let folder = Folder::with_definition(&lines.collect::<Vec<_>>().join("\n"));
    folder.write(
        "sums.cases",
        "cases of sums\n  `1 + 2`   gives 3\n  `1 + 2`   tree Sum(Number(1), Number(2))\n",
    );
    folder.quillon(&["test"]).shows("1 passed").shows("waiting");
    folder
        .quillon(&["test", "--format", "junit"])
        .shows("skipped=\"1\"")
        .shows("<skipped message=\"");
    folder
        .quillon(&["test", "--format", "tap"])
        .shows("# SKIP ")
        .shows("1..2\n");
    let json = folder.quillon(&["test", "--format", "json"]).json();
    assert_eq!(json["waiting"], 1);
}

#[test]
fn each_of_several_errors_can_be_expected() {
    let folder = Folder::with_definition(&format!(
        "{SUMS}\nform Name in Expr\n  written  \"gate\" value:Whole\n  checks   if value > 9 {{ fault \"there is no gate \" & shown(value) at value }}\n  means    value\n"
    ));
    folder.write(
        "gates.cases",
        "case gates that there are not\n  program `1 + gate 12`\n  fails \"there is no gate 12\" at 1:10\n\ncases of gates\n  `gate 10`   fails \"no gate 10\" at 1:6\n  `gate 9`    gives 9\n  `gate 11`   fails \"no gate 12\"\n",
    );
    folder
        .quillon(&["test"])
        .ends_with(1)
        .shows("3 passed, 1 failed")
        .shows("expected  \"no gate 12\"")
        .shows("got       \"there is no gate 11\" at 1:6");
}

#[test]
fn a_program_refused_for_two_things_is_expected_to_be() {
    let folder = Folder::with_definition(&format!(
        "{SUMS}\nform Gates in Expr\n  written  \"gates\" values:Gate+ by \",\"\n  means    [values]\n\nform Gate\n  written  value:Whole\n  checks   if value > 9 {{ fault \"there is no gate \" & shown(value) at value }}\n  means    value\n"
    ));
    let program = "case two gates\n  program `gates 1, 12, 3, 14`\n";
    let both = "  fails \"no gate 12\" at 1:10\n  fails \"no gate 14\" at 1:17\n";
    folder.write("gates.cases", format!("{program}{both}"));
    folder
        .quillon(&["test"])
        .ends_with(0)
        .shows("1 passed, 0 failed");
    folder.write(
        "gates.cases",
        format!("{program}{both}  fails \"no gate 3\" at 1:14\n"),
    );
    folder
        .quillon(&["test"])
        .ends_with(1)
        .shows("expected  \"no gate 3\" at 1:14")
        .shows("got       \"there is no gate 12\" at 1:10");
    // What is right already stays when the rest is written anew.
    folder.quillon(&["test", "--accept"]);
    let accepted = std::fs::read_to_string(folder.path().join("gates.cases")).unwrap();
    assert!(
        accepted.starts_with(&format!("{program}{both}")),
        "{accepted}"
    );
    folder.quillon(&["test"]).ends_with(0);
}
