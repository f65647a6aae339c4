//! The entries of earlier conversations with a language, for all of them at once.

use std::path::PathBuf;

use crate::atomic;

/// How many entries are kept.
const MOST: usize = 2000;

fn file(language: &str) -> Option<PathBuf> {
    // A language may be called anything.
    let name: String = language
        .chars()
        .map(|c| if c.is_alphanumeric() { c } else { '_' })
        .collect();
    Some(atomic::state_folder()?.join(format!("{name}.history")))
}

/// The entries, the oldest first. Each is a JSON text on a line of its own; a line that is
/// none is passed over. When there are many more than are kept, the oldest are forgotten.
pub fn load(language: &str) -> Vec<String> {
    let Some(path) = file(language) else {
        return Vec::new();
    };
    let text = std::fs::read_to_string(&path).unwrap_or_default();
    let mut known: Vec<String> = text.lines().filter_map(entry).collect();
    let forgotten = known.len().saturating_sub(MOST);
    if forgotten > MOST {
        // Losing the history is no reason to fail.
        let _ = atomic::update(&path, |now| {
            let lines: Vec<&str> = now.lines().filter(|line| entry(line).is_some()).collect();
            let kept = lines[lines.len().saturating_sub(MOST)..].iter();
            kept.flat_map(|line| [line, "\n"]).collect()
        });
    }
    known.drain(..forgotten);
    known
}

fn entry(line: &str) -> Option<String> {
    serde_json::from_str(line).ok()
}

/// Adds an entry at once, so that it is there whatever comes.
pub fn add(language: &str, entry: &str) {
    if let (Some(path), Ok(line)) = (file(language), serde_json::to_string(entry)) {
        // As above.
        let _ = atomic::append(&path, &line);
    }
}
