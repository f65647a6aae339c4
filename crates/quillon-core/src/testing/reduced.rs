//! Whether running a program and reducing it come to the same, in a language that has both.

use super::engines::{Ran, Trial};
use super::{Compared, Difference};
use crate::language::{Reading, Stage};
use crate::reduction::{Bounds, Ended, reduce};
use crate::runtime::Recorder;
use crate::session::{Engine, Session};
use crate::source::Span;

/// How far a reduction goes to be compared: each step looks at the whole program.
const BOUNDS: Bounds = Bounds {
    steps: 200,
    parts: 1000,
};

impl Trial<'_> {
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
        let reduction = reduce(language, &self.program, Reading::Entry, BOUNDS).value?;
        let found = match &reduction.ended {
            Ended::Limit | Ended::Size(_) | Ended::Cycle(_) => return None,
            Ended::Stuck(_) => None,
            Ended::Value => {
                let mut host = Recorder::default();
                let session = Session::of(Engine::Machine, self.prepared, self.limits, &mut host);
                let outcome = session.ok()?.run_tree(&reduction.last, &mut host);
                outcome.value
            }
        };
        let last = reduction.steps.last().map_or("", |step| step.text.as_str());
        let described = |value: Option<&crate::values::Held>| match value {
            // Functions are told apart by what they do.
            Some(value) if value.literal().is_none() => value.kind().described().to_owned(),
            Some(value) => value.written(),
            None => "an error".to_owned(),
        };
        let (run, reduced) = (described(ran.value.as_ref()), described(found.as_ref()));
        let type_error = ran.error.as_ref().is_some_and(|e| e.code.is_of_types());
        (run != reduced && !type_error).then(|| Difference {
            what: Compared::Meanings,
            expected: format!("{run}, as run"),
            got: format!("{reduced}, as reduced, to {last}"),
            span,
        })
    }
}
