//! Files that are changed: as a whole or not at all, by one process after the other.

use std::path::{Path, PathBuf};

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
    let state = std::env::var_os("XDG_STATE_HOME")
        .map(PathBuf::from)
        .filter(|folder| folder.is_absolute())
        .or_else(|| Some(PathBuf::from(std::env::var_os("HOME")?).join(".local/state")))?;
    let folder = state.join("quillon");
    std::fs::create_dir_all(&folder).ok()?;
    Some(folder)
}
