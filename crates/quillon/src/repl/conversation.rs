//! A conversation with one language: its session, and what has been said in it.

use std::collections::VecDeque;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::{Duration, Instant};

use quillon_core::debugging;
use quillon_core::diagnostic::{Diagnostic, codes};
use quillon_core::printing::Brackets;
use quillon_core::source::SourceText;
use quillon_core::values::Held;
use quillon_core::{Engine, Language, Lost, Reading, Session};

use crate::args::Running;
use crate::host::{Recorded, Rehearsal, Terminal};
use crate::interrupts;
use crate::languages::{in_surface, load};
use crate::stop::Stop;
use crate::walk::{Walked, walk};

/// Before how many entries all is remembered, for `/undo`.
const REMEMBERED: usize = 50;

/// An entry that has been made and has not failed.
#[derive(Clone, Debug)]
pub struct Entry {
    pub text: String,
    /// What it read from standard input.
    pub input: String,
}

/// An entry with all that came of it.
pub struct Exchange {
    pub entry: Entry,
    pub source: Arc<SourceText>,
    /// What it gave; nothing if it failed.
    pub value: Option<Held>,
    pub printed: String,
    pub diagnostics: Vec<Diagnostic>,
    /// How long it took, from text to value.
    pub time: Duration,
    /// How many bytes all values took before and after.
    pub bytes: [usize; 2],
    /// What the cells of the state held before and after.
    pub state: [Vec<(String, String)>; 2],
    /// How many entries there were before it.
    pub before: usize,
}

/// A conversation with one language.
pub struct Conversation<'r> {
    pub definition: PathBuf,
    pub language: Language,
    /// The surface that entries are written in, if it is not the first.
    surface: Option<String>,
    pub session: Session<Terminal>,
    running: &'r Running,
    count: usize,
    /// Those that are still in force.
    pub entries: Vec<Entry>,
    /// What came of the latest of those, as many as can be taken back.
    exchanges: VecDeque<Exchange>,
    /// The last entry, if it failed.
    failed: Option<Exchange>,
}

