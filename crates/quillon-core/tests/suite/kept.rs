//! Languages as bytes: the same language comes back, or none.

use std::path::{Path, PathBuf};
use std::sync::Arc;

use quillon_core::runtime::Limits;
use quillon_core::source::SourceText;
use quillon_core::{Language, Reading};

use crate::common::{TOKENS, own, tree, value_within};

/// The bundled languages, each with its definition and its programs.
fn bundled() -> Vec<(Arc<SourceText>, Vec<PathBuf>)> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../languages");
    let mut folders: Vec<PathBuf> = std::fs::read_dir(root)
        .unwrap()
        .flatten()
        .map(|e| e.path())
        .collect();
    folders.retain(|path| path.is_dir());
    folders.sort();
    let language = |folder: PathBuf| {
        let name = folder.file_name().unwrap().to_string_lossy().into_owned();
        let text = std::fs::read_to_string(folder.join(format!("{name}.quillon"))).unwrap();
        let programs = std::fs::read_dir(folder.join("programs"))
            .unwrap()
            .flatten();
        let mut programs: Vec<PathBuf> = programs.map(|e| e.path()).collect();
        programs.sort();
        (SourceText::new(format!("{name}.quillon"), text), programs)
    };
    folders.into_iter().map(language).collect()
}

/// What a language makes of a program: its tokens, its tree, and what it does.
fn made(language: &Language, path: &Path) -> String {
    let text = std::fs::read_to_string(path).unwrap();
    let source = SourceText::new("program", text.as_str());
    let tokens = language.all_tokens(&source).value.map(|all| all.tokens);
    let limits = Limits {
        steps: Some(100_000),
        ..Limits::default()
    };
    let does = value_within(language, &text, limits);
    format!("{tokens:?}\n{}\n{does}", tree(language, &text))
}

#[test]
fn every_bundled_language_comes_back_the_same() {
    for (source, programs) in bundled() {
        let anew = Language::load(&source).value.unwrap();
        let bytes = anew.kept().unwrap();
        let back = Language::from_kept(&source, &bytes).unwrap();
        assert_eq!(
            format!("{:?}", anew.definition()),
            format!("{:?}", back.definition())
        );
        for path in programs {
            let file = path.to_string_lossy();
            let of = |whole: &Language| {
                made(
                    &whole.surface(whole.surface_name_of_file(&file)).unwrap(),
                    &path,
                )
            };
            assert_eq!(of(&anew), of(&back), "{file}");
        }
    }
}

#[test]
fn a_wrong_program_is_told_the_same() {
    let source = own(&format!(
        "language Own\n{TOKENS}\nusual Program, Let, Add, Group, Number, Variable"
    ));
    let anew = Language::load(&source).value.unwrap();
    let back = Language::from_kept(&source, &anew.kept().unwrap()).unwrap();
    for text in [
        "let x = ",
        "let x 1",
        "(1 + 2",
        "1 + + 2",
        "let y = 1; z",
        "let ! = 1",
        ")",
    ] {
        let told = |language: &Language| {
            let outcome = language.tree(&SourceText::new("text", text), Reading::Entry);
            format!("{:?}", outcome.diagnostics)
        };
        assert_eq!(told(&anew), told(&back), "{text}");
    }
}

#[test]
fn what_is_damaged_or_of_another_text_is_no_language() {
    let definition = format!("language Own\n{TOKENS}\nusual Program, Let, Number");
    let source = own(&definition);
    let bytes = Language::load(&source).value.unwrap().kept().unwrap();
    assert!(Language::from_kept(&source, &bytes).is_some());
    for at in 0..bytes.len() {
        let mut damaged = bytes.clone();
        damaged[at] ^= 1 << (at % 8);
        assert!(
            Language::from_kept(&source, &damaged).is_none(),
            "byte {at}"
        );
        assert!(
            Language::from_kept(&source, &bytes[..at]).is_none(),
            "cut at {at}"
        );
    }
    let other = own(&format!("{definition}\n"));
    assert!(Language::from_kept(&other, &bytes).is_none());
    assert_ne!(Language::key(&source), Language::key(&other));
}
