//! The languages that are carried, and the commands that came with them: types and steps.

use std::path::PathBuf;

use crate::common::Folder;
use serde_json::Value;

fn languages() -> PathBuf {
    PathBuf::from(concat!(env!("CARGO_MANIFEST_DIR"), "/../../languages"))
}

/// The folders of the gallery.
fn names() -> Vec<String> {
    let folders = std::fs::read_dir(languages()).unwrap();
    let mut names: Vec<String> = folders
        .filter_map(Result::ok)
        .filter(|entry| entry.path().is_dir())
        .map(|entry| entry.file_name().to_string_lossy().into_owned())
        .collect();
    names.sort();
    names
}

#[test]
fn every_language_is_carried_and_begins_another() {
    let folder = Folder::new();
    let listed = folder.quillon(&["demo", "--list"]).ends_with(0).out.clone();
    for name in names() {
        assert!(
            listed.contains(&format!("\n{name} ")),
            "{name} is not listed"
        );
        let own = format!("own_{name}");
        folder.quillon(&["new", &own, "--from", &name]).ends_with(0);
        let tested = folder.quillon(&["test", &own]).ends_with(0).out.clone();
        assert!(tested.contains(", 0 failed"), "{name}: {tested}");
        let definition =
            std::fs::read_to_string(folder.path().join(&own).join(format!("{own}.quillon")));
        assert!(definition.unwrap().contains(&format!("\".{own}\"")));
    }
    let unknown = folder.quillon(&["new", "x", "--from", "kel"]);
    assert_eq!(unknown.status, 2);
    assert!(
        unknown.err.contains("did you mean `keel`?"),
        "{}",
        unknown.err
    );
}

#[test]
fn every_language_has_cases_that_fail_too_and_a_readme() {
    let table = std::fs::read_to_string(languages().join("README.md")).unwrap();
    for name in names().iter().filter(|name| *name != "towpath") {
        let folder = languages().join(name);
        let read = |path: &str| std::fs::read_to_string(folder.join(path)).unwrap();
        let cases = read(&format!("cases/{name}.cases"));
        let fails = cases
            .lines()
            .filter(|line| line.contains(" fails "))
            .count();
        let gives = [" gives ", " prints ", " types ", " leaves ", " tree "];
        let others = cases
            .lines()
            .filter(|line| gives.iter().any(|word| line.contains(word)));
        assert!(fails + others.count() >= 8, "{name} has few cases");
        assert!(
            fails > 1 || name == "punt",
            "{name} has few cases of errors"
        );
        assert!(read("README.md").lines().count() > 10);
        assert!(table.contains(&format!("({name}/README.md)")), "{name}");
    }
}

/// A folder with a language of the gallery as `own`.
fn with(name: &str) -> Folder {
    let folder = Folder::new();
    folder.quillon(&["new", "own", "--from", name]).ends_with(0);
    folder
}

#[test]
fn types_are_shown_over_the_source_as_a_table_and_as_data() {
    let folder = with("gauge");
    let text = "def up = \\(x) x + 1.5; up(2)";
    let args = ["types", "-l", "own/own.quillon", "--text", text];
    let over = folder.quillon(&args).ends_with(0).out.clone();
    assert!(over.contains("╰╯ function (number) to number"), "{over}");
    let table = folder
        .quillon(&[&args[..], &["--as", "table"]].concat())
        .ends_with(0)
        .out
        .clone();
    assert!(table.contains("binds up"), "{table}");
    let json = folder
        .quillon(&[&args[..], &["--format", "json"]].concat())
        .ends_with(0)
        .out
        .clone();
    let json: Value = serde_json::from_str(&json).unwrap();
    let types = json["types"].as_array().unwrap();
    let bound = types.iter().find(|one| one["name"] == "up").unwrap();
    assert_eq!(bound["type"], "function (number) to number");
    assert_eq!(bound["place"]["column"], 5);
    let why = folder
        .quillon(&[&args[..], &["--why", "1:17"]].concat())
        .ends_with(0)
        .out
        .clone();
    assert!(why.starts_with("x + 1.5 : number"), "{why}");
    assert!(why.contains("bound at 1:12"), "{why}");
    let nowhere = folder.quillon(&[&args[..], &["--why", "nowhere"]].concat());
    assert_eq!(nowhere.status, 2);
}