impl<'r> Conversation<'r> {
    pub fn new(
        definition: &Path,
        running: &'r Running,
        live: bool,
    ) -> Result<Conversation<'r>, Stop> {
        let language = load(definition)?;
        if let Some(lack) = language.lacks(quillon_core::Stage::Tree) {
            return Err(Stop::Definition(vec![lack]));
        }
        let host = Terminal::recording(running.reach(&SourceText::new("entry", "")), live);
        let mut session = running.session(Engine::Machine, &language, host)?;
        session.remember(REMEMBERED);
        Ok(Conversation {
            definition: definition.to_owned(),
            language,
            surface: None,
            session,
            running,
            count: 0,
            entries: Vec::new(),
            exchanges: VecDeque::new(),
            failed: None,
        })
    }

    /// The language's name.
    pub fn name(&self) -> &str {
        &self.language.definition().name.text
    }

    /// A text under the name that messages have for it.
    pub fn source(&mut self, text: &str) -> Arc<SourceText> {
        self.count += 1;
        SourceText::new(format!("entry {}", self.count), text)
    }

    /// Gives what the next entry reads, in place of standard input.
    pub fn give(&mut self, input: &str) {
        self.session.host_mut().give(input);
    }

    /// Runs an entry.
    pub fn enter(&mut self, source: &Arc<SourceText>) -> Option<&Exchange> {
        interrupts::forget();
        self.session.host_mut().take_recorded();
        let state = self.state();
        let bytes = self.session.bytes();
        let start = Instant::now();
        let outcome = self.session.enter_source(source);
        let time = start.elapsed();
        let host = self.session.host_mut();
        host.flush();
        let Recorded { printed, input } = host.take_recorded();
        let entry = Entry {
            text: source.text().to_owned(),
            input,
        };
        let before = self.entries.len();
        let exchange = Exchange {
            entry: entry.clone(),
            source: Arc::clone(source),
            value: outcome.value,
            printed,
            diagnostics: outcome.diagnostics,
            time,
            bytes: [bytes, self.session.bytes()],
            state: [state, self.state()],
            before,
        };
        if exchange.value.is_some() {
            self.entries.push(entry);
            self.exchanges.push_back(exchange);
            self.failed = None;
            if self.exchanges.len() > REMEMBERED {
                self.exchanges.pop_front();
            }
        } else {
            self.failed = Some(exchange);
        }
        self.last()
    }

    /// The last entry that was made and not taken back.
    pub fn last(&self) -> Option<&Exchange> {
        self.failed.as_ref().or(self.exchanges.back())
    }

    fn state(&self) -> Vec<(String, String)> {
        let cells = self.session.state();
        cells
            .map(|(name, value)| (name.to_owned(), value.written()))
            .collect()
    }

    /// Goes back to before the last entry that did not fail; its text, if there is one.
    pub fn undo(&mut self) -> Option<String> {
        if !self.session.undo() {
            return None;
        }
        self.failed = None;
        self.exchanges.pop_back();
        Some(self.entries.pop()?.text)
    }

    /// Reads the definition again and goes on with it; what could not be kept.
    pub fn reload(&mut self) -> Result<Vec<Lost>, Stop> {
        let language = load(&self.definition)?;
        if let Some(lack) = language.lacks(quillon_core::Stage::Tree) {
            return Err(Stop::Definition(vec![lack]));
        }
        let language = match &self.surface {
            Some(name) => in_surface(&language, name)?,
            None => language,
        };
        self.go_on(language)
    }

    /// Goes on with a version of the language; what could not be kept.
    fn go_on(&mut self, language: Language) -> Result<Vec<Lost>, Stop> {
        let lost = self.session.reload(&language);
        let lost = lost.map_err(|problems| Stop::Definition(problems.into()))?;
        self.language = language;
        Ok(lost)
    }

    /// The surface that entries are written in, if it is not the first.
    pub fn surface(&self) -> Option<&str> {
        self.surface.as_deref()
    }

    /// Goes on in another surface of the language; the entries so far are written in it. What was
    /// done.
    pub fn speak(&mut self, name: &str) -> Result<String, Stop> {
        let whole = load(&self.definition)?;
        let language = in_surface(&whole, name)?;
        for entry in &mut self.entries {
            let source = SourceText::new("entry", entry.text.clone());
            let tree = self.language.tree(&source, Reading::Entry).value;
            let comments = self.language.comments(&source);
            let written = tree.and_then(|tree| {
                let tree = self.language.as_in(&tree, &language);
                let as_before = language.round_trip(&tree, &comments, Reading::Entry);
                as_before.ok()?;
                language.source_of(&tree, Brackets::Fewest, &comments)
            });
            // What cannot be written there stays as it is.
            if let Some(text) = written {
                text.trim_end().clone_into(&mut entry.text);
            }
        }
        self.go_on(language)?;
        let is_first = name == whole.definition().name.text;
        self.surface = (!is_first).then(|| name.to_owned());
        Ok(format!("now it is written as {name}"))
    }

    /// A copy of the session as it was after a number of entries, in which a run can be watched;
    /// what that prints is lost, and it reads this input.
    pub fn rehearsal(
        &self,
        entries: usize,
        input: &str,
    ) -> Result<Session<Rehearsal>, Box<Diagnostic>> {
        let reach = self.running.reading_only(&SourceText::new("entry", ""));
        let back = self.entries.len().saturating_sub(entries);
        self.session.rehearsal(Rehearsal::new(reach, input), back)
    }

    /// Walks through an entry in the terminal, or through the last one.
    ///
    /// # Errors
    /// That there is none, what is wrong with it, or that there is no terminal.
    pub fn walk(&mut self, text: &str) -> Result<(), Stop> {
        let source = match (text, self.last()) {
            ("", None) => {
                let problem = Diagnostic::error(codes::USAGE, "there is no entry yet");
                return Err(Stop::Usage(Box::new(
                    problem.remedy("write one after `/debug`"),
                )));
            }
            ("", Some(last)) => Arc::clone(&last.source),
            (text, _) => self.source(text),
        };
        // The last entry finds all as it was before it; one that has failed has left nothing.
        let is_made = text.is_empty() && self.failed.is_none();
        let compiled = self
            .language
            .compiled(&source, self.session.around(), Reading::Entry);
        if compiled.has_errors() {
            return Err(Stop::Definition(compiled.diagnostics));
        }
        let builder = self.running.builder(&self.language)?;
        let lines = debugging::lines(&builder, &source, Reading::Entry, self.session.around());
        let read = self.entries.last().filter(|_| is_made);
        let walked = Walked {
            language: &self.language,
            source: &source,
            lines: lines.into_iter().collect(),
            reach: self.running.reading_only(&SourceText::new("entry", "")),
            given: read.map_or_else(String::new, |entry| entry.input.clone()),
            asks: true,
        };
        let session = &self.session;
        walk(walked, |host, guide| {
            debugging::walk_entry(session, usize::from(is_made), &source, host, guide);
        })?;
        Ok(())
    }
}
