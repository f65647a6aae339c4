//! Examples and cases, what holds for every program, programs made up, what no case
//! touches, and two definitions side by side.

use std::sync::Arc;

mod accept;
mod commanded;
mod compare;
mod coverage;
mod engines;
mod expect;
mod generating;
mod keep;
mod properties;
mod reduced;
mod smallest;
mod sound;
mod touched;
mod typed;

pub use accept::{Edit, accepted, edited};
pub use compare::compare;
pub use coverage::{Item, ItemKind, Survey};
pub use engines::{Ran, Trial};
pub(crate) use expect::clause_of as written_clause;
pub use generating::{Generator, shrink};
pub use keep::{Exchange, case_of, tree_case};
pub use properties::properties;
pub use smallest::smallest_example;
pub use sound::check_soundness;

use crate::definition::{Example, Expected, Given, Name};
use crate::diagnostic::{Diagnostic, Outcome, codes, nearest, quote};
use crate::language::Prepared;
use crate::language::{Language, Reading, Stage};
use crate::runtime::Limits;
use crate::scoping::Around;
use crate::session::Engine;
use crate::source::{SourceText, Span};
use crate::tree::from_term;

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

/// What of a program is compared.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
#[non_exhaustive]
pub enum Compared {
    /// Its value.
    Value,
    /// What it prints.
    Output,
    /// The error it ends in.
    Error,
    /// A cell of the state at the end.
    State,
    /// Its tree.
    Tree,
    /// Its tokens.
    Tokens,
    /// Its source, written from its tree.
    Source,
    /// Where its first entry ends.
    End,
    /// Its bytecode.
    Code,
    /// Its names.
    Names,
    /// Its types.
    Types,
    /// What it is rewritten to.
    Reduction,
    /// What both engines come to.
    Engines,
    /// What both meanings come to: by running, and by reduction.
    Meanings,
    /// Whether what its types promise is kept.
    Soundness,
    /// Its text, with its tokens.
    Cover,
    /// Its tree, with the one of what is printed of it.
    PrintedBack,
    /// It once it has been put in order.
    Arranged,
}

impl Compared {
    /// In words.
    pub fn words(self) -> &'static str {
        match self {
            Compared::Value => "value",
            Compared::Output => "output",
            Compared::Error => "error",
            Compared::State => "state",
            Compared::Tree => "tree",
            Compared::Tokens => "tokens",
            Compared::Source => "source",
            Compared::End => "end of the first entry",
            Compared::Code => "bytecode",
            Compared::Names => "names",
            Compared::Types => "types",
            Compared::Reduction => "reduction",
            Compared::Engines => "engines",
            Compared::Meanings => "both meanings",
            Compared::Soundness => "what types promise",
            Compared::Cover => "tokens cover the text",
            Compared::PrintedBack => "printed back",
            Compared::Arranged => "put in order once more",
        }
    }
}

/// Something expected that does not hold.
#[derive(Clone, Debug)]
pub struct Difference {
    /// What is compared.
    pub what: Compared,
    /// What was expected, as the notation writes it; an output as it is.
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
    /// More on the differences, in words.
    pub notes: Vec<String>,
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
        output: Some(1 << 24),
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
pub fn run_case(
    prepared: &Prepared,
    source: &Arc<SourceText>,
    case: &Example,
    limits: Limits,
) -> CaseResult {
    let mut result = CaseResult {
        title: case.title.clone(),
        program: case.program.clone(),
        source: Arc::clone(source),
        span: case.span,
        verdict: Verdict::Passed,
        differences: Vec::new(),
        notes: Vec::new(),
        diagnostics: Vec::new(),
    };
    match trial(prepared, source, case) {
        Ok(trial) => result.check(&Trial { limits, ..trial }, case),
        Err(problem) => result.diagnostics.push(*problem),
    }
    let mut all = result.diagnostics.iter();
    let lacks = all.any(|d| d.code == codes::DEFINITION_LACKS);
    result.verdict = if lacks {
        Verdict::Waiting
    } else if result.differences.is_empty() && result.diagnostics.is_empty() {
        Verdict::Passed
    } else {
        Verdict::Failed
    };
    result
}

/// Checks what holds for every program of a program that is no case.
pub fn check_program(prepared: &Prepared, program: &Arc<SourceText>, limits: Limits) -> CaseResult {
    let trial = Trial {
        limits,
        ..Trial::of(prepared, program)
    };
    let differences = properties(&trial);
    // What is to be wrong with a program belongs into a case.
    let diagnostics = program_errors(prepared.language(), program);
    CaseResult {
        title: program.name().to_owned(),
        program: program.text().to_owned(),
        source: Arc::clone(program),
        span: Span::default(),
        verdict: if differences.is_empty() && diagnostics.is_empty() {
            Verdict::Passed
        } else {
            Verdict::Failed
        },
        differences,
        notes: Vec::new(),
        diagnostics,
    }
}

/// Whether a case expects an error.
fn expects_failure(case: &Example) -> bool {
    let mut all = case.expectations.iter();
    all.any(|expectation| matches!(expectation.expected, Expected::Fails(..)))
}

/// What is wrong with a program, as far as the definition goes.
fn program_errors(language: &Language, program: &Arc<SourceText>) -> Vec<Diagnostic> {
    let reading = Reading::Program;
    let has = |stage| language.lacks(stage).is_none();
    if has(Stage::Meaning) {
        errors_of(language.compiled(program, Around::Nothing, reading))
    } else if has(Stage::Tree) {
        let tree = language.tree(program, reading).into_result();
        let names = tree.and_then(|tree| {
            let names = language.names(&tree, Around::Nothing).into_result()?;
            Ok(language.refused(&tree, &names))
        });
        names.unwrap_or_else(Vec::from)
    } else {
        errors_of(language.tokens(program))
    }
}

fn errors_of<T>(outcome: Outcome<T>) -> Vec<Diagnostic> {
    outcome
        .into_result()
        .err()
        .map(Vec::from)
        .unwrap_or_default()
}

/// A case as a program to run.
///
/// # Errors
/// That it starts from a tree which is none of the language.
pub fn trial<'a>(
    prepared: &Prepared,
    source: &Arc<SourceText>,
    case: &'a Example,
) -> Result<Trial<'a>, Box<Diagnostic>> {
    let prepared = match &case.surface {
        Some(name) => &in_surface(prepared, source, name)?,
        None => prepared,
    };
    let tree = match &case.start {
        Some(term) => Some(from_term(
            prepared.language().definition(),
            prepared.language().lexer(),
            source,
            term,
        )?),
        None => None,
    };
    Ok(Trial {
        prepared: prepared.clone(),
        sort: case.reading.as_ref().map(|name| name.text.as_str()),
        program: SourceText::new(format!("program of {}", case.title), case.program.clone()),
        tree,
        after: &case.after,
        given: &case.given,
        limits: case_limits(),
    })
}

