//! The smallest example of a form that has none.

use rustc_hash::FxHashSet;

use super::accept::ending_of;
use super::coverage::{ItemKind, Survey};
use super::engines::Trial;
use super::expect::clause_of;
use super::keep::block;
use crate::definition::Expected;
use crate::language::{Language, Stage};
use crate::runtime::Limits;
use crate::session::Engine;
use crate::source::SourceText;
use crate::tree::one_line;
use crate::values::Held;

/// The clause with an example of a form, with what the program now comes to; nothing if no small
/// program is found that has the form in it. This tries hundreds of programs.
pub fn smallest_example(language: &Language, form: &str, limits: Limits) -> Option<String> {
    let survey = Survey::new(language);
    let is_form = |at: &usize| {
        let item = &survey.items()[*at];
        item.kind == ItemKind::Form && item.name == form
    };
    let wanted: FxHashSet<usize> = (0..survey.items().len()).filter(is_form).collect();
    let program = survey.smallest(&wanted)?;
    let mut out = block("example", &program);
    let source = SourceText::new("example", program);
    let expectation = if language.lacks(Stage::Meaning).is_some() {
        let tree = language.tree(&source, crate::Reading::Entry).value?;
        let line = one_line(language.definition(), language.lexer(), &tree);
        vec![format!("tree {line}")]
    } else {
        let trial = Trial {
            limits,
            ..Trial::of(survey.prepared(), &source)
        };
        let ran = trial.run(Engine::Machine);
        let printed = (!ran.printed.is_empty()).then(|| Expected::Prints(ran.printed.clone()));
        let is_nothing = ran.value.as_ref().is_some_and(Held::is_nothing);
        let ending = ending_of(&ran).filter(|_| printed.is_none() || !is_nothing);
        let clauses = printed.iter().chain(&ending);
        clauses.filter_map(clause_of).collect()
    };
    for clause in expectation {
        out.push_str("    ");
        out.push_str(&clause);
        out.push('\n');
    }
    Some(out)
}
