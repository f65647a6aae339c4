//! Every command as its user meets it: on the demo, on inputs that are not there or not
//! what they should be, as text and as JSON.

use crate::common::Folder;
use serde_json::json;

pub const TINY: &str = r#"language Tiny
  reads ".tiny"

tokens
  Blank  [ \n]+  ignored
  Whole  digit+  holds integer
  Name   letter+

precedence of Expr, loosest first
  left  Add

form Program
  written  steps:Step* by ";" trailing
  opens    scope
  means    all steps

form Let in Step
  written  "let" name:Name "=" value:Expr
  binds    name onward
  means    name := value
  example  `let a = 1; a + 1`   gives 2

form Value in Step
  written  value:Expr
  means    value

form Add in Expr
  written  left:Expr "+" right:Expr
  means    left + right
  example  `1 + 2`   gives 3

form Number in Expr
  written  value:Whole
  means    value

form Variable in Expr
  written  name:Name
  uses     name
  means    name
"#;

#[test]
fn the_demo_shows_every_stage() {
    let demo = Folder::new().quillon(&["demo"]);
    demo.ends_with(0)
        .shows("its tokens")
        .shows("its tree")
        .shows("did you mean `level`?")
        .shows("Old Meg   stone      30    225");
    assert_eq!(demo.err, "");
}

#[test]
fn whoever_asks_for_nothing_is_told_what_to_try() {
    let ran = Folder::new().quillon(&[]);
    ran.ends_with(0)
        .shows("quillon demo")
        .shows("quillon new ferry")
        .shows("quillon --help");
    assert_eq!(ran.err, "");
    assert!(ran.out.lines().count() < 8);
}

#[test]
fn a_line_with_a_slip_comes_with_the_line_that_was_meant() {
    let folder = Folder::with_demo();
    for (typed, meant) in [
        (
            "rnu programs/tolls.tow",
            Some("quillon run programs/tolls.tow"),
        ),
        (
            "run --stpes=90 programs/tolls.tow",
            Some("quillon run --steps=90 programs/tolls.tow"),
        ),
        ("test --genrated 20", Some("quillon test --generated 20")),
        (
            "rnu --value --text 1+(2*3) -l towpath.quillon",
            Some("quillon run --value --text '1+(2*3)' -l towpath.quillon"),
        ),
        // What would still be wrong is not offered.
        ("rnu --stpes=90 programs/tolls.tow", None),
        ("run --stpes many programs/tolls.tow", None),
        ("zzzzzz", None),
    ] {
        let args: Vec<&str> = typed.split(' ').collect();
        let ran = folder.quillon(&args);
        ran.ends_with(2);
        let offered = ran
            .err
            .lines()
            .find_map(|line| line.strip_prefix("  try  `"));
        let offered = offered.and_then(|line| line.strip_suffix('`'));
        assert_eq!(offered, meant, "{typed}");
        if let Some(meant) = meant {
            let meant = meant.replace('\'', "");
            let args: Vec<&str> = meant.split(' ').skip(1).collect();
            folder.quillon(&args).ends_with(0);
        }
    }
}

#[test]
fn new_lists_what_a_language_can_begin_from() {
    let folder = Folder::new();
    let ran = folder.quillon(&["new", "ferry", "--from"]);
    ran.ends_with(0)
        .shows("towpath")
        .shows("blocks by indentation")
        .shows("quillon new ferry --from LANGUAGE");
    assert!(!folder.path().join("ferry").exists());
}

#[test]
fn the_demo_can_be_saved_and_passes_its_tests() {
    let folder = Folder::with_demo();
    folder
        .quillon(&["test"])
        .ends_with(0)
        .shows(" passed, 0 failed");
    for program in ["tolls", "filling", "flight", "daylog"] {
        let run = folder.quillon(&["run", &format!("programs/{program}.tow")]);
        run.ends_with(0);
        assert_eq!(run.err, "");
    }
}

