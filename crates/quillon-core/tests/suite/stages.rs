//! Each stage alone: tokens, trees and their texts, sessions, cases, with what the other
//! stages would make given by hand.

use crate::common::{language, said, with_tokens};
use quillon_core::Prepared;
use quillon_core::definition::read_cases;
use quillon_core::evaluation::walk;
use quillon_core::lexing::KindId;
use quillon_core::runtime::{Amount, Host, Limits, Recorder, TooLarge};
use quillon_core::scoping::Around;
use quillon_core::source::SourceText;
use quillon_core::testing::{Verdict, case_limits, run_case};
use quillon_core::tree::{TreeBuilder, one_line, to_json};
use quillon_core::{Language, Reading, Stage};

/// The tokens of a text as `Kind text`.
fn tokens(language: &Language, text: &str) -> Vec<String> {
    let source = SourceText::new("text", text);
    let found = language.tokens(&source);
    let lexer = language.lexer();
    found
        .value
        .unwrap()
        .tokens
        .iter()
        .filter(|token| token.kind != KindId::END)
        .map(|token| {
            format!(
                "{} {}",
                lexer.kind(token.kind).name,
                source.slice(token.span)
            )
        })
        .collect()
}

fn lexical(rules: &str) -> Language {
    language(&format!("language Own\n\ntokens\n{rules}"))
}

#[test]
fn the_longest_match_wins_and_on_a_tie_the_earlier_line() {
    let own = lexical(
        "  Word  letter+\n  Key  \"lock\"\n  Arrow  \"->\"\n  Minus  \"-\"\n  More  \">\"\n",
    );
    assert_eq!(
        tokens(&own, "locklock->-->lock"),
        [
            "Word locklock",
            "Arrow ->",
            "Minus -",
            "Arrow ->",
            "Word lock"
        ]
    );
    let other = lexical("  Key  \"lock\"\n  Word  letter+\n");
    assert_eq!(tokens(&other, "locklock"), ["Word locklock"]);
    assert_eq!(tokens(&other, "lock"), ["Key lock"]);
}

#[test]
fn patterns_have_all_the_operators() {
    let own = lexical(
        "  Blank  [ \\n]  ignored\n  Hex  \"0x\" [0-9a-f]+\n  Whole  digit+ (\"_\" digit+)*\n  Half  #x41 - [B]\n  Odd  (any - [a-z0-9AB_\\n ])+\n  Name  [a-z] [a-z]? \"!\"?\n",
    );
    assert_eq!(
        tokens(&own, "0xff 12_345 A §§ ab! c"),
        [
            "Hex 0xff",
            "Whole 12_345",
            "Half A",
            "Odd §§",
            "Name ab!",
            "Name c"
        ]
    );
}

#[test]
fn one_match_may_have_to_go_back_a_long_way() {
    let own = lexical("  A  \"a\"\n  Long  \"a\"+ \"b\"\n");
    assert_eq!(tokens(&own, "aab"), ["Long aab"]);
    assert_eq!(tokens(&own, "aaa"), ["A a", "A a", "A a"]);
}

#[test]
fn letters_are_those_of_unicode() {
    let own = lexical("  Name  letter (letter | digit)*\n");
    assert_eq!(tokens(&own, "écluse2"), ["Name écluse2"]);
    assert_eq!(tokens(&own, "水門"), ["Name 水門"]);
}

#[test]
fn tokens_know_line_column_and_what_they_touch() {
    let own = with_tokens("");
    let source = SourceText::new("text", "\u{feff}a\r\n  éb(c");
    let found = own.all_tokens(&source).value.unwrap();
    let places: Vec<String> = found
        .tokens
        .iter()
        .map(|t| format!("{} {}", source.position(t.span.start), t.tight()))
        .collect();
    // The bracket is no token here; what follows it touches nothing.
    assert_eq!(places, ["1:1 false", "2:3 false", "2:6 false", "2:7 false"]);
    assert_eq!(found.ignored.len(), 1);
}

#[test]
fn held_values_are_checked_where_they_stand() {
    let own = lexical("  Blank  \" \"  ignored\n  Whole  (letter | digit)+  holds integer\n");
    let outcome = own.tokens(&SourceText::new(
        "text",
        "12 9223372036854775808 x 0b11 0o17",
    ));
    let errors: Vec<String> = outcome.diagnostics.iter().map(said).collect();
    assert_eq!(
        errors,
        [
            "1:4 `9223372036854775808` is too large for an integer",
            "1:24 `x` cannot be read as an integer"
        ]
    );
}

