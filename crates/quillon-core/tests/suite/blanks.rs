//! Where blanks stand in printed programs, and how lines that get too long are broken.

use crate::common::{mistakes, said, tree, with_tokens};
use quillon_core::printing::Brackets;
use quillon_core::source::SourceText;
use quillon_core::tree::one_line;
use quillon_core::{Language, Reading};

/// A program as it is printed; what is printed is read as the same tree, and printed the same.
fn printed(language: &Language, text: &str) -> String {
    let print = |text: &str| {
        let source = SourceText::new("text", text.to_owned());
        let outcome = language.tree(&source, Reading::Program);
        let told: Vec<String> = outcome.diagnostics.iter().map(said).collect();
        let tree = outcome
            .value
            .unwrap_or_else(|| panic!("{told:?} in {text}"));
        let line = one_line(language.definition(), language.lexer(), &tree);
        let comments = language.comments(&source);
        let written = language.source_of(&tree, Brackets::Fewest, &comments);
        (line, written.unwrap())
    };
    let (line, written) = print(text);
    let (again, twice) = print(&written);
    assert_eq!(line, again, "{written}");
    assert_eq!(written, twice);
    written
}

/// Signs that stand otherwise than in most languages.
const SIGNS: &str = r#"
form Program
  written  steps:Step+ by ";"
form Way in Step
  written  "way" "<" kind:Name ">" name:Name "(" params:Name* by "," ")" "=" body:Expr
  laid out "<" close, ">" close before, "(" close, "=" spaced
form Choice in Expr
  written  "?" test:Expr ":" no:Expr
  laid out ":" close before, test spaced
form Sum in Expr
  written  "{" sign:"+" items:Expr+ "}"
  laid out sign close before, "}" close before
form Note in Expr
  written  "fn" name:Name "." body:Expr
  laid out "." spaced after
form Pair in Expr
  written  "(" left:Name "," right:Name ")"
  laid out "," spaced
form Lock in Expr
  written  name:Name "!" level:Whole
  laid out level close, "!" spaced before
form Var in Expr
  written  name:Name
form Level in Expr
  written  value:Whole
"#;

#[test]
fn a_definition_says_where_blanks_stand() {
    let language = with_tokens(SIGNS);
    for (text, wanted) in [
        ("way<num>add(a,b)={+a b}", "way<num> add(a, b) = {+ a b}\n"),
        ("? a : b", "? a: b\n"),
        ("fn y . y", "fn y. y\n"),
        ("fn y.?1:2", "fn y. ? 1: 2\n"),
        ("(a,b)", "(a , b)\n"),
        ("gate!4", "gate !4\n"),
        ("{+{+1 2} 3}", "{+ {+ 1 2} 3}\n"),
    ] {
        let text = format!("way<t>x()={text}").replace("way<t>x()=way", "way");
        let wanted = match wanted.strip_prefix("way") {
            Some(_) => wanted.to_owned(),
            None => format!("way<t> x() = {wanted}"),
        };
        assert_eq!(printed(&language, &text), wanted);
    }
}

#[test]
fn signs_are_closed_up_only_where_they_stay_what_they_are() {
    let language = with_tokens(
        r#"
form Program
  written  a:Name "-" sign:"-"? b:Name
  laid out "-" close, sign close
form Arrow
  written  "--" a:Name
"#,
    );
    assert_eq!(printed(&language, "a - b"), "a-b\n");
    // `--` would be another sign.
    assert_eq!(printed(&language, "a - - b"), "a- -b\n");
}

const LONG: &str = r#"
precedence of Expr, loosest first
  prefix  Choose
  left    Add
  left    Times
  suffix  Call
form Program
  written  steps:Step+ by ";" trailing
  opens    scope
form Let in Step
  written  "let" name:Name "=" value:Expr
form Block in Step
  written  "do" "{" steps:Step+ by ";" trailing "}"
form Choose in Expr
  written  "choose" test:Expr "then" yes:Expr "else" no:Expr
form Call in Expr
  written  callee:Expr ~ "(" args:Expr* by "," ")"
form Times in Expr
  written  left:Expr "*" right:Expr
form Words in Expr
  written  value:Text
form Add in Expr
  written  left:Expr "+" right:Expr
form List in Expr
  written  "[" items:Expr* by "," "]"
