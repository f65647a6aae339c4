//! What went wrong, as data: no layout, no colour. The command line decides how a
//! diagnostic looks; tools read it as JSON.

use std::sync::Arc;

use serde::ser::{Serialize, SerializeStruct, Serializer};

use crate::source::{SourceText, Span};

pub mod codes;
mod nearest;
mod words;

pub use codes::Code;
pub use nearest::nearest;
pub(crate) use words::{article, escape, humanise, one_of};
pub use words::{plural, quote, quoted};

/// How bad it is.
#[derive(Clone, Copy, PartialEq, Eq, Debug, serde::Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Severity {
    /// The work asked for cannot be done.
    Error,
    /// It can be done, and is probably not what was meant.
    Warning,
    /// Something worth knowing.
    Note,
}

impl Severity {
    /// The word shown to a person.
    pub fn word(self) -> &'static str {
        match self {
            Severity::Error => "error",
            Severity::Warning => "warning",
            Severity::Note => "note",
        }
    }
}

/// A stretch of one source text.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Place {
    /// The text.
    pub source: Arc<SourceText>,
    /// Where in it.
    pub span: Span,
}

impl Place {
    /// A place in a text; of one put together, the place in the file it comes from.
    pub fn new(source: &Arc<SourceText>, span: Span) -> Place {
        let (source, span) = source.origin(span);
        Place { source, span }
    }
}

impl Serialize for Place {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let start = self.source.position(self.span.start);
        let end = self.source.position(self.span.end);
        let mut out = serializer.serialize_struct("Place", 8)?;
        out.serialize_field("file", self.source.name())?;
        out.serialize_field("line", &start.line)?;
        out.serialize_field("column", &start.column)?;
        out.serialize_field("endLine", &end.line)?;
        out.serialize_field("endColumn", &end.column)?;
        out.serialize_field("start", &self.span.start)?;
        out.serialize_field("end", &self.span.end)?;
        out.serialize_field("text", self.source.slice(self.span))?;
        out.end()
    }
}

/// Another place that has to do with it, and how.
#[derive(Clone, PartialEq, Eq, Debug, serde::Serialize)]
pub struct Related {
    /// Where.
    pub place: Place,
    /// What is there, in a few words.
    pub label: String,
}

/// One thing that went wrong: what, where, why, and what to try.
#[derive(Clone, PartialEq, Eq, Debug, serde::Serialize)]
pub struct Diagnostic {
    /// How bad it is.
    pub severity: Severity,
    /// A stable code, the same in every version.
    pub code: Code,
    /// What is wrong, as one sentence without a full stop.
    pub message: String,
    /// Where it is wrong.
    pub place: Option<Place>,
    /// A few words to stand at the place itself.
    pub label: Option<String>,
    /// Other places that have to do with it.
    pub related: Vec<Related>,
    /// The cause, where the message does not already say it.
    pub why: Vec<String>,
    /// What would mend it.
    #[serde(rename = "try")]
    pub remedies: Vec<String>,
    /// The calls that were running, innermost first, for an error of a run.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub calls: Vec<CallSite>,
    /// How many calls are left out, and after how many of those above.
    #[serde(rename = "callsLeftOut", skip_serializing_if = "Option::is_none")]
    pub calls_left_out: Option<LeftOut>,
    /// Parts of the message by name, for a definition that words it otherwise.
    #[serde(skip)]
    details: Vec<(&'static str, String)>,
    /// What a remedy changes in the text, where that is known.
    #[serde(skip)]
    mend: Option<Meant>,
    /// Whether a definition has worded it.
    #[serde(skip)]
    pub(crate) is_reworded: bool,
    /// The error of the program around the run that it comes from, if it comes from one.
    #[serde(skip)]
    cause: Option<Cause>,
}

/// An error that is behind another.
#[derive(Clone, Debug)]
pub(crate) struct Cause(pub Arc<dyn std::error::Error + Send + Sync>);

impl PartialEq for Cause {
    fn eq(&self, other: &Cause) -> bool {
        Arc::ptr_eq(&self.0, &other.0)
    }
}

impl Eq for Cause {}

/// A change of a text that mends something in it.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Mend {
    /// What goes away; an empty stretch where nothing does.
    pub place: Place,
    /// What comes in its place.
    pub text: String,
}

/// A change that a remedy speaks of: of the place of the diagnostic, if none is given.
#[derive(Clone, PartialEq, Eq, Debug)]
struct Meant {
    span: Option<Span>,
    text: String,
}

/// One call on the way to a run error.
#[derive(Clone, PartialEq, Eq, Debug, serde::Serialize)]
pub struct CallSite {
    /// The function called, as the program names it.
    pub function: String,
    /// Where it was called.
    pub place: Place,
    /// How many times in a row the same call was on the way.
    pub times: u32,
}

