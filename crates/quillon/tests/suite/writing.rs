//! Programs written in other ways: surfaces, trees printed back, one entry off the front,
//! the grammar as a picture; definitions in several files.

use crate::common::Folder;

const TOKENS: &str = "tokens
  Blank   [ \\n]+      ignored
  Remark  \"~\" [^\\n]*  ignored
  Whole   digit+       holds integer
";

const DEFINITION: &str = r#"language Gauge
  reads    ".gauge"
  entries  Program, Expr

include "parts/tokens.quillon"

precedence of Expr, loosest first
  left  Add

surface Back reads ".back"
  Add  left:Expr right:Expr "+"

form Program
  written  steps:Say*
  means    all steps

form Say
  written  "say" value:Expr
  means    output(shown(value), "\n")

form Add in Expr
  written  left:Expr "+" right:Expr
  means    left + right
  example  `1 + 2`   gives 3

form Number in Expr
  written  value:Whole
  means    value

form Group in Expr
  written  "(" inner:Expr ")"
  becomes  inner
"#;

fn gauge() -> Folder {
    let folder = Folder::new();
    folder.write("gauge.quillon", DEFINITION);
    folder.write("parts/tokens.quillon", TOKENS);
    folder.write("a.gauge", "~ levels\nsay 1 + (2 + 3) ~ six\n");
    folder.write("b.back", "say 1 2 + 3 +\n");
    folder
}

#[test]
fn a_program_runs_in_the_surface_its_extension_tells() {
    let folder = gauge();
    folder
        .quillon(&["run", "a.gauge", "b.back"])
        .ends_with(0)
        .shows("6\n6\n");
    folder
        .quillon(&["tree", "--as", "line", "b.back"])
        .ends_with(0)
        .shows("Program([Say(Add(Add(Number(1), Number(2)), Number(3)))])");
    folder
        .quillon(&["run", "--surface", "Back", "--text", "say 4 5 +"])
        .ends_with(0)
        .shows("9\n");
    folder.quillon(&["test"]).ends_with(0).shows("1 passed");
}

#[test]
fn translate_keeps_comments_and_says_what_goes_astray() {
    let folder = gauge();
    let there = folder.quillon(&["translate", "--to", "Back", "a.gauge"]);
    there.ends_with(0);
    assert_eq!(there.out, "~ levels\nsay 1 2 3 + + ~ six\n");
    let back = folder.quillon(&["translate", "--to", "Gauge", "b.back"]);
    assert_eq!(back.out, "say 1 + 2 + 3\n");
    folder
        .quillon(&["translate", "--to", "Bakc", "a.gauge"])
        .ends_with(2)
        .says("Gauge has no surface `Bakc`")
        .says("did you mean `Back`?");
    let json = folder
        .quillon(&["translate", "--to", "Back", "--format", "json", "a.gauge"])
        .json();
    assert_eq!(json["source"], "~ levels\nsay 1 2 3 + + ~ six\n");
    folder.write("bad.gauge", "say +");
    folder
        .quillon(&["translate", "--to", "Back", "bad.gauge"])
        .ends_with(1)
        .says("expected an expression, found `+`");
}

#[test]
fn a_tree_is_printed_back_with_its_comments() {
    let folder = gauge();
    let back = folder.quillon(&["tree", "--as", "source", "a.gauge"]);
    assert_eq!(back.out, "~ levels\nsay 1 + (2 + 3) ~ six\n");
}

#[test]
fn first_reads_one_entry_and_says_where_it_ends() {
    let folder = gauge();
    folder
        .quillon(&["tree", "--first", "--as", "line", "--text", "1 + 2 say 3"])
        .ends_with(0)
        .shows("Add(Number(1), Number(2))\nends at 1:6\n");
    let json = folder
        .quillon(&[
            "tree", "--first", "--as", "json", "--entry", "Expr", "--text", "1 + ?",
        ])
        .json();
    assert_eq!(json["end"]["offset"], 1);
    assert_eq!(json["end"]["column"], 2);
    folder
        .quillon(&["tree", "--first", "--entry", "Expr", "--text", ") 1"])
        .ends_with(1)
        .says("expected an expression, found `)`");
}