form Group in Expr
  written  "(" inner:Expr ")"
  becomes  inner
form Number in Expr
  written  value:Whole
form Var in Expr
  written  name:Name
"#;

fn narrow(width: usize) -> Language {
    let tokens = crate::common::TOKENS;
    crate::common::language(&format!("language Own\n  width {width}\n{tokens}\n{LONG}"))
}

#[test]
fn long_lines_are_broken_at_the_outermost_place_that_reads_well() {
    let language = narrow(40);
    for (text, wanted) in [
        (
            "let toll = boats * 4 + keepers * 12 + gates * 3",
            "let toll = boats * 4 + keepers * 12\n  + gates * 3\n",
        ),
        (
            "let all = [heron, otter, kingfisher, swallow, bittern, coot]",
            "let all = [heron, otter, kingfisher,\n  swallow, bittern, coot]\n",
        ),
        (
            "let c = choose boats then first(boats, 1) else rest(boats, 2, 3)",
            "let c = choose boats\n  then first(boats, 1)\n  else rest(boats, 2, 3)\n",
        ),
        ("let short = 1 + 2", "let short = 1 + 2\n"),
        (
            "do { let toll = boats * 4 + keepers * 12 + gates; let b = 1 }",
            "do {\n  let toll = boats * 4 + keepers * 12\n    + gates;\n  let b = 1\n}\n",
        ),
        (
            "let a = pay(heron, weigh(otter, kingfisher, swallow), bittern)",
            "let a = pay(heron,\n  weigh(otter, kingfisher, swallow),\n  bittern)\n",
        ),
    ] {
        let written = printed(&language, text);
        assert_eq!(written, wanted, "{text}");
    }
    // What cannot be broken stays as it is.
    let long = format!("let a = \"{}\"", "lock ".repeat(20));
    assert_eq!(printed(&language, &long), format!("{long}\n"));
}

#[test]
fn no_line_is_longer_than_it_must_be() {
    let language = narrow(30);
    let items: Vec<String> = (0..100).map(|n| format!("boat{n}")).collect();
    let sum = format!("let a = {}", items.join(" + "));
    let list = format!("let a = [{}]", items.join(", "));
    let nested = (0..40).fold("x".to_owned(), |inner, n| format!("pay(a{n}, {inner})"));
    for text in [sum, list, format!("let a = {nested}")] {
        let written = printed(&language, &text);
        // Closing brackets stay with what is before them.
        let lines = written
            .lines()
            .map(|line| line.trim().trim_end_matches(')'));
        let longest = lines.map(str::len).max();
        assert!(longest.unwrap() <= 30, "{written}");
    }
}

#[test]
fn lines_end_where_the_definition_says_in_a_language_of_lines() {
    let tokens = crate::common::TOKENS.replace("[ \\t\\r\\n]+", "[ \\t]+");
    let text = format!(
        "language Own\n  width 20\n  layout lines\n{tokens}\nform Program\n  written steps:Sum+ by LineEnd trailing\nform Sum\n  written names:Name+ by \",\"\n"
    );
    let language = crate::common::language(&text);
    let line = ["heron"; 20].join(", ");
    assert_eq!(
        printed(&language, &format!("{line}\n")),
        format!("{line}\n")
    );
    assert!(tree(&language, &line).starts_with("Program(["));
}

#[test]
fn what_cannot_be_laid_out_is_an_error_of_the_definition() {
    let with = |clause: &str| {
        mistakes(&format!(
            "language Own\ntokens\n  Name letter+\nform F\n  written \"f\" name:Name\n  laid out {clause}\n"
        ))
    };
    assert_eq!(with("nme close"), ["6:12 form `F` has no field `nme`"]);
    assert_eq!(with("\"f\" close, name deeper"), [""; 0]);
    assert_eq!(
        with("\"g\" close"),
        ["6:12 form `F` is not written with `g`"]
    );
    assert_eq!(
        with("name closed"),
        ["6:17 expected `inline`, `lines`, `deeper`, `apart`, `close` or `spaced`, found `closed`"]
    );
    let narrow = "language Own\n  width 3\ntokens\n  Name letter+\n";
    assert_eq!(
        mistakes(narrow),
        ["2:9 expected a number of characters from 20 on, found `3`"]
    );
}