/// Calls that are not listed, since there are too many.
#[derive(Clone, Copy, PartialEq, Eq, Debug, serde::Serialize)]
pub struct LeftOut {
    /// After how many of those listed.
    pub after: usize,
    /// How many.
    pub count: u32,
}

/// The detail of what could be left out.
const OF_NO_USE: &str = "of no use";

impl Diagnostic {
    fn new(severity: Severity, code: Code, message: impl Into<String>) -> Diagnostic {
        Diagnostic {
            severity,
            code,
            message: message.into(),
            place: None,
            label: None,
            related: Vec::new(),
            why: Vec::new(),
            remedies: Vec::new(),
            calls: Vec::new(),
            calls_left_out: None,
            details: Vec::new(),
            mend: None,
            is_reworded: false,
            cause: None,
        }
    }

    /// Keeps the error that it comes from.
    #[must_use]
    pub(crate) fn caused_by(mut self, cause: Option<Cause>) -> Diagnostic {
        self.cause = cause;
        self
    }

    /// Adds a part of the message by name.
    #[must_use]
    pub(crate) fn with_detail(mut self, name: &'static str, text: impl Into<String>) -> Diagnostic {
        self.details.push((name, text.into()));
        self
    }

    /// The parts of the message by name.
    pub(crate) fn details(&self) -> &[(&'static str, String)] {
        &self.details
    }

    /// A part of the message; empty if there is none of the name.
    pub(crate) fn detail(&self, name: &str) -> &str {
        let found = self.details.iter().find(|(known, _)| *known == name);
        found.map_or("", |(_, text)| text)
    }

    /// An error.
    pub fn error(code: Code, message: impl Into<String>) -> Diagnostic {
        Diagnostic::new(Severity::Error, code, message)
    }

    /// A warning.
    pub fn warning(code: Code, message: impl Into<String>) -> Diagnostic {
        Diagnostic::new(Severity::Warning, code, message)
    }

    /// A note.
    pub fn note(code: Code, message: impl Into<String>) -> Diagnostic {
        Diagnostic::new(Severity::Note, code, message)
    }

    /// The message and the place, for another message to quote.
    pub fn in_one_line(&self) -> String {
        match &self.place {
            Some(place) => format!(
                "{} at {}:{}",
                self.message,
                place.source.name(),
                place.source.position(place.span.start)
            ),
            None => self.message.clone(),
        }
    }

    /// Says where.
    #[must_use]
    pub fn at(mut self, source: &Arc<SourceText>, span: Span) -> Diagnostic {
        self.place = Some(Place::new(source, span));
        self
    }

    /// Puts a few words at the place.
    #[must_use]
    pub fn label(mut self, label: impl Into<String>) -> Diagnostic {
        self.label = Some(label.into());
        self
    }

    /// Adds another place.
    #[must_use]
    pub fn related(
        mut self,
        source: &Arc<SourceText>,
        span: Span,
        label: impl Into<String>,
    ) -> Diagnostic {
        self.related.push(Related {
            place: Place::new(source, span),
            label: label.into(),
        });
        self
    }

    /// Adds a cause.
    #[must_use]
    pub fn why(mut self, why: impl Into<String>) -> Diagnostic {
        self.why.push(why.into());
        self
    }

    /// Adds a remedy.
    #[must_use]
    pub fn remedy(mut self, remedy: impl Into<String>) -> Diagnostic {
        self.remedies.push(remedy.into());
        self
    }

    /// Says that what stands at its place could as well be left out.
    #[must_use]
    pub(crate) fn of_no_use(self) -> Diagnostic {
        self.with_detail(OF_NO_USE, "")
    }

    /// Whether what stands at its place could as well be left out.
    pub fn is_of_no_use(&self) -> bool {
        self.details.iter().any(|(name, _)| *name == OF_NO_USE)
    }

    /// Adds "did you mean" when there is something near.
    #[must_use]
    pub fn did_you_mean(mut self, near: Option<&str>) -> Diagnostic {
        let Some(near) = near else {
            return self;
        };
        self.mend.get_or_insert(Meant {
            span: None,
            text: near.to_owned(),
        });
        self.remedy(format!("did you mean {}?", quote(near)))
    }

    /// Says what its remedy puts in place of a stretch of its text.
    #[must_use]
    pub(crate) fn mended_by(mut self, span: Span, text: impl Into<String>) -> Diagnostic {
        self.mend = Some(Meant {
            span: Some(span),
            text: text.into(),
        });
        self
    }

    /// What would mend it, where one change of the text would.
    pub fn mend(&self) -> Option<Mend> {
        let (meant, place) = self.mend.as_ref().zip(self.place.as_ref())?;
        if let Some(span) = meant.span {
            return Some(Mend {
                place: Place::new(&place.source, span),
                text: meant.text.clone(),
            });
        }
        // What is near a word stands for that word, and not for more.
        let wrong = place.source.slice(place.span);
        nearest(wrong, [&meant.text[..]])?;
        Some(Mend {
            place: place.clone(),
            text: meant.text.clone(),
        })
    }

    /// Changes every text that people read of it.
    pub(crate) fn each_text(&mut self, mut change: impl FnMut(&mut String)) {
        change(&mut self.message);
        self.label.iter_mut().for_each(&mut change);
        self.why.iter_mut().for_each(&mut change);
        self.remedies.iter_mut().for_each(&mut change);
        self.related
            .iter_mut()
            .for_each(|one| change(&mut one.label));
        self.details.iter_mut().for_each(|(_, text)| change(text));
    }

    /// Where it starts in its text, to sort by: what has no place comes last.
    pub(crate) fn start(&self) -> u32 {
        let place = self.place.as_ref();
        place.map_or(u32::MAX, |place| place.span.start)
    }

    /// Whether it is an error.
    pub fn is_error(&self) -> bool {
        self.severity == Severity::Error
    }
}

impl std::fmt::Display for Diagnostic {
    /// The message and the place, in one line.
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&self.in_one_line())
    }
}

