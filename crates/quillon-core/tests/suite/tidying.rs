//! Programs put in order: lines that are too long, and what `laid out` says.

use std::fs;
use std::path::{Path, PathBuf};

use quillon_core::Language;
use quillon_core::source::SourceText;

use crate::common;
use crate::editing::tidied;

/// A language whose lines are so wide at the most.
fn narrow(width: usize, more: &str) -> Language {
    common::language(&format!(
        "language Narrow\n  reads   \".narrow\"\n  starts  Program\n  width   {width}\n{}
precedence of Expr, loosest first
  right Give
  left Add
  left At
  suffix Call
usual Program, Let, Add, Group, List, Words, Number, Variable
form Do in Step
  written  value:Expr
form Give in Expr
  written  left:Expr \":=\" right:Expr
form At in Expr
  written  list:Expr \"#\" place:Expr
form Call in Expr
  written  callee:Expr \"(\" args:Expr* by \",\" \")\"
{more}",
        common::TOKENS
    ))
}

#[track_caller]
fn becomes(language: &Language, text: &str, wanted: &str) {
    let once = tidied(language, text);
    assert_eq!(once, wanted);
    assert_eq!(tidied(language, &once), once, "twice is once");
}

#[test]
fn a_list_that_is_too_long_gets_lines_of_its_own() {
    let language = narrow(24, "");
    becomes(
        &language,
        "let log = [a + 1, b + 2, c + 3]",
        "let log = [\n  a + 1,\n  b + 2,\n  c + 3\n]",
    );
    becomes(
        &language,
        "let log = [\"heron\", \"wherry\", \"old meg\"]",
        "let log = [\n  \"heron\", \"wherry\",\n  \"old meg\"\n]",
    );
    becomes(
        &language,
        "let log = [[a, 10000, b], [c, 20000, 30000, 40000]]",
        "let log = [\n  [a, 10000, b],\n  [\n    c, 20000, 30000,\n    40000\n  ]\n]",
    );
    becomes(&language, "let log = [a, b, c]", "let log = [a, b, c]");
}

#[test]
fn an_operation_that_is_too_long_is_broken_before_its_signs() {
    let language = narrow(20, "");
    becomes(
        &language,
        "let sum = aaaa + bbbb + cccc + dddd",
        "let sum = aaaa\n  + bbbb + cccc\n  + dddd",
    );
    becomes(
        &language,
        "aaaa := bbbb := cccc := dddd",
        "aaaa := bbbb := cccc\n  := dddd",
    );
    becomes(
        &language,
        "aaaa + due(bbbbb, cccccc, dd)",
        "aaaa\n  + due(\n    bbbbb, cccccc,\n    dd\n  )",
    );
}

#[test]
fn steps_on_one_line_that_is_too_long_get_lines() {
    becomes(
        &narrow(24, ""),
        "let a = 11111111; let b = 22222222",
        "let a = 11111111;\nlet b = 22222222",
    );
}

#[test]
fn what_cannot_be_broken_stays() {
    let language = narrow(20, "");
    let long = "let a = \"a text that is far too long for a line\";\nlet b = 1 ~ and a remark that goes on";
    becomes(&language, long, long);
}

#[test]
fn comments_and_empty_lines_stay_where_they_are() {
    becomes(
        &narrow(24, ""),
        "~ first\n\n\nlet log = [a + 1, b + 2, ~ second\n  c + 3, d + 4, e + 5]\n\n~ last",
        "~ first\n\nlet log = [a + 1, b + 2, ~ second\n  c + 3, d + 4, e + 5]\n\n~ last",
    );
    becomes(
        &narrow(24, ""),
        "let log = [a + 1, b + 2, c + 3, dd]; ~ all\r\nlet b = 1\r\n",
        "let log = [\r\n  a + 1,\r\n  b + 2,\r\n  c + 3,\r\n  dd\r\n]; ~ all\r\nlet b = 1\r\n",
    );
}

const LAID: &str = "form When in Step
  written  \"when\" test:Expr \"do\" steps:Step* by \";\" \"done\"
  laid out steps deeper
