//! Errors in the words of the definition.

use crate::common::{self, GENERAL, mistakes, value, with_tokens};

const FORMS: &str = r#"
usual Program, Number
form Let in Step
  written  "let" name:Name value:Expr
  binds    name onward fixed
  means    name := value
form Set in Step
  written  "set" name:Name value:Expr
  uses     name to change
  means    name := value
form Say in Step
  written  value:Expr
  means    value
form Sum in Expr
  written  "sum" left:Expr right:Expr
  means    left + right
form Ratio in Expr
  written  "ratio" left:Expr right:Expr
  means    left / right
form Call in Expr
  written  "do" name:Name args:Whole*
  uses     name
  means    call name with args
form Try in Expr
  written  "try" risk:Expr
  means    attempt { risk } rescue e { map.get(e, "message") }
form Word in Expr
  written  value:Text
  means    value
provides
  lift(boat)  means boat
"#;

const MESSAGES: &str = r#"
messages
  name.unbound       "nobody on this canal is called {name}"
  name.fixed         "{name} is set in stone"
  name.duplicate     "two of the name {name}"
  run.division       "no water to share by: {text}"
  run.kind           "want {wanted}, got {got}"
  run.arity          "{function} wants {wanted}, not { got }"
  syntax.unexpected  "{found}? {expected} belongs here"
  syntax.unfinished  "and then? {expected}"
  token.unknown      "strange ink: {text} ({message})"
"#;

#[test]
fn a_definition_words_the_errors_of_its_programs() {
    let own = with_tokens(&format!("{FORMS}{MESSAGES}"));
    for (program, expected) in [
        ("do heron 1", "1:4 nobody on this canal is called heron"),
        ("let a 1; set a 2", "1:14 a is set in stone"),
        ("let a 1; let a 2", "1:14 two of the name a"),
        ("ratio 1 0", "1:9 no water to share by: 0"),
        ("sum 1 \"two\"", "1:7 want a number, got a text: \"two\""),
        ("do lift 1 2", "1:1 `lift` wants 1 argument, not 2"),
        ("let let", "1:5 `let`? a name belongs here"),
        ("let a", "1:6 and then? an expression"),
        ("1 $", "1:3 strange ink: $ (no token starts with `$`)"),
    ] {
        assert_eq!(value(&own, program), expected, "{program}");
    }
    // What a program catches says the same.
    assert_eq!(value(&own, "try ratio 1 0"), "\"no water to share by: 0\"");
    // Without the wordings the usual ones are there, in the same places.
    let plain = with_tokens(FORMS);
    assert_eq!(
        value(&plain, "do heron 1"),
        "1:4 there is no binding called `heron`"
    );
}

#[test]
fn a_definition_has_its_own_words_for_kinds_and_values() {
    let words = r#"
values
  truth    called "a yes or no"   shown "yes" or "no"
  integer  called "a count"
  number   called "a measure"
  list     called "a row"
"#;
    let own = with_tokens(&format!("{GENERAL}{words}"));
    let plain = common::general();
    for (program, usual, worded) in [
        (
            "1 + (1 == 1)",
            "1:6 a number is needed here, and this is a truth value: true",
            "1:6 a measure is needed here, and this is a yes or no: yes",
        ),
        (
            "1 + [2]",
            "1:5 a number is needed here, and this is a list: [2]",
            "1:5 a measure is needed here, and this is a row: [2]",
        ),
    ] {
        assert_eq!(value(&plain, program), usual, "{program}");
        assert_eq!(value(&own, program), worded, "{program}");
    }
}

#[test]
fn wordings_that_cannot_be_are_errors_of_the_definition() {
    let with = |line: &str| {
        let text = format!("language Own\ntokens\n  Name letter+\nmessages\n  {line}\n");
        mistakes(&text)
    };
    assert_eq!(
        with("run.divison \"x\""),
        ["5:3 there is no error `run.divison`"]
    );
    assert_eq!(
        with("name.unbound \"x {nam}\""),
        ["5:16 name.unbound has no `{nam}`"]
    );
    assert_eq!(
        with("name.unbound \"x {name\""),
        ["5:16 a `{` in this wording is not closed"]
    );
    assert_eq!(
        with("run.division \"by {text}: {message}\""),
        Vec::<String>::new()
    );
}

#[test]
fn a_token_of_one_text_is_called_by_it() {
    let items = "messages\n  Ends \"the end of a line\"\nform Program\n  written  steps:Step*\n\
        form Put in Step\n  written  name:Name Gets value:Whole Ends\n";
    let definition = format!(
        "language Own\n{}  Gets  \":=\"\n  Ends  \";\"\n{items}",
        common::TOKENS
    );
    let language = common::language(&definition);
    for (program, wanted) in [
        ("a 1;", "expected `:=`"),
        (
            "a := 1",
            "expected the end of a line, found the end of the text",
        ),
        (
            ":= 1;",
            "expected a name or the end of the text, found `:=`",
        ),
        ("a :", "`:` is only the beginning of `:=`"),
    ] {
        let found = common::errors(&language, program);
        let messages: Vec<&str> = found.iter().map(|one| &one.message[..]).collect();
        assert!(messages[0].contains(wanted), "{program} {messages:?}");
    }
}
