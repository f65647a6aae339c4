//! Syntax errors of whole programs: the first is at the right place, and what follows
//! from it is not reported again.

use crate::common;
use quillon_core::Language;
use quillon_core::source::SourceText;

/// The errors of a program as `L:C message`.
fn errors(language: &Language, text: &str) -> Vec<(String, String)> {
    let outcome = language.tree(
        &SourceText::new("wrong", text),
        quillon_core::Reading::Program,
    );
    outcome
        .diagnostics
        .iter()
        .filter_map(|d| {
            let place = d.place.as_ref()?;
            Some((
                place.source.position(place.span.start).to_string(),
                d.message.clone(),
            ))
        })
        .collect()
}

#[test]
fn wrong_programs_have_their_true_errors_and_hardly_another() {
    let language = common::language(include_str!(
        "../../../../languages/towpath/towpath.quillon"
    ));
    let corpus = include_str!("wrong-programs.txt");
    let mut count = 0;
    let mut wrong = Vec::new();
    for case in corpus.split("\n== ").skip(1) {
        let (places, program) = case.split_once('\n').unwrap();
        let wanted: Vec<&str> = places.split(' ').collect();
        let found = errors(&language, program);
        let spurious = found
            .iter()
            .filter(|(place, _)| !wanted.contains(&place.as_str()))
            .count();
        count += 1;
        if found.first().map(|(place, _)| place.as_str()) != Some(wanted[0]) || spurious > 1 {
            wrong.push(format!("wanted {wanted:?}\n{program}\nfound {found:#?}"));
        }
    }
    assert!(count >= 60, "{count}");
    assert!(wrong.is_empty(), "{}", wrong.join("\n\n"));
}

#[test]
fn errors_of_a_long_text_are_capped_and_that_is_said() {
    let language = common::language(include_str!(
        "../../../../languages/towpath/towpath.quillon"
    ));
    let outcome = language.tree(
        &SourceText::new("wrong", "say [1 2]\n".repeat(20_000)),
        quillon_core::Reading::Program,
    );
    assert_eq!(outcome.diagnostics.len(), 26);
    assert_eq!(
        outcome.diagnostics[25].message,
        "reading stops after 25 errors"
    );
}
