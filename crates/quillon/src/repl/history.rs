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
/// none is passed over.
pub fn load(language: &str) -> Vec<String> {
    let text = file(language).and_then(|path| std::fs::read_to_string(path).ok());
    entries(&text.unwrap_or_default())
}

fn entries(text: &str) -> Vec<String> {
    let lines = text.lines();
    lines
        .filter_map(|line| serde_json::from_str(line).ok())
        .collect()
}

/// Adds an entry at once, so that it is there whatever comes.
pub fn add(language: &str, entry: &str) {
    let Some(path) = file(language) else {
        return;
    };
    // Losing the history is no reason to fail.
    let _ = atomic::update(&path, |old| {
        let mut known = entries(old);
        if known.last().is_none_or(|last| last != entry) {
            known.push(entry.to_owned());
        }
        let from = known.len().saturating_sub(MOST);
        let lines = known[from..].iter();
        lines
            .filter_map(|entry| Some(serde_json::to_string(entry).ok()? + "\n"))
            .collect()
    });
}
