//! Grammars in the notations of the W3C and of ISO/IEC 14977: every kind of part and of pattern.

use crate::common::language;
use quillon_core::grammar::{Notation, text};

/// The rule of a name, without its name and the blanks between its lines.
fn rule(grammar: &str, name: &str) -> String {
    let from = grammar.find(&format!("\n{name}\n  "));
    let rule = &grammar[from.unwrap_or_else(|| panic!("no rule {name} in {grammar}"))..];
    let rule = &rule[name.len() + 2..];
    let end = rule.find("\n\n").unwrap_or(rule.len());
    let words: Vec<&str> = rule[..end].split_whitespace().collect();
    words.join(" ")
}

/// The rules of a name in both notations: of the W3C, and of ISO.
fn both(definition: &str, name: &str) -> [String; 2] {
    let language = language(definition);
    [Notation::W3c, Notation::Iso].map(|notation| {
        rule(
            &format!("\n{}", text(language.definition(), notation)),
            name,
        )
    })
}

/// The rules of a token with a pattern.
fn token(pattern: &str) -> [String; 2] {
    let definition =
        format!("language Own\ntokens\n  Kind  {pattern}\nform One\n  written kind:Kind\n");
    both(&definition, "Kind")
}

/// The rules of a form that is written in a way.
fn form(written: &str) -> [String; 2] {
    let definition = format!(
        "language Own\ntokens\n  Blank  \" \"  ignored\n  Whole  digit+\n  Name  letter+\nform One\n  written  {written}\nform Other in Part\n  written  \"other\"\n"
    );
    both(&definition, "One")
}

#[test]
fn texts_are_quoted_in_what_they_do_not_have_in_them() {
    assert_eq!(token("\"gate\""), ["::= \"gate\"", "= \"gate\" ;"]);
    assert_eq!(token("'a\"b'"), ["::= 'a\"b'", "= 'a\"b' ;"]);
    assert_eq!(token("'\"' \"'\""), ["::= '\"' \"'\"", "= '\"', \"'\" ;"]);
    // Both signs in one text, or one that cannot be seen: by their codes.
    assert_eq!(
        token("\"a\\\"'\""),
        [
            "::= #x61 #x22 #x27",
            "= ? the character 61 (hexadecimal) ?, ? the character 22 (hexadecimal) ?, ? the character 27 (hexadecimal) ? ;"
        ]
    );
    assert_eq!(
        token("\"\\t\""),
        ["::= #x9", "= ? the character 9 (hexadecimal) ? ;"]
    );
}

#[test]
fn classes_of_characters() {
    assert_eq!(token("[a]"), ["::= \"a\"", "= \"a\" ;"]);
    assert_eq!(token("[ac]"), ["::= [ac]", "= \"a\" | \"c\" ;"]);
    assert_eq!(token("[a-c]"), ["::= [a-c]", "= \"a\" | \"b\" | \"c\" ;"]);
    assert_eq!(
        token("[a-z]"),
        [
            "::= [a-z]",
            "= ? a character from 61 to 7A (hexadecimal) ? ;"
        ]
    );
    assert_eq!(
        token("[^\\n]"),
        [
            "::= [^#xA]",
            "= ? any character ? - ? the character A (hexadecimal) ? ;"
        ]
    );
    assert_eq!(
        token("[^ab\\n]"),
        [
            "::= [^#xAab]",
            "= ? any character ? - (? the character A (hexadecimal) ? | \"a\" | \"b\") ;"
        ]
    );
    assert_eq!(
        token("any"),
        ["::= [#x0-#x10FFFF]", "= ? any character ? ;"]
    );
    assert_eq!(
        token("letter"),
        ["::= letter", "= ? a letter of Unicode ? ;"]
    );
    assert_eq!(
        token("[\\]\\-^]"),
        ["::= [#x2D#x5D#x5E]", "= \"-\" | \"]\" | \"^\" ;"]
    );
}

