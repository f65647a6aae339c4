//! Paths.

use std::path::{Component, Path, PathBuf};

use quillon_core::diagnostic::quote;

/// The file that another file names by a path from its own folder.
pub fn beside(from: &Path, path: &Path) -> PathBuf {
    plain(&folder_of(from).join(path))
}

/// A path without detours through `..`, so that each file has one name.
fn plain(path: &Path) -> PathBuf {
    let mut plain = PathBuf::new();
    for part in path.components() {
        match part {
            Component::CurDir => {}
            Component::ParentDir if plain.file_name().is_some() => {
                plain.pop();
            }
            part @ (Component::Prefix(_)
            | Component::RootDir
            | Component::ParentDir
            | Component::Normal(_)) => plain.push(part),
        }
    }
    plain
}

/// The folder that a file lies in.
pub fn folder_of(path: &Path) -> PathBuf {
    match path.parent() {
        Some(folder) if !folder.as_os_str().is_empty() => folder.to_owned(),
        _ => PathBuf::from("."),
    }
}

/// A path as messages have it.
pub fn shown(path: &Path) -> String {
    quote(&path.display().to_string())
}
