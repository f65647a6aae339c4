//! What the server knows: the texts that are open, the languages they are in, and what has been found
//! in them.

use std::collections::{BTreeSet, HashMap};
use std::rc::Rc;
use std::sync::Arc;
use std::time::{Duration, Instant};

use lsp_server::{Message, Notification, Request};
use lsp_types::notification::{PublishDiagnostics, ShowMessage};
use lsp_types::request::{
    ApplyWorkspaceEdit, CodeLensRefresh, InlayHintRefreshRequest, Request as _,
};
use lsp_types::{
    DidChangeTextDocumentParams, DidChangeWatchedFilesParams, DidCloseTextDocumentParams,
    DidOpenTextDocumentParams, MessageType, PublishDiagnosticsParams, ShowMessageParams, Uri,
};
use quillon_core::definition::read_cases;
use quillon_core::diagnostic::Diagnostic;
use quillon_core::editing::Looked;
use quillon_core::source::SourceText;
use quillon_core::testing::CaseResult;
use serde::de::DeserializeOwned;

use super::errands::{Ending, Errands};
use super::examples::Examples;
use super::languages::Languages;
use super::positions::Unit;
use super::telling;
use super::texts::{Sort, Text, path_of};

/// What an editor can be asked to do.
#[derive(Clone, Copy, Default)]
pub struct Can {
    /// To ask for hints again.
    pub refresh_hints: bool,
    /// To ask for lenses again.
    pub refresh_lenses: bool,
    /// To change texts.
    pub apply_edits: bool,
}

/// The server.
pub struct Server {
    send: fn(&Message),
    pub unit: Unit,
    pub texts: HashMap<Uri, Text>,
    pub languages: Languages,
    looked: HashMap<Uri, Rc<Looked>>,
    /// The examples of texts that are run, or have been.
    examples: HashMap<Uri, Examples>,
    /// Those that are not over.
    running: Vec<Uri>,
    /// What has come of the last run of programs that have not been changed since.
    ran: HashMap<Uri, Ending>,
    pub errands: Errands,
    /// What the editor can be asked to do.
    pub can: Can,
    /// Texts that are still to be looked through.
    changed: BTreeSet<String>,
    /// Programs whose Core is still to be made.
    deeper: BTreeSet<String>,
    /// Programs in which making the Core has last told something.
    wrong_in_core: BTreeSet<String>,
    is_shut_down: bool,
    /// How often the editor has been asked for something.
    asked: u32,
}

/// So long examples are run before the editor is listened to again.
const TURN: Duration = Duration::from_millis(4);

impl Server {
    pub fn new(send: fn(&Message), errands: Errands) -> Server {
        Server {
            send,
            unit: Unit::Utf16,
            texts: HashMap::new(),
            languages: Languages::default(),
            looked: HashMap::new(),
            examples: HashMap::new(),
            running: Vec::new(),
            ran: HashMap::new(),
            errands,
            can: Can::default(),
            changed: BTreeSet::new(),
            deeper: BTreeSet::new(),
            wrong_in_core: BTreeSet::new(),
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
                    self.languages.reading.remove(&text.path);
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
                    self.ran.remove(&params.text_document.uri);
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
        self.languages.reading.clear();
        self.looked.clear();
        self.examples.clear();
        self.running.clear();
        self.ran.clear();
        self.changed
            .extend(self.texts.keys().map(|uri| uri.to_string()));
    }

    fn close(&mut self, uri: &Uri) {
        self.changed.remove(uri.as_str());
        self.deeper.remove(uri.as_str());
        self.wrong_in_core.remove(uri.as_str());
        self.looked.remove(uri);
        self.examples.remove(uri);
        self.ran.remove(uri);
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
                self.ask::<InlayHintRefreshRequest>(());
                self.search(&uri);
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
                let language = self.right_language(uri);
                language.as_ref().map(Examples::of_definition)
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

    /// Asks the editor for something, if it can be asked.
    pub fn ask<R: lsp_types::request::Request>(&mut self, params: R::Params)
    where
        R::Params: serde::Serialize,
    {
        let can = match R::METHOD {
            InlayHintRefreshRequest::METHOD => self.can.refresh_hints,
            CodeLensRefresh::METHOD => self.can.refresh_lenses,
            ApplyWorkspaceEdit::METHOD => self.can.apply_edits,
            _ => false,
        };
        if can {
            self.asked += 1;
            let id = format!("asked {}", self.asked).into();
            let request = Request::new(id, R::METHOD.to_owned(), params);
            (self.send)(&Message::Request(request));
        }
    }

    /// Sends a message.
    pub fn say(&self, message: &Message) {
        (self.send)(message);
    }

    /// Has the editor show a text.
    pub fn show(&self, typ: MessageType, message: String) {
        self.tell::<ShowMessage>(ShowMessageParams { typ, message });
    }

    /// What has come of the last run of a program, if it is still the same.
    pub fn ran(&self, uri: &Uri) -> Option<&Ending> {
        self.ran.get(uri)
    }

    pub fn note_run(&mut self, uri: &Uri, ending: Ending) {
        self.ran.insert(uri.clone(), ending);
    }

    /// Puts the result of a case in the place of its earlier one.
    pub fn note_case(&mut self, uri: &Uri, result: CaseResult) {
        if let Some(examples) = self.examples.get_mut(uri) {
            examples.note(result);
        }
        self.tell_of(uri);
    }

    /// An open text as a source.
    pub fn source(&self, uri: &Uri) -> Option<Arc<SourceText>> {
        let text = self.texts.get(uri)?;
        Some(SourceText::new(
            text.path.display().to_string(),
            text.content.clone(),
        ))
    }

    /// Tells the editor what is wrong in a text.
    pub fn tell_of(&mut self, uri: &Uri) {
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

fn read<P: DeserializeOwned>(told: Notification) -> Option<P> {
    serde_json::from_value(told.params).ok()
}
