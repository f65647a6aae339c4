//! The languages of open texts: found by the definitions around them, read again when those change, and
//! kept as they last were when a definition is broken.

use std::cell::OnceCell;
use std::collections::{BTreeSet, HashMap};
use std::path::{Path, PathBuf};

use lsp_types::{MessageType, Uri};
use quillon_core::Language;
use quillon_core::definition::{Example, read_cases};
use quillon_core::diagnostic::Diagnostic;
use quillon_core::source::SourceText;

use super::server::Server;
use super::texts::Sort;
use crate::files;
use crate::packed;

/// What is known of languages.
#[derive(Default)]
pub struct Languages {
    known: HashMap<PathBuf, Known>,
    /// The definition that reads each program.
    pub reading: HashMap<PathBuf, PathBuf>,
    /// The broken definitions that the editor has been told of.
    told: BTreeSet<PathBuf>,
    /// Whether texts with two readings are being looked for.
    is_searching: bool,
    /// Definitions that wait for such a search.
    to_search: Vec<Uri>,
}

/// A language as its definition is, and as it was when that was last right.
struct Known {
    text: String,
    language: Option<Language>,
    diagnostics: Vec<Diagnostic>,
    /// What is hardly meant, once it has been looked for.
    advice: OnceCell<Vec<Diagnostic>>,
    /// Texts with two readings, once they have been looked for.
    readings: Option<Vec<Diagnostic>>,
}

impl Known {
    fn is_right(&self) -> bool {
        !self.diagnostics.iter().any(Diagnostic::is_error)
    }
}

impl Server {
    /// The language of the only definition in the folder of a file or above.
    pub fn language_near(&mut self, path: &Path) -> Option<Language> {
        let definition = definition_near(path)?;
        self.refresh(&definition);
        self.languages.known.get(&definition)?.language.clone()
    }

    /// The text of a file: as it is in the editor, or else on the disk.
    pub fn content(&self, path: &Path) -> Option<String> {
        let on_disk = || Some(files::read(path).ok()?.text().to_owned());
        self.text_of(path).or_else(on_disk)
    }

    /// What is wrong in a definition, and what is hardly meant.
    pub fn of_definition(&mut self, uri: &Uri) -> Vec<Diagnostic> {
        let Some(path) = self.texts.get(uri).map(|text| text.path.clone()) else {
            return Vec::new();
        };
        self.refresh(&path);
        let Some(known) = self.languages.known.get(&path) else {
            return Vec::new();
        };
        let advice = known.advice.get_or_init(|| {
            let language = known.language.as_ref().filter(|_| known.is_right());
            language.map_or_else(Vec::new, Language::advice)
        });
        let all = known.diagnostics.iter().chain(advice);
        all.chain(known.readings.iter().flatten())
            .cloned()
            .collect()
    }

    /// The text of a file that is open.
    fn text_of(&self, path: &Path) -> Option<String> {
        let mut texts = self.texts.values();
        let open = texts.find(|text| text.path == path);
        open.map(|text| text.content.clone())
    }

    /// Reads a definition again, if it has changed.
    fn refresh(&mut self, path: &Path) {
        let open = |file: &Path| self.text_of(file);
        let read = match (packed::at(path), open(path)) {
            (Some(pack), _) => Ok(pack.source()),
            (None, Some(text)) => Ok(SourceText::new(path.display().to_string(), text)),
            (None, None) => files::read(path),
        };
        let whole = match read {
            Ok(source) => files::with_included(&source, path, &open),
            Err(problem) => Err(vec![*problem]),
        };
        let (text, outcome) = match whole {
            Ok(source) => {
                let known = self.languages.known.get(path);
                if known.is_some_and(|known| known.text == source.text()) {
                    return;
                }
                let loaded = Language::load(&source);
                (source.text().to_owned(), (loaded.value, loaded.diagnostics))
            }
            Err(problems) => (String::new(), (None, problems)),
        };
        let (language, diagnostics) = outcome;
        let before = self.languages.known.remove(path);
        if language.is_some() {
            self.languages.told.remove(path);
        } else if before
            .as_ref()
            .is_some_and(|known| known.language.is_some())
            && self.languages.told.insert(path.to_owned())
        {
            let name = path.display();
            let message = format!(
                "{name} has errors: its programs go on with the last version that had none"
            );
            self.show(MessageType::WARNING, message);
        }
        let language = language.or(before.and_then(|known| known.language));
        self.languages.known.insert(
            path.to_owned(),
            Known {
                text,
                language,
                diagnostics,
                advice: OnceCell::new(),
                readings: None,
            },
        );
    }