#[test]
fn the_grammar_is_drawn() {
    let folder = gauge();
    let all = folder.quillon(&["grammar", "--as", "svg"]);
    all.ends_with(0);
    assert!(all.out.starts_with("<svg xmlns=") && all.out.trim_end().ends_with("</svg>"));
    for shown in [">Program<", ">Say<", ">Number<", ">left<"] {
        all.shows(shown);
    }
    let one = folder.quillon(&["grammar", "--as", "svg", "--sort", "Say"]);
    assert!(!one.out.contains(">Number<"), "{one}");
    folder
        .quillon(&["grammar", "--as", "svg", "--sort", "Exp"])
        .ends_with(2)
        .says("Gauge has no sort `Exp`")
        .says("did you mean `Expr`?");
    let page = folder.quillon(&["grammar", "--as", "html"]);
    page.ends_with(0)
        .shows("<!DOCTYPE html>")
        .shows("<a href=\"#Expr\">")
        .shows("::= &quot;say&quot; Expr");
    assert_eq!(page.out.matches("<svg").count(), 3, "one a sort");
    folder
        .quillon(&["grammar", "--as", "w3c", "--surface", "Back"])
        .shows("Expr Expr \"+\"");
}

#[test]
fn mistakes_in_included_files_are_said_there() {
    let folder = gauge();
    folder.write("parts/tokens.quillon", "tokens\n  Blank  [ ]+ ingored\n");
    folder
        .quillon(&["check"])
        .ends_with(3)
        .says("parts/tokens.quillon:2:15");
    folder.write("parts/tokens.quillon", "include \"../gauge.quillon\"\n");
    folder
        .quillon(&["check"])
        .ends_with(3)
        .says("these files include each other in a circle")
        .says("parts/tokens.quillon:1:9");
    folder.write(
        "gauge.quillon",
        "language Gauge\ninclude \"nowhere.quillon\"\n",
    );
    folder
        .quillon(&["check"])
        .ends_with(3)
        .says("gauge.quillon:2:9")
        .says("there is no file `nowhere.quillon`");
}

#[test]
fn a_word_of_the_other_surface_is_pointed_at_where_it_is_a_name() {
    let folder = Folder::new();
    let named = DEFINITION
        .replace("include \"parts/tokens.quillon\"", "")
        .replace(
            "  Add  left:Expr right:Expr \"+\"",
            "  Say  \"tell\" value:Expr",
        )
        + "\nform Get in Expr\n  written  name:Name\n";
    folder.write("gauge.quillon", named + TOKENS + "  Name  letter+\n");
    folder.write("a.gauge", "say 1\nsay tell\n");
    folder
        .quillon(&["translate", "--to", "Back", "a.gauge"])
        .ends_with(1)
        .says("this is no name in `Back`")
        .says("a.gauge:2:5")
        .says("`tell` is a word of the language there")
        .says("call it something else");
}

#[test]
fn surfaces_count_where_programs_are_made_up_and_covered() {
    let folder = gauge();
    let made = folder.quillon(&["generate", "-n", "3", "--surface", "Back", "--save", "made"]);
    made.ends_with(0);
    for seed in 0..3 {
        let file = format!("made/generated-{seed}.back");
        folder.quillon(&["tree", &file]).ends_with(0);
    }
    folder
        .quillon(&["generate", "--surface", "Bakc"])
        .ends_with(2)
        .says("did you mean `Back`?");
    let left = folder.quillon(&["test", "--coverage=surfaces"]);
    left.ends_with(0).shows("0 of 1").shows("Add in Back");
    folder.write(
        "cases/gauge.cases",
        "cases of sums\n  in Back `1 2 +`   gives 3\n",
    );
    folder
        .quillon(&["test", "--coverage=surfaces"])
        .ends_with(0)
        .shows("1 of 1");
}

#[test]
fn a_conversation_goes_on_in_another_surface() {
    let folder = gauge();
    let talk = "1 + 2\n/surface Back\n1 2 +\n3 + 4\n/save all.back\n/surface Gauge\n4 + 5\n/surface Front\n/surface\n";
    let args = ["repl", "--language", "gauge.quillon", "--keep-going"];
    let told = folder.quillon_with(&args, talk);
    told.ends_with(1)
        .shows("3\nnow it is written as Back\n3\n")
        .says("found `+`")
        .shows("now it is written as Gauge\n9\n")
        .says("Gauge has no surface `Front`")
        .says("`/surface` needs a name");
}

#[test]
fn what_is_kept_in_another_surface_is_read_in_it() {
    let folder = gauge();
    let talk = "/surface Back\n1 2 +\n/keep sums\n/surface Gauge\n5 + 6\n/keep plain\n";
    folder
        .quillon_with(&["repl", "--language", "gauge.quillon"], talk)
        .ends_with(0);
    let cases =
        std::fs::read_to_string(folder.path().join("cases/gauge.cases")).expect("it is kept");
    assert!(cases.contains("case sums\n  in Back\n"), "{cases}");
    assert!(cases.contains("case plain\n  program"), "{cases}");
    folder.quillon(&["test"]).ends_with(0);
}
