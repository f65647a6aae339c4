//! Cases that state what commands show, how a program is read, and what comes before it.

use crate::common::{said, with_tokens, with_usual};
use quillon_core::definition::read_cases;
use quillon_core::source::SourceText;
use quillon_core::testing::{CaseResult, Verdict, accepted, case_limits, edited, run_case};
use quillon_core::{Language, Prepared};

/// Sums with brackets, in two surfaces, and a state.
const FORMS: &str = r#"
precedence of Expr, loosest first
  left  Add
  left  Times
state
  level = 2
form Program
  written  steps:Step+ by ";"
  opens    scope
  means    all steps
form Raise in Step
  written  "raise" by:Expr
  means    if by < 0 { fault "a level rises" at by }; level := level + by
form Show in Step
  written  value:Expr
  means    value
form Times in Expr
  written  left:Expr "*" right:Expr
  means    left * right
usual Let, Add, Group, Variable, List, Number
surface Behind reads ".behind"
  Add    left:Expr right:Expr "plus"
  Times  left:Expr right:Expr "times"
values
  list  shown "<" item by " " ">"
"#;

fn own() -> Language {
    with_tokens(FORMS)
}

fn results(language: &Language, text: &str) -> Vec<CaseResult> {
    let source = SourceText::new("own.cases", text.to_owned());
    let read = read_cases(&source);
    let problems: Vec<String> = read.diagnostics.iter().map(said).collect();
    assert!(problems.is_empty(), "{problems:?}");
    let prepared = Prepared::new(language);
    let cases = read.value.unwrap().cases;
    let run = |case| run_case(&prepared, &source, case, case_limits());
    cases.iter().map(run).collect()
}

/// What cases get instead of what they expect; nothing where they pass.
pub fn got(language: &Language, text: &str) -> Vec<String> {
    let told = |result: &CaseResult| {
        let differences = result.differences.iter();
        let differing = differences.map(|d| format!("{}: {}", d.what.words(), d.got));
        let problems = result.diagnostics.iter().map(said);
        differing.chain(problems).collect::<Vec<_>>()
    };
    let all = results(language, text);
    all.iter().flat_map(told).collect()
}

#[test]
fn a_case_states_what_commands_show() {
    let cases = r#"
cases of what commands show
  `1+(2*3)`         prints back "1 + 2 * 3"
  `1 + 2 * 3`       brackets "1 + (2 * 3)"
  `(1 + 2) * 3`     prints back "(1 + 2) * 3"   brackets "(1 + 2) * 3"
  `[1, [2]]`        shows "<1 <2>>"   gives [1, [2]]
  `1 +2`            all tokens [1, Blank, `+`, 2]   tokens [1, `+`, 2]
  `1 + 2 raise 3`   first ends at 1:6
  `3`               code [integer, return]

case on several lines
  program
    | let a = 1;
    | a+2
  prints back
    | let a = 1;
    | a + 2
"#;
    assert_eq!(got(&own(), cases), [""; 0]);
}

#[test]
fn what_commands_show_otherwise_is_said() {
    let cases = r#"
cases of what is not so
  `1+2`         prints back "1+2"
  `1 + 2 * 3`   brackets "(1 + 2) * 3"
  `[1]`         shows "[1]"
  `1 +2`        all tokens [1, `+`, 2]
  `1 2`         first ends at 1:4
  `3`           code [nothing, return]
"#;
    assert_eq!(
        got(&own(), cases),
        [
            "source: prints back \"1 + 2\"",
            "source: brackets \"1 + (2 * 3)\"",
            "value: <1>",
            "tokens: [Whole(1), Blank(` `), `+`, Whole(2)]",
            "end of the first entry: first ends at 1:2",
            "bytecode: code [integer, return]",
        ]
    );
}

#[test]
fn a_case_says_as_what_and_in_which_surface_it_is_read() {
    let language = own();
    let cases = "
cases of readings
  as Program  `1; 2`             gives 2
  in Behind   `1 2 3 times plus`   gives 7   prints back \"1 2 3 times plus\"   tree Program([Show(Add(Number(1), Times(Number(2), Number(3))))])
  in Own      `1 + 2`            gives 3
";
    assert_eq!(got(&language, cases), [""; 0]);
    let wrong = "
cases of readings
  as Expr    `1`       gives 1
  in Behind  `1 + 2`   gives 3
  in Behnd   `1`       gives 1
";
    let told = got(&language, wrong);
    assert_eq!(told.len(), 3, "{told:?}");
    assert!(told[0].contains("`Expr` may not stand alone"), "{told:?}");
    assert!(told[1].starts_with("1:3"), "{told:?}");
    assert!(
        told[2].contains("the language has no surface `Behnd`"),
        "{told:?}"
    );
}

