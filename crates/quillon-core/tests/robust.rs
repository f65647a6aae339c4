//! Nothing panics and nothing hangs, whatever the input: random texts, and the demo's
//! definition and programs with pieces taken out, doubled and moved.

mod common;

use proptest::prelude::*;
use quillon_core::evaluation::{Limits, Recorder};
use quillon_core::source::{SourceText, from_bytes};
use quillon_core::{Language, Session};

const TOWPATH: &str = include_str!("../../../languages/towpath/towpath.quillon");
const PROGRAM: &str = include_str!("../../../languages/towpath/programs/flight.tow");

/// Takes a text through every stage as far as it goes.
fn through_all_stages(language: &Language, text: &str) {
    let source = SourceText::new("text", text);
    let tokens = language.tokens(&source);
    if let Some(tokens) = &tokens.value {
        let mut covered = 0;
        for token in &tokens.tokens {
            assert!(token.span.start >= covered, "tokens overlap");
            covered = token.span.end;
        }
        assert!(covered as usize <= source.text().len());
    }
    for diagnostic in &tokens.diagnostics {
        let json = serde_json::to_string(diagnostic).unwrap();
        assert!(json.contains("message"));
    }
    language.is_unfinished(&source);
    let mut host = Recorder::default();
    let limits = Limits {
        steps: Some(20_000),
        depth: 60,
    };
    if let Ok(mut session) = Session::new(language, limits, &mut host) {
        let outcome = session.enter(&source, &mut host);
        assert!(outcome.value.is_some() || outcome.has_errors());
    }
}

/// A text with pieces taken out, doubled or moved, by numbers drawn at random.
fn shuffled(text: &str, edits: &[(usize, usize, usize, u8)]) -> String {
    let mut characters: Vec<char> = text.chars().collect();
    for &(from, length, to, how) in edits {
        if characters.is_empty() {
            break;
        }
        let from = from % characters.len();
        let end = (from + length).min(characters.len());
        let piece: Vec<char> = characters[from..end].to_vec();
        if how != 1 {
            characters.drain(from..end);
        }
        if how != 0 {
            let to = to % (characters.len() + 1);
            characters.splice(to..to, piece);
        }
    }
    characters.into_iter().collect()
}

fn edits() -> impl Strategy<Value = Vec<(usize, usize, usize, u8)>> {
    prop::collection::vec((any::<usize>(), 1..30usize, any::<usize>(), 0..3u8), 1..6)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 120, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn any_bytes_are_text_or_an_error(bytes in prop::collection::vec(any::<u8>(), 0..200)) {
        if let Ok(source) = from_bytes("bytes", bytes) {
            Language::load(&source);
        }
    }

    #[test]
    fn any_text_goes_through_the_demo_language(text in "\\PC{0,80}") {
        through_all_stages(&common::language(TOWPATH), &text);
    }

    #[test]
    fn shuffled_programs_end_well(edits in edits()) {
        through_all_stages(&common::language(TOWPATH), &shuffled(PROGRAM, &edits));
    }

    #[test]
    fn shuffled_definitions_are_errors_or_languages(edits in edits()) {
        let text = shuffled(TOWPATH, &edits);
        let outcome = Language::load(&SourceText::new("shuffled.quillon", text));
        for diagnostic in &outcome.diagnostics {
            prop_assert!(diagnostic.place.is_some(), "{diagnostic:?}");
        }
        if let Some(language) = &outcome.value {
            through_all_stages(language, PROGRAM);
        } else {
            prop_assert!(outcome.has_errors());
        }
    }

    #[test]
    fn shuffled_case_files_are_errors_or_cases(edits in edits()) {
        let cases = include_str!("../../../languages/towpath/cases/statements.cases");
        quillon_core::definition::read_cases(&SourceText::new("cases", shuffled(cases, &edits)));
    }
}

#[test]
fn a_very_ambiguous_text_ends() {
    let language = common::with_tokens(
        "
form Pair in Expr
  written  left:Expr right:Expr
form Number in Expr
  written  value:Whole
",
    );
    let text = "1 ".repeat(60);
    assert!(common::tree(&language, &text).contains("can be read in two ways"));
}

#[test]
fn deep_and_long_texts_end_well() {
    let language = common::language(TOWPATH);
    for text in [
        "(".repeat(50_000),
        format!("{}1{}", "(".repeat(2_000), ")".repeat(2_000)),
        format!("say {}1", "- ".repeat(20_000)),
        format!("say \"{}\"", "x".repeat(1_000_000)),
        "}".repeat(1_000),
        "$ ".repeat(10_000),
    ] {
        through_all_stages(&language, &text);
    }
}