#[test]
fn an_unfinished_token_is_one_error_and_is_known_to_be_unfinished() {
    let own = lexical(
        "  Blank  [ ]+  ignored\n  Note  \"(*\" [^*]* \"*)\"  ignored\n  Name  letter+\n  Star  \"*\"\n",
    );
    let outcome = own.tokens(&SourceText::new("text", "a (* b c\n d"));
    assert_eq!(outcome.diagnostics.len(), 1);
    assert_eq!(
        said(&outcome.diagnostics[0]),
        "1:3 what starts here like a note is never finished"
    );
    assert!(outcome.value.unwrap().unfinished);
}

#[test]
fn many_errors_are_capped_and_counted() {
    let own = with_tokens("");
    let outcome = own.tokens(&SourceText::new("text", "$ ".repeat(250)));
    assert_eq!(outcome.diagnostics.len(), 101);
    assert_eq!(
        outcome.diagnostics[100].message,
        "150 more errors of this kind are not shown"
    );
}

const SUM: &str = "
form Sum in Expr
  written  \"sum\" items:Expr* by \",\" note:Text? \"end\"
  means    let total = 0; each i in items { total := total + i }; total

form Number in Expr
  written  value:Whole | value:Decimal
  means    value
";

#[test]
fn a_tree_made_by_hand_has_a_meaning() {
    let own = with_tokens(SUM);
    let definition = own.definition();
    let form = |name: &str| {
        definition
            .forms
            .iter()
            .position(|f| f.name.text == name)
            .unwrap()
    };
    let whole = own.lexer().kind_of("Whole", false).unwrap();
    // The text is only there to hold the tokens.
    let source = SourceText::new("by hand", "20 22");
    let mut builder = TreeBuilder::new(definition, &source);
    let mut number = |start, end| {
        let span = quillon_core::source::Span::new(start, end);
        let token = builder.token(whole, span);
        builder.form(form("Number"), span, &[(0, token)].into_iter())
    };
    let (one, two) = (number(0, 2), number(3, 5));
    let all = quillon_core::source::Span::new(0, 5);
    let root = builder.form(form("Sum"), all, &[(0, one), (0, two)].into_iter());
    let tree = builder.finish(root);
    assert_eq!(
        one_line(definition, own.lexer(), &tree),
        "Sum([Number(20), Number(22)])"
    );
    let names = own.names(&tree, Around::Nothing).value.unwrap();
    let core = own.core(&tree, &names).value.unwrap();
    let core = std::rc::Rc::new(core);
    let walked = walk(&core, Limits::default(), &mut Recorder::default());
    assert_eq!(walked.value.unwrap().written(), "42");
}

#[test]
fn trees_as_json_have_every_field() {
    let own = with_tokens(SUM);
    let source = SourceText::new("text", "sum 1, 2.5 end");
    let tree = own
        .tree(&source, quillon_core::Reading::Entry)
        .value
        .unwrap();
    let json = to_json(own.definition(), own.lexer(), &tree);
    assert_eq!(json["kind"], "Sum");
    assert_eq!(json["fields"]["note"], serde_json::Value::Null);
    assert_eq!(json["fields"]["items"][1]["fields"]["value"]["value"], 2.5);
    assert_eq!(json["span"]["end"], 14);
}

#[test]
fn a_session_keeps_names_and_forgets_failures() {
    let own = with_tokens(
        "
usual Program, Let
form Show in Step
  written  value:Expr
  means    value
form Divide in Expr
  written  \"half\" value:Expr
  means    4 / value
form V in Expr
  written  name:Name
  uses     name
  means    name
form N in Expr
  written  value:Whole
  means    value
",
    );
    let mut host = Recorder::default();
    let mut session = own.session().start(&mut host).unwrap();
    let mut enter = |text: &str| {
        let outcome = session.enter_source(&SourceText::new("entry", text));
        match outcome.value {
            Some(value) => value.written(),
            None => said(&outcome.diagnostics[0]),
        }
    };
    assert_eq!(enter("let a = 2; let b = a"), "nothing");
    assert_eq!(enter("b"), "2");
    assert_eq!(
        enter("let a = half 0"),
        "1:14 this is zero, and nothing can be divided by zero"
    );
    assert_eq!(
        enter("let c = 1; half 0"),
        "1:17 this is zero, and nothing can be divided by zero"
    );
    assert_eq!(enter("c"), "1:1 there is no binding called `c`");
    assert_eq!(enter("a"), "2");
    assert_eq!(enter("let a = 7; a"), "7");
    let names: Vec<String> = session
        .names()
        .iter()
        .map(|(name, value)| {
            format!(
                "{name} {}",
                value
                    .as_ref()
                    .map_or_else(String::new, quillon_core::values::Held::written)
            )
        })
        .collect();
    assert_eq!(names, ["b 2", "a 7"]);
}

