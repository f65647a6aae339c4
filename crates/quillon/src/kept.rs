//! Languages as they were compiled, in the cache folder, so that a definition that has been used before
//! need not be read again. Whatever goes wrong here, the definition is read.

use std::io::Read;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::SystemTime;

use etcetera::BaseStrategy;
use quillon_core::Language;
use quillon_core::source::SourceText;

use crate::atomic;

/// The variable of the environment with the folder to use; empty, nothing is kept.
const FOLDER: &str = "QUILLON_CACHE";

/// The extension of the files.
const EXTENSION: &str = "language";

/// So many languages are kept: of more, the oldest go.
const MOST: usize = 64;

/// A longer file is none of ours.
const LONGEST: u64 = 64 << 20;

/// Where languages are kept, if anywhere: what is read there is believed, so nobody else may be able to write
/// it.
fn folder() -> Option<PathBuf> {
    let folder = match std::env::var_os(FOLDER) {
        Some(asked) if asked.is_empty() => return None,
        Some(asked) => PathBuf::from(asked),
        None => {
            let places = etcetera::choose_base_strategy().ok()?;
            places.cache_dir().join("quillon")
        }
    };
    is_private(&folder).then_some(folder)
}

fn place(folder: &Path, source: &SourceText) -> PathBuf {
    folder.join(format!("{:032x}.{EXTENSION}", Language::key(source)))
}

/// The language of a definition's text, if it is kept.
pub fn find(source: &Arc<SourceText>) -> Option<Language> {
    let file = std::fs::File::open(place(&folder()?, source)).ok()?;
    let about = file.metadata().ok()?;
    if !about.is_file() || about.len() > LONGEST {
        return None;
    }
    let mut bytes = Vec::with_capacity(about.len() as usize);
    file.take(LONGEST).read_to_end(&mut bytes).ok()?;
    Language::from_kept(source, &bytes)
}

/// Keeps a language, if there is a place for it.
pub fn keep(language: &Language) {
    let (Some(folder), Some(bytes)) = (folder(), language.kept()) else {
        return;
    };
    let place = place(&folder, &language.definition().source);
    if atomic::write(&place, &bytes).is_ok() {
        forget_old(&folder);
    }
}

/// Takes away what is too much, the oldest first.
fn forget_old(folder: &Path) {
    let files = std::fs::read_dir(folder).into_iter().flatten().flatten();
    let files = files.filter(|entry| {
        let path = entry.path();
        path.extension().is_some_and(|own| own == EXTENSION)
    });
    let mut files: Vec<(SystemTime, PathBuf)> = files
        .filter_map(|entry| Some((entry.metadata().ok()?.modified().ok()?, entry.path())))
        .collect();
    files.sort();
    let extra = files.len().saturating_sub(MOST);
    for (_, path) in &files[..extra] {
        // Another process may have been faster.
        let _ = std::fs::remove_file(path);
    }
}

/// Makes the folder, for nobody else to look or write into; whether it is so.
#[cfg(unix)]
fn is_private(folder: &Path) -> bool {
    use std::os::unix::fs::{DirBuilderExt, MetadataExt};
    let mut builder = std::fs::DirBuilder::new();
    // Where that fails, there is none.
    let _ = builder.recursive(true).mode(0o700).create(folder);
    std::fs::metadata(folder).is_ok_and(|about| {
        let others = 0o077;
        let own = rustix::process::geteuid().as_raw();
        about.is_dir() && about.uid() == own && about.mode() & others == 0
    })
}

/// Makes the folder, which is in the user's own; whether it is there.
#[cfg(not(unix))]
fn is_private(folder: &Path) -> bool {
    std::fs::create_dir_all(folder).is_ok()
}
