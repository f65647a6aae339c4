//! What tokens hold: numbers in their notations, texts with their quotes and escapes.

use crate::common::language;
use quillon_core::Language;
use quillon_core::source::SourceText;

/// A language with one token.
fn with(pattern: &str) -> Language {
    language(&format!(
        "language Own\ntokens\n  Blank  \" \"  ignored\n  Kind   {pattern}\nform One\n  written  value:Kind\n"
    ))
}

/// What the only token of a text holds, as a case would write it; or its error.
fn held(language: &Language, text: &str) -> String {
    let source = SourceText::new("text", text);
    let tokens = language.tokens(&source);
    if let Some(error) = tokens.diagnostics.first() {
        return error.message.clone();
    }
    let tokens = tokens.value.unwrap();
    assert_eq!(tokens.tokens.len(), 2, "{text}");
    let value = language.lexer().value(&source, tokens.tokens[0]);
    quillon_core::values::Held::new(value).noted()
}

/// Texts of a token with what each holds.
fn hold(pattern: &str, cases: &[(&str, &str)]) {
    let language = with(pattern);
    for (text, wanted) in cases {
        assert_eq!(held(&language, text), *wanted, "{text} as {pattern}");
    }
}

#[test]
fn integers_in_all_bases_with_marks_between() {
    hold(
        "[-+]? [0-9a-zA-Z_']+ holds integer",
        &[
            ("0", "0"),
            ("007", "7"),
            ("1_000_000", "1000000"),
            ("1'000", "1000"),
            ("0xff", "255"),
            ("0XfF", "255"),
            ("-0x10", "-16"),
            ("0o17", "15"),
            ("0b101", "5"),
            ("+4", "4"),
            ("9223372036854775807", "9223372036854775807"),
            ("-9223372036854775808", "-9223372036854775808"),
            ("-0x8000000000000000", "-9223372036854775808"),
        ],
    );
}

#[test]
fn what_is_no_integer_is_an_error_of_the_token() {
    let language = with("[-+]? [0-9a-zA-Z_']+ holds integer");
    for text in ["0b102", "0o8", "0x", "12a", "_"] {
        let told = held(&language, text);
        assert!(told.contains(text), "{text}: {told}");
    }
    for text in ["9223372036854775808", "0xffffffffffffffffff"] {
        let told = held(&language, text);
        assert!(told.contains("too large for an integer"), "{text}: {told}");
    }
}

#[test]
fn numbers_with_points_and_exponents() {
    hold(
        "[-+]? [0-9._']+ ([eE] [-+]? [0-9]+)? holds number",
        &[
            ("1.5", "1.5"),
            (".5", "0.5"),
            ("2.", "2.0"),
            ("1_000.25", "1000.25"),
            ("1e3", "1000.0"),
            ("2.5E-1", "0.25"),
            ("-0.0", "-0.0"),
        ],
    );
    let language = with("[0-9._']+ ([eE] [-+]? [0-9]+)? holds number");
    for text in ["1.2.3", ".", "1e999"] {
        assert!(held(&language, text).contains(text), "{text}");
    }
}

#[test]
fn quotes_of_all_kinds_are_taken_off() {
    for (open, close) in [
        ("(", ")"),
        ("[", "]"),
        ("{", "}"),
        ("<", ">"),
        ("«", "»"),
        ("“", "”"),
        ("‘", "’"),
        ("|", "|"),
        ("'", "'"),
    ] {
        let pattern = format!("\"{open}\" [a-z ]* \"{close}\" holds text");
        let text = format!("{open}low water{close}");
        hold(&pattern, &[(&text, "\"low water\"")]);
    }
    hold(
        "\"'''\" ([^'] | \"'\" [^'])* \"'''\" holds text",
        &[("'''it's low'''", "\"it's low\""), ("''''''", "\"\"")],
    );
    // What begins with a letter has no quotes.
    hold("letter+ holds text", &[("low", "\"low\"")]);
    // A quote that is only at the front is taken off there.
    hold("\"#\" letter+ holds text", &[("#low", "\"low\"")]);
}

#[test]
fn escapes_count_where_the_pattern_gives_the_backslash_a_role() {
    hold(
        "'\"' ([^\"\\\\] | \"\\\\\" any)* '\"' holds text",
        &[
            (r#""a\nb""#, r#""a\nb""#),
            (r#""\t\r\0""#, r#""\t\r\0""#),
            (r#""\"\\""#, r#""\"\\""#),
            (r#""\q""#, r#""q""#),
            (r#""\u{41}\u{1F6A2}""#, "\"A\u{1F6A2}\""),
            (r#""\u0042""#, r#""B""#),
            // Two times four digits, as UTF-16 has it.
            (r#""\ud83d\udea2!""#, "\"\u{1F6A2}!\""),
            // Half of a pair, no digits, no such character: the `u` stands for itself.
            (r#""\ud83d""#, r#""ud83d""#),
            (r#""\u{}""#, r#""u{}""#),
            (r#""\u{110000}""#, r#""u{110000}""#),
            (r#""\u{41""#, r#""u{41""#),
            (r#""\ux""#, r#""ux""#),
        ],
    );
    // Where it is a character like any other, it stays.
    hold(
        "'\"' [^\"]* '\"' holds text",
        &[(r#""a\nb""#, r#""a\\nb""#), (r#""\""#, r#""\\""#)],
    );
}

#[test]
fn a_token_that_holds_nothing_is_its_text() {
    hold("digit+", &[("007", "\"007\"")]);
    hold("'\"' letter* '\"'", &[("\"low\"", r#""\"low\"""#)]);
}

#[test]
fn two_quotation_marks_stand_for_one_where_the_pattern_has_them() {
    hold(
        "\"'\" ([^'] | \"''\")* \"'\" holds text",
        &[
            ("'low'", "\"low\""),
            ("'it''s low'", "\"it's low\""),
            ("''''", "\"'\""),
            ("''''''", "\"''\""),
            ("''", "\"\""),
            // Nothing else has a role there.
            ("'a\\n\"\"'", "\"a\\\\n\\\"\\\"\""),
        ],
    );
    hold(
        "'\"' ([^\"\\\\] | \"\\\\\" any | '\"' '\"')* '\"' holds text",
        &[(r#""a""b\"c\n""#, "\"a\\\"b\\\"c\\n\"")],
    );
    // Elsewhere two are two.
    hold("\"<\" [^>]* \">\" holds text", &[("<a''b>", "\"a''b\"")]);
}

#[test]
fn what_is_no_quotation_mark_stays_in_the_text() {
    // Raw text of a template, lengths with a sign, words behind one.
    hold(
        "([^{ ] | \"{\" [^{])+ holds text",
        &[
            ("-a", "\"-a\""),
            ("(b", "\"(b\""),
            ("'c'", "\"'c'\""),
            ("{d}", "\"{d}\""),
        ],
    );
    hold(
        "[-+]? digit+ \"m\" holds text",
        &[("-3m", "\"-3m\""), ("3m", "\"3m\"")],
    );
    hold("'#' letter+ holds text", &[("#heron", "\"heron\"")]);
    hold(
        "['%] [^'% ]* ['%] holds text",
        &[("'a'", "\"a\""), ("%a%", "\"a\"")],
    );
}