#[test]
fn new_makes_a_language_that_works() {
    let folder = Folder::new();
    folder
        .quillon(&["new", "ferry"])
        .ends_with(0)
        .shows("quillon test");
    let in_it = |args: &[&str]| folder.quillon_in("ferry", args, "");
    in_it(&["test"]).ends_with(0).shows("11 passed, 0 failed");
    let run = in_it(&["run", "programs/first.ferry"]);
    run.ends_with(0);
    assert_eq!(run.out, "to pay:\n97\n");
    in_it(&["check"])
        .ends_with(0)
        .shows("Ferry  5 tokens, 10 forms");
    folder
        .quillon(&["new", "ferry"])
        .ends_with(2)
        .says("already something called `ferry`");
    folder
        .quillon(&["new", "3x"])
        .ends_with(2)
        .says("cannot be the name of a language");
    folder.quillon(&["new", "lock-keeper"]).ends_with(0);
    folder.quillon_in("lock-keeper", &["test"], "").ends_with(0);
}

#[test]
fn adding_a_form_adds_a_construct() {
    let folder = Folder::new();
    folder.quillon(&["new", "ferry"]).ends_with(0);
    let path = folder.path().join("ferry/ferry.quillon");
    let mut text = std::fs::read_to_string(&path).unwrap();
    text.push_str(
        "\nform Choice in Expr\n  written  \"if\" test:Expr \"then\" yes:Expr \"else\" no:Expr \"end\"\n  means    if test = 0 { no } else { yes }\n  example  `if 1 then 2 else 3 end`   gives 2\n",
    );
    std::fs::write(&path, text).unwrap();
    folder
        .quillon_in("ferry", &["test"], "")
        .ends_with(0)
        .shows("12 passed, 0 failed");
}

#[test]
fn tokens_are_listed_with_place_kind_and_value() {
    let folder = Folder::with_definition(TINY);
    let run = folder.quillon(&["tokens", "--text", "let a = 12"]);
    run.ends_with(0);
    let expected = "place  kind       text  value\n  1:1  (literal)  let\n  1:5  Name       a\n  1:7  (literal)  =\n  1:9  Whole      12    12\n";
    assert_eq!(run.out, expected);
    let all = folder.quillon(&["tokens", "--all", "--text", "a b"]);
    all.shows("Blank  \" \"");
    let json = folder.quillon(&["tokens", "--format", "json", "--text", "12 $"]);
    json.ends_with(1);
    let json = json.json();
    assert_eq!(json["tokens"][0]["kind"], "Whole");
    assert_eq!(json["tokens"][0]["value"], 12);
    assert_eq!(json["diagnostics"][0]["code"], "token.unknown");
    assert_eq!(json["diagnostics"][0]["place"]["column"], 4);
}

#[test]
fn tokens_go_on_after_bad_characters_and_find_them_all() {
    let folder = Folder::with_definition(TINY);
    let run = folder.quillon(&["tokens", "--text", "1 $% 2\n§ 3 é"]);
    run.ends_with(1).says("`$%`").says("`§`").says("U+00A7");
    assert_eq!(run.out.lines().count(), 5, "{run}");
}

#[test]
fn trees_come_as_outline_as_line_and_as_json() {
    let folder = Folder::with_definition(TINY);
    let text = ["--text", "let a = 1; a + 2"];
    folder
        .quillon(&[&["tree"], &text[..]].concat())
        .ends_with(0)
        .shows("steps[0]: Let")
        .shows("right: Number");
    let line = folder.quillon(&[&["tree", "--as", "line"], &text[..]].concat());
    assert_eq!(
        line.out,
        "Program([Let(a, Number(1)), Value(Add(Variable(a), Number(2)))])\n"
    );
    let json = folder
        .quillon(&[&["tree", "--as", "json"], &text[..]].concat())
        .json();
    let add = &json["tree"]["fields"]["steps"][1]["fields"]["value"];
    assert_eq!(add["kind"], "Add");
    assert_eq!(
        add["span"],
        json!({"start": 11, "end": 16, "line": 1, "column": 12})
    );
    assert_eq!(add["fields"]["right"]["fields"]["value"]["value"], 2);
}

