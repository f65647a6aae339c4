//! What the server knows: the texts that are open, the languages they are in, and what has been found
//! in them.

use std::cell::OnceCell;
use std::collections::{BTreeSet, HashMap};
use std::path::{Path, PathBuf};
use std::rc::Rc;
use std::sync::Arc;
use std::time::{Duration, Instant};

use lsp_server::{Message, Notification, Request};
use lsp_types::notification::{PublishDiagnostics, ShowMessage};
use lsp_types::request::{InlayHintRefreshRequest, Request as _};
use lsp_types::{
    DidChangeTextDocumentParams, DidChangeWatchedFilesParams, DidCloseTextDocumentParams,
    DidOpenTextDocumentParams, MessageType, PublishDiagnosticsParams, ShowMessageParams, Uri,
};
use quillon_core::Language;
use quillon_core::definition::read_cases;
use quillon_core::diagnostic::Diagnostic;
use quillon_core::editing::Looked;
use quillon_core::source::SourceText;
use quillon_core::testing::CaseResult;
use serde::de::DeserializeOwned;

use super::examples::Examples;
use super::positions::Unit;
use super::telling;
use super::texts::{Sort, Text, path_of};
use crate::files;

/// A language as its definition is, and as it was when that was last right.
struct Known {
    text: String,
    language: Option<Language>,
    diagnostics: Vec<Diagnostic>,
    /// What is hardly meant, once it has been looked for.
    advice: OnceCell<Vec<Diagnostic>>,
}

/// The server.
pub struct Server {
    send: fn(&Message),
    pub unit: Unit,
    pub texts: HashMap<Uri, Text>,
    known: HashMap<PathBuf, Known>,
    /// The definition that reads each program.
    reading: HashMap<PathBuf, PathBuf>,
    looked: HashMap<Uri, Rc<Looked>>,
    /// The examples of texts that are run, or have been.
    examples: HashMap<Uri, Examples>,
    /// Those that are not over.
    running: Vec<Uri>,
    /// Whether the editor can be asked to ask for hints again.
    pub refreshes_hints: bool,
    /// Texts that are still to be looked through.
    changed: BTreeSet<String>,
    /// Programs whose Core is still to be made.
    deeper: BTreeSet<String>,
    /// Programs in which making the Core has last told something.
    wrong_in_core: BTreeSet<String>,
    /// The broken definitions that the editor has been told of.
    told: BTreeSet<PathBuf>,
    is_shut_down: bool,
    /// How often the editor has been asked for something.
    asked: u32,
}

/// So long examples are run before the editor is listened to again.
const TURN: Duration = Duration::from_millis(4);

impl Server {
    pub fn new(send: fn(&Message)) -> Server {
        Server {
            send,
            unit: Unit::Utf16,
            texts: HashMap::new(),
            known: HashMap::new(),
            reading: HashMap::new(),
            looked: HashMap::new(),
            examples: HashMap::new(),
            running: Vec::new(),
            refreshes_hints: false,
            changed: BTreeSet::new(),
            deeper: BTreeSet::new(),
            wrong_in_core: BTreeSet::new(),
            told: BTreeSet::new(),
            is_shut_down: false,
            asked: 0,
        }
    }

    /// Whether the editor has said that it is about to leave.
    pub fn is_shut_down(&self) -> bool {
        self.is_shut_down
    }

    pub fn shut_down(&mut self) {
        self.is_shut_down = true;
    }

    fn tell<N: lsp_types::notification::Notification>(&self, params: N::Params)
    where
        N::Params: serde::Serialize,
    {
        let told = Notification::new(N::METHOD.to_owned(), params);
        (self.send)(&Message::Notification(told));
    }

