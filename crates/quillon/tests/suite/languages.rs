//! Languages of many shapes, each described as the documents say: what their cases state holds, and nothing in
//! their definitions is warned of.

use std::path::PathBuf;

use crate::common::Folder;

fn folder() -> PathBuf {
    PathBuf::from(concat!(env!("CARGO_MANIFEST_DIR"), "/tests/languages"))
}

/// Their names.
fn names() -> Vec<String> {
    let files = std::fs::read_dir(folder()).unwrap();
    let mut names: Vec<String> = files
        .filter_map(|file| Some(file.ok()?.path()))
        .filter(|path| {
            path.extension()
                .is_some_and(|extension| extension == "quillon")
        })
        .map(|path| path.file_stem().unwrap().to_string_lossy().into_owned())
        .collect();
    names.sort();
    names
}

/// A folder with one of them.
fn with(name: &str) -> Folder {
    let copy = Folder::new();
    for extension in ["quillon", "cases"] {
        let file = format!("{name}.{extension}");
        copy.write(&file, std::fs::read(folder().join(&file)).unwrap());
    }
    copy
}

#[test]
fn what_their_cases_state_holds() {
    assert!(names().len() > 10);
    for name in names() {
        let tested = with(&name).quillon(&["test"]);
        tested.ends_with(0).shows(", 0 failed");
    }
}

#[test]
fn nothing_in_them_is_warned_of() {
    for name in names() {
        let checked = with(&name).quillon(&["check", "--format", "json"]);
        checked.ends_with(0);
        let found = checked.json()["diagnostics"].clone();
        let warned = found.as_array().unwrap().iter();
        let warned: Vec<_> = warned.filter(|one| one["severity"] == "warning").collect();
        assert!(warned.is_empty(), "{name}: {warned:#?}");
    }
}

#[test]
fn each_has_a_grammar_in_two_notations_and_diagrams() {
    for name in names() {
        let folder = with(&name);
        for notation in ["w3c", "iso"] {
            let grammar = folder.quillon(&["grammar", "--as", notation]);
            grammar.ends_with(0);
            assert!(grammar.out.lines().count() > 10, "{name}: {grammar}");
        }
        folder
            .quillon(&["grammar", "--as", "html"])
            .ends_with(0)
            .shows("<svg");
    }
}
