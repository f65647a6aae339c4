//! Which cases failed the last time, for `--failed`.

use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;

use quillon_core::testing::Verdict;

use super::running::{Results, Task};
use crate::atomic;

/// For each text, by its full path, the titles of the cases that failed in it.
type Failed = BTreeMap<String, BTreeSet<String>>;

fn full(task: &Task) -> String {
    let name = Path::new(task.source.name());
    let full = std::path::absolute(name).unwrap_or_else(|_| name.to_owned());
    full.display().to_string()
}

/// Keeps which cases failed; those that were not run stay as they were known.
pub fn remember(results: &Results) {
    let Some(path) = atomic::state_folder().map(|folder| folder.join("failed.json")) else {
        return;
    };
    // Not to know next time is no reason to fail now.
    let _ = atomic::update(&path, |old| {
        let mut known: Failed = serde_json::from_str(old).unwrap_or_default();
        for (task, result, _) in &results.all {
            let failed = result.verdict == Verdict::Failed;
            let titles = known.entry(full(task)).or_default();
            if failed {
                titles.insert(result.title.clone());
            } else {
                titles.remove(&result.title);
            }
        }
        known.retain(|text, titles| !titles.is_empty() && Path::new(text).exists());
        serde_json::to_string_pretty(&known).unwrap_or_default()
    });
}

/// Leaves only the cases that failed the last time.
pub fn retain_failed(tasks: &mut Vec<Task>) {
    let known: Failed = atomic::state_folder()
        .and_then(|folder| std::fs::read_to_string(folder.join("failed.json")).ok())
        .and_then(|text| serde_json::from_str(&text).ok())
        .unwrap_or_default();
    tasks.retain(|task| {
        let titles = known.get(&full(task));
        titles.is_some_and(|titles| titles.contains(task.title()))
    });
}