    /// Takes note of something.
    pub fn hear(&mut self, told: Notification) {
        match told.method.as_str() {
            "textDocument/didOpen" => {
                if let Some(params) = read::<DidOpenTextDocumentParams>(told) {
                    let opened = params.text_document;
                    let text = Text::new(opened.uri, opened.version, opened.text, self.unit);
                    self.touch(text.sort);
                    self.changed.insert(text.uri.to_string());
                    self.looked.remove(&text.uri);
                    self.reading.remove(&text.path);
                    self.texts.insert(text.uri.clone(), text);
                }
            }
            "textDocument/didChange" => {
                if let Some(params) = read::<DidChangeTextDocumentParams>(told)
                    && let Some(text) = self.texts.get_mut(&params.text_document.uri)
                {
                    text.change(params.text_document.version, params.content_changes);
                    let sort = text.sort;
                    self.looked.remove(&params.text_document.uri);
                    self.examples.remove(&params.text_document.uri);
                    self.changed.insert(params.text_document.uri.to_string());
                    self.touch(sort);
                }
            }
            "textDocument/didClose" => {
                if let Some(params) = read::<DidCloseTextDocumentParams>(told) {
                    self.close(&params.text_document.uri);
                }
            }
            "workspace/didChangeWatchedFiles" => {
                for change in read::<DidChangeWatchedFilesParams>(told)
                    .into_iter()
                    .flat_map(|p| p.changes)
                {
                    let path = path_of(&change.uri);
                    self.touch(Sort::of(&path));
                }
            }
            // What was taken back is looked for when its request comes up.
            _ => {}
        }
    }

    /// Takes note that a text is another: a definition may make a difference to every text.
    fn touch(&mut self, sort: Sort) {
        if sort != Sort::Definition {
            return;
        }
        self.reading.clear();
        self.looked.clear();
        self.examples.clear();
        self.running.clear();
        self.changed
            .extend(self.texts.keys().map(|uri| uri.to_string()));
    }

    fn close(&mut self, uri: &Uri) {
        self.changed.remove(uri.as_str());
        self.deeper.remove(uri.as_str());
        self.wrong_in_core.remove(uri.as_str());
        self.looked.remove(uri);
        self.examples.remove(uri);
        let closed = self.texts.remove(uri);
        self.publish(uri.clone(), None, Vec::new());
        if let Some(text) = closed {
            self.touch(text.sort);
        }
    }

    /// Whether there are texts to be looked through.
    pub fn has_work(&self) -> bool {
        !self.changed.is_empty() || !self.deeper.is_empty() || !self.running.is_empty()
    }

    /// Looks through one of the texts that have changed, or goes on with the examples of one.
    pub fn work(&mut self) {
        if let Some(uri) = self.changed.pop_first() {
            if let Ok(uri) = uri.parse::<Uri>() {
                // What is likely to be found again does not go away in between.
                if self.wrong_in_core.contains(uri.as_str()) {
                    self.look_deeper(&uri);
                } else {
                    self.deeper.insert(uri.to_string());
                }
                self.tell_of(&uri);
                self.begin_examples(&uri);
            }
        } else if let Some(uri) = self.deeper.pop_first() {
            if let Ok(uri) = uri.parse::<Uri>()
                && self.look_deeper(&uri)
            {
                self.tell_of(&uri);
            }
        } else if let Some(uri) = self.running.last().cloned() {
            let begun = Instant::now();
            let mut examples = self.examples.get_mut(&uri);
            let mut goes_on = true;
            while goes_on && begun.elapsed() < TURN {
                goes_on = examples.as_mut().is_some_and(|examples| examples.step());
            }
            if !goes_on {
                self.running.pop();
                self.tell_of(&uri);
                self.refresh_hints();
            }
        }
    }

    /// Makes the Core of a program; whether that tells anything.
    fn look_deeper(&mut self, uri: &Uri) -> bool {
        let looked = self.looked(uri);
        let found = looked.is_some_and(|looked| !looked.wrong_in_core().is_empty());
        if found {
            self.wrong_in_core.insert(uri.to_string());
        } else {
            self.wrong_in_core.remove(uri.as_str());
        }
        found
    }

