//! What programs are rewritten to, and whether running them comes to the same, in a language
//! that has both meanings.

use super::engines::{Ran, Trial};
use super::expect::spelt;
use super::{CaseResult, Compared, Difference};
use crate::definition::{Expectation, Expected};
use crate::diagnostic::{Diagnostic, quote};
use crate::language::{Language, Reading, Stage};
use crate::printing::{Brackets, Comments};
use crate::reduction::{Bounds, Ended, Kept, Reduction, reduce};
use crate::session::Engine;
use crate::source::{SourceText, Span};

/// How far a reduction goes to be compared, of which only the end is looked at: each step looks at the whole
/// program.
pub(super) const BOUNDS: Bounds = Bounds {
    steps: 200,
    parts: 1000,
    kept: Kept::Last,
};

/// What a program has been rewritten to.
pub(super) struct Reduced(Reduction);

impl Reduced {
    /// The last program, or the part of it on which no rule can be used.
    fn text(&self) -> &str {
        let Some(last) = self.0.steps.last() else {
            return "";
        };
        match (&self.0.ended, last.marks.will_change) {
            (Ended::Stuck(_), Some(span)) => &last.text[span.start as usize..span.end as usize],
            _ => &last.text,
        }
    }

    /// What a case can expect of it; nothing where it goes on without end.
    pub fn expected(&self) -> Option<Expected> {
        let text = self.text().to_owned();
        match self.0.ended {
            Ended::Value => Some(Expected::Reduces(text)),
            Ended::Stuck(_) => Some(Expected::Stuck(text)),
            Ended::Limit | Ended::Size(_) | Ended::Depth(_) | Ended::Cycle(_) => None,
        }
    }

    /// What has come of it, in words.
    fn shown(&self) -> String {
        let text = quote(self.text());
        match self.0.ended {
            Ended::Value => text,
            Ended::Stuck(_) => format!("stuck at {text}"),
            Ended::Cycle(_) => format!("no end: it comes round to {text}"),
            Ended::Limit | Ended::Size(_) | Ended::Depth(_) => {
                format!("no end in sight, at {text}")
            }
        }
    }
}

/// A program as it is printed: without its own blanks and brackets.
fn printed(language: &Language, text: &str) -> Result<String, Vec<Diagnostic>> {
    let source = SourceText::new("what is expected", text.to_owned());
    let tree = language.tree(&source, Reading::Entry).into_result()?;
    let printed = language.source_of(&tree, Brackets::Fewest, &Comments::default());
    Ok(printed.map_or_else(|| text.to_owned(), |text| text.trim_end().to_owned()))
}

impl CaseResult {
    /// Compares what a program is rewritten to.
    pub(super) fn check_reduction(&mut self, trial: &Trial<'_>, expectation: &Expectation) {
        let (Expected::Reduces(wanted) | Expected::Stuck(wanted)) = &expectation.expected else {
            return;
        };
        let language = trial.language();
        if let Some(lack) = language.lacks(Stage::Reduction) {
            self.diagnostics.push(lack);
            return;
        }
        let reduced = match trial.reduced() {
            Ok(reduced) => reduced,
            Err(problems) => {
                self.diagnostics.extend(problems);
                return;
            }
        };
        let wanted = match printed(language, wanted) {
            Ok(wanted) => wanted,
            // A part may be none that can stand alone.
            Err(_) if matches!(expectation.expected, Expected::Stuck(_)) => wanted.clone(),
            Err(problems) => {
                self.diagnostics.extend(problems);
                return;
            }
        };
        let as_wanted = match (&expectation.expected, reduced.expected()) {
            (Expected::Reduces(_), Some(Expected::Reduces(text)))
            | (Expected::Stuck(_), Some(Expected::Stuck(text))) => text == wanted,
            _ => false,
        };
        if !as_wanted {
            let wanted = spelt(&self.source, expectation);
            let wanted = match expectation.expected {
                Expected::Stuck(_) => format!("stuck at {wanted}"),
                _ => wanted,
            };
            self.differs(expectation, wanted, reduced.shown());
        }
    }
}

impl Trial<'_> {
    /// What the program is rewritten to, or why it is not.
    pub(super) fn reduced(&self) -> Result<Reduced, Vec<Diagnostic>> {
        let bounds = Bounds {
            kept: Kept::Last,
            ..Bounds::default()
        };
        let outcome = reduce(self.language(), &self.program, self.reading(), bounds);
        outcome.value.map(Reduced).ok_or(outcome.diagnostics)
    }

    /// What a run came to, against what the reduction does: a program that reduction
    /// finishes gives the value of what it is then, and one that gets stuck ends in an error.
    /// What prints, or finds something, or goes on for long, is passed over.
    pub(super) fn reduced_otherwise(&self, ran: &Ran, span: Span) -> Option<Difference> {
        let language = self.language();
        let lacks = |stage| language.lacks(stage).is_some();
        let is_alone = self.tree.is_none() && self.after.is_empty() && self.given.is_empty();
        if lacks(Stage::Reduction) || lacks(Stage::Meaning) || !is_alone {
            return None;
        }
        if ran.is_cut_short() || !ran.printed.is_empty() {
            return None;
        }
        let reduction = reduce(language, &self.program, self.reading(), BOUNDS).value?;
        let found = match &reduction.ended {
            Ended::Limit | Ended::Size(_) | Ended::Depth(_) | Ended::Cycle(_) => return None,
            Ended::Stuck(_) => None,
            Ended::Value => {
                let session = self.session(Engine::Machine);
                session.ok()?.run_tree(&reduction.last).value
            }
        };
        let last = reduction.steps.last().map_or("", |step| step.text.as_str());
        let described = |value: Option<&crate::values::Held>| match value {
            // Functions are told apart by what they do.
            Some(value) if value.literal().is_none() => value.kind().described().to_owned(),
            Some(value) => value.noted(),
            None => "an error".to_owned(),
        };
        let (run, reduced) = (described(ran.value.as_ref()), described(found.as_ref()));
        let type_error = ran.error().is_some_and(|e| e.code.is_of_types());
        (run != reduced && !type_error).then(|| Difference {
            what: Compared::Meanings,
            expected: format!("{run}, as run"),
            got: format!("{reduced}, as reduced, to {last}"),
            span,
        })
    }
}
