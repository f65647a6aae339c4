//! How values look in the notation of a language.

use crate::common::{mistakes, said, value, with_tokens};
use quillon_core::runtime::Recorder;
use quillon_core::source::SourceText;
use quillon_core::{Engine, Reading};

/// Records and rows in brackets of their own, one kind of number, no quotes.
const FORMS: &str = r#"
precedence of Expr, loosest first
  left  Over
form Program
  written  steps:Expr* by ";"
  means    all steps
form Row in Expr
  written  "<" items:Expr* by "," ">"
  means    items
form Card in Expr
  written  "card" pairs:Pair* "end"
  means    { let made = map.of(); each pair in pairs { pair taking made }; made }
form Pair
  written  key:Expr "is" value:Expr
  takes    made
  means    map.put(made, key, value)
form Yes in Expr
  written  "yes" | no:"no"
  means    not given no
form Nil in Expr
  written  "nil"
  means    nothing
form Way in Expr
  written  "way" name:Name? "(" params:Name* by "," ")" body:Expr
  binds    params in body
  means    if given name { function called name (params) { body } } else { function (params) { body } }
form Flow in Expr
  written  "flow"
  means    coroutine.make(function () { 1 })
form Over in Expr
  written  left:Expr "/" right:Expr
  means    left / right
form Say in Expr
  written  "say" value:Expr
  means    output(shown(value), "|")
form Quote in Expr
  written  "quote" value:Expr
  means    quoted(value)
form Number in Expr
  written  value:Whole | value:Decimal
  means    value
usual Variable
form Words in Expr
  written  value:Text
  means    value
"#;

const VALUES: &str = r#"
values
  nothing    shown "nil"
  truth      shown "yes" or "no"
  number     shown as integer
  text       shown "'" text "'"
  list       shown "<" item by " " ">"
  map        called "a card"   shown "card " plain key " is " value by ", " " end"
  function   shown "<way " name "(" params by " " ")>"
  coroutine  shown "<flow>"
"#;

#[test]
fn values_look_as_the_definition_says() {
    let language = with_tokens(&format!("{FORMS}{VALUES}"));
    for (program, usual) in [
        ("nil", "nil"),
        ("< yes, no, nil >", "<yes no nil>"),
        ("<>", "<>"),
        ("6 / 2", "3"),
        ("< 7 / 2, 3, 3.0, 0.0 >", "<3.5 3 3 0>"),
        ("\"it's\"", r"'it\'s'"),
        ("say \"it's\"", "it's|nil"),
        (r#"< "a\"b", "c\\d" >"#, r#"<'a"b' 'c\\d'>"#),
        (
            "card \"toll\" is 4 \"two words\" is < 1 > 3 is nil end",
            "card toll is 4, 'two words' is <1>, 3 is nil end",
        ),
        ("card end", "card  end"),
        ("way pay(toll, day) toll", "<way pay(toll day)>"),
        ("way () 1", "<way()>"),
        ("flow", "<flow>"),
        ("quote < \"x\" >", r"'<\'x\'>'"),
        ("say < yes, 4.0 >", "<yes 4>|nil"),
        (
            "1 / < yes >",
            "1:5 a number is needed here, and this is a list: <yes>",
        ),
        (
            "1 / card \"a\" is nil end",
            "1:5 a number is needed here, and this is a card: card a is nil end",
        ),
        ("1 / nil", "1:5 a number is needed here, and this is nil"),
    ] {
        let told = value(&language, program);
        // What is printed comes first, and then the value as one would write it.
        assert_eq!(told, usual, "{program}");
    }
}

#[test]
fn a_look_is_told_wherever_a_value_is_seen() {
    let language = with_tokens(&format!("{FORMS}{VALUES}"));
    let mut host = Recorder::default();
    let mut session = language
        .session()
        .engine(Engine::Walk)
        .start(&mut host)
        .unwrap();
    let program = SourceText::new("text", "< yes, \"a\" >".to_owned());
    let held = session.run_source(&program, Reading::Entry).value.unwrap();
    assert_eq!(held.shown(), "<yes 'a'>");
    assert_eq!(held.written(), "<yes 'a'>");
    assert_eq!(held.described(), "a list: <yes 'a'>");
    // What is given on in the notation of definitions is not changed.
    assert_eq!(held.noted(), "[true, \"a\"]");
    let literal = held.literal().unwrap();
    assert!(held.is(&literal));
    let mut told = Vec::new();
    let program = SourceText::new("text", "< yes >".to_owned());
    let ran =
        quillon_core::debugging::trace(&mut session, &program, Reading::Entry, &mut |telling| {
            told.push(format!("{telling:?}"));
        });
    assert_eq!(ran.value.unwrap().written(), "<yes>");
    let told = told.join("\n");
    assert!(told.contains("<yes>"), "{told}");
    assert!(!told.contains("[true]"), "{told}");
}

#[test]
fn where_numbers_look_like_integers_they_are_for_cases() {
    let wanted = |values: &str| {
        let language = with_tokens(&format!("{FORMS}{values}"));
        let mut host = Recorder::default();
        let session = language.session().engine(Engine::Walk);
        let mut session = session.start(&mut host).unwrap();
        let program = SourceText::new("text", "6 / 2".to_owned());
        let outcome = session.run_source(&program, Reading::Entry);
        let problems: Vec<String> = outcome.diagnostics.iter().map(said).collect();
        assert!(problems.is_empty(), "{problems:?}");
        let held = outcome.value.unwrap();
        held.is(&quillon_core::definition::Literal::Integer(3))
    };
    assert!(!wanted(""));
    assert!(wanted(VALUES));
}

#[test]
fn lines_of_values_that_cannot_be_are_errors_of_the_definition() {
    let with = |lines: &str| {
        let text = format!("language Own\ntokens\n  Name letter+\nvalues\n  {lines}\n");
        mistakes(&text).join("; ")
    };
    for (lines, wanted) in [
        (
            "list shown \"(\" items by \" \" \")\"",
            "5:18 expected `item`, found `items`",
        ),
        (
            "truth shown \"yes\"",
            "5:20 expected `or`, found the end of the clause",
        ),
        (
            "integer shown \"n\"",
            "5:11 an integer is shown by its digits",
        ),
        (
            "card called \"a card\"",
            "5:3 `card` is no clause of `values`",
        ),
        (
            "map",
            "5:6 expected `called` or `shown`, found the end of the clause",
        ),
        (
            "map called \"a card\"\n  map shown \"{\" key \"=\" value by \",\" \"}\"",
            "6:3 the kind `map` is described twice",
        ),
    ] {
        assert_eq!(with(lines), wanted, "{lines}");
    }
    let worded = "language Own\ntokens\n  Name letter+\nmessages\n  text \"some words\"\n";
    assert_eq!(
        mistakes(worded),
        ["5:3 `text` is a kind of value, no sort or token"]
    );
}
