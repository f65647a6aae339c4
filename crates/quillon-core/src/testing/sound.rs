//! Whether types keep their promise: a program whose types fit does not end in an error of
//! kinds (R. Milner's "well-typed programs cannot go wrong").

use std::sync::Arc;

use super::reduced::BOUNDS;
use super::{CaseResult, Compared, Difference, Trial, Verdict};
use crate::diagnostic::{Code, Diagnostic, codes};
use crate::language::Prepared;
use crate::language::{Language, Reading, Stage};
use crate::reduction::{Ended, reduce};
use crate::runtime::Limits;
use crate::scoping::Around;
use crate::session::Engine;
use crate::source::{SourceText, Span};
use crate::tree::{NodeId, Tree};
use crate::typing::Types;

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
    let tree = language
        .tree(program, Reading::Program)
        .into_result()
        .ok()?;
    let names = language.names(&tree, Around::Nothing).into_result().ok()?;
    let types = language.types(&tree, &names, &[]).into_result().ok()?;
    if !types.is_strict() {
        return None;
    }
    let hole = if language.lacks(Stage::Meaning).is_none() {
        of_run(prepared, program, &tree, &types, limits)
    } else {
        of_rules(language, program)
    };
    let notes = hole.iter().map(|hole| match &hole.form {
        Some(form) => format!("a `typed` clause promises too much: it goes wrong in form `{form}`"),
        None => "a `typed` clause promises too much: that of a form in the program".to_owned(),
    });
    let notes = notes.collect();
    let definition = language.definition();
    let has = types.of_node(tree.root());
    let has = has.map_or_else(String::new, |has| has.shown(definition));
    let differences = hole.into_iter().map(|hole| Difference {
        what: Compared::Soundness,
        expected: format!("{}: all its types fit, and it is {has}", hole.instead_of),
        got: hole.got,
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
        notes,
        differences,
        diagnostics: Vec::new(),
    })
}

/// What a program has come to, whose types fit.
struct Hole {
    instead_of: &'static str,
    got: String,
    /// The form where it has gone wrong.
    form: Option<String>,
}

/// An error of kinds in a run.
fn of_run(
    prepared: &Prepared,
    program: &Arc<SourceText>,
    tree: &Tree,
    types: &Types,
    limits: Limits,
) -> Option<Hole> {
    let trial = Trial {
        limits,
        ..Trial::of(prepared, program)
    };
    let ran = trial.run(Engine::Machine);
    let error = ran.error().filter(|error| KEPT_OUT.contains(&error.code))?;
    let at = error.place.as_ref().map(|place| place.span);
    Some(Hole {
        instead_of: "no error of kinds",
        got: error.in_one_line(),
        form: at.and_then(|span| {
            let language = prepared.language();
            let forms = forms_at(tree, span);
            let (&last, around) = forms.split_last()?;
            // What is at fault is an operand. Where it is what its type says, the form around
            // it wants more of it than its clause does.
            let is_operand = tree.node(last).span == span;
            let keeps = || is_as_promised(language, types, last, error);
            let blamed = match around.last() {
                Some(&outer) if is_operand && keeps() => outer,
                _ => last,
            };
            name_of(language, tree, blamed)
        }),
    })
}

/// Whether a value that an error of kinds speaks of is what the type of a node says.
fn is_as_promised(language: &Language, types: &Types, node: NodeId, error: &Diagnostic) -> bool {
    let Some(promised) = types.of_node(node) else {
        return false;
    };
    let promised = promised.described(language.definition());
    let got = error.detail("got");
    let is = |kind: &str| got.starts_with(kind);
    is(&promised) || promised == "a number" && is("an integer")
}

/// In a language that only has rules, to go wrong is to get stuck.
fn of_rules(language: &Language, program: &Arc<SourceText>) -> Option<Hole> {
    let reduction = reduce(language, program, Reading::Program, BOUNDS).value?;
    if !matches!(reduction.ended, Ended::Stuck(_)) {
        return None;
    }
    let last = reduction.steps.last()?;
    let source = SourceText::new("the last step", last.text.clone());
    let tree = language.tree(&source, Reading::Program).value;
    let place = tree.zip(last.marks.will_change);
    Some(Hole {
        instead_of: "a program that can be finished",
        got: format!("stuck: {}", last.text),
        form: place.and_then(|(tree, span)| {
            let forms = forms_at(&tree, span);
            let exact = forms.iter().find(|node| tree.node(**node).span == span);
            name_of(language, &tree, *exact.or(forms.last())?)
        }),
    })
}

/// The nodes of forms that cover a stretch of a program, the innermost last.
fn forms_at(tree: &Tree, span: Span) -> Vec<NodeId> {
    let covers = |node: &NodeId| {
        let own = tree.node(*node).span;
        own.start <= span.start && span.end <= own.end && tree.form(*node).is_some()
    };
    let path = tree.path(span.start);
    path.iter().map(|step| step.node).filter(covers).collect()
}

fn name_of(language: &Language, tree: &Tree, node: NodeId) -> Option<String> {
    let form = tree.form(node)?;
    Some(language.definition().forms[form].name.text.clone())
}
