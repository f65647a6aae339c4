//! `test`, `generate` and `compare` as they are used.

use crate::common::Folder;
use serde_json::json;

/// A language in which one example fails.
const OWN: &str = "language Own
  reads    \".own\"
  entries  Program, Expr
tokens
  Blank  [ \\n]+   ignored
  Whole  digit+   holds integer
  Name   letter+
precedence of Expr, loosest first
  left  Add
form Program
  written  steps:Say*
  means    all steps
form Say
  written  \"say\" value:Expr
  means    output(shown(value), \"\\n\")
form Add in Expr
  written  left:Expr \"+\" right:Expr
  means    left + right
  example  `1 + 2`   gives 3
  example  `1 + 2`   gives 4
form Loop in Expr
  written  \"loop\"
  means    while true { nothing }
form Fill in Expr
  written  \"fill\"
  means    let l = [0]; while true { list.add(l, l) }
form Number in Expr
  written  value:Whole
  means    value
";

const CASES: &str = "case sums & <differences>
  program
    | say 1 + 2
    | say 3
    | say 4
    | say 5
  prints
    | 3
    | 3
    | 4
    | 6

cases of trees
  `1 + 2 + 3 + 4 + 5 + 6 + 7 + 8`   tree Add(Add(Add(Add(Add(Add(Add(Number(1), Number(2)), Number(3)), Number(4)), Number(5)), Number(6)), Number(7)), Number(9))
  `1`   gives 1
";

fn folder() -> Folder {
    let folder = Folder::with_definition(OWN);
    folder.write("cases/sums.cases", CASES);
    folder
}

#[test]
fn long_outputs_and_trees_are_compared_line_by_line() {
    let ran = folder().quillon(&["test"]);
    ran.ends_with(1)
        .shows("value at 20:22")
        .shows("expected  4\n          got       3")
        .shows("- expected  + got")
        .shows("- 6\n          + 5")
        .shows("-   Number(9)\n          +   Number(8)")
        .shows("2 passed, 3 failed");
}

#[test]
fn what_was_got_can_be_accepted() {
    let folder = folder();
    folder
        .quillon(&["test", "--accept"])
        .ends_with(0)
        .shows("wrote 1 expectation into own.quillon")
        .shows("- gives 4")
        .shows("+ gives 3")
        .shows("wrote 2 expectations into cases/sums.cases");
    folder
        .quillon(&["test"])
        .ends_with(0)
        .shows("5 passed, 0 failed");
    folder
        .quillon(&["test", "--accept"])
        .ends_with(0)
        .shows("nothing had to be written");
    let cases = std::fs::read_to_string(folder.path().join("cases/sums.cases")).unwrap();
    assert!(cases.contains("prints \"3\\n3\\n4\\n5\\n\""), "{cases}");
}

#[test]
fn a_case_that_expects_nothing_yet_is_told_what_to_expect() {
    let folder = Folder::with_definition(OWN);
    folder.write("own.cases", "case new\n  program `2 + 2`\n");
    folder
        .quillon(&["test", "own.cases"])
        .ends_with(1)
        .says("expected to do nothing in particular")
        .says("--accept");
    folder
        .quillon(&["test", "own.cases", "--accept"])
        .ends_with(0);
    let text = std::fs::read_to_string(folder.path().join("own.cases")).unwrap();
    assert_eq!(text, "case new\n  program `2 + 2`\n  gives 4\n");
}

#[test]
fn only_what_failed_is_run_again() {
    let folder = folder();
    folder.quillon(&["test"]).ends_with(1);
    folder
        .quillon(&["test", "--failed"])
        .ends_with(1)
        .shows("0 passed, 3 failed, 2 not asked for");
    folder.write("cases/sums.cases", CASES.replace("| 6", "| 5"));
    folder
        .quillon(&["test", "--failed"])
        .ends_with(1)
        .shows("1 passed, 2 failed");
    folder
        .quillon(&["test", "--failed"])
        .ends_with(1)
        .shows("0 passed, 2 failed");
}

#[test]
fn cases_that_never_end_or_take_all_memory_do_not_stop_the_others() {
    let folder = folder();
    folder.write(
        "cases/sums.cases",
        "cases of ends\n  `loop`   gives 1\n  `fill`   gives 1\n  `1 + 1`   gives 2\n",
    );
    folder
        .quillon(&["test", "--time", "0.5", "--only", "ends"])
        .ends_with(1)
        .shows("ends (1)")
        .shows("ends (2)")
        .shows("1 passed, 2 failed");
}

#[test]
fn results_are_told_to_tools() {
    let folder = folder();
    let json = folder.quillon(&["test", "--format", "json"]).json();
    assert_eq!(
        (
            &json["passed"],
            &json["failed"],
            &json["cases"][1]["verdict"]
        ),
        (&json!(2), &json!(3), &json!("failed"))
    );
    let tap = folder.quillon(&["test", "--format", "tap"]);
    tap.ends_with(1)
        .shows(
            "TAP version 14\n1..5\nok 1 - Add\nnot ok 2 - Add (2)\n  ---\n  at: \"own.quillon:20\"",
        )
        .shows("    - what: \"value\"\n      expected: \"4\"\n      got: \"3\"\n  ...\n")
        .shows("ok 5 - trees (2)");
    let junit = folder.quillon(&["test", "--format", "junit"]);
    junit
        .ends_with(1)
        .shows("<testsuites tests=\"5\" failures=\"3\" errors=\"0\" skipped=\"0\"")
        .shows("<testcase name=\"sums &amp; &lt;differences&gt;\" classname=\"cases/sums.cases\"")
        .shows("<failure message=\"value:\">value:\n  expected &quot;4&quot;");
    let opened = junit.out.matches("<testcase").count();
    let closed = junit.out.matches("/>").count() + junit.out.matches("</testcase>").count();
    assert_eq!((opened, closed), (5, 5), "{junit}");
}

#[test]
fn the_order_of_output_is_that_of_the_files_and_the_same_each_time() {
    let folder = Folder::with_definition(OWN);
    let one = |n: i32| {
        format!(
            "  `{n} + 1`   gives {}",
            if n % 50 == 7 { 0 } else { n + 1 }
        )
    };
    let many: Vec<String> = (0..300).map(one).collect();
    let many = many.join("\n");
    folder.write("own.cases", format!("cases of many\n{many}"));
    let one = folder.quillon(&["test", "own.cases"]);
    one.ends_with(1).shows("294 passed, 6 failed");
    let at = |n: usize| one.out.find(&format!("many ({n}) ")).unwrap();
    assert!(
        at(8) < at(58) && at(58) < at(108) && at(208) < at(258),
        "{one}"
    );
    assert_eq!(one, folder.quillon(&["test", "own.cases"]));
}

#[test]
fn folders_that_git_ignores_are_not_entered() {
    let folder = folder();
    folder.write(".gitignore", "built/\n");
    folder.write("programs/good.own", "say 1 + 2");
    folder.write("built/old.own", "say say");
    let read = folder.quillon(&["tree", "."]);
    read.ends_with(0).shows("Add");
    assert!(!read.to_string().contains("old.own"), "{read}");
}

#[test]
fn programs_beside_a_definition_are_checked_too() {
    let folder = folder();
    folder.write("programs/good.own", "say 1 + 2");
    folder.write("programs/wrong.own", "say say");
    let tested = folder.quillon(&["test", "--list"]);
    tested
        .ends_with(1)
        .shows("every program of own.quillon\n  pass  programs/good.own\n")
        .shows("FAIL  programs/wrong.own");
}

#[test]
fn coverage_tells_what_no_case_touches() {
    let folder = folder();
    folder
        .quillon(&["test", "--coverage"])
        .ends_with(0)
        .shows("tokens")
        .shows("Loop")
        .shows("   of    ".trim())
        .shows("things are touched by some case");
    let json = folder
        .quillon(&["test", "--coverage=forms", "--format", "json"])
        .json();
    let items = json["coverage"][0]["items"].as_array().unwrap();
    let missing: Vec<(&str, &str)> = items
        .iter()
        .filter(|item| item["touched"] == json!(0))
        .map(|item| {
            (
                item["name"].as_str().unwrap(),
                item["suggestion"].as_str().unwrap(),
            )
        })
        .collect();
    assert_eq!(missing, [("Loop", "loop"), ("Fill", "fill")]);
}

#[test]
fn programs_are_made_up_by_seed_size_and_sort() {
    let folder = Folder::with_demo();
    let one = folder.quillon(&["generate", "--seed", "3", "-n", "4", "--size", "50"]);
    one.ends_with(0).shows("── seed 3").shows("── seed 6");
    assert_eq!(
        one,
        folder.quillon(&["generate", "--seed", "3", "-n", "4", "--size", "50"])
    );
    let odd = folder.quillon(&[
        "generate", "--odd", "--seed", "3", "-n", "4", "--size", "50",
    ]);
    odd.ends_with(0).shows("── seed 3");
    assert_ne!(one, odd, "one is plausible, the other finds mistakes");
    folder
        .quillon(&["generate", "--seed", "3", "--size", "30", "--save", "plain"])
        .ends_with(0);
    folder
        .quillon(&["run", "plain/generated-3.tow"])
        .ends_with(0);
    folder
        .quillon(&["generate", "--sort", "Statement"])
        .ends_with(3)
        .says("`Statement` may not stand alone")
        .says("add Statement to `entries`");
    folder
        .quillon(&["generate", "-n", "3", "--save", "made"])
        .ends_with(0)
        .shows("3 programs in made");
    folder
        .quillon(&["tree", "made/generated-2.tow"])
        .ends_with(0);
    folder
        .quillon(&["test", "--generated", "60", "--only", "Change"])
        .ends_with(0)
        .shows("programs made up from towpath.quillon");
}

/// A language in which the machine has a limit that the walking evaluator has not: arguments of a call.
const MANY: &str = "language Own
  reads \".own\"
tokens
  Blank  \" \"+   ignored
  Whole  digit+ holds integer
form Program
  written  \"f\" args:Whole*
  means    let g = function () { 1 }; call g with args
";

#[test]
fn a_made_up_program_that_fails_is_made_small_and_kept() {
    let folder = Folder::with_definition(MANY);
    let ran = folder.quillon(&["test", "--generated", "3", "--size", "1500", "--keep"]);
    ran.ends_with(1)
        .shows("generated program of seed")
        .shows("engines")
        .shows("kept in cases/own.cases as `generated, seed");
    let kept = std::fs::read_to_string(folder.path().join("cases/own.cases")).unwrap();
    let program = kept
        .lines()
        .find(|line| line.contains("program `f"))
        .unwrap();
    assert_eq!(
        program
            .split(' ')
            .filter(|w| w.starts_with(char::is_numeric))
            .count(),
        256
    );
    folder.quillon(&["test"]).ends_with(1).shows("engines");
}

#[test]
fn two_definitions_are_compared_over_programs() {
    let folder = folder();
    let new = OWN
        .replace("means    left + right", "means    left + right + 1")
        .replace("form Number in Expr", "form Digit in Expr");
    folder.write("new/own.quillon", &new);
    folder.write("programs/a.own", "say 1");
    folder.write("programs/b.own", "say 1 + 2 say 7");
    let ran = folder.quillon(&["compare", "own.quillon", "new/own.quillon", "programs"]);
    ran.ends_with(1)
        .shows("programs/a.own  tree")
        .shows("programs/b.own  tree, output")
        .shows("old  \"3\\n7\\n\"\n      new  \"4\\n7\\n\"")
        .shows("2 programs: 0 the same, 2 differ (tree 2, output 1)");
    folder
        .quillon(&["compare", "own.quillon", "own.quillon"])
        .ends_with(0)
        .shows("all the same");
    let json = folder
        .quillon(&[
            "compare",
            "own.quillon",
            "new/own.quillon",
            "programs",
            "--format",
            "json",
        ])
        .json();
    assert_eq!(json["differing"], json!({ "tree": 2, "output": 1 }));
}

#[test]
fn core_is_shown_piece_by_piece() {
    let folder = Folder::with_demo();
    folder
        .quillon(&["core", "--text", "let level be 2 say level + 1"])
        .ends_with(0)
        .shows("program")
        .shows("write level in slot 0")
        .shows("operator +");
    let json = folder
        .quillon(&["core", "--text", "1 + 2", "--format", "json"])
        .json();
    assert_eq!(json["core"][1]["does"], "operator");
}

#[test]
fn parts_of_a_suite_together_run_everything_once() {
    let folder = Folder::with_demo();
    let titles = |args: &[&str]| {
        let all = ["test", "--format", "json"].iter().chain(args);
        let ran = folder.quillon(&all.copied().collect::<Vec<_>>());
        let json = ran.ends_with(0).json();
        let cases = json["cases"].as_array().cloned().expect("cases");
        let place = |case: &serde_json::Value| {
            format!("{}:{} {}", case["file"], case["line"], case["title"])
        };
        cases.iter().map(place).collect::<Vec<String>>()
    };
    let mut whole = titles(&[]);
    let mut parts: Vec<String> = Vec::new();
    for part in ["1/3", "2/3", "3/3"] {
        let own = titles(&["--shard", part]);
        assert!(own.len().abs_diff(whole.len() / 3) <= 1, "{}", own.len());
        parts.extend(own);
    }
    whole.sort();
    parts.sort();
    assert_eq!(parts, whole);
    for wrong in ["0/3", "4/3", "x", "1/0"] {
        folder
            .quillon(&["test", "--shard", wrong])
            .ends_with(2)
            .says("write which part of how many, as `2/4`");
    }
}

#[test]
fn parts_of_generated_programs_find_what_one_run_finds() {
    // The engines agree on everything, so a type clause that promises too much is what can be found.
    let folder = Folder::with_definition(
        "language Own
  reads   \".own\"
  starts  Sum
tokens
  Blank  \" \"+  ignored
  Whole  digit+  holds integer
form Whole2 in Sum
  written  value:Whole
  typed    gives number
  means    value
form Truth in Sum
  written  \"yes\"
  typed    gives number
  means    true
form Add in Sum
  written  \"add\" left:Sum \"to\" right:Sum
  typed    left, right : number gives number
  means    left + right
",
    );
    let failed = |args: &[&str]| {
        let all = ["test", "--soundness=60", "--format", "json"]
            .iter()
            .chain(args);
        let json = folder.quillon(&all.copied().collect::<Vec<_>>()).json();
        let cases = json["cases"].as_array().cloned().expect("cases");
        cases
            .iter()
            .filter(|case| case["verdict"] == "failed")
            .count()
    };
    assert!(failed(&[]) > 0);
    let parts: usize = ["1/2", "2/2"]
        .iter()
        .map(|part| failed(&["--shard", part]))
        .sum();
    assert!(parts >= failed(&[]));
}
