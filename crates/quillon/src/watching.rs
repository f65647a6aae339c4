//! Waits until files change.

use std::path::{Path, PathBuf};
use std::sync::mpsc::{Receiver, RecvTimeoutError, channel};
use std::time::Duration;

use notify::{RecommendedWatcher, RecursiveMode, Watcher};

/// How long nothing must happen before a change counts as over: editors write a file in
/// several steps.
const QUIET: Duration = Duration::from_millis(80);

/// Knows when anything in some folders changes.
pub struct Watch {
    /// Kept, since it ends with this.
    _watcher: RecommendedWatcher,
    changes: Receiver<Vec<PathBuf>>,
}

impl Watch {
    /// Watches folders with all that is in them, or single files.
    pub fn new(paths: &[PathBuf]) -> notify::Result<Watch> {
        let (tell, changes) = channel();
        let mut watcher =
            notify::recommended_watcher(move |event: notify::Result<notify::Event>| {
                if let Ok(event) = event
                    && !event.kind.is_access()
                {
                    // Nobody listens any more: nothing is left to do.
                    let _ = tell.send(event.paths);
                }
            })?;
        for path in paths {
            let folder = if path.is_dir() {
                path.clone()
            } else {
                // A file that is replaced is another file: its folder is what stays.
                crate::paths::folder_of(path)
            };
            let mode = if path.is_dir() {
                RecursiveMode::Recursive
            } else {
                RecursiveMode::NonRecursive
            };
            watcher.watch(&folder, mode)?;
        }
        Ok(Watch {
            _watcher: watcher,
            changes,
        })
    }

    /// Waits for a change of a file that counts. False when there is nothing to wait for
    /// any more.
    pub fn wait(&self, counts: impl Fn(&Path) -> bool) -> bool {
        let mut seen = false;
        loop {
            let next = if seen {
                self.changes.recv_timeout(QUIET)
            } else {
                self.changes.recv().map_err(RecvTimeoutError::from)
            };
            match next {
                Ok(paths) => seen |= paths.iter().any(|path| counts(path)),
                Err(RecvTimeoutError::Timeout) => return true,
                Err(RecvTimeoutError::Disconnected) => return false,
            }
        }
    }

    /// Whether a file that counts has changed since the last time, without waiting.
    pub fn has_changed(&self, counts: impl Fn(&Path) -> bool) -> bool {
        let mut changed = false;
        while let Ok(paths) = self.changes.try_recv() {
            changed |= paths.iter().any(|path| counts(path));
        }
        changed
    }
}
