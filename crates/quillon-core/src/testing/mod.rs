//! Examples and cases: a program and what it must do, checked.

use std::sync::Arc;

mod engines;

use engines::{check_engines, run_by};

use crate::definition::{Example, Expectation, Expected, Given, Name};
use crate::diagnostic::{Diagnostic, codes, nearest, quote};
use crate::language::{Language, Reading};
use crate::runtime::{Limits, Recorder};
use crate::session::{Engine, Session};
use crate::source::{SourceText, Span};
use crate::tree::{matches, one_line};
use crate::values::Held;

/// How a case ended.
#[derive(Clone, Copy, PartialEq, Eq, Debug, serde::Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Verdict {
    /// All it expects holds.
    Passed,
    /// Something does not hold.
    Failed,
    /// It cannot be tried before the definition has more clauses.
    Waiting,
}

/// Something expected that does not hold.
#[derive(Clone, Debug)]
pub struct Difference {
    /// What is compared: `value`, `output`, `error`, `tree`.
    pub what: &'static str,
    /// What was expected, as the notation writes it.
    pub expected: String,
    /// What came.
    pub got: String,
    /// Where the expectation stands.
    pub span: Span,
}

/// What came of a case.
#[derive(Clone, Debug)]
pub struct CaseResult {
    /// Its title.
    pub title: String,
    /// The program.
    pub program: String,
    /// The text it stands in.
    pub source: Arc<SourceText>,
    /// Where it stands.
    pub span: Span,
    /// How it ended.
    pub verdict: Verdict,
    /// What does not hold.
    pub differences: Vec<Difference>,
    /// Errors of the program that no expectation speaks of, or what the definition
    /// lacks.
    pub diagnostics: Vec<Diagnostic>,
}

/// The limits under which cases run: one that never ends must not stop the others.
pub fn case_limits() -> Limits {
    Limits {
        steps: Some(10_000_000),
        depth: 100_000,
        memory: Some(1 << 30),
        ..Limits::default()
    }
}

/// Every example of a definition, in order.
pub fn examples(language: &Language) -> impl Iterator<Item = &Example> {
    language
        .definition()
        .forms
        .iter()
        .flat_map(|form| &form.examples)
}

/// Runs a case that stands in a text.
pub fn run_case(language: &Language, source: &Arc<SourceText>, case: &Example) -> CaseResult {
    let program = SourceText::new(format!("program of {}", case.title), case.program.clone());
    let mut result = CaseResult {
        title: case.title.clone(),
        program: case.program.clone(),
        source: Arc::clone(source),
        span: case.span,
        verdict: Verdict::Passed,
        differences: Vec::new(),
        diagnostics: Vec::new(),
    };
    for expectation in &case.expectations {
        if let Expected::Tree(_) = expectation.expected {
            check_tree(language, &program, expectation, &mut result);
        }
    }
    check_printed_back(language, &program, &mut result);
    let runs = case
        .expectations
        .iter()
        .any(|e| !matches!(e.expected, Expected::Tree(_)));
    if runs {
        check_run(language, &program, case, &mut result);
    }
    let lacks = result
        .diagnostics
        .iter()
        .any(|d| d.code == codes::DEFINITION_LACKS);
    result.verdict = if lacks {
        Verdict::Waiting
    } else if result.differences.is_empty() && result.diagnostics.is_empty() {
        Verdict::Passed
    } else {
        Verdict::Failed
    };
    result
}

fn check_tree(
    language: &Language,
    program: &Arc<SourceText>,
    expectation: &Expectation,
    result: &mut CaseResult,
) {
    let Expected::Tree(term) = &expectation.expected else {
        return;
    };
    let parsed = language.tree(program, Reading::Entry);
    let Some(tree) = parsed.value else {
        result.diagnostics.extend(parsed.diagnostics);
        return;
    };
    let definition = language.definition();
    if let Err(mismatch) = matches(definition, language.lexer(), &tree, term) {
        let position = program.position(tree.node(mismatch.node).span.start);
        result.differences.push(Difference {
            what: "tree",
            expected: spelt(&result.source, expectation, "tree"),
            got: format!(
                "{}   ({} at {position})",
                one_line(definition, language.lexer(), &tree),
                mismatch.problem
            ),
            span: expectation.span,
        });
    }
}

/// An expectation as it is written, without its first word.
fn spelt(source: &SourceText, expectation: &Expectation, word: &str) -> String {
    let text = source.slice(expectation.span);
    text.strip_prefix(word).unwrap_or(text).trim().to_owned()
}

