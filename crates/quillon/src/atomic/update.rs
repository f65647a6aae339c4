//! Files that are changed: as a whole or not at all, by one process after the other.

use std::io::{Read, Seek, SeekFrom, Write};
use std::path::{Path, PathBuf};

use etcetera::BaseStrategy;

use super::write;

/// Replaces what a file holds by what is made of it; a file that is not there is empty. Others
/// who change it in this way wait; who reads it, or is killed here, finds all of the old or
/// all of the new.
pub fn update(path: &Path, change: impl FnOnce(&str) -> String) -> std::io::Result<()> {
    let folder = match path.parent() {
        Some(folder) if !folder.as_os_str().is_empty() => folder,
        _ => Path::new("."),
    };
    std::fs::create_dir_all(folder)?;
    // The file itself is replaced, so the lock is on one beside it.
    let lock = lock_beside(path)?;
    let mut lock = fd_lock::RwLock::new(lock);
    let _locked = lock.write()?;
    let old = match std::fs::read(path) {
        Ok(bytes) => String::from_utf8_lossy(&bytes).into_owned(),
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => String::new(),
        Err(error) => return Err(error),
    };
    write(path, change(&old).as_bytes())
}

/// The file that stands for the right to change another: in the folder for what lasts, so
/// that none is left beside the user's own files.
fn lock_beside(path: &Path) -> std::io::Result<std::fs::File> {
    use std::hash::{DefaultHasher, Hash, Hasher};
    let full = std::path::absolute(path)?;
    let folder = state_folder()
        .unwrap_or_else(std::env::temp_dir)
        .join("locks");
    std::fs::create_dir_all(&folder)?;
    let mut hasher = DefaultHasher::new();
    std::fs::canonicalize(&full)
        .unwrap_or(full)
        .hash(&mut hasher);
    let name = format!("{:016x}", hasher.finish());
    std::fs::OpenOptions::new()
        .create(true)
        .truncate(false)
        .write(true)
        .open(folder.join(name))
}

/// Where what lasts between runs of the program is kept, if there is such a place.
pub fn state_folder() -> Option<PathBuf> {
    let places = etcetera::choose_base_strategy().ok()?;
    let state = places.state_dir().unwrap_or_else(|| places.data_dir());
    let folder = state.join("quillon");
    std::fs::create_dir_all(&folder).ok()?;
    Some(folder)
}

/// Puts a line at the end of a file, which is made if it is not there. Others who do so wait.
/// A line that somebody who was killed has left unfinished is ended first.
pub fn append(path: &Path, line: &str) -> std::io::Result<()> {
    let mut lock = fd_lock::RwLock::new(lock_beside(path)?);
    let _locked = lock.write()?;
    let mut file = std::fs::OpenOptions::new()
        .read(true)
        .append(true)
        .create(true)
        .open(path)?;
    let mut last = [b'\n'];
    if file.seek(SeekFrom::End(0))? > 0 {
        file.seek(SeekFrom::End(-1))?;
        file.read_exact(&mut last)?;
    }
    let beginning = if last == *b"\n" { "" } else { "\n" };
    file.write_all(format!("{beginning}{line}\n").as_bytes())
}
