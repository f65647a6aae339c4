//! What holds for every program of every language.

use std::sync::Arc;

use super::{Compared, Difference, Trial};
use crate::diagnostic::has_errors;
use crate::editing::{Indent, arranged_program};
use crate::language::Language;
use crate::session::Engine;
use crate::source::{SourceText, Span};
use crate::tree::one_line;

/// Checks everything that holds for every program: its tokens cover its text, its tree
/// printed back is read as the same tree, put in order it is in order, and the engines agree on what it
/// comes to.
/// Programs with mistakes are not held against.
pub fn properties(trial: &Trial<'_>) -> Vec<Difference> {
    let mut found = of_text(trial, Span::default());
    if trial.language().lacks(crate::Stage::Meaning).is_none() {
        let ran = trial.run(Engine::Machine);
        found.extend(trial.disagreements(&ran, Span::default()));
        found.extend(trial.reduced_otherwise(&ran, Span::default()));
    }
    found
}

/// Those that need no run.
pub(super) fn of_text(trial: &Trial<'_>, span: Span) -> Vec<Difference> {
    let mut found = Vec::new();
    found.extend(not_covered(trial.language(), &trial.program, span));
    found.extend(printed_back(trial, span));
    found.extend(out_of_order(trial, span));
    found
}

/// A program that has been put in order is in order: nothing is left to do.
fn out_of_order(trial: &Trial<'_>, span: Span) -> Option<Difference> {
    let indent = Indent::usual();
    let once = arranged_program(trial.language(), &trial.program, &indent).ok()?;
    let source = SourceText::new(trial.program.name(), once.clone());
    let twice = arranged_program(trial.language(), &source, &indent);
    (twice.as_ref() != Ok(&once)).then(|| Difference {
        what: Compared::Arranged,
        expected: once,
        got: twice.unwrap_or_else(|why| why),
        span,
    })
}

/// Every byte of the text belongs to one token, ignored or not.
fn not_covered(language: &Language, program: &Arc<SourceText>, span: Span) -> Option<Difference> {
    let outcome = language.all_tokens(program);
    let tokens = outcome
        .value
        .filter(|_| !has_errors(&outcome.diagnostics))?;
    let mut spans: Vec<Span> = tokens
        .tokens
        .iter()
        .chain(&tokens.ignored)
        .map(|token| token.span)
        .filter(|span| !span.is_empty())
        .collect();
    spans.sort_by_key(|span| span.start);
    let mut at = 0;
    for span_of_token in spans {
        if span_of_token.start != at {
            break;
        }
        at = span_of_token.end;
    }
    let length = program.text().len() as u32;
    (at < length).then(|| Difference {
        what: Compared::Cover,
        expected: "every character in one token".to_owned(),
        got: format!("none, or two, from {} on", program.position(at.min(length))),
        span,
    })
}

/// The tree, printed back with its comments and read again, is the same tree; in every
/// surface of the language.
fn printed_back(trial: &Trial<'_>, span: Span) -> Vec<Difference> {
    let (language, reading) = (trial.language(), trial.reading());
    let outcome = language.tree(&trial.program, reading);
    let Some(tree) = outcome.value else {
        return Vec::new();
    };
    let comments = language.comments(&trial.program);
    let mut found = Vec::new();
    for name in language.surface_names() {
        let Some(Err(text)) = language.surface(name).map(|surface| {
            surface.round_trip(&language.as_in(&tree, &surface), &comments, reading)
        }) else {
            continue;
        };
        found.push(Difference {
            what: Compared::PrintedBack,
            expected: one_line(language.definition(), language.lexer(), &tree),
            got: format!("another tree, from {text:?} in {name}"),
            span,
        });
    }
    found
}
