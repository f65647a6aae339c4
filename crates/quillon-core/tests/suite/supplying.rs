//! Bindings for names that nothing binds, as an editor offers them.

use quillon_core::Language;
use quillon_core::diagnostic::codes;
use quillon_core::editing::Looked;
use quillon_core::source::SourceText;

use crate::common;

/// The text with what is offered for the first name that nothing binds.
fn mended(language: &Language, text: &str) -> Option<String> {
    let looked = Looked::new(language, &SourceText::new("program", text));
    let mut wrong = looked.diagnostics().iter();
    let unbound = wrong.find(|one| one.code == codes::NAME_UNBOUND)?;
    let (at, supplied) = looked.supplied(unbound)?;
    let (before, after) = text.split_at(at as usize);
    Some(format!("{before}{supplied}{after}"))
}

#[test]
fn statements_with_separators_get_one_before_them() {
    let language = common::with_tokens(
        r#"
usual Program, Let, Add, Number, Variable
form Do in Step
  written  value:Expr
  means    value
form Block in Step
  written  "{" steps:Step* by ";" "}"
  opens    scope
  means    all steps
"#,
    );
    let with = |text: &str| mended(&language, text);
    assert_eq!(
        with("1 + level").as_deref(),
        Some("let level = 0;\n1 + level")
    );
    assert_eq!(
        with("let a = 1;\n{\n  a;\n  level + a\n}").as_deref(),
        Some("let a = 1;\n{\n  a;\n  let level = 0;\n  level + a\n}")
    );
    assert_eq!(
        with("let a = 1; level").as_deref(),
        Some("let a = 1; let level = 0; level")
    );
    // It helps with this name, whatever else is wrong.
    assert_eq!(
        with("level; other").as_deref(),
        Some("let level = 0;\nlevel; other")
    );
    assert_eq!(with("let a = 1; a"), None, "nothing is missing");
}

#[test]
fn lines_and_indents_are_kept() {
    let language = common::language(
        r#"
language Lines
  layout   indentation
tokens
  Blank  [ ]+  ignored
  Word   letter+
  Mark   '"' letter* '"'  holds text
form Program
  written  steps:Step* by LineEnd trailing
  opens    scope
  means    all steps
form Keep in Step
  written  "keep" value:Expr "as" name:Word
  binds    name onward
  means    name := value
form Tell in Step
  written  "tell" value:Expr
  means    output(value)
form Twice in Step
  written  "twice" Indent steps:Step+ by LineEnd Dedent
  means    { all steps; all steps }
form Named in Expr
  written  name:Word
  uses     name
  means    name
form Marked in Expr
  written  value:Mark
  means    value
"#,
    );
    assert_eq!(
        mended(&language, "twice\n  tell gate\n").as_deref(),
        Some("twice\n  keep \"\" as gate\n  tell gate\n")
    );
}

#[test]
fn a_statement_may_end_with_its_line() {
    let language = common::language(
        r#"
language Lines
  layout   lines
tokens
  Blank  [ ]+  ignored
  Word   letter+
  Whole  digit+  holds integer
form Program
  written  steps:Step*
  opens    scope
  means    all steps
form Keep in Step
  written  name:Word "is" value:Expr LineEnd
  binds    name onward
  means    name := value
form Tell in Step
  written  "tell" value:Expr LineEnd
  means    output(value)
form Named in Expr
  written  name:Word
  uses     name
  means    name
form Number in Expr
  written  value:Whole
  means    value
"#,
    );
    assert_eq!(
        mended(&language, "gate is 1\ntell gate\ntell lock\n").as_deref(),
        Some("gate is 1\ntell gate\nlock is 0\ntell lock\n")
    );
}

#[test]
fn where_a_language_cannot_bind_nothing_is_offered() {
    let language = common::with_tokens(
        r#"
form Program
  written  value:Expr
  means    value
form Inside in Expr
  written  "in" name:Name value:Expr
  binds    name in value
  means    name := 1; value
usual Number, Variable
"#,
    );
    assert_eq!(mended(&language, "level"), None);
    // A binding that could be read, but means something else, is none.
    let other = common::with_tokens(
        r#"
usual Program, Number, Variable
form Do in Step
  written  value:Expr
  means    value
form Label in Step
  written  "at" name:Name
  binds    name onward as place
  means    name := 1
"#,
    );
    assert_eq!(mended(&other, "level"), None);
}