#[test]
fn an_entry_can_be_asked_for_by_sort() {
    let folder = Folder::with_definition(&TINY.replace("reads \".tiny\"", "entries Program, Expr"));
    let ran = folder.quillon(&["tree", "--as", "line", "--entry", "Expr", "--text", "1 + 2"]);
    assert_eq!(ran.out, "Add(Number(1), Number(2))\n");
    folder
        .quillon(&["tree", "--entry", "Step", "--text", "1"])
        .ends_with(1)
        .says("`Step` may not stand alone")
        .says("`Program`, `Expr`");
}

#[test]
fn run_reads_files_standard_input_and_text() {
    let folder = Folder::with_definition(TINY);
    folder.write("a.tiny", "1 + 2");
    let out =
        |args: &[&str], input: &str| folder.quillon_with(args, input).ends_with(0).out.clone();
    assert_eq!(out(&["run", "--value", "a.tiny"], ""), "3\n");
    assert_eq!(out(&["run", "--value", "-"], "4 + 5\n"), "9\n");
    assert_eq!(out(&["run", "--value", "--text", "6"], ""), "6\n");
    assert_eq!(
        out(
            &["run", "--value", "-l", "own.quillon", "a.tiny", "a.tiny"],
            ""
        ),
        "3\n3\n"
    );
    let json = folder
        .quillon(&["run", "--format", "json", "a.tiny"])
        .json();
    assert_eq!(json["value"], "3");
    assert_eq!(json["kind"], "integer");
}

#[test]
fn the_definition_is_found_upward_by_extension() {
    let folder = Folder::new();
    folder.write("lang/tiny.quillon", TINY);
    folder.write(
        "lang/other.quillon",
        TINY.replace("Tiny", "Other").replace(".tiny", ".other"),
    );
    folder.write("lang/deep/down/a.tiny", "1");
    folder.write("lang/deep/b.unknown", "1");
    folder
        .quillon(&["run", "lang/deep/down/a.tiny"])
        .ends_with(0);
    folder
        .quillon(&["run", "lang/deep/b.unknown"])
        .ends_with(4)
        .says("reads `.unknown`")
        .says("-l FILE.quillon");
    folder
        .quillon_in("lang", &["check"], "")
        .ends_with(4)
        .says("several definitions: `other.quillon`, `tiny.quillon`");
}

#[test]
fn inputs_that_cannot_be_read_are_named_with_their_trouble() {
    let folder = Folder::with_definition(TINY);
    folder.write("bytes.tiny", b"1 + \xff");
    folder.write("bytes.quillon.bin", b"\x00\xff");
    std::fs::create_dir(folder.path().join("folder")).unwrap();
    folder.write("folder/inside.tiny", "1");
    std::fs::create_dir(folder.path().join("nothing")).unwrap();
    folder
        .quillon(&["run", "folder"])
        .ends_with(4)
        .says("`folder` is a folder")
        .says("folder/inside.tiny");
    for command in ["tokens", "tree"] {
        folder.quillon(&[command, "folder"]).ends_with(0);
        folder
            .quillon(&[command, "nothing"])
            .ends_with(4)
            .says("no program in it has a definition");
    }
    for command in ["tokens", "tree", "run"] {
        let with = |file: &str| folder.quillon(&[command, "-l", "own.quillon", file]);
        with("missing.tiny")
            .ends_with(4)
            .says("there is no file `missing.tiny`");
        with("bytes.tiny")
            .ends_with(4)
            .says("byte 0xFF on line 1 (offset 4)");
        folder
            .quillon(&[command, "nowhere.tiny"])
            .ends_with(4)
            .says("there is no file");
    }
    folder
        .quillon(&["check", "bytes.quillon.bin"])
        .ends_with(4)
        .says("not UTF-8");
    folder
        .quillon(&["check", "own.quilon"])
        .ends_with(4)
        .says("did you mean `own.quillon`?");
    folder.quillon(&["test", "missing.cases"]).ends_with(4);
    folder
        .quillon(&["test", "folder"])
        .ends_with(4)
        .says("no definition and no case file");
    let json = folder.quillon(&["run", "--format", "json", "missing.tiny"]);
    assert_eq!(
        json.ends_with(4).json()["diagnostics"][0]["code"],
        "file.unreadable"
    );
}

