//! Nothing panics and nothing hangs, whatever the input: random texts, and the demo's
//! definition and programs with pieces taken out, doubled and moved.

use crate::common;
use proptest::prelude::*;
use quillon_core::Language;
use quillon_core::runtime::{Limits, Recorder};
use quillon_core::source::{SourceText, from_bytes};

const TOWPATH: &str = include_str!("../../../../languages/towpath/towpath.quillon");
const PROGRAM: &str = include_str!("../../../../languages/towpath/programs/flight.tow");

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
        ..Limits::default()
    };
    if let Ok(mut session) = language.session().limits(limits).start(&mut host) {
        let outcome = session.enter_source(&source);
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

/// A language of indented blocks with soft keywords, nesting comments and several readings
/// to follow: everything that the demo language does not have.
const OTHER: &str = "language Other
  layout   indentation
  entries  Program, Expr

tokens
  Blank  [ \\t\\r\\n]+          ignored
  Note   nested \"(*\" \"*)\"   ignored
  Whole  digit+               holds integer
  Name   identifier_start identifier_part*

precedence of Expr, loosest first
  prefix  Arrow
  right   Choice
  left    Add

form Program
  written  steps:Step* by LineEnd trailing
  opens    scope
  means    all steps
form Let in Step
  written  name:Name \"=\" value:Expr
  binds    name onward
  means    name := value
form If in Step
  written  \"if\" test:Expr yes:Block (LineEnd \"else\" soft no:Block)?
  means    if test = 0 { nothing } else { yes }
form Value in Step
  written  value:Expr
  means    value
form Block
  written  \":\" Indent steps:Step+ by LineEnd Dedent
  opens    scope
  means    all steps
form Arrow in Expr
  written  \"(\" params:Name* by \",\" \")\" \"=>\" body:Expr
  binds    params in body
  means    function (params) { body }
form Choice in Expr
  written  test:Expr \"?\" yes:Expr \":\" no:Expr
  means    if test = 0 { no } else { yes }
usual Add, Number, Variable, Group
";

const OTHER_PROGRAM: &str = "a = (x, y) => x + y (* adds (* two *) *)
else = 3
if else + 1:
  b = (else)
  if 0 ? 1 : 2:
    c = b + 1
    c
else:
  a
(((1 + 2)))
";

/// What is printed of a tree reads as the same tree.
fn prints_back(language: &Language, text: &str) {
    let source = SourceText::new("text", text);
    let tree = language.tree(&source, quillon_core::Reading::Program);
    if let Some(tree) = tree.value {
        let back = language.round_trip(
            &tree,
            &quillon_core::printing::Comments::default(),
            quillon_core::Reading::Program,
        );
        assert_eq!(back, Ok(()), "{text}");
    }
}

#[test]
fn the_other_language_reads_its_program() {
    let language = common::language(OTHER);
    let tree = common::tree(&language, OTHER_PROGRAM);
    assert!(
        tree.starts_with("Program([Let(a, Arrow([x, y], Add("),
        "{tree}"
    );
    prints_back(&language, OTHER_PROGRAM);
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
    fn shuffled_programs_of_another_language_end_well(edits in edits()) {
        let language = common::language(OTHER);
        let text = shuffled(OTHER_PROGRAM, &edits);
        through_all_stages(&language, &text);
        prints_back(&language, &text);
    }

    #[test]
    fn shuffled_programs_that_can_be_read_print_back(edits in edits()) {
        prints_back(&common::language(TOWPATH), &shuffled(PROGRAM, &edits));
    }

    #[test]
    fn shuffled_definitions_of_another_language_end_well(edits in edits()) {
        let text = shuffled(OTHER, &edits);
        if let Some(language) = Language::load(&SourceText::new("shuffled.quillon", text)).value {
            through_all_stages(&language, OTHER_PROGRAM);
            language.advice();
            language.ambiguities(std::time::Duration::from_millis(5));
        }
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
        let cases = include_str!("../../../../languages/towpath/cases/statements.cases");
        let source = SourceText::new("cases", shuffled(cases, &edits));
        let outcome = quillon_core::definition::read_cases(&source);
        for diagnostic in &outcome.diagnostics {
            let place = diagnostic.place.as_ref();
            prop_assert!(place.is_some_and(|place| place.source == source), "{diagnostic:?}");
        }
        let read = outcome.value.map_or(0, |file| file.cases.len());
        let heads = source.text().lines().filter(|line| line.starts_with("case ")).count();
        // A case is read, or something is said of it.
        prop_assert!(read + outcome.diagnostics.len() >= heads, "{read} of {heads}");
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