    /// The language of a program, if a definition for it is found.
    pub fn language_of(&mut self, program: &Path) -> Option<Language> {
        let known = self.languages.reading.get(program).cloned();
        let definition = if let Some(definition) = known {
            definition
        } else {
            let found = files::definition_reading(program).ok()?;
            match packed::at(&found) {
                Some(_) => found,
                None => absolute(found),
            }
        };
        let reading = &mut self.languages.reading;
        reading.insert(program.to_owned(), definition.clone());
        self.refresh(&definition);
        let language = self.languages.known.get(&definition)?.language.clone()?;
        let name = program.to_string_lossy();
        let surface = language.surface_name_of_file(&name).to_owned();
        language.surface(&surface).or(Some(language))
    }

    /// The language of an open definition that has no errors.
    pub fn right_language(&mut self, uri: &Uri) -> Option<Language> {
        let path = self.texts.get(uri)?.path.clone();
        self.refresh(&path);
        let known = self.languages.known.get(&path);
        let known = known.filter(|known| known.is_right())?;
        known.language.clone()
    }

    /// The examples of a definition or the cases of a file.
    pub fn examples_of(&mut self, uri: &Uri) -> Vec<Example> {
        match self.texts.get(uri).map(|text| text.sort) {
            Some(Sort::Definition) => self.right_language(uri).map_or_else(Vec::new, |language| {
                let all = quillon_core::testing::examples(&language);
                all.cloned().collect()
            }),
            Some(Sort::Cases) => {
                let source = self.source(uri);
                let read = source.and_then(|source| read_cases(&source).value);
                read.map_or_else(Vec::new, |file| file.cases)
            }
            Some(Sort::Program) | None => Vec::new(),
        }
    }

    /// The language that the examples or cases of a text are in.
    pub fn language_for_cases(&mut self, uri: &Uri) -> Option<Language> {
        let text = self.texts.get(uri)?;
        match text.sort {
            Sort::Definition => self.right_language(uri),
            Sort::Cases => {
                let path = text.path.clone();
                self.language_near(&path)
            }
            Sort::Program => None,
        }
    }

    fn known_of(&self, uri: &Uri) -> Option<&Known> {
        let text = self.texts.get(uri)?;
        self.languages.known.get(&text.path)
    }

    /// Texts with two readings that have been found for an open definition.
    pub fn readings(&self, uri: &Uri) -> Vec<Diagnostic> {
        let found = self.known_of(uri).and_then(|known| known.readings.clone());
        found.unwrap_or_default()
    }

    /// Looks for texts with two readings, if that is still to be done. Of several searches one goes after
    /// the other.
    pub fn search(&mut self, uri: &Uri) {
        if self.languages.is_searching {
            let waiting = &mut self.languages.to_search;
            if !waiting.contains(uri) {
                waiting.push(uri.clone());
            }
            return;
        }
        let Some(language) = self.right_language(uri) else {
            return;
        };
        if self
            .known_of(uri)
            .is_some_and(|known| known.readings.is_none())
        {
            self.languages.is_searching = true;
            self.errands.readings(uri.clone(), language);
        }
    }

    /// Takes note of the texts with two readings that a definition of this text has.
    pub fn note_readings(&mut self, uri: &Uri, definition: &str, found: Vec<Diagnostic>) {
        self.languages.is_searching = false;
        let path = self.texts.get(uri).map(|text| text.path.clone());
        let known = path.and_then(|path| self.languages.known.get_mut(&path));
        if let Some(known) = known.filter(|known| known.text == definition) {
            let is_news = !found.is_empty();
            known.readings = Some(found);
            if is_news {
                self.tell_of(uri);
            }
        } else {
            self.search(uri);
        }
        while !self.languages.is_searching
            && let Some(next) = self.languages.to_search.pop()
        {
            self.search(&next);
        }
    }
}

/// The only definition in the folder of a file or above.
pub fn definition_near(path: &Path) -> Option<PathBuf> {
    Some(absolute(files::definition_near(path.parent()?).ok()?))
}

/// A path as the editor's addresses have it: from the root on.
fn absolute(path: PathBuf) -> PathBuf {
    std::path::absolute(&path).unwrap_or(path)
}