#[test]
fn empty_inputs_are_taken_as_they_are() {
    let folder = Folder::with_definition(TINY);
    folder.write("empty.tiny", "");
    folder.write("empty.quillon.txt", "");
    for command in ["tokens", "tree", "run"] {
        folder.quillon(&[command, "empty.tiny"]).ends_with(0);
    }
    folder
        .quillon(&["check", "empty.quillon.txt"])
        .ends_with(3)
        .says("this definition names no language");
    folder.quillon_with(&["repl"], "").ends_with(0);
}

#[test]
fn a_definition_that_stops_early_says_what_it_lacks() {
    let tokens_only = &TINY[..TINY.find("precedence").unwrap()];
    let folder = Folder::with_definition(tokens_only);
    folder.quillon(&["tokens", "--text", "a 1"]).ends_with(0);
    for args in [
        &["tree", "--text", "1"][..],
        &["run", "--text", "1"],
        &["repl"],
    ] {
        folder.quillon(args).ends_with(3).says("has no forms yet");
    }
    folder
        .quillon(&["check"])
        .ends_with(0)
        .shows("can be tokenized, and has no forms yet");

    let no_meaning: String = TINY
        .lines()
        .filter(|line| !line.starts_with("  means"))
        .flat_map(|line| [line, "\n"])
        .collect();
    let folder = Folder::with_definition(&no_meaning);
    folder.quillon(&["tree", "--text", "1"]).ends_with(0);
    folder
        .quillon(&["run", "--text", "1"])
        .ends_with(3)
        .says("has no meaning yet");
    folder.quillon(&["test"]).ends_with(0).shows("2 waiting");

    let one_missing = TINY.replace("  means    left + right\n", "");
    let folder = Folder::with_definition(&one_missing);
    folder
        .quillon(&["run", "--value", "--text", "7"])
        .ends_with(0)
        .shows("7");
    folder
        .quillon(&["run", "--text", "1 + 2"])
        .ends_with(3)
        .says("form `Add` has no meaning yet")
        .says("text:1:1");

    let folder = Folder::with_definition("language Bare\n");
    folder
        .quillon(&["tokens", "--text", "a"])
        .ends_with(3)
        .says("has no tokens yet");
}

#[test]
fn mistakes_in_a_definition_are_reported_together() {
    let broken = TINY
        .replace("reads", "raeds")
        .replace("holds integer", "holds intger")
        .replace("left  Add", "left  Ad")
        .replace("value:Whole", "value:Whol")
        .replace("left + right", "left + rihgt");
    let folder = Folder::with_definition(&broken);
    let check = folder.quillon(&["check"]);
    check
        .ends_with(3)
        .shows("5 errors")
        .says("did you mean `reads`?")
        .says("did you mean `integer`?")
        .says("did you mean `Add`?")
        .says("did you mean `right`?");
    let json = folder.quillon(&["check", "--format", "json"]);
    let json = json.ends_with(3).json();
    assert_eq!(json["diagnostics"].as_array().unwrap().len(), 5);
    assert_eq!(json["summary"], json!(null));
}

#[test]
fn check_tells_what_there_is_and_what_is_missing() {
    let folder = Folder::with_definition(TINY);
    folder
        .quillon(&["check"])
        .ends_with(0)
        .shows("Tiny  3 tokens, 6 forms, 2 examples")
        .shows("no example: Program, Value, Number, Variable");
    let json = folder.quillon(&["check", "--format", "json"]).json();
    assert_eq!(json["summary"]["forms"], 6);
    assert_eq!(json["summary"]["forks"], 0);
}

