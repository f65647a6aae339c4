//! Data flows one way: a room of the source imports only from rooms that stand above it in the
//! tables of `docs/architecture.md`. The tables are read, so that they are true.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

fn repository() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// A folder or a file of a crate's `src`, by its path of modules.
type Room = Vec<String>;

/// The rooms of a crate, those that others may import first: the first column of a table.
fn rooms(mark: &str) -> Vec<Room> {
    let text = std::fs::read_to_string(repository().join("docs/architecture.md")).unwrap();
    let table = text.split(&format!("<!-- rooms of {mark} -->")).nth(1);
    let table = table.and_then(|rest| rest.split("<!-- end -->").next());
    let rows = table.expect("the table").lines();
    let names = rows.filter_map(|row| row.strip_prefix("| `")?.split('`').next());
    names.map(|name| modules(Path::new(name))).collect()
}

/// The modules of a path below `src`, a `mod.rs` standing for its folder.
fn modules(path: &Path) -> Room {
    let mut parts: Room = path
        .with_extension("")
        .iter()
        .map(|part| part.to_string_lossy().into_owned())
        .collect();
    if parts.last().is_some_and(|last| last == "mod") {
        parts.pop();
    }
    parts
}

fn files_below(folder: &Path, found: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            files_below(&path, found);
        } else if path.extension().is_some_and(|extension| extension == "rs") {
            found.push(path);
        }
    }
}

/// The code of a file without its comments and its tests.
fn code_of(path: &Path) -> String {
    let text = std::fs::read_to_string(path).unwrap();
    let code = text.split("#[cfg(test)]\nmod tests").next().unwrap();
    let lines = code.lines().map(|line| line.split("//").next().unwrap());
    // Who may use something is no import.
    let code = lines.collect::<Vec<_>>().join("\n");
    code.replace("pub(in crate::", "pub(in ")
}

/// The paths that begin with one of these words: `crate::a::{b, c::d}` is two.
fn paths(code: &str) -> Vec<Vec<String>> {
    let mut found = Vec::new();
    for word in ["crate", "super"] {
        for (at, _) in code.match_indices(&format!("{word}::")) {
            let before = code[..at].chars().next_back();
            if before.is_some_and(|c| c.is_alphanumeric() || c == '_' || c == ':') {
                continue;
            }
            spread(&mut Vec::new(), &code[at..], &mut found);
        }
    }
    found
}

/// Reads a path, and each of several in braces; what is left of the text.
fn spread<'t>(before: &mut Vec<String>, text: &'t str, found: &mut Vec<Vec<String>>) -> &'t str {
    let own = before.len();
    let mut rest = text.trim_start();
    loop {
        let end = rest.find(|c: char| !c.is_alphanumeric() && c != '_');
        let (name, after) = rest.split_at(end.unwrap_or(rest.len()));
        before.push(name.to_owned());
        let Some(next) = after.strip_prefix("::") else {
            found.push(before.clone());
            before.truncate(own);
            return after;
        };
        rest = next;
        if let Some(inner) = next.strip_prefix('{') {
            rest = inner;
            loop {
                rest = rest.trim_start();
                if let Some(after) = rest.strip_prefix('}') {
                    before.truncate(own);
                    return after;
                }
                rest = spread(before, rest, found);
                // `name as other`
                let end = rest.find([',', '}']).expect("braces are closed");
                rest = rest[end..].trim_start_matches(',');
            }
        }
    }
}

/// What the root of a crate exports, by name: the module that it comes from.
fn exports(root: &Path) -> BTreeMap<String, Room> {
    let code = code_of(root);
    let uses = code.split("use ").skip(1);
    let mut found = Vec::new();
    for text in uses {
        spread(&mut Vec::new(), text, &mut found);
    }
    let named = found.into_iter().filter(|path| path.len() > 1);
    named.map(|mut path| (path.pop().unwrap(), path)).collect()
}

/// Every import of a crate that leads to a room below its own.
fn upward(name: &str, root: &str) -> Vec<String> {
    let source = repository().join("crates").join(name).join("src");
    let rooms = rooms(name);
    let exports = exports(&source.join(root));
    let room_of = |path: &[String]| {
        let inside = |room: &&Room| path.starts_with(room);
        let longest = rooms.iter().filter(inside).max_by_key(|room| room.len());
        longest.and_then(|longest| rooms.iter().position(|room| room == longest))
    };
    let mut files = Vec::new();
    files_below(&source, &mut files);
    files.sort();
    let mut wrong = Vec::new();
    for file in files {
        let path = file.strip_prefix(&source).unwrap();
        if path == Path::new(root) {
            continue;
        }
        let own = modules(path);
        let Some(own_room) = room_of(&own) else {
            wrong.push(format!("{} is in no room of the table", path.display()));
            continue;
        };
        for import in paths(&code_of(&file)) {
            let mut target = if import[0] == "crate" {
                Vec::new()
            } else {
                own.clone()
            };
            for part in &import {
                match part.as_str() {
                    "crate" => {}
                    "super" => {
                        target.pop();
                    }
                    name => target.push(name.to_owned()),
                }
            }
            if let Some(from) = target.first().and_then(|first| exports.get(first)) {
                target = from.clone();
            }
            if room_of(&target).is_some_and(|room| room > own_room) {
                wrong.push(format!("{} imports {}", path.display(), import.join("::")));
            }
        }
    }
    wrong
}

#[test]
fn no_import_of_the_core_runs_upward() {
    assert_eq!(upward("quillon-core", "lib.rs"), Vec::<String>::new());
}

#[test]
fn no_import_of_the_renderer_runs_upward() {
    assert_eq!(upward("quillon-render", "lib.rs"), Vec::<String>::new());
}

#[test]
fn no_import_of_the_command_line_runs_upward() {
    assert_eq!(upward("quillon", "main.rs"), Vec::<String>::new());
}

#[test]
fn every_room_is_there_and_said_once() {
    for name in ["quillon-core", "quillon-render", "quillon"] {
        let source = repository().join("crates").join(name).join("src");
        let rooms = rooms(name);
        for (number, room) in rooms.iter().enumerate() {
            let path = source.join(room.iter().collect::<PathBuf>());
            assert!(
                path.is_dir() || path.with_extension("rs").is_file(),
                "{room:?}"
            );
            assert!(!rooms[..number].contains(room), "{room:?} twice");
        }
    }
}

#[test]
fn imports_are_read_as_the_compiler_reads_them() {
    let code = "use crate::a::{self, b::{C, D as E}, f};\nlet x = super::g::h(crate::I);";
    let found: Vec<String> = paths(code).iter().map(|path| path.join("::")).collect();
    let wanted = [
        "crate::a::self",
        "crate::a::b::C",
        "crate::a::b::D",
        "crate::a::f",
        "crate::I",
        "super::g::h",
    ];
    assert_eq!(found, wanted);
}
