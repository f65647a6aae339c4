//! The corpus of wrong programs and definitions: what is wanted was written first, and what is
//! said is counted against it. How the files are written stands in `tests/wrong/README.md`.

use std::fmt::Write as _;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use crate::common;
use quillon_core::diagnostic::{Diagnostic, Severity};
use quillon_core::runtime::Recorder;
use quillon_core::source::SourceText;
use quillon_core::{Language, Reading};

/// An error that is wanted.
struct Wanted {
    place: String,
    words: Vec<String>,
    remedy: Option<String>,
    has_no_remedy: bool,
    never: Vec<String>,
}

/// A wrong text with what is wanted.
struct Case {
    file: String,
    line: usize,
    text: String,
    wanted: Vec<Wanted>,
}

/// What is counted over a corpus.
#[derive(Default, Debug, PartialEq, Eq)]
struct Score {
    cases: usize,
    errors: usize,
    /// Errors that are not said at their place.
    misplaced: usize,
    /// Errors of which the cause is not named.
    unexplained: usize,
    remedies: usize,
    /// Remedies that are due and not offered.
    unoffered: usize,
    /// Errors that are said and are none.
    followers: usize,
    /// Said of an error, and leading astray.
    misleading: usize,
}

fn folder(name: &str) -> PathBuf {
    let root = Path::new(env!("CARGO_MANIFEST_DIR"));
    root.join("tests/wrong").join(name)
}

fn cases(name: &str) -> Vec<Case> {
    let entries = std::fs::read_dir(folder(name)).unwrap();
    let mut files: Vec<PathBuf> = entries.map(|entry| entry.unwrap().path()).collect();
    files.retain(|file| file.extension().is_some_and(|extension| extension == "txt"));
    files.sort();
    files.iter().flat_map(|file| cases_of(file)).collect()
}

fn cases_of(file: &Path) -> Vec<Case> {
    let name = file.file_stem().unwrap().to_string_lossy().into_owned();
    let mut all: Vec<Case> = Vec::new();
    let mut empty = 0;
    for (number, line) in (1..).zip(std::fs::read_to_string(file).unwrap().lines()) {
        if line == "==" {
            all.push(Case {
                file: name.clone(),
                line: number,
                text: String::new(),
                wanted: Vec::new(),
            });
            empty = 0;
            continue;
        }
        let Some(case) = all.last_mut() else { continue };
        if let Some(wanted) = line.strip_prefix("-- ") {
            case.want(wanted);
        } else if line.is_empty() {
            // Lines between the cases are none of them.
            empty += 1;
        } else {
            case.text.push_str(&"\n".repeat(empty));
            empty = 0;
            case.text.push_str(line);
            case.text.push('\n');
        }
    }
    all
}

impl Case {
    fn want(&mut self, line: &str) {
        let (first, rest) = line.split_once(' ').unwrap_or((line, ""));
        let is_place = first.contains(':');
        if is_place {
            let words = rest.split("; ").filter(|words| !words.is_empty());
            self.wanted.push(Wanted {
                place: first.to_owned(),
                words: words.map(str::to_owned).collect(),
                remedy: None,
                has_no_remedy: false,
                never: Vec::new(),
            });
            return;
        }
        let last = self.wanted.last_mut().expect("a place comes first");
        match (first, rest) {
            ("no", "try") => last.has_no_remedy = true,
            ("try", words) => last.remedy = Some(words.to_owned()),
            ("not", words) => last.never.push(words.to_owned()),
            _ => panic!("{line}"),
        }
    }

    /// Counts what is said against what is wanted, and tells what is amiss.
    fn count(&self, said: &[Diagnostic], score: &mut Score) -> Vec<String> {
        let mut amiss = Vec::new();
        let mut said: Vec<&Diagnostic> = said.iter().collect();
        score.cases += 1;
        for wanted in &self.wanted {
            score.errors += 1;
            score.remedies += usize::from(wanted.remedy.is_some());
            let at = said.iter().position(|one| place(one) == wanted.place);
            let Some(at) = at else {
                score.misplaced += 1;
                score.unexplained += 1;
                score.unoffered += usize::from(wanted.remedy.is_some());
                amiss.push(format!("nothing at {}", wanted.place));
                continue;
            };
            let one = said.remove(at);
            let (all, remedies) = (words(one), one.remedies.join("; "));
            if let Some(words) = wanted.words.iter().find(|words| !all.contains(*words)) {
                score.unexplained += 1;
                amiss.push(format!("{} without {words}", wanted.place));
            }
            if wanted
                .remedy
                .as_ref()
                .is_some_and(|words| !remedies.contains(words))
            {
                score.unoffered += 1;
                amiss.push(format!("{} without its remedy", wanted.place));
            }
            let misleads = wanted.has_no_remedy && !remedies.is_empty()
                || wanted.never.iter().any(|words| all.contains(words));
            if misleads {
                score.misleading += 1;
                amiss.push(format!("{} leads astray", wanted.place));
            }
        }
        let followers = said.iter().filter(|one| one.severity != Severity::Note);
        for one in followers {
            score.followers += 1;
            amiss.push(format!("{} is none", place(one)));
        }
        amiss
    }
}

fn place(one: &Diagnostic) -> String {
    let place = one.place.as_ref();
    place.map_or_else(String::new, |place| {
        place.source.position(place.span.start).to_string()
    })
}

