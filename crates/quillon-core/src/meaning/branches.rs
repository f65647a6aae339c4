//! The branches of all meanings of a definition: what a program may or may not come to.

use crate::definition::{Definition, Template, TemplateKind as T};
use crate::source::Span;

/// What a branch is.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum BranchKind {
    /// What is done when a condition holds.
    Then,
    /// What is done when it does not.
    Else,
    /// One arm of a `match`.
    Arm,
    /// A turn of a `while`.
    Turn,
    /// What is done when an `attempt` fails.
    Rescue,
    /// An error of the definition's own.
    Fault,
}

/// A branch of a meaning.
#[derive(Clone, Debug)]
pub struct Branch {
    /// What it is.
    pub kind: BranchKind,
    /// Where it stands in the definition; an `else` that is not written stands after the
    /// condition.
    pub span: Span,
    /// The form, the helper or the built-in thing whose meaning it belongs to.
    pub of: String,
}

/// Every branch of every meaning, in the order of the definition. An arm that is nothing but an
/// error is one branch, not two.
pub(crate) fn branches(definition: &Definition) -> Vec<Branch> {
    let forms = definition.forms.iter();
    let forms = forms.filter_map(|form| Some((&form.name.text, form.means.as_ref()?)));
    let helpers = definition.helpers.iter();
    let helpers = helpers.map(|helper| (&helper.name.text, &helper.body));
    let provided = definition.provides.iter();
    let provided = provided.map(|provided| (&provided.name.text, &provided.means));
    let mut found = Vec::new();
    for (of, means) in forms.chain(helpers).chain(provided) {
        collect(of, means, &mut found);
    }
    found.sort_by_key(|branch| (branch.span.start, std::cmp::Reverse(branch.span.end)));
    found.dedup_by_key(|branch| branch.span);
    found
}

fn collect(of: &str, means: &Template, found: &mut Vec<Branch>) {
    let mut work = vec![means];
    while let Some(template) = work.pop() {
        let mut add = |kind: BranchKind, span: Span| {
            found.push(Branch {
                kind,
                span,
                of: of.to_owned(),
            });
        };
        match &template.kind {
            T::If(test, yes, no) => {
                add(BranchKind::Then, yes.span);
                let no = no.as_ref().map_or(test.span.after(), |no| no.span);
                add(BranchKind::Else, no);
            }
            T::Match(_, arms) => {
                for arm in arms {
                    add(BranchKind::Arm, arm.body.span);
                }
            }
            T::While(_, body) => add(BranchKind::Turn, body.span),
            T::Attempt(_, _, rescue) => add(BranchKind::Rescue, rescue.span),
            T::Fault(..) => add(BranchKind::Fault, template.span),
            _ => {}
        }
        template.each_part(&mut |part| work.push(part));
    }
}
