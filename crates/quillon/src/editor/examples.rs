//! The examples of definitions and case files, run one after the other while nothing else is to be
//! done: with limits, and without files.

use std::sync::Arc;

use quillon_core::definition::{Example, read_cases};
use quillon_core::diagnostic::{Diagnostic, codes};
use quillon_core::runtime::Limits;
use quillon_core::source::SourceText;
use quillon_core::testing::{CaseResult, Verdict, case_limits, examples, run_case};
use quillon_core::{Language, Prepared};

/// So many steps an example may take here: whoever writes does not wait for more.
const STEPS: u64 = 2_000_000;

/// Examples that are being run.
pub struct Examples {
    prepared: Prepared,
    source: Arc<SourceText>,
    left: std::vec::IntoIter<Example>,
    pub results: Vec<CaseResult>,
}

impl Examples {
    /// The examples of a definition.
    pub fn of_definition(language: &Language) -> Examples {
        let all: Vec<Example> = examples(language).cloned().collect();
        Examples::new(language, &language.definition().source, all)
    }

    /// The cases of a file.
    pub fn of_cases(language: &Language, source: &Arc<SourceText>) -> Examples {
        let read = read_cases(source);
        let cases = read.value.map_or_else(Vec::new, |file| file.cases);
        Examples::new(language, source, cases)
    }

    fn new(language: &Language, source: &Arc<SourceText>, all: Vec<Example>) -> Examples {
        Examples {
            prepared: Prepared::new(language),
            source: Arc::clone(source),
            left: all.into_iter(),
            results: Vec::new(),
        }
    }

    /// Runs the next one; whether there was one.
    pub fn step(&mut self) -> bool {
        let Some(example) = self.left.next() else {
            return false;
        };
        let limits = Limits {
            steps: Some(STEPS),
            ..case_limits()
        };
        self.results
            .push(run_case(&self.prepared, &self.source, &example, limits));
        true
    }

    /// Puts a result in the place of the earlier one of the same example.
    pub fn note(&mut self, result: CaseResult) {
        let mut known = self.results.iter_mut();
        match known.find(|known| known.span == result.span) {
            Some(known) => *known = result,
            None => self.results.push(result),
        }
    }

    /// What does not hold, as diagnostics.
    pub fn failures(&self) -> Vec<Diagnostic> {
        let failed = self.results.iter();
        let failed = failed.filter(|result| result.verdict == Verdict::Failed);
        let told = failed.flat_map(|result| {
            let differences = result.differences.iter().map(|one| {
                let message = format!(
                    "{} differs: expected {}",
                    one.what.words(),
                    one.expected.trim()
                );
                Diagnostic::error(codes::CASE_FAILED, message)
                    .at(&result.source, one.span)
                    .why(format!("got {}", one.got.trim()))
            });
            let errors = result.diagnostics.iter().map(|one| {
                Diagnostic::error(codes::CASE_FAILED, one.message.clone())
                    .at(&result.source, result.span)
            });
            differences.chain(errors).collect::<Vec<_>>()
        });
        told.collect()
    }
}
