//! Whether types keep their promise: a program whose types fit does not end in an error of
//! kinds (R. Milner's "well-typed programs cannot go wrong").

use std::sync::Arc;

use super::{CaseResult, Compared, Difference, Trial, Verdict};
use crate::diagnostic::{Code, codes};
use crate::language::Reading;
use crate::runtime::Limits;
use crate::scoping::Around;
use crate::session::{Engine, Prepared};
use crate::source::{SourceText, Span};

/// What types promise to keep out of a run.
const KEPT_OUT: [Code; 2] = [codes::RUN_KIND, codes::RUN_ARITY];

/// Runs a program if its types fit, and none of them only because of an `any`; nothing for
/// one that is not to be run. An error of kinds is a hole in the clauses of types.
pub fn check_soundness(
    prepared: &Prepared,
    program: &Arc<SourceText>,
    limits: Limits,
) -> Option<CaseResult> {
    let language = prepared.language();
    let compiled = language.compiled(program, Around::Nothing, Reading::Program);
    let compiled = compiled.into_result().ok()?;
    let types = compiled
        .types
        .filter(super::super::typing::Types::is_strict)?;
    let trial = Trial {
        limits,
        ..Trial::of(prepared, program)
    };
    let ran = trial.run(Engine::Machine);
    let hole = ran.error.filter(|error| KEPT_OUT.contains(&error.code));
    let definition = language.definition();
    let has = types.of_node(compiled.tree.root());
    let has = has.map_or_else(String::new, |has| has.shown(definition));
    let differences = hole.iter().map(|error| Difference {
        what: Compared::Soundness,
        expected: format!("no error of kinds: all its types fit, and it is {has}"),
        got: error.in_one_line(),
        span: Span::default(),
    });
    let differences: Vec<Difference> = differences.collect();
    Some(CaseResult {
        title: program.name().to_owned(),
        program: program.text().to_owned(),
        source: Arc::clone(program),
        span: Span::default(),
        verdict: if differences.is_empty() {
            Verdict::Passed
        } else {
            Verdict::Failed
        },
        notes: if differences.is_empty() {
            Vec::new()
        } else {
            vec!["a `typed` clause promises too much: that of a form in the program".to_owned()]
        },
        differences,
        diagnostics: Vec::new(),
    })
}