/// Checked of every program that can be read: its tree, printed back with its comments and
/// read again, is the same tree; in every surface of the language.
fn check_printed_back(language: &Language, program: &Arc<SourceText>, result: &mut CaseResult) {
    let read = language
        .readings()
        .find_map(|reading| Some((reading, language.tree(program, reading).value?)));
    let Some((reading, tree)) = read else {
        return;
    };
    let comments = language.comments(program);
    for name in language.surface_names() {
        let Some(Err(text)) = language
            .surface(name)
            .map(|surface| surface.round_trip(&tree, &comments, reading))
        else {
            continue;
        };
        result.differences.push(Difference {
            what: "printed back",
            expected: one_line(language.definition(), language.lexer(), &tree),
            got: format!("another tree, from {text:?} in {name}"),
            span: result.span,
        });
    }
}

fn check_run(
    language: &Language,
    program: &Arc<SourceText>,
    case: &Example,
    result: &mut CaseResult,
) {
    let ran = run_by(Engine::Machine, language, program, case, &result.source);
    result.diagnostics.extend(ran.problems.iter().cloned());
    let error = ran.error.as_ref();
    if let Some(lack) = error.filter(|d| d.code == codes::DEFINITION_LACKS) {
        result.diagnostics.push(lack.clone());
        return;
    }
    check_engines(&ran, language, program, case, result);
    let mut fails = false;
    for expectation in &case.expectations {
        let difference = match &expectation.expected {
            Expected::Tree(_) => None,
            Expected::Gives(literal) => ran.value.as_ref().and_then(|value| {
                let wanted = Held::new(literal.clone());
                (!value.is(literal)).then(|| ("value", wanted.written(), value.written()))
            }),
            Expected::Leaves(name, literal) => {
                match ran.left.iter().find(|(known, _)| *known == name.text) {
                    None => {
                        result
                            .diagnostics
                            .push(no_cell(language, &result.source, name));
                        None
                    }
                    Some((_, value)) => {
                        let wanted = Held::new(literal.clone());
                        (!value.is(literal)).then(|| ("state", wanted.written(), value.written()))
                    }
                }
            }
            Expected::Prints(text) => (ran.printed != *text).then(|| {
                (
                    "output",
                    crate::diagnostic::quoted(text),
                    crate::diagnostic::quoted(&ran.printed),
                )
            }),
            Expected::Fails(message, place) => {
                fails = true;
                let expected = match place {
                    Some(place) => format!("{message:?} at {place}"),
                    None => format!("{message:?}"),
                };
                match error {
                    None => Some(("error", expected, no_error(ran.value.as_ref()))),
                    Some(error) => {
                        let at = error
                            .place
                            .as_ref()
                            .map(|p| p.source.position(p.span.start));
                        let holds = error.message.contains(message)
                            && place.is_none_or(|place| at == Some(place));
                        let got = match at {
                            Some(at) => format!("{:?} at {at}", error.message),
                            None => format!("{:?}", error.message),
                        };
                        (!holds).then_some(("error", expected, got))
                    }
                }
            }
        };
        if let Some((what, expected, got)) = difference {
            result.differences.push(Difference {
                what,
                expected,
                got,
                span: expectation.span,
            });
        }
    }
    if let Some(error) = error.filter(|_| !fails) {
        result.diagnostics.push(error.clone());
    }
}

/// Gives a session what a case says that it finds.
fn give(
    session: &mut Session<'_>,
    case: &Example,
    host: &mut Recorder,
    source: &Arc<SourceText>,
    problems: &mut Vec<Diagnostic>,
) {
    for given in &case.given {
        match given {
            Given::Input(text) => host.input.push_str(text),
            Given::State(name, literal) => {
                if !session.set_state(&name.text, &Held::new(literal.clone())) {
                    problems.push(no_cell(session.language(), source, name));
                }
            }
        }
    }
}

/// The error for a cell of the state that there is not.
fn no_cell(language: &Language, source: &Arc<SourceText>, name: &Name) -> Diagnostic {
    let cells = language.definition().state.iter();
    let near = nearest(&name.text, cells.map(|cell| cell.name.text.as_str()));
    Diagnostic::error(
        codes::CASE_SYNTAX,
        format!("the state has no {}", quote(&name.text)),
    )
    .at(source, name.span)
    .did_you_mean(near)
}

fn no_error(value: Option<&Held>) -> String {
    match value {
        Some(value) => format!("no error; it gives {}", value.written()),
        None => "no error".to_owned(),
    }
}
