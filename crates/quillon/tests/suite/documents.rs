//! The documents: links lead somewhere, and words are those of the glossary.

use std::path::{Path, PathBuf};

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// All files below a folder that end so.
fn below(folder: &Path, end: &str, found: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        let name = path.file_name().unwrap_or_default().to_string_lossy();
        if path.is_dir() && name != "target" && !name.starts_with('.') {
            below(&path, end, found);
        } else if name.ends_with(end) {
            found.push(path);
        }
    }
}

fn pages() -> Vec<PathBuf> {
    let mut found = Vec::new();
    below(&root(), ".md", &mut found);
    assert!(found.len() > 20);
    found
}

/// The text without its blocks of code.
fn prose(text: &str) -> String {
    let mut is_code = false;
    let mut out = String::new();
    for line in text.lines() {
        if line.starts_with("```") {
            is_code = !is_code;
        } else if !is_code {
            out.push_str(line);
            out.push('\n');
        }
    }
    out
}

/// What a heading is called in links.
fn anchor(heading: &str) -> String {
    let kept = heading.trim().to_lowercase();
    let kept = kept.chars().filter_map(|c| match c {
        ' ' => Some('-'),
        c if c.is_alphanumeric() || c == '-' || c == '_' => Some(c),
        _ => None,
    });
    kept.collect()
}

#[test]
fn every_link_leads_somewhere() {
    let mut followed = 0;
    for page in pages() {
        let text = prose(&std::fs::read_to_string(&page).unwrap());
        for target in text.split("](").skip(1) {
            let target = target.split(')').next().unwrap_or_default();
            if target.contains("://") {
                continue;
            }
            let (file, part) = target.split_once('#').unwrap_or((target, ""));
            let to = if file.is_empty() {
                page.clone()
            } else {
                page.parent().unwrap().join(file)
            };
            assert!(to.exists(), "{}: {target}", page.display());
            if !part.is_empty() {
                let there = prose(&std::fs::read_to_string(&to).unwrap());
                let mut heads = there.lines().filter_map(|line| line.strip_prefix('#'));
                let is_there = heads.any(|head| anchor(head.trim_start_matches('#')) == part);
                assert!(is_there, "{}: {target}", page.display());
            }
            followed += 1;
        }
    }
    assert!(followed > 80, "{followed}");
}

#[test]
fn every_page_is_in_the_index() {
    let docs = root().join("docs");
    let index = std::fs::read_to_string(docs.join("README.md")).unwrap();
    let mut all = Vec::new();
    below(&docs, ".md", &mut all);
    for page in all {
        let name = page.strip_prefix(&docs).unwrap().display().to_string();
        let is_there = name == "README.md" || index.contains(&format!("]({name})"));
        assert!(is_there, "{name}");
    }
}

/// The words that the glossary puts others in the place of.
fn replaced() -> Vec<(String, String)> {
    let glossary = std::fs::read_to_string(root().join("docs/glossary.md")).unwrap();
    let (_, table) = glossary.split_once("| not | but |").unwrap();
    let rows = table.lines().filter_map(|line| {
        let mut cells = line.strip_prefix("| ")?.split(" | ");
        let but = cells.nth(1)?.trim_end_matches(" |");
        Some((line[2..].split(" | ").next()?.to_owned(), but.to_owned()))
    });
    let rows: Vec<_> = rows.collect();
    assert!(rows.len() >= 3);
    rows
}

#[test]
fn words_that_the_glossary_replaces_are_used_nowhere() {
    let mut all = pages();
    below(&root().join("crates"), ".rs", &mut all);
    below(&root().join("crates"), ".snap", &mut all);
    below(&root().join("languages"), ".quillon", &mut all);
    let own = ["documents.rs", "glossary.md", "CHANGELOG.md"];
    all.retain(|path| !own.iter().any(|name| path.ends_with(name)));
    for (word, instead) in replaced() {
        let stem = word.to_lowercase();
        for path in &all {
            let text = std::fs::read_to_string(path).unwrap();
            for (line, number) in text.lines().zip(1..) {
                let found = line.to_lowercase().contains(&stem);
                assert!(
                    !found,
                    "{}:{number}: write {instead:?} instead of {word:?}: {line}",
                    path.display()
                );
            }
        }
    }
}