    /// Begins to run the examples of a text that has some.
    fn begin_examples(&mut self, uri: &Uri) {
        let Some((sort, path)) = self
            .texts
            .get(uri)
            .map(|text| (text.sort, text.path.clone()))
        else {
            return;
        };
        let examples = match sort {
            Sort::Program => return,
            Sort::Definition => {
                let known = self.known.get(&path).filter(|known| known.is_right());
                let language = known.and_then(|known| known.language.as_ref());
                language.map(Examples::of_definition)
            }
            Sort::Cases => self.language_near(&path).and_then(|language| {
                let source = self.source(uri)?;
                Some(Examples::of_cases(&language, &source))
            }),
        };
        self.running.retain(|other| other != uri);
        self.examples.remove(uri);
        if let Some(examples) = examples {
            self.examples.insert(uri.clone(), examples);
            self.running.push(uri.clone());
        }
    }

    /// What has come of the examples of a text so far.
    pub fn results(&self, uri: &Uri) -> &[CaseResult] {
        self.examples
            .get(uri)
            .map_or(&[], |examples| &examples.results)
    }

    fn refresh_hints(&mut self) {
        if self.refreshes_hints {
            self.asked += 1;
            let id = format!("hints {}", self.asked).into();
            let request = Request::new(id, InlayHintRefreshRequest::METHOD.to_owned(), ());
            (self.send)(&Message::Request(request));
        }
    }

    fn source(&self, uri: &Uri) -> Option<Arc<SourceText>> {
        let text = self.texts.get(uri)?;
        Some(SourceText::new(
            text.path.display().to_string(),
            text.content.clone(),
        ))
    }

    /// The language of the only definition in the folder of a file or above.
    fn language_near(&mut self, path: &Path) -> Option<Language> {
        let definition = absolute(files::definition_near(path.parent()?).ok()?);
        self.refresh(&definition);
        self.known.get(&definition)?.language.clone()
    }

    /// Tells the editor what is wrong in a text.
    fn tell_of(&mut self, uri: &Uri) {
        let found = self.found(uri);
        if let Some(text) = self.texts.get(uri) {
            let own = found
                .iter()
                .filter(|one| telling::is_about(one, &text.path));
            let told = own
                .map(|one| telling::diagnostic(self, text, one))
                .collect();
            self.publish(uri.clone(), Some(text.version), told);
        }
    }

    /// What is wrong in an open text, and what is hardly meant.
    pub fn found(&mut self, uri: &Uri) -> Vec<Diagnostic> {
        match self.texts.get(uri).map(|text| text.sort) {
            Some(Sort::Program) => self.looked(uri).map_or_else(Vec::new, |looked| {
                let in_core = looked.known_in_core().unwrap_or_default();
                let known = looked.diagnostics().iter().chain(in_core);
                known.chain(looked.unused()).cloned().collect()
            }),
            Some(Sort::Definition) => {
                let mut found = self.of_definition(uri);
                found.extend(self.failures(uri));
                found
            }
            Some(Sort::Cases) => {
                let read = self
                    .source(uri)
                    .map(|source| read_cases(&source).diagnostics);
                let mut found = read.unwrap_or_default();
                found.extend(self.failures(uri));
                found
            }
            None => Vec::new(),
        }
    }

    fn failures(&self, uri: &Uri) -> Vec<Diagnostic> {
        self.examples
            .get(uri)
            .map_or_else(Vec::new, Examples::failures)
    }

    fn publish(&self, uri: Uri, version: Option<i32>, diagnostics: Vec<lsp_types::Diagnostic>) {
        self.tell::<PublishDiagnostics>(PublishDiagnosticsParams {
            uri,
            diagnostics,
            version,
        });
    }

