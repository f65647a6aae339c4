//! What takes longer than an editor waits, done by threads beside the server. Each tells the queue what
//! it has come to; programs are run with limits, and without files.

use std::panic::{AssertUnwindSafe, catch_unwind};
use std::sync::Arc;
use std::sync::mpsc::SyncSender;
use std::time::Duration;

use lsp_server::RequestId;
use lsp_types::Uri;
use quillon_core::definition::Example;
use quillon_core::diagnostic::Diagnostic;
use quillon_core::native_stack::on_deep_stack;
use quillon_core::runtime::{Limits, Recorder};
use quillon_core::source::SourceText;
use quillon_core::testing::{CaseResult, case_limits, run_case, smallest_example};
use quillon_core::{Language, Prepared, Reading};

use super::Incoming;

/// How long a program may run that an editor has started.
const LONGEST_RUN: Duration = Duration::from_secs(10);

/// How long texts with two readings are looked for.
const SEARCH: Duration = Duration::from_millis(1500);

/// An errand that is over.
pub struct Done {
    /// The text it was about.
    pub uri: Uri,
    /// The text as it was then.
    pub source: Arc<SourceText>,
    /// The request to be answered by it, if it was asked for.
    pub request: Option<RequestId>,
    pub came: Came,
}

/// What an errand has come to.
pub enum Came {
    /// A program has been run.
    Ran(Ending),
    /// A case has been run.
    Case(Box<CaseResult>),
    /// Texts of the language with two readings.
    Readings(Vec<Diagnostic>),
    /// An example of a form.
    Example(String, Option<String>),
    /// Nothing: there is a mistake in this program.
    Broke,
}

/// How a run has ended.
pub struct Ending {
    /// What it gave, as the language shows it.
    pub value: Option<String>,
    pub printed: String,
    pub errors: Vec<String>,
}

/// Sends errands on their way.
pub struct Errands(pub SyncSender<Incoming>);

impl Errands {
    fn send(
        &self,
        uri: Uri,
        source: Arc<SourceText>,
        request: Option<RequestId>,
        work: impl FnOnce(&Arc<SourceText>) -> Came + Send + 'static,
    ) {
        let back = self.0.clone();
        std::thread::spawn(move || {
            // What breaks is answered like what does not, so that nobody waits for it.
            let work = AssertUnwindSafe(|| on_deep_stack(|| work(&source)));
            let came = catch_unwind(work).unwrap_or(Came::Broke);
            // When the server is over, nobody wants to know.
            drop(back.send(Incoming::Done(Box::new(Done {
                uri,
                source,
                request,
                came,
            }))));
        });
    }

    pub fn run(&self, uri: Uri, source: Arc<SourceText>, language: Language, request: RequestId) {
        self.send(uri, source, Some(request), move |source| {
            Came::Ran(ran(&language, source))
        });
    }

    pub fn case(
        &self,
        uri: Uri,
        source: Arc<SourceText>,
        language: Language,
        case: Example,
        request: RequestId,
    ) {
        self.send(uri, source, Some(request), move |source| {
            let prepared = Prepared::new(&language);
            let result = run_case(&prepared, source, &case, case_limits());
            Came::Case(Box::new(result))
        });
    }

    /// Looks for texts that can be read in two ways.
    pub fn readings(&self, uri: Uri, language: Language) {
        let source = Arc::clone(&language.definition().source);
        self.send(uri, source, None, move |_| {
            Came::Readings(language.ambiguities(SEARCH).diagnostics)
        });
    }

    /// Looks for the smallest example of a form.
    pub fn example(
        &self,
        uri: Uri,
        source: Arc<SourceText>,
        language: Language,
        form: String,
        request: RequestId,
    ) {
        self.send(uri, source, Some(request), move |_| {
            let clause = smallest_example(&language, &form, case_limits());
            Came::Example(form, clause)
        });
    }
}

fn ran(language: &Language, source: &Arc<SourceText>) -> Ending {
    let limits = Limits {
        steps: None,
        time: Some(LONGEST_RUN),
        ..case_limits()
    };
    let session = language.session().limits(limits);
    let told = |diagnostics: Vec<Diagnostic>| -> Vec<String> {
        let errors = diagnostics.into_iter().filter(Diagnostic::is_error);
        errors.map(|one| one.message).collect()
    };
    match session.start(Recorder::default()) {
        Ok(mut session) => {
            let outcome = session.run_source(source, Reading::Program);
            let value = outcome.value.filter(|value| !value.is_nothing());
            Ending {
                value: value.map(|value| value.shown()),
                errors: told(outcome.diagnostics),
                printed: session.into_host().printed,
            }
        }
        Err(problems) => Ending {
            value: None,
            printed: String::new(),
            errors: told(problems.into()),
        },
    }
}

impl Ending {
    /// What has come of it, in one line.
    pub fn outline(&self) -> String {
        let printed = match self.printed.lines().count() {
            0 => None,
            1 => Some(format!("printed {}", self.printed.trim_end())),
            lines => Some(format!("printed {lines} lines")),
        };
        let value = self.value.as_ref().map(|value| format!("gave {value}"));
        let wrong = self.errors.first().map(|error| format!("failed: {error}"));
        let parts: Vec<String> = [printed, value, wrong].into_iter().flatten().collect();
        if parts.is_empty() {
            "gave nothing".to_owned()
        } else {
            parts.join(", ")
        }
    }
}

#[cfg(test)]
mod tests {
    use std::sync::mpsc::sync_channel;

    use super::*;

    #[test]
    fn an_errand_that_breaks_is_answered() {
        let (to, from) = sync_channel(1);
        let uri: Uri = "file:///gate.tow".parse().expect("an address");
        let source = SourceText::new("gate.tow", "say 1");
        let id = RequestId::from(7);
        Errands(to).send(uri, source, Some(id.clone()), |_| panic!("on purpose"));
        let Ok(Incoming::Done(done)) = from.recv() else {
            panic!("nothing came back");
        };
        assert!(matches!(done.came, Came::Broke));
        assert_eq!(done.request, Some(id));
    }
}
