//! What the tests share: small languages, and what their stages make of a text.

#![allow(dead_code, reason = "each test program uses a part of it")]

use quillon_core::evaluation::{Limits, Recorder, written};
use quillon_core::source::SourceText;
use quillon_core::tree::one_line;
use quillon_core::{Language, Session};

/// Tokens that most of the small languages share.
pub const TOKENS: &str = "
tokens
  Blank    [ \\t\\r\\n]+                       ignored
  Remark   \"~\" [^\\n]*                       ignored
  Whole    digit+                            holds integer
  Decimal  digit+ \".\" digit+                 holds number
  Text     '\"' ([^\"\\\\\\n] | \"\\\\\" any)* '\"'   holds text
  Name     (letter | \"_\") (letter | digit | \"_\")*
";

/// A compiled language; its errors end the test.
#[track_caller]
pub fn language(definition: &str) -> Language {
    let outcome = Language::load(&SourceText::new("own.quillon", definition));
    match outcome.value {
        Some(language) => language,
        None => panic!(
            "{:#?}",
            outcome.diagnostics.iter().map(said).collect::<Vec<_>>()
        ),
    }
}

/// A language of these items, with the shared tokens.
#[track_caller]
pub fn with_tokens(items: &str) -> Language {
    language(&format!("language Own\n{TOKENS}\n{items}"))
}

/// The messages about a definition, with their places.
pub fn mistakes(definition: &str) -> Vec<String> {
    Language::load(&SourceText::new("own.quillon", definition))
        .diagnostics
        .iter()
        .map(said)
        .collect()
}

/// A diagnostic as `LINE:COLUMN MESSAGE`.
pub fn said(diagnostic: &quillon_core::diagnostic::Diagnostic) -> String {
    match &diagnostic.place {
        Some(place) => format!(
            "{} {}",
            place.source.position(place.span.start),
            diagnostic.message
        ),
        None => diagnostic.message.clone(),
    }
}

/// The tree of a text on one line, or the first error.
pub fn tree(language: &Language, text: &str) -> String {
    let outcome = language.tree(&SourceText::new("text", text), quillon_core::Reading::Entry);
    match outcome.value {
        Some(tree) => one_line(language.definition(), language.lexer(), &tree),
        None => said(&outcome.diagnostics[0]),
    }
}

/// The value of a program, or the first error; what it prints comes first.
pub fn value(language: &Language, text: &str) -> String {
    let mut host = Recorder::default();
    let limits = Limits {
        steps: Some(5_000_000),
        ..Limits::default()
    };
    let mut session = match Session::new(language, limits, &mut host) {
        Ok(session) => session,
        Err(problem) => return said(&problem),
    };
    let outcome = session.run_as(
        &SourceText::new("text", text),
        quillon_core::Reading::Entry,
        &mut host,
    );
    let end = match outcome.value {
        Some(value) => written(&value),
        None => said(&outcome.diagnostics[0]),
    };
    host.printed + &end
}
