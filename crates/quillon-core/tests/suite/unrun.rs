//! Meanings that never run, since only the parts of such forms are looked at.

use crate::common::{said, with_tokens};

/// What is said of a craft whose ways are used like this, where a way means this.
fn said_of(uses: &str, means: &str) -> Vec<String> {
    let own = with_tokens(&format!(
        r#"form Program
  written  steps:Step* by ";"
  opens    scope
  means    all steps
form Craft in Step
  written  "craft" "{{" ways:Way* "}}"
  means    {uses}
form Way
  written  "way" name:Name value:Expr
  means    {means}
form Number in Expr
  written  value:Whole
  means    value
"#
    ));
    let all = own.advice().into_iter();
    all.map(|one| said(&one))
        .filter(|told| told.contains("never run"))
        .collect()
}

const FUNCTION: &str = "function () { value }";

#[test]
fn a_meaning_that_nobody_runs_is_told() {
    let told = ["20:12 the meaning of `Way` is never run"];
    for uses in [
        "let found = map.new(); each w in ways { map.put(found, spelling of w.name, w.value) }; found",
        "each w in ways { if given w.value { output(w.value) } }",
        "each w in ways { output(spelling of w.name, w.value) }",
    ] {
        assert_eq!(said_of(uses, FUNCTION), told, "{uses}");
    }
}

#[test]
fn a_meaning_that_somebody_runs_is_not() {
    for (uses, means) in [
        (
            "let found = map.new(); each w in ways { map.put(found, spelling of w.name, w) }; found",
            FUNCTION,
        ),
        (
            "each w in ways { output(w.value); let f = w; call f }",
            FUNCTION,
        ),
        ("output(ways); each w in ways { output(w.value) }", FUNCTION),
        ("all ways", FUNCTION),
        // Nothing is missed: the part is all that it means.
        ("each w in ways { output(w.value) }", "value"),
        // Nobody looks at it at all.
        ("nothing", FUNCTION),
    ] {
        assert_eq!(said_of(uses, means), Vec::<String>::new(), "{uses}");
    }
}