#[test]
fn a_class_beside_something_is_held_together() {
    assert_eq!(
        token("[a-c] \"x\""),
        ["::= [a-c] \"x\"", "= (\"a\" | \"b\" | \"c\"), \"x\" ;"]
    );
    assert_eq!(
        token("[ab]* \"x\""),
        ["::= [ab]* \"x\"", "= {\"a\" | \"b\"}, \"x\" ;"]
    );
    assert_eq!(
        token("[ab]+"),
        ["::= [ab]+", "= (\"a\" | \"b\"), {\"a\" | \"b\"} ;"]
    );
    assert_eq!(
        token("[^x] \"x\""),
        ["::= [^x] \"x\"", "= ? any character ? - \"x\", \"x\" ;"]
    );
}

#[test]
fn patterns_one_after_the_other_or_one_of_several() {
    assert_eq!(
        token("\"a\" (\"b\" | \"c\" \"d\") \"e\"?"),
        [
            "::= \"a\" (\"b\" | \"c\" \"d\") \"e\"?",
            "= \"a\", (\"b\" | \"c\", \"d\"), [\"e\"] ;"
        ]
    );
    assert_eq!(
        token("(\"a\" \"b\")+ \"c\"*"),
        [
            "::= (\"a\" \"b\")+ \"c\"*",
            "= \"a\", \"b\", {\"a\", \"b\"}, {\"c\"} ;"
        ]
    );
    assert_eq!(
        token("\"x\" (\"a\" | \"b\")?"),
        ["::= \"x\" (\"a\" | \"b\")?", "= \"x\", [\"a\" | \"b\"] ;"]
    );
    assert_eq!(
        token("\"/*\" (any* - (any* \"*/\" any*)) \"*/\""),
        [
            "::= \"/*\" ([#x0-#x10FFFF]* - ([#x0-#x10FFFF]* \"*/\" [#x0-#x10FFFF]*)) \"*/\"",
            "= \"/*\", {? any character ?} - ({? any character ?}, \"*/\", {? any character ?}), \"*/\" ;"
        ]
    );
}

#[test]
fn what_neither_notation_can_say_is_said_in_words() {
    assert_eq!(
        token("nested \"(*\" \"*)\""),
        [
            "::= /* from (* to the *) that belongs to it */",
            "= ? from (* to the *) that belongs to it ? ;"
        ]
    );
}

#[test]
fn parts_of_forms() {
    assert_eq!(
        form("\"open\" gate:Name \"by\" feet:(Whole | \"all\")"),
        [
            "::= \"open\" Name \"by\" (Whole | \"all\")",
            "= \"open\", Name, \"by\", (Whole | \"all\") ;"
        ]
    );
    assert_eq!(
        form("(\"up\" | \"down\" by:Whole) part:Part?"),
        [
            "::= (\"up\" | \"down\" Whole) Part?",
            "= (\"up\" | \"down\", Whole), [Part] ;"
        ]
    );
    // What may not be apart is no part of a grammar.
    assert_eq!(
        form("name:Name ~ \"(\" \")\""),
        ["::= Name \"(\" \")\"", "= Name, \"(\", \")\" ;"]
    );
    assert_eq!(
        form("\"to\" soft name:Name"),
        ["::= \"to\" Name", "= \"to\", Name ;"]
    );
}

#[test]
fn repeated_parts() {
    assert_eq!(
        form("\"a\" parts:Part*"),
        ["::= \"a\" Part*", "= \"a\", {Part} ;"]
    );
    assert_eq!(
        form("\"a\" parts:Part+"),
        ["::= \"a\" Part+", "= \"a\", Part, {Part} ;"]
    );
    assert_eq!(
        form("\"a\" parts:Part+ by \",\""),
        [
            "::= \"a\" Part (\",\" Part)*",
            "= \"a\", Part, {\",\", Part} ;"
        ]
    );
    assert_eq!(
        form("\"a\" parts:Part* by \",\""),
        [
            "::= \"a\" (Part (\",\" Part)*)?",
            "= \"a\", [Part, {\",\", Part}] ;"
        ]
    );
    assert_eq!(
        form("\"a\" parts:Part* by \",\" trailing"),
        [
            "::= \"a\" (Part (\",\" Part)* \",\"?)?",
            "= \"a\", [Part, {\",\", Part}, [\",\"]] ;"
        ]
    );
    assert_eq!(
        form("\"a\" (\"b\" parts:Part)*"),
        ["::= \"a\" (\"b\" Part)*", "= \"a\", {\"b\", Part} ;"]
    );
}