impl std::error::Error for Diagnostic {
    fn source(&self) -> Option<&(dyn std::error::Error + 'static)> {
        let cause = self.cause.as_ref()?;
        Some(&*cause.0)
    }
}

/// Everything that was said where something did not come about, as one error.
#[derive(Clone, PartialEq, Eq, Default, Debug)]
pub struct Diagnostics(pub Vec<Diagnostic>);

impl std::fmt::Display for Diagnostics {
    /// The errors, a line each.
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let errors = self.0.iter().filter(|one| one.is_error());
        for (number, one) in errors.enumerate() {
            let between = if number == 0 { "" } else { "\n" };
            write!(f, "{between}{one}")?;
        }
        Ok(())
    }
}

impl Diagnostics {
    /// What the first of them says.
    pub fn first_message(&self) -> &str {
        self.0.first().map_or("", |one| &one.message)
    }
}

impl std::error::Error for Diagnostics {
    /// What is behind the first error.
    fn source(&self) -> Option<&(dyn std::error::Error + 'static)> {
        self.0.iter().find(|one| one.is_error())?.source()
    }
}

impl From<Diagnostic> for Diagnostics {
    fn from(one: Diagnostic) -> Diagnostics {
        Diagnostics(vec![one])
    }
}

impl From<Box<Diagnostic>> for Diagnostics {
    fn from(one: Box<Diagnostic>) -> Diagnostics {
        Diagnostics(vec![*one])
    }
}

impl std::ops::Deref for Diagnostics {
    type Target = [Diagnostic];

    fn deref(&self) -> &[Diagnostic] {
        &self.0
    }
}

impl From<Diagnostics> for Vec<Diagnostic> {
    fn from(all: Diagnostics) -> Vec<Diagnostic> {
        all.0
    }
}

impl IntoIterator for Diagnostics {
    type Item = Diagnostic;
    type IntoIter = std::vec::IntoIter<Diagnostic>;

    fn into_iter(self) -> Self::IntoIter {
        self.0.into_iter()
    }
}

/// A stage's result with everything it had to say.
#[derive(Clone, Debug)]
pub struct Outcome<T> {
    /// What came of it; missing when an error left nothing to go on with.
    pub value: Option<T>,
    /// Errors, warnings and notes, in the order of the text.
    pub diagnostics: Vec<Diagnostic>,
}

impl<T> Outcome<T> {
    /// Nothing came of it.
    pub fn failed(diagnostics: Vec<Diagnostic>) -> Outcome<T> {
        Outcome {
            value: None,
            diagnostics,
        }
    }

    /// Whether any of the diagnostics is an error.
    pub fn has_errors(&self) -> bool {
        has_errors(&self.diagnostics)
    }

    /// The value, or why there is none. What is said beside a value is left out.
    pub fn into_result(self) -> Result<T, Diagnostics> {
        let failed = self.has_errors();
        match self.value {
            Some(value) if !failed => Ok(value),
            _ => Err(Diagnostics(self.diagnostics)),
        }
    }
}

/// Whether any of these is an error.
pub fn has_errors(diagnostics: &[Diagnostic]) -> bool {
    diagnostics.iter().any(Diagnostic::is_error)
}