/// All that is said of an error.
fn words(one: &Diagnostic) -> String {
    let mut all = one.message.clone();
    for words in one.label.iter().chain(&one.why).chain(&one.remedies) {
        let _ = write!(all, "; {words}");
    }
    for related in &one.related {
        let _ = write!(all, "; {}", related.label);
    }
    all
}

/// Counts a corpus, prints what is amiss and the table, and gives the counts.
fn counted(folder: &str, said: impl Fn(&Case) -> Vec<Diagnostic>) -> Score {
    let mut score = Score::default();
    for case in cases(folder) {
        let said = said(&case);
        let amiss = case.count(&said, &mut score);
        if amiss.is_empty() {
            continue;
        }
        println!(
            "{}:{}: {}\n{}",
            case.file,
            case.line,
            amiss.join(", "),
            case.text
        );
        for one in &said {
            println!("    {} {}", place(one), words(one));
        }
    }
    let share = |missed: usize| 100.0 - 100.0 * missed as f64 / score.errors as f64;
    println!(
        "{folder}: {} texts, {} errors\n  right place {:.1} %, true cause {:.1} %, remedies {} of {}, follow-up errors {}, misleading {}",
        score.cases,
        score.errors,
        share(score.misplaced),
        share(score.unexplained),
        score.remedies - score.unoffered,
        score.remedies,
        score.followers,
        score.misleading
    );
    score
}

/// All that is said of a program before it runs, and if nothing is, what stops it.
fn said_of(language: &Language, text: &str) -> Vec<Diagnostic> {
    let source = SourceText::new("wrong", text);
    let mut host = Recorder::default();
    let mut session = language.session().start(&mut host).unwrap();
    session.run_source(&source, Reading::Program).diagnostics
}

/// The definition that a case's changes make of another.
fn changed(base: &str, changes: &str) -> String {
    let mut lines: Vec<Vec<&str>> = base.lines().map(|line| vec![line]).collect();
    for change in changes.lines() {
        let at = change.find(|c: char| !c.is_ascii_digit()).unwrap();
        let line = &mut lines[change[..at].parse::<usize>().unwrap() - 1];
        let text = change[at + 1..]
            .strip_prefix(' ')
            .unwrap_or(&change[at + 1..]);
        match &change[at..=at] {
            "|" => line[0] = text,
            "+" => line.push(text),
            _ => {
                line.remove(0);
            }
        }
    }
    let mut text = lines.concat().join("\n");
    text.push('\n');
    text
}

/// All that is said of a definition by `check`; no notes.
fn said_of_definition(text: &str) -> Vec<Diagnostic> {
    let outcome = Language::load(&SourceText::new("ferry.quillon", text));
    let mut said = outcome.diagnostics;
    if let Some(language) = &outcome.value {
        said.extend(language.advice());
    }
    said.retain(|one| one.severity != Severity::Note);
    said
}

#[test]
fn wrong_definitions_are_told_their_cause_once_with_what_to_do() {
    let base = include_str!("../wrong/definitions/ferry.quillon");
    assert_eq!(said_of_definition(base), []);
    let score = counted("definitions", |case| {
        said_of_definition(&changed(base, &case.text))
    });
    assert!(score.cases >= 220);
    // Only ever fewer.
    assert!(score.misplaced <= 1 && score.unexplained <= 1, "{score:?}");
    assert!(score.unoffered == 0 && score.followers <= 4, "{score:?}");
    assert_eq!(score.misleading, 0);
}

#[test]
fn of_right_definitions_nothing_is_said() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../languages");
    let mut count = 0;
    let ours = std::fs::read_dir(root).unwrap().map(|entry| {
        let folder = entry.unwrap().path();
        let name = folder.file_name().unwrap().to_string_lossy().into_owned();
        folder.join(format!("{name}.quillon"))
    });
    let others = std::fs::read_dir(folder("programs")).unwrap();
    let others = others.map(|entry| entry.unwrap().path());
    for file in ours.chain(others) {
        let name = file.display().to_string();
        if file.exists() && name.ends_with(".quillon") {
            let text = std::fs::read_to_string(file).unwrap();
            assert_eq!(said_of_definition(&text), [], "{name}");
            count += 1;
        }
    }
    assert!(count >= 16);
}

#[test]
fn wrong_programs_are_told_their_cause_once_with_what_to_do() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../languages");
    let languages = std::cell::RefCell::new(std::collections::HashMap::new());
    let language = |name: &str| -> Arc<Language> {
        let mut languages = languages.borrow_mut();
        let made = languages.entry(name.to_owned()).or_insert_with(|| {
            let own = folder("programs").join(format!("{name}.quillon"));
            let file = root.join(name).join(format!("{name}.quillon"));
            let file = if own.exists() { own } else { file };
            Arc::new(common::language(&std::fs::read_to_string(file).unwrap()))
        });
        Arc::clone(made)
    };
    let score = counted("programs", |case| {
        said_of(&language(&case.file), &case.text)
    });
    assert!(score.cases >= 400);
    // Only ever fewer.
    assert!(score.misplaced <= 3 && score.unexplained <= 3, "{score:?}");
    assert!(score.unoffered == 0 && score.followers <= 4, "{score:?}");
    assert_eq!(score.misleading, 0);
}
