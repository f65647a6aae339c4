//! Which clause is blamed where types promise too much.

use crate::common::with_tokens;
use quillon_core::source::SourceText;
use quillon_core::testing::{case_limits, check_soundness};
use quillon_core::{Language, Prepared};

/// A language in which one form takes more than it can use, and one gives something else than it
/// says.
fn promising() -> Language {
    with_tokens(
        r#"
precedence of Expr, loosest first
  prefix Negative
  left   Plus
form Program
  written  value:Expr
  typed    gives type of value
  means    value
form Plus in Expr
  written  left:Expr "+" right:Expr
  typed    left, right : integer gives integer
  means    left + right
form Negative in Expr
  written  "neg" value:Expr
  typed    value : text gives integer
  means    - of(value)
form Word in Expr
  written  "word"
  typed    gives text
  means    "word"
form Lie in Expr
  written  "lie"
  typed    gives integer
  means    of("word")
form Number in Expr
  written  value:Whole
  typed    gives integer
  means    value
define of(v) = v
"#,
    )
}

#[test]
fn the_clause_that_promises_too_much_is_blamed_once() {
    let language = promising();
    let prepared = Prepared::new(&language);
    let blamed = |text: &str| {
        let source = SourceText::new("program", text);
        let result = check_soundness(&prepared, &source, case_limits());
        result.map(|result| result.notes)
    };
    let too_much = |form: &str| {
        let note = format!("a `typed` clause promises too much: it goes wrong in form `{form}`");
        Some(vec![note])
    };
    // What it takes is what its operand is: it cannot use it.
    assert_eq!(blamed("neg word"), too_much("Negative"));
    assert_eq!(blamed("1 + neg word"), too_much("Negative"));
    // What it gives is not what it says.
    assert_eq!(blamed("1 + lie"), too_much("Lie"));
    assert_eq!(blamed("lie + 1 + 2"), too_much("Lie"));
    assert_eq!(blamed("1 + 2"), Some(Vec::new()));
    // Its types do not fit: nothing is promised.
    assert_eq!(blamed("1 + word"), None);
}