/// The language in the surface that a case names.
fn in_surface(
    prepared: &Prepared,
    source: &Arc<SourceText>,
    name: &Name,
) -> Result<Prepared, Box<Diagnostic>> {
    prepared.surface(&name.text).ok_or_else(|| {
        let language = prepared.language();
        let near = nearest(&name.text, language.surface_names()).map(str::to_owned);
        let message = format!("the language has no surface {}", quote(&name.text));
        let problem = Diagnostic::error(codes::CASE_SYNTAX, message).at(source, name.span);
        Box::new(problem.did_you_mean(near.as_deref()))
    })
}

impl CaseResult {
    fn check(&mut self, trial: &Trial<'_>, case: &Example) {
        let fails = expects_failure(case);
        for expectation in &case.expectations {
            self.check_tokens(trial, expectation, fails);
            self.check_tree(trial, expectation);
            self.check_types(trial, expectation);
            self.check_reduction(trial, expectation);
            self.check_commanded(trial, expectation);
        }
        if trial.tree.is_none() {
            let found = properties::of_text(trial, case.span);
            self.differences.extend(found);
        }
        if case.expectations.iter().any(|e| e.expected.needs_run()) {
            self.check_run(trial, case);
        } else if trial.language().lacks(crate::Stage::Meaning).is_none() {
            let ran = trial.run(Engine::Machine);
            self.differences
                .extend(trial.disagreements(&ran, case.span));
        }
    }

    fn check_run(&mut self, trial: &Trial<'_>, case: &Example) {
        let ran = trial.run(Engine::Machine);
        for given in &case.given {
            if let Given::State(name, _) = given
                && ran.no_cells.contains(&name.text)
            {
                let problem = expect::no_cell(trial.language(), name);
                self.diagnostics.push(problem.at(&self.source, name.span));
            }
        }
        let error = ran.error();
        if let Some(lack) = error.filter(|d| d.code == codes::DEFINITION_LACKS) {
            // What is wrong already is an error, however far the definition goes.
            let wrong = program_errors(trial.language(), &trial.program);
            if wrong.is_empty() || !expects_failure(case) {
                self.diagnostics.push(lack.clone());
            } else {
                self.check_wrong(trial, case, wrong);
            }
            return;
        }
        self.differences
            .extend(trial.disagreements(&ran, case.span));
        self.differences
            .extend(trial.reduced_otherwise(&ran, case.span));
        for expectation in &case.expectations {
            self.check_ran(trial.language(), &ran, expectation);
        }
        if let Some(error) = error.filter(|_| !expects_failure(case)) {
            self.diagnostics.push(error.clone());
        }
    }

    /// Checks what is expected of a program that is wrong before it could be run.
    fn check_wrong(&mut self, trial: &Trial<'_>, case: &Example, wrong: Vec<Diagnostic>) {
        let ran = Ran {
            errors: wrong,
            ..Ran::default()
        };
        for expectation in &case.expectations {
            if matches!(expectation.expected, Expected::Fails(..)) {
                self.check_ran(trial.language(), &ran, expectation);
            }
        }
    }
}
