//! Texts with holes, and differences of whole patterns.

use crate::common::{language, mistakes, tree, value};
use quillon_core::printing::{Brackets, Comments};
use quillon_core::source::SourceText;
use quillon_core::{Language, Reading};

const HAIL: &str = r#"language Hail
  entries  Program, Expr
tokens
  Blank    [ \t\r\n]+       ignored
  Whole    digit+           holds integer
  Text     '"' ([^"\\\n] | "\\" any)* '"'   holds text   holes "{" Expr "}"
  Raw      "'" [^'\n]* "'"  holds text   holes "${" Expr "}"
  Name     letter+ - ("zz" letter*)
  Odd      letter+
precedence of Expr, loosest first
  left Add
form Program
  written  steps:Say*
  means    all steps
form Say
  written  "say" value:Expr
  means    output(shown(value), "\n")
form Add in Expr
  written  left:Expr "+" right:Expr
  means    text.join([left, right], "+")
form Braces in Expr
  written  "{" inner:Expr "}"
  becomes  inner
form Words in Expr
  written  parts:Text | parts:Raw
  means    text.join(parts, "")
form Number in Expr
  written  value:Whole
  means    value
form Plain in Expr
  written  name:Name
  means    spelling of name
form Strange in Expr
  written  odd:Odd
  means    0
"#;

fn kinds(language: &Language, text: &str) -> String {
    let source = SourceText::new("text", text);
    let tokens = language.tokens(&source).value.unwrap().tokens;
    let listed: Vec<String> = tokens
        .iter()
        .map(|t| {
            let name = &language.lexer().kind(t.kind).name;
            format!("{name}:{}", source.slice(t.span))
        })
        .collect();
    listed[..listed.len() - 1].join(" ")
}

#[test]
fn holes_nest_to_any_depth_and_brackets_inside_count() {
    let own = language(HAIL);
    for (text, expected) in [
        (r#""a""#, "a"),
        (r#""""#, ""),
        (r#""a {1} b""#, "a 1 b"),
        (r#""{1}{2}""#, "12"),
        (r#""a {"b {"c {1}"} d"} e""#, "a b c 1 d e"),
        (r#""a { {1} + { { 2 } } } b""#, "a 1+2 b"),
        (r#""no \{hole\} here""#, "no {hole} here"),
        (
            "\"over\n\"",
            "1:1 what starts here like a text is never finished",
        ),
        ("'a{b}$ ${1}'", "a{b}$ 1"),
        ("'a ${'b ${\"c{2}\"}'}'", "a b c2"),
        ("\"across {\n 1\n} lines\"", "across 1 lines"),
    ] {
        let got = value(&own, text);
        let got = got.trim_matches('"').to_owned();
        assert_eq!(got, expected, "{text}");
    }
    let deep = format!("{}1{}", "\"{".repeat(50), "}\"".repeat(50));
    assert_eq!(value(&own, &deep), "\"1\"");
}

#[test]
fn a_text_with_holes_is_a_list_of_pieces_and_of_what_is_in_the_holes() {
    let own = language(HAIL);
    assert_eq!(tree(&own, "\"a\""), r#"Words(["a"])"#);
    assert_eq!(
        tree(&own, "\"a {1} b {2}\""),
        r#"Words(["a ", Number(1), " b ", Number(2), ""])"#
    );
    assert_eq!(
        kinds(&own, "\"a{1}b{2}c\""),
        "TextStart:\"a{ Whole:1 TextMiddle:}b{ Whole:2 TextEnd:}c\""
    );
}

#[test]
fn what_is_wrong_in_a_hole_is_said_where_it_is() {
    let own = language(HAIL);
    for (text, expected) in [
        (
            "\"a {1 2} b\"",
            "1:7 expected `+` or the rest of the text, found whole `2`",
        ),
        (
            "\"a {} b\"",
            "1:5 expected an expression, found the rest of the text `} b\"`",
        ),
        (
            "\"a {1",
            "1:4 the hole that starts here with `{` is never ended",
        ),
        (
            "\"a {1} b",
            "1:1 what starts here like a text is never finished",
        ),
        ("\"a {1 $} b\"", "1:7 no token starts with `$`"),
    ] {
        assert_eq!(tree(&own, text), expected, "{text}");
    }
    let unfinished = |text: &str| own.is_unfinished(&SourceText::new("entry", text));
    assert!(unfinished("say \"a {1") && !unfinished("say \"a {1}\""));
}

#[test]
fn texts_with_holes_are_printed_back() {
    let own = language(HAIL);
    let text = "\"a {\"x {1}\" + 2} c\"";
    let tree = own
        .tree(&SourceText::new("text", text), Reading::Entry)
        .value
        .unwrap();
    let none = Comments::default();
    let back = own.source_of(&tree, Brackets::Fewest, &none).unwrap();
    assert_eq!(back.trim_end(), text);
    assert_eq!(own.round_trip(&tree, &none, Reading::Entry), Ok(()));
}

#[test]
fn holes_need_a_pattern_that_has_an_inside() {
    let with = |line: &str| {
        mistakes(&format!(
            "language Bad\ntokens\n  {line}\nform F\n  written \"x\"\n"
        ))
    };
    assert_eq!(
        with("T  '\"' letter '\"'  holds text holes \"{\" F \"}\""),
        ["3:3 `T` cannot have holes"]
    );
    assert_eq!(
        with("T  '\"' letter* '\"'  holes \"{\" F \"}\""),
        ["3:3 `T` has holes and does not hold a text"]
    );
    assert_eq!(
        with("T  '\"' letter* '\"'  holds text holes \"{\" G \"}\""),
        ["3:44 there is no sort `G`"]
    );
}

#[test]
fn a_pattern_can_leave_out_what_another_matches() {
    let own = language(HAIL);
    assert_eq!(
        kinds(&own, "azz zza z zz"),
        "Name:azz Odd:zza Name:z Odd:zz"
    );
    let comments = language(
        "language C\ntokens\n  Blank [ ]+ ignored\n  Note \"/*\" (any* - (any* \"*/\" any*)) \"*/\"\n  Word letter+\nform P\n  written n:Note* w:Word\n",
    );
    assert_eq!(kinds(&comments, "/* a * / */ b"), "Note:/* a * / */ Word:b");
    assert_eq!(
        kinds(&comments, "/**//***/b"),
        "Note:/**/ Note:/***/ Word:b"
    );
}