#[test]
fn errors_of_types_come_before_the_run_and_can_be_left_out() {
    let folder = with("gauge");
    let text = "tell 1; if 1 then 2 else 3; 4 + \"a\"";
    let args = ["run", "-l", "own/own.quillon", "--text", text];
    let run = folder.quillon(&args);
    assert_eq!((run.status, run.out.as_str()), (1, ""));
    assert_eq!(run.err.matches("type.mismatch").count(), 2, "{}", run.err);
    let off = folder.quillon(&[&args[..], &["--types", "off"]].concat());
    assert_eq!((off.status, off.out.as_str()), (1, "1\n"));
    assert!(off.err.contains("run.kind"), "{}", off.err);
    let lacks = with("reach").quillon(&["types", "-l", "own/own.quillon", "--text", "1"]);
    assert_eq!(lacks.status, 3);
    assert!(lacks.err.contains("has no types yet"), "{}", lacks.err);
}

#[test]
fn a_hole_in_the_types_is_found_with_the_smallest_program() {
    let folder = with("gauge");
    let args = ["test", "own", "--soundness=150"];
    folder.quillon(&args).ends_with(0);
    let path = folder.path().join("own/own.quillon");
    let definition = std::fs::read_to_string(&path).unwrap();
    let holed = definition.replace("typed    test : truth,", "typed    test : T,");
    std::fs::write(&path, holed).unwrap();
    let found = folder.quillon(&args);
    assert_eq!(found.status, 1);
    assert!(found.out.contains("what types promise"), "{}", found.out);
    assert!(found.out.contains("if 0 then"), "{}", found.out);
}

#[test]
fn steps_are_shown_as_text_as_data_and_as_a_page() {
    let folder = with("sluice");
    let args = [
        "steps",
        "-l",
        "own/own.quillon",
        "--text",
        "gate x { x + 1 } <- 2",
    ];
    let text = folder.quillon(&args).ends_with(0).out.clone();
    assert!(text.contains("    1  2 + 1\n       ━━━━━\n"), "{text}");
    assert!(text.ends_with("finished after 2 steps\n"), "{text}");
    let json = folder
        .quillon(&[&args[..], &["--format", "json"]].concat())
        .ends_with(0)
        .out
        .clone();
    let json: Value = serde_json::from_str(&json).unwrap();
    let steps = json["reduction"]["steps"].as_array().unwrap();
    let texts: Vec<&str> = steps
        .iter()
        .filter_map(|step| step["text"].as_str())
        .collect();
    assert_eq!(texts, ["gate x { x + 1 } <- 2", "2 + 1", "3"]);
    assert_eq!(json["reduction"]["ended"], "value");
    let page = folder
        .quillon(&[&args[..], &["--as", "html"]].concat())
        .ends_with(0)
        .out
        .clone();
    assert!(
        page.contains("<span class=\"changed\"><span class=\"next\">2 + 1</span></span>"),
        "{page}"
    );
    let stuck = folder.quillon(&["steps", "-l", "own/own.quillon", "--text", "1 + open"]);
    assert_eq!(stuck.status, 1);
    assert!(stuck.out.contains("`right` is no Number"), "{}", stuck.out);
    let grows = "again n { n + n }";
    let grows = folder.quillon(&[
        "steps",
        "-l",
        "own/own.quillon",
        "--limit",
        "3",
        "--text",
        grows,
    ]);
    assert!(grows.out.contains("`--limit` allows more"), "{}", grows.out);
}

#[test]
fn both_meanings_are_compared() {
    let folder = with("sluice");
    let path = folder.path().join("own/own.quillon");
    let definition = std::fs::read_to_string(&path).unwrap();
    std::fs::write(
        &path,
        definition.replace("to Number(a * b)", "to Number(a + b)"),
    )
    .unwrap();
    let tested = folder.quillon(&["test", "own"]);
    assert_eq!(tested.status, 1);
    assert!(tested.out.contains("both meanings"), "{}", tested.out);
}
