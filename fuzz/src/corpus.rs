//! What inputs are made from: the languages of the repository with their cases and programs.

use std::path::{Path, PathBuf};
use std::sync::{Arc, LazyLock};

use quillon_core::Language;
use quillon_core::source::SourceText;

/// A language with texts in it.
pub struct Known {
    /// The definition's text.
    pub definition: String,
    /// The language.
    pub language: Language,
    /// Programs.
    pub programs: Vec<String>,
    /// Case files.
    pub cases: Vec<String>,
}

fn texts(folder: &Path) -> Vec<String> {
    let mut paths: Vec<PathBuf> = std::fs::read_dir(folder)
        .into_iter()
        .flatten()
        .flatten()
        .map(|entry| entry.path())
        .collect();
    paths.sort();
    paths
        .iter()
        .filter_map(|path| std::fs::read_to_string(path).ok())
        .collect()
}

fn known(definition: &Path, programs: Vec<String>, cases: Vec<String>) -> Option<Known> {
    let text = std::fs::read_to_string(definition).ok()?;
    let source = SourceText::new(definition.display().to_string(), text.clone());
    Some(Known {
        definition: text,
        language: Language::load(&source).value?,
        programs,
        cases,
    })
}

/// The folder of the repository.
fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("..")
}

/// All languages of the repository, and the one of generated programs.
pub static ALL: LazyLock<Vec<Known>> = LazyLock::new(|| {
    let mut all = Vec::new();
    let mut folders: Vec<PathBuf> = std::fs::read_dir(root().join("languages"))
        .into_iter()
        .flatten()
        .flatten()
        .map(|entry| entry.path())
        .collect();
    folders.sort();
    for folder in folders {
        let Some(name) = folder.file_name() else {
            continue;
        };
        let definition = folder.join(name).with_extension("quillon");
        let programs = texts(&folder.join("programs"));
        all.extend(known(&definition, programs, texts(&folder.join("cases"))));
    }
    all.push(quay());
    all
});

/// The language of generated programs.
///
/// # Panics
/// Its definition is not there or wrong.
pub fn quay() -> Known {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("language/quay.quillon");
    let programs = (0..20).map(|seed| {
        let mut random = fastrand::Rng::with_seed(seed);
        crate::author::Author::new(&mut random, 0).program()
    });
    known(&path, programs.collect(), Vec::new()).expect("the definition of Quay is right")
}

/// A text under a name.
pub fn source(name: &str, text: impl Into<String>) -> Arc<SourceText> {
    SourceText::new(name, text)
}