#[test]
fn an_exchange_goes_on_after_an_error_that_is_expected() {
    let language = own();
    let cases = r#"
cases of exchanges
  after `let a = 4` after `boats` failing "no binding" after `let a = a + 1`   `a`   gives 5
  after `raise 3` after `raise 0 + x` failing name.unbound   `level0`   fails "no binding"
case on lines
  after `raise 3`
  after
    failing "no binding"
    | raise
    |   x
  program `1`
  leaves level = 5
"#;
    assert_eq!(got(&language, cases), [""; 0]);
    let wrong = r#"
cases of exchanges
  after `let a = 4` failing "no binding"   `a`   gives 4
  after `boats` failing run.kind   `1`   gives 1
"#;
    assert_eq!(
        got(&language, wrong),
        [
            "1:1 this entry should end in the error \"no binding\", and ends without one",
            "1:1 there is no binding called `boats`",
        ]
    );
}

#[test]
fn what_commands_show_is_accepted() {
    let language = own();
    let text = "
cases of what is not so
  `1+2`         prints back \"\"
  `1 + 2 * 3`   brackets \"\"
  `[1]`         shows \"\"
  `1 +2`        all tokens []
  `1 2`         first ends at 9:9
  `3`           code []
";
    let source = SourceText::new("own.cases", text.to_owned());
    let prepared = Prepared::new(&language);
    let cases = read_cases(&source).value.unwrap().cases;
    let edits = cases
        .iter()
        .flat_map(|case| accepted(&prepared, &source, case, case_limits()));
    let edits: Vec<_> = edits.collect();
    let after = edited(text, &edits);
    assert_eq!(edits.len(), 6, "{after}");
    assert_eq!(got(&language, &after), [""; 0], "{after}");
    assert!(after.contains("code [integer, return]"), "{after}");
}

#[test]
fn a_language_of_tokens_only_has_cases() {
    let text = "language Own\ntokens\n  Blank  \" \"+  ignored\n  Name   letter+\n";
    let source = SourceText::new("own.quillon", with_usual(text));
    let language = Language::load(&source).value.unwrap();
    let cases = "
cases of tokens
  `lock gate`   tokens [lock, gate]   all tokens [lock, Blank, gate]
  `lock 7`      fails token.unknown at 1:6
  `lock 7`      tokens [lock]   fails token.unknown
";
    assert_eq!(got(&language, cases), [""; 0]);
    let all = results(&language, cases);
    assert!(all.iter().all(|result| result.verdict == Verdict::Passed));
}

#[test]
fn a_part_of_a_cell_and_any_character_can_be_expected() {
    let language = with_tokens(
        r#"
state
  log  = [1, [2, 3]]
  card = map.of("toll", 4, 7, "seven")
form Program
  written  "add" value:Whole
  means    { list.add(log, value); output("\u{1b}[1m", value, "\u{1b}[0m") }
"#,
    );
    let cases = r#"
cases of parts
  `add 9`   leaves log[2] = 9   leaves log[1][0] = 2   leaves card["toll"] = 4   leaves card[7] = "seven"
  `add 9`   prints "\u{1b}[1m9\u{1b}[0m"
"#;
    assert_eq!(got(&language, cases), [""; 0]);
    let wrong = r#"
cases of parts
  `add 9`   leaves log[2] = 8
  `add 9`   leaves log[3] = 9
  `add 9`   leaves card["rate"] = 9
  `add 9`   prints "9"
"#;
    assert_eq!(
        got(&language, wrong),
        [
            "state: 9",
            "state: no such part",
            "state: no such part",
            "output: \u{1b}[1m9\u{1b}[0m"
        ]
    );
    // What is written down of it can be read again.
    let text = "\ncases of parts\n  `add 9`   prints \"\"   leaves log[1] = 0\n";
    let source = SourceText::new("own.cases", text.to_owned());
    let prepared = Prepared::new(&language);
    let case = read_cases(&source).value.unwrap().cases.remove(0);
    let after = edited(text, &accepted(&prepared, &source, &case, case_limits()));
    assert!(after.contains(r#"prints "\u{1b}[1m9\u{1b}[0m""#), "{after}");
    assert!(after.contains("leaves log[1] = [2, 3]"), "{after}");
    assert_eq!(got(&language, &after), [""; 0]);
}
