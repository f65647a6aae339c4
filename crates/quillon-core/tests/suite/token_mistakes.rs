//! Mistakes with tokens that `check` finds, each with a text that shows it.

use crate::common::{language, with_tokens};

/// What `check` says of these token lines and forms, as `MESSAGE (WHY)`.
fn advice(tokens: &str, forms: &str) -> Vec<String> {
    let own = language(&format!(
        "language Own\n\ntokens\n  Blank  [ \\n]+  ignored\n{tokens}\n{forms}"
    ));
    own.advice()
        .into_iter()
        .filter(|d| !d.message.starts_with("no token starts with"))
        .map(|d| format!("{} ({})", d.message, d.why.join(" ")))
        .collect()
}

#[test]
fn a_pattern_that_another_always_takes_is_never_recognised() {
    assert_eq!(
        advice("  Word  letter+\n  Key  \"lock\" | \"gate\"\n", ""),
        ["`Key` is never recognised (every text it matches, such as `gate`, is `Word` first)"]
    );
    // The other way round is how keywords are made.
    assert!(advice("  Key  \"lock\" | \"gate\"\n  Word  letter+\n", "").is_empty());
    // A longer match is enough to be recognised.
    assert!(advice("  One  \"a\"\n  More  \"a\" \"b\"+\n", "").is_empty());
}

#[test]
fn patterns_that_tie_are_noted() {
    assert_eq!(
        advice("  Whole  digit+\n  Real  digit+ (\".\" digit+)?\n", ""),
        [
            "`Whole` and `Real` match the same text (`0`, for example, is `Whole`, which stands first)"
        ]
    );
}

#[test]
fn a_sign_swallowed_into_a_number_is_shown() {
    assert_eq!(
        advice("  Num  \"-\"? digit+  holds integer\n", ""),
        ["`Num` swallows the sign before it (`1-2` is two numbers, one after the other)"]
    );
    assert_eq!(
        advice("  Num  [+]? digit+  holds number\n", ""),
        ["`Num` swallows the sign before it (`1+2` is two numbers, one after the other)"]
    );
}

#[test]
fn an_operator_that_a_comment_takes_away_is_shown() {
    assert_eq!(
        advice(
            "  Remark  \"--\" [^\\n]*  ignored\n  Num  digit+\n",
            "form A\n  written  a:Num \"--\" b:Num\n"
        ),
        [
            "hardly any program can reach `--` (with anything after it on the line, such as in `-- 1`, it is `Remark`)"
        ]
    );
}

#[test]
fn a_keyword_that_comes_off_a_longer_word_is_noted() {
    assert_eq!(
        advice("  Letter  letter\n", "form A\n  written  \"if\" a:Letter\n"),
        ["`ifx` is read as `if` and `Letter` (no pattern matches the whole of it)"]
    );
    assert!(advice("  Name  letter+\n", "form A\n  written  \"if\" a:Name\n").is_empty());
}

#[test]
fn half_a_pair_of_brackets_is_told() {
    let advice = |written: &str| -> Vec<String> {
        let own = with_tokens(&format!(
            "form Program\n  written  {written}\n  means    nothing\n"
        ));
        let said = own.advice().into_iter();
        said.filter(|one| one.message.contains("is a token"))
            .map(|one| one.message)
            .collect()
    };
    assert_eq!(
        advice("\"(\" name:Name"),
        ["`(` is a token, and no token starts with `)`"]
    );
    assert_eq!(advice("\"(\" name:Name \")\""), Vec::<String>::new());
}