#[test]
fn a_host_is_all_that_a_program_reaches() {
    struct Upper(Vec<String>);
    impl Host for Upper {
        fn output(&mut self, text: &str) {
            self.0.push(text.to_uppercase());
        }
        fn input(&mut self, _: Amount, _: usize) -> Result<Option<String>, TooLarge> {
            Ok(Some("from the host".to_owned()))
        }
    }
    let own = with_tokens(
        "\nform Echo\n  written  \"echo\"\n  means    let line = input(); output(line); line\n",
    );
    let mut host = Upper(Vec::new());
    let mut session = own.session().start(&mut host).unwrap();
    let value = session
        .run_source(&SourceText::new("text", "echo"), Reading::Program)
        .value;
    assert_eq!(
        value.and_then(|value| value.as_text()).as_deref(),
        Some("from the host")
    );
    assert_eq!(host.0, ["FROM THE HOST"]);
}

#[test]
fn what_a_language_lacks_depends_on_the_work() {
    let none = language("language Own\n");
    assert!(none.lacks(Stage::Tokens).is_some());
    let tokens_only = with_tokens("");
    assert!(tokens_only.lacks(Stage::Tokens).is_none());
    assert!(tokens_only.lacks(Stage::Tree).is_some());
    let written_only = with_tokens("form A\n  written  \"a\"\n");
    assert!(written_only.lacks(Stage::Tree).is_none());
    assert!(written_only.lacks(Stage::Meaning).is_some());
}

/// The verdicts of cases written like a case file, each with what differs.
fn verdicts(cases: &str) -> Vec<String> {
    let own = with_tokens(SUM);
    let source = SourceText::new("own.cases", cases);
    let read = read_cases(&source);
    assert!(read.diagnostics.is_empty(), "{:?}", read.diagnostics);
    read.value
        .unwrap()
        .cases
        .iter()
        .map(|case| {
            let result = run_case(&Prepared::new(&own), &source, case, case_limits());
            let differences: Vec<String> = result
                .differences
                .iter()
                .map(|d| format!("{}: {} / {}", d.what.words(), d.expected, d.got))
                .collect();
            let verdict = match result.verdict {
                Verdict::Passed => "passed",
                Verdict::Failed => "failed",
                Verdict::Waiting => "waiting",
            };
            format!("{} {verdict} {}", case.title, differences.join("; "))
                .trim_end()
                .to_owned()
        })
        .collect()
}

#[test]
fn cases_compare_values_outputs_errors_and_trees() {
    assert_eq!(
        verdicts(
            "cases of sums
  `sum 1, 2 end`       gives 3   prints \"\"
  `sum 1, 2.0 end`     gives 3
  `sum end`            tree Sum([])
  `sum 1 \"a\" end`      tree Sum([Number(1)], note: \"a\")
  `sum 1 end`          tree Sum([Number(2)])
  `sum 1, end`         fails \"an expression\" at 1:8
  `sum 1`              fails \"elsewhere\"
  `sum 1 end`          fails \"something\"

case over several lines
  program
    | sum 1,
    |
    |   2 end
  gives 3
"
        ),
        [
            "sums (1) passed",
            "sums (2) failed value: 3 / 3.0",
            "sums (3) passed",
            "sums (4) passed",
            "sums (5) failed tree: Sum([Number(2)]) / Sum([Number(1)])",
            "sums (6) passed",
            "sums (7) failed error: \"elsewhere\" / \"expected `,`, `end` or a text, found the end of the text\" at 1:6",
            "sums (8) failed error: \"something\" / no error; it gives 1",
            "over several lines passed",
        ]
    );
}