#[test]
fn tests_show_expected_against_got() {
    let folder = Folder::with_definition(TINY);
    folder.write(
        "cases/sums.cases",
        "cases of sums\n  `1 + 1`   gives 3\n  `2`       gives 2\n\ncase a longer one\n  program\n    | let a = 4;\n    | a + b\n  gives 8\n",
    );
    let test = folder.quillon(&["test"]);
    test.ends_with(1)
        .shows("sums (1)")
        .shows("expected  3")
        .shows("got       2")
        .shows("no binding called `b`")
        .shows("3 passed, 2 failed");
    folder
        .quillon(&["test", "--only", "SUMS (2)"])
        .ends_with(0)
        .shows("1 passed, 0 failed");
    folder
        .quillon(&["test", "cases/sums.cases", "--list"])
        .ends_with(1)
        .shows("pass  sums (2)");
    folder
        .quillon(&["test", "--only", "nothing like it"])
        .ends_with(2)
        .says("no case has `nothing like it` in its title");
    let json = folder.quillon(&["test", "--format", "json"]);
    let json = json.ends_with(1).json();
    assert_eq!((&json["passed"], &json["failed"]), (&json!(3), &json!(2)));
    assert_eq!(json["cases"][2]["differences"][0]["got"], "2");
}

#[test]
fn mistakes_in_case_files_point_at_the_line() {
    let folder = Folder::with_definition(TINY);
    folder.write(
        "own.cases",
        "cases of sums\n  `1 + 1`   givs 2\n  1 + 1\n\ncase without a program\n  gives 1\n\nsomething else\n",
    );
    folder
        .quillon(&["test"])
        .ends_with(1)
        .says("own.cases:2:13")
        .says("did you mean `gives`?")
        .says("own.cases:3:3")
        .says("there is no program here")
        .says("starts no case")
        .shows("4 errors in case files");
}

#[test]
fn endless_runs_end_when_they_are_told_to() {
    let folder = Folder::with_demo();
    folder
        .quillon(&["run", "--steps", "10000", "--text", "forever { }"])
        .ends_with(1)
        .says("stopped after 10000 steps");
    folder
        .quillon(&[
            "run",
            "--depth",
            "50",
            "--text",
            "way f() { answer 1 + f() } do f()",
        ])
        .ends_with(1)
        .says("50 nested calls");
    let caught = "way f() { answer 1 + f() } attempt { do f() } mend what { say what }";
    folder
        .quillon(&["run", "--depth", "50", "--text", caught])
        .ends_with(1)
        .says("run.depth");
}

#[test]
fn output_before_an_error_is_not_lost() {
    let folder = Folder::with_demo();
    let run = folder.quillon(&["run", "--text", "say 1 say 2 / 0 say 3"]);
    run.ends_with(1).says("divided by zero");
    assert_eq!(run.out, "1\n");
}

#[test]
fn programs_read_what_is_typed() {
    let folder = Folder::with_demo();
    folder.write(
        "greet.tow",
        "let name be ask() say \"hello\", name say ask() = nothing",
    );
    let run = folder.quillon_with(&["run", "greet.tow"], "Heron\r\n");
    assert_eq!(run.out, "hello Heron\ntrue\n");
}

#[test]
fn colour_is_for_terminals_unless_asked_for() {
    let folder = Folder::with_definition(TINY);
    let plain = folder.quillon(&["run", "--text", "a"]);
    assert!(!plain.err.contains('\u{1b}'));
    let coloured = folder.quillon(&["--color", "always", "run", "--text", "a"]);
    assert!(coloured.err.contains('\u{1b}'), "{coloured}");
}

#[test]
fn wrong_usage_is_said_to_be_so() {
    let folder = Folder::new();
    folder.quillon(&["tokens"]).ends_with(2);
    folder.quillon(&["sail"]).ends_with(2);
    folder.quillon(&["run", "--steps", "0", "x"]).ends_with(2);
    for command in [
        "new", "demo", "check", "grammar", "tokens", "tree", "run", "repl", "test",
    ] {
        folder
            .quillon(&[command, "--help"])
            .ends_with(0)
            .shows("Example:\n  ");
    }
}
