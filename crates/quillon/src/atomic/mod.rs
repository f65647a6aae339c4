//! Files that are written whole or not at all: into another file beside, which then takes the
//! place of the old one. Who reads the file, or ends the program here, finds all of the old or
//! all of the new.

mod update;

use std::collections::HashSet;
use std::ffi::{OsStr, OsString};
use std::io::{ErrorKind, Result, Write};
use std::path::{Path, PathBuf};
use std::sync::Mutex;

use cap_std::ambient_authority;
use cap_std::fs::{Dir, File, Metadata, OpenOptions};
use fd_lock::RwLock;

pub use update::{append, state_folder, update};

/// How the names of files begin that take the place of others.
const BEGINNING: &str = ".quillon-";

/// Makes bytes the content of the file at a path; the folder must be there. A link stays one:
/// what it leads to is replaced.
pub fn write(path: &Path, content: &[u8]) -> Result<()> {
    let target = std::fs::canonicalize(path).unwrap_or_else(|_| path.to_owned());
    let is_special = std::fs::metadata(&target).is_ok_and(|known| !known.is_file());
    if is_special && !target.is_dir() {
        // A device or a pipe is written to; there is nothing that could take its place.
        return std::fs::write(&target, content);
    }
    let name = target.file_name().ok_or(ErrorKind::InvalidInput)?;
    let folder = match target.parent() {
        Some(folder) if !folder.as_os_str().is_empty() => folder,
        _ => Path::new("."),
    };
    forget_leftovers(folder);
    let folder = Dir::open_ambient_dir(folder, ambient_authority())?;
    write_in(&folder, name, content)
}

/// The same for a file of a folder, which nothing can lead out of it.
pub fn write_in(folder: &Dir, name: &OsStr, content: &[u8]) -> Result<()> {
    let known = folder.symlink_metadata(name).ok();
    if known.as_ref().is_some_and(Metadata::is_dir) {
        return Err(ErrorKind::IsADirectory.into());
    }
    let (beside, file) = make_beside(folder)?;
    let written = fill(file, content, known.filter(Metadata::is_file));
    let placed = written.and_then(|()| folder.rename(&beside, folder, name));
    if placed.is_err() {
        // What is left of it is of no use to anyone.
        let _ = folder.remove_file(&beside);
    }
    placed
}

fn fill(file: File, content: &[u8], known: Option<Metadata>) -> Result<()> {
    let mut lock = RwLock::new(file);
    // As long as it is locked, it is no leftover.
    let mut file = lock.write()?;
    file.write_all(content)?;
    file.sync_all()?;
    if let Some(known) = known {
        file.set_permissions(known.permissions())?;
    }
    Ok(())
}

/// A new file of a folder.
fn make_beside(folder: &Dir) -> Result<(OsString, File)> {
    const TRIES: u32 = 100;
    for _ in 0..TRIES {
        let name = OsString::from(format!("{BEGINNING}{:016x}", fastrand::u64(..)));
        match folder.open_with(&name, OpenOptions::new().write(true).create_new(true)) {
            Ok(file) => return Ok((name, file)),
            Err(error) if error.kind() == ErrorKind::AlreadyExists => {}
            Err(error) => return Err(error),
        }
    }
    Err(ErrorKind::AlreadyExists.into())
}

/// Takes away what was left in a folder by a program that was ended while it wrote; once for
/// each folder is enough.
fn forget_leftovers(folder: &Path) {
    static SEEN: Mutex<Option<HashSet<PathBuf>>> = Mutex::new(None);
    let is_new = SEEN.lock().is_ok_and(|mut seen| {
        let seen = seen.get_or_insert_default();
        seen.insert(folder.to_owned())
    });
    if !is_new {
        return;
    }
    for entry in std::fs::read_dir(folder).into_iter().flatten().flatten() {
        let name = entry.file_name();
        let is_ours = name.to_string_lossy().starts_with(BEGINNING);
        let is_file = entry.file_type().is_ok_and(|kind| kind.is_file());
        if is_ours && is_file && is_left(&entry.path()) {
            let _ = std::fs::remove_file(entry.path());
        }
    }
}

/// Whether nobody writes a file any more: it is not locked, and not only just made.
fn is_left(path: &Path) -> bool {
    const FRESH: std::time::Duration = std::time::Duration::from_secs(2);
    let age = std::fs::metadata(path).and_then(|known| known.modified());
    let is_fresh = age.is_ok_and(|made| made.elapsed().is_ok_and(|age| age < FRESH));
    let Ok(file) = std::fs::File::open(path) else {
        return false;
    };
    !is_fresh && RwLock::new(file).try_write().is_ok()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_file_is_replaced_and_what_was_left_is_taken_away() {
        let folder = tempfile::tempdir().unwrap();
        let left = folder.path().join(".quillon-0123456789abcdef");
        std::fs::write(&left, "half of it").unwrap();
        let long_ago = std::time::SystemTime::now() - std::time::Duration::from_secs(60);
        let file = std::fs::File::options().write(true).open(&left).unwrap();
        file.set_modified(long_ago).unwrap();
        let path = folder.path().join("kept");
        write(&path, b"old").unwrap();
        write(&path, b"new").unwrap();
        assert_eq!(std::fs::read(&path).unwrap(), b"new");
        let names: Vec<_> = std::fs::read_dir(folder.path())
            .unwrap()
            .flatten()
            .collect();
        assert_eq!(names.len(), 1, "{names:?}");
    }

    #[test]
    fn what_cannot_be_written_leaves_nothing() {
        let folder = tempfile::tempdir().unwrap();
        std::fs::create_dir(folder.path().join("inner")).unwrap();
        assert!(write(&folder.path().join("inner"), b"x").is_err());
        let names: Vec<_> = std::fs::read_dir(folder.path())
            .unwrap()
            .flatten()
            .collect();
        assert_eq!(names.len(), 1, "{names:?}");
    }
}
