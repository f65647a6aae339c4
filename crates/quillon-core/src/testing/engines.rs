//! What running a program comes to, and whether both engines come to the same.

use std::sync::Arc;

use super::expect::position;
use super::touched::Touched;
use super::{Compared, Difference};
use crate::definition::{Earlier, Given};
use crate::diagnostic::{Diagnostic, Diagnostics, Outcome, codes};
use crate::language::Prepared;
use crate::language::{Language, Reading};
use crate::meaning::Marks;
use crate::runtime::{Limits, Recorder, is_limit};
use crate::session::{Engine, Session};
use crate::source::{SourceText, Span};
use crate::tree::Tree;
use crate::values::Held;

/// A program to be run, with all that it finds.
#[derive(Clone, Debug)]
pub struct Trial<'a> {
    /// The language, with what its sessions begin with.
    pub prepared: Prepared,
    /// The program's text.
    pub program: Arc<SourceText>,
    /// The tree that is run instead, if it does not come from the text.
    pub tree: Option<Tree>,
    /// The sort that it is read as, if it is not the first entry that fits.
    pub sort: Option<&'a str>,
    /// Entries that are made before it, in the same session.
    pub after: &'a [Earlier],
    /// What it finds.
    pub given: &'a [Given],
    /// How far it may go.
    pub limits: Limits,
}

/// What running a program came to.
#[derive(Debug, Default)]
pub struct Ran {
    /// What it gave.
    pub value: Option<Held>,
    /// The errors it ended in: one, or all that a program is refused for.
    pub errors: Vec<Diagnostic>,
    /// All that it printed.
    pub printed: String,
    /// What the cells of the state held at the end.
    pub left: Vec<(String, Held)>,
    /// The cells of the state that it should find, and that there are not.
    pub no_cells: Vec<String>,
}

impl<'a> Trial<'a> {
    /// A program by itself, as the first entry that fits.
    pub fn of(prepared: &Prepared, program: &Arc<SourceText>) -> Trial<'a> {
        Trial {
            prepared: prepared.clone(),
            program: Arc::clone(program),
            tree: None,
            sort: None,
            after: &[],
            given: &[],
            limits: super::case_limits(),
        }
    }

    /// The language.
    pub fn language(&self) -> &Language {
        self.prepared.language()
    }

    /// How its text is read.
    pub(super) fn reading(&self) -> Reading<'a> {
        self.sort.map_or(Reading::Entry, Reading::Sort)
    }

    /// The tree that it starts from, or that its text has.
    pub(super) fn read(&self) -> Outcome<Tree> {
        match &self.tree {
            Some(tree) => Outcome {
                value: Some(tree.clone()),
                diagnostics: Vec::new(),
            },
            None => self.language().tree(&self.program, self.reading()),
        }
    }

    /// A session to run it in.
    pub(super) fn session(&self, engine: Engine) -> Result<Session<Recorder>, Diagnostics> {
        let session = self.prepared.session().engine(engine).limits(self.limits);
        session.start(Recorder::default())
    }

    /// Runs it by an engine.
    pub fn run(&self, engine: Engine) -> Ran {
        let mut ran = Ran::default();
        let mut session = match self.session(engine) {
            Ok(session) => session,
            Err(problems) => {
                ran.errors = problems.into();
                return ran;
            }
        };
        ran.no_cells = self.give(&mut session);
        ran.errors.extend(self.enter_before(&mut session));
        if !ran.errors.is_empty() {
            return ran;
        }
        session.host_mut().printed.clear();
        let outcome = match &self.tree {
            Some(tree) => session.run_tree(tree),
            None if self.after.is_empty() || self.sort.is_some() => {
                session.run_source(&self.program, self.reading())
            }
            None => session.enter_source(&self.program),
        };
        let cells = session.state();
        ran.left = cells.map(|(n, value)| (n.to_owned(), value)).collect();
        ran.value = outcome.value;
        ran.errors = outcome.diagnostics;
        ran.errors.retain(Diagnostic::is_error);
        ran.printed = session.into_host().printed;
        ran
    }

    /// Runs it by the walking evaluator and notes the branches it comes to; what is wrong with it.
    pub(super) fn touch(&self, touched: &mut Touched) -> Vec<Diagnostic> {
        let mut session = match self.session(Engine::Walk) {
            Ok(session) => session,
            Err(problems) => return problems.into(),
        };
        self.give(&mut session);
        if let Some(error) = self.enter_before(&mut session) {
            return vec![error];
        }
        session
            .watch(&self.program, Reading::Entry, Marks::Branches, touched)
            .diagnostics
    }

    /// Gives a session what the program finds; the cells that there are not.
    fn give(&self, session: &mut Session<Recorder>) -> Vec<String> {
        let mut no_cells = Vec::new();
        // A program ends the same way each time, also where chance plays a part.
        session.seed(0);
        for given in self.given {
            match given {
                Given::Input(text) => session.host_mut().input.push_str(text),
                Given::Seed(seed) => session.seed(*seed),
                Given::State(name, literal) => {
                    let value = Held::new(literal.clone());
                    if session.set_state(&name.text, value).is_err() {
                        no_cells.push(name.text.clone());
                    }
                }
            }
        }
        no_cells
    }

    /// Makes the entries before the program; the error of one that fails.
    pub(super) fn enter_before(&self, session: &mut Session<Recorder>) -> Option<Diagnostic> {
        for (number, entry) in self.after.iter().enumerate() {
            let source =
                SourceText::new(format!("entry {} before", number + 1), entry.text.clone());
            let outcome = session.enter_source(&source);
            let mut errors = outcome.diagnostics;
            errors.retain(Diagnostic::is_error);
            let is_as_wanted = match &entry.failing {
                Some(wanted) => errors.iter().any(|error| wanted.is(error)),
                None => errors.is_empty(),
            };
            if is_as_wanted {
                continue;
            }
            return errors.into_iter().next().or_else(|| {
                let message = format!(
                    "this entry should end in the error {}, and ends without one",
                    entry.failing.as_ref()?.written()
                );
                let whole = source.line_span(1);
                Some(Diagnostic::error(codes::CASE_SYNTAX, message).at(&source, whole))
            });
        }
        None
    }

    /// Where the engines do not agree, if `ran` is what the machine came to.
    pub(super) fn disagreements(&self, ran: &Ran, span: Span) -> Vec<Difference> {
        let walked = self.run(Engine::Walk);
        if ran.is_cut_short() || walked.is_cut_short() {
            return Vec::new();
        }
        let pairs = ran.traits().into_iter().zip(walked.traits());
        let differing = pairs.filter(|(machine, walk)| machine != walk);
        let differing: Vec<_> = differing.collect();
        // A program that looks at the clock never comes to the same.
        if differing.is_empty() || self.run(Engine::Machine).traits() != ran.traits() {
            return Vec::new();
        }
        let difference = |((what, machine), (_, walk))| Difference {
            what: Compared::Engines,
            expected: format!("{what} {walk}, as walked"),
            got: format!("{what} {machine}, by the machine"),
            span,
        };
        differing.into_iter().map(difference).collect()
    }
}

