//! What a program does, written down as what is expected of it.

use std::sync::Arc;

use super::engines::{Ran, Trial};
use super::expect::{clause_of, failure, position, tokens_text};
use super::trial;
use crate::definition::{Example, Expected, Failing};
use crate::language::Prepared;
use crate::runtime::Limits;
use crate::session::Engine;
use crate::source::{SourceText, Span, exchanged};
use crate::tree::one_line;
use crate::values::Held;

/// A change of a text: what stands in place of a stretch of it.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Edit {
    /// The stretch; an empty one is where something is put in.
    pub span: Span,
    /// What is to stand there.
    pub text: String,
}

/// The changes after which a case expects what its program does now; none where that cannot
/// be written down.
pub fn accepted(
    prepared: &Prepared,
    source: &Arc<SourceText>,
    case: &Example,
    limits: Limits,
) -> Vec<Edit> {
    let Ok(trial) = trial(prepared, source, case) else {
        return Vec::new();
    };
    let trial = Trial { limits, ..trial };
    let language = trial.language();
    let ran = trial.run(Engine::Machine);
    let ending = ending_of(&ran);
    let mut edits: Vec<Edit> = Vec::new();
    for expectation in &case.expectations {
        let text = match &expectation.expected {
            Expected::Tree(_) => {
                let tree = trial.read().value;
                tree.map(|tree| one_line(language.definition(), language.lexer(), &tree))
                    .map(|line| format!("tree {line}"))
            }
            Expected::Tokens(_) | Expected::AllTokens(_) => {
                let tokens = trial.tokens(&expectation.expected).value;
                tokens.map(|tokens| {
                    let word = expectation.expected.word();
                    format!("{word} {}", tokens_text(language, &tokens))
                })
            }
            Expected::Types(name, _) => {
                let found = trial.type_of(name.as_ref()).ok().flatten();
                let bound = name
                    .as_ref()
                    .map_or(String::new(), |n| format!("{} : ", n.text));
                found.map(|found| format!("types {bound}{}", found.written(language.definition())))
            }
            Expected::Reduces(_) | Expected::Stuck(_) => trial
                .reduced()
                .ok()
                .and_then(|reduced| clause_of(&reduced.expected()?)),
            Expected::PrintsBack(_)
            | Expected::Brackets(_)
            | Expected::Ends(_)
            | Expected::Code(_) => {
                let found = trial.commanded(&expectation.expected).ok().flatten();
                found.as_ref().and_then(clause_of)
            }
            Expected::Shows(_) if ran.error().is_none() => {
                let shown = ran.value.as_ref().map(Held::written);
                shown.and_then(|shown| clause_of(&Expected::Shows(shown)))
            }
            // One of several errors: it is said already.
            Expected::Fails(failing, place) if failure(&ran, failing, *place).is_none() => {
                Some(source.slice(expectation.span).to_owned())
            }
            Expected::Gives(_) | Expected::Shows(_) | Expected::Fails(..) => {
                ending.as_ref().and_then(clause_of)
            }
            Expected::Prints(_) => clause_of(&Expected::Prints(ran.printed.clone())),
            Expected::Leaves(path, _) => {
                let mut cells = ran.left.iter();
                let cell = cells.find(|(known, _)| *known == path.cell.text);
                cell.and_then(|(_, value)| path.held(value)?.literal())
                    .and_then(|value| clause_of(&Expected::Leaves(path.clone(), value)))
            }
        };
        if let Some(text) = text {
            let is_said = edits.iter().any(|edit| edit.text == text);
            edits.push(Edit {
                span: expectation.span,
                text: if is_said { String::new() } else { text },
            });
        }
    }
    let says_error = |e: &&Edit| e.text.starts_with("fails ") || e.text.starts_with("gives ");
    let is_run = case.expectations.iter().any(|e| e.expected.needs_run());
    let is_unsaid = is_run && ran.error().is_some() && edits.iter().find(says_error).is_none();
    if is_unsaid || edits.is_empty() {
        edits.extend(added(source, case, &ran, ending.as_ref()));
    }
    edits.retain(|edit| source.slice(edit.span) != edit.text);
    edits
}

/// How a program ended: with a value, or with an error.
pub(super) fn ending_of(ran: &Ran) -> Option<Expected> {
    match ran.error() {
        Some(error) => Some(Expected::Fails(
            Failing::Message(error.message.clone()),
            position(error),
        )),
        None => ran
            .value
            .as_ref()
            .and_then(Held::literal)
            .map(Expected::Gives),
    }
}

/// What a case that expects nothing of its program's ending is to expect.
fn added(
    source: &SourceText,
    case: &Example,
    ran: &Ran,
    ending: Option<&Expected>,
) -> Option<Edit> {
    let mut clauses = Vec::new();
    if !ran.printed.is_empty() && case.expectations.is_empty() {
        clauses.extend(clause_of(&Expected::Prints(ran.printed.clone())));
    }
    let is_nothing = ran.value.as_ref().is_some_and(Held::is_nothing);
    if !is_nothing || clauses.is_empty() {
        clauses.extend(ending.and_then(clause_of));
    }
    let between = if case.whole == case.span {
        "   "
    } else {
        "\n  "
    };
    let mut text = String::new();
    for clause in clauses {
        text.push_str(between);
        text.push_str(&clause);
    }
    // Behind bars nothing can follow on the same line.
    let last_line = source.line_span(source.line_of(case.whole.end));
    let is_barred = source.slice(last_line).trim_start().starts_with('|');
    let text = if is_barred && between == "   " {
        text.replace("   ", "\n    ")
    } else {
        text
    };
    (!text.is_empty()).then(|| Edit {
        span: case.whole.after(),
        text,
    })
}

/// A text with changes, which must not overlap.
pub fn edited(text: &str, edits: &[Edit]) -> String {
    let mut edits: Vec<&Edit> = edits.iter().collect();
    edits.sort_by_key(|edit| edit.span.start);
    exchanged(text, edits.iter().map(|edit| (edit.span, &edit.text[..])))
}