form Way in Step
  written  \"way\" name:Name \"<\" params:Name* by \",\" \">\" steps:Step* by \";\" \"end\"
  binds    name onward, params in steps
  laid out \"<\" close, \">\" close before, steps deeper
";

#[test]
fn what_is_laid_out_stands_so() {
    let language = narrow(60, LAID);
    becomes(
        &language,
        "when 1 do let a = 1; let b = 2 done; let c = 3",
        "when 1 do\n  let a = 1;\n  let b = 2\ndone; let c = 3",
    );
    becomes(
        &language,
        "way due < tons, rate > when 1 do let a = (tons) done end",
        "way due<tons, rate>\n  when 1 do\n    let a = (tons)\n  done\nend",
    );
    // Said of signs, and not of what looks like them.
    becomes(&language, "let a = \"< close >\"", "let a = \"< close >\"");
}

#[test]
fn a_separator_at_the_end_stays_with_its_item() {
    let language = narrow(
        60,
        "form Shift in Step
  written  \"shift\" steps:Step+ by \";\" trailing \"over\"
  laid out steps deeper
",
    );
    becomes(
        &language,
        "shift let a = 1; let b = 2; over",
        "shift\n  let a = 1;\n  let b = 2;\nover",
    );
}

#[test]
fn blanks_that_keep_tokens_apart_stay() {
    let language = narrow(
        60,
        "form Word in Expr\n  written  \"of\" value:Expr\n  laid out \"of\" close\n",
    );
    becomes(&language, "let a = of  b", "let a = of b");
    becomes(&language, "let a = of (b)", "let a = of(b)");
}

#[test]
fn lines_stay_where_their_ends_say_something() {
    let language = common::language(
        "language Rows
  reads    \".rows\"
  starts   Rows
  width    20
tokens
  Blank    \" \"+   ignored
  LineEnd  \"\\n\"
  Whole    digit+  holds integer
form Rows
  written  rows:Row* by LineEnd trailing
form Row
  written  numbers:Whole+ by \",\"
",
    );
    becomes(
        &language,
        "10, 20, 30, 40, 50, 60\n6,   7\n",
        "10, 20, 30, 40, 50, 60\n6, 7\n",
    );
}

/// The programs that come along, each with the language that it is in.
fn programs() -> Vec<(Language, PathBuf)> {
    let all = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../languages");
    let folders = fs::read_dir(all)
        .unwrap()
        .map(|entry| entry.unwrap().path());
    let mut found = Vec::new();
    for folder in folders.filter(|folder| folder.is_dir()) {
        let name = folder.file_name().unwrap().to_str().unwrap().to_owned();
        let definition = folder.join(format!("{name}.quillon"));
        let text = fs::read_to_string(&definition).unwrap();
        let source = SourceText::new(definition.to_str().unwrap(), text);
        let language = Language::load(&source).value.unwrap();
        let own = fs::read_dir(folder.join("programs")).unwrap();
        for program in own.map(|entry| entry.unwrap().path()) {
            let surface = language.surface_name_of_file(program.to_str().unwrap());
            found.push((language.surface(surface).unwrap(), program));
        }
    }
    assert!(found.len() > 15);
    found
}

#[test]
fn every_program_that_comes_along_stays_the_same_the_second_time() {
    for (language, path) in programs() {
        let text = fs::read_to_string(&path).unwrap();
        let once = tidied(&language, &text);
        assert_eq!(tidied(&language, &once), once, "{}", path.display());
        let words = |text: &str| text.split_whitespace().collect::<String>();
        assert_eq!(words(&once), words(&text), "{}", path.display());
    }
}

#[test]
fn putting_in_order_takes_time_in_proportion() {
    // Brackets in brackets, and one operation after the other: an hour if each were looked at once more
    // for each that it is in.
    let language = narrow(40, "");
    let deep = format!("let a = {}1{}", "[".repeat(50), "]".repeat(50));
    tidied(&language, &deep);
    let chain = format!("let a = 1{}", " + 22".repeat(100));
    let broken = tidied(&language, &chain);
    assert!(broken.lines().all(|line| line.chars().count() <= 40));
    let list = format!("let a = [{}1]", "b + 1, ".repeat(20_000));
    assert_eq!(tidied(&language, &list).lines().count(), 20_003);
}