/// What the cells of the state hold before anything has run.
pub(super) fn initial_state(prepared: &Prepared) -> Vec<(String, Held)> {
    let session = prepared.session().limits(super::case_limits());
    let session = session.start(Recorder::default());
    session.map_or_else(
        |_| Vec::new(),
        |session| {
            session
                .state()
                .map(|(n, value)| (n.to_owned(), value))
                .collect()
        },
    )
}

impl Ran {
    /// All that engines must agree on, as texts with what they are.
    pub(crate) fn traits(&self) -> [(&'static str, String); 4] {
        [
            ("value", self.value_text()),
            (
                "error",
                self.errors.iter().map(told).collect::<Vec<_>>().join(", "),
            ),
            ("output", crate::diagnostic::quoted(&self.printed)),
            ("state", self.state_text()),
        ]
    }

    /// The first error it ended in, if any.
    pub fn error(&self) -> Option<&Diagnostic> {
        self.errors.first()
    }

    /// What it gave; nothing if it gave nothing at all.
    pub(super) fn value_text(&self) -> String {
        self.value.as_ref().map_or_else(String::new, Held::written)
    }

    /// What the cells of the state held at the end.
    pub(super) fn state_text(&self) -> String {
        let left = self.left.iter();
        let left: Vec<String> = left
            .map(|(name, value)| format!("{name} = {}", value.noted()))
            .collect();
        left.join(", ")
    }

    /// Whether a limit ended it, which each engine counts in its own way.
    pub fn is_cut_short(&self) -> bool {
        self.error().is_some_and(|error| is_limit(error.code))
    }
}

/// An error with its code, its message and its place.
fn told(error: &Diagnostic) -> String {
    let at = position(error).map_or_else(String::new, |at| at.to_string());
    format!("{}: {:?} at {at}", error.code.0, error.message)
}