    /// What is wrong in a definition, and what is hardly meant.
    fn of_definition(&mut self, uri: &Uri) -> Vec<Diagnostic> {
        let Some(path) = self.texts.get(uri).map(|text| text.path.clone()) else {
            return Vec::new();
        };
        self.refresh(&path);
        let Some(known) = self.known.get(&path) else {
            return Vec::new();
        };
        let advice = known.advice.get_or_init(|| {
            let language = known.language.as_ref().filter(|_| known.is_right());
            language.map_or_else(Vec::new, Language::advice)
        });
        known.diagnostics.iter().chain(advice).cloned().collect()
    }

    /// The text of a file: as it is in the editor, or else on the disk.
    fn text_of(&self, path: &Path) -> Option<String> {
        let mut texts = self.texts.values();
        let open = texts.find(|text| text.path == path);
        open.map(|text| text.content.clone())
    }

    /// Reads a definition again, if it has changed.
    fn refresh(&mut self, path: &Path) {
        let open = |file: &Path| self.text_of(file);
        let read = match open(path) {
            Some(text) => Ok(SourceText::new(path.display().to_string(), text)),
            None => files::read(path),
        };
        let whole = match read {
            Ok(source) => files::with_included(&source, path, &open),
            Err(problem) => Err(vec![*problem]),
        };
        let (text, outcome) = match whole {
            Ok(source) => {
                let known = self.known.get(path);
                if known.is_some_and(|known| known.text == source.text()) {
                    return;
                }
                let loaded = Language::load(&source);
                (source.text().to_owned(), (loaded.value, loaded.diagnostics))
            }
            Err(problems) => (String::new(), (None, problems)),
        };
        let (language, diagnostics) = outcome;
        let before = self.known.remove(path);
        if language.is_some() {
            self.told.remove(path);
        } else if before
            .as_ref()
            .is_some_and(|known| known.language.is_some())
            && self.told.insert(path.to_owned())
        {
            self.tell::<ShowMessage>(ShowMessageParams {
                typ: MessageType::WARNING,
                message: format!(
                    "{} has errors: its programs go on with the last version that had none",
                    path.display()
                ),
            });
        }
        let language = language.or(before.and_then(|known| known.language));
        self.known.insert(
            path.to_owned(),
            Known {
                text,
                language,
                diagnostics,
                advice: OnceCell::new(),
            },
        );
    }

    /// The language of a program, if a definition for it is found.
    pub fn language_of(&mut self, program: &Path) -> Option<Language> {
        let definition = match self.reading.get(program) {
            Some(definition) => definition.clone(),
            None => {
                let found = absolute(files::definition_reading(program).ok()?);
                self.reading.insert(program.to_owned(), found.clone());
                found
            }
        };
        self.refresh(&definition);
        let language = self.known.get(&definition)?.language.clone()?;
        let name = program.to_string_lossy();
        let surface = language.surface_name_of_file(&name).to_owned();
        language.surface(&surface).or(Some(language))
    }

    /// What has been found in a program.
    pub fn looked(&mut self, uri: &Uri) -> Option<Rc<Looked>> {
        if let Some(looked) = self.looked.get(uri) {
            return Some(Rc::clone(looked));
        }
        let text = self
            .texts
            .get(uri)
            .filter(|text| text.sort == Sort::Program)?;
        let (path, content) = (text.path.clone(), text.content.clone());
        let language = self.language_of(&path)?;
        let source: Arc<SourceText> = SourceText::new(path.display().to_string(), content);
        let looked = Rc::new(Looked::new(&language, &source));
        self.looked.insert(uri.clone(), Rc::clone(&looked));
        Some(looked)
    }
}

impl Known {
    fn is_right(&self) -> bool {
        !self.diagnostics.iter().any(Diagnostic::is_error)
    }
}

fn read<P: DeserializeOwned>(told: Notification) -> Option<P> {
    serde_json::from_value(told.params).ok()
}

/// A path as the editor's addresses have it: from the root on.
fn absolute(path: PathBuf) -> PathBuf {
    std::path::absolute(&path).unwrap_or(path)
}
