//! Runs the guide: every file in it is written, every command in it is run, and what it
//! shows must be what comes. After a deliberate change, run with `UPDATE_GUIDE=1` and
//! read the difference.
//!
//! A block marked `quillon NAME` adds its items to that definition, or takes the place of
//! items with the same first line. A block marked `text NAME` is a whole file. In a block
//! marked `console`, lines that start with `$` are commands.

use std::path::Path;

use crate::common::Folder;

#[test]
fn the_guide_is_true() {
    follow("docs/guide.md");
}

#[cfg(unix)]
#[test]
fn what_is_said_of_sharing_is_true() {
    follow("docs/sharing.md");
}

#[test]
fn what_is_said_of_wrong_values_is_true() {
    follow("docs/finding.md");
}

#[test]
fn what_is_said_of_cases_is_true() {
    follow("docs/cases.md");
}

#[test]
fn the_readme_is_true() {
    follow("README.md");
}

#[test]
fn each_command_has_a_section_a_row_and_a_test() {
    let folder = Folder::new();
    let tests = tests();
    let help = folder.quillon(&["--help"]).out;
    // They stand in groups, each under what it is for.
    let listed = help.split("Options:").next().unwrap();
    let commands: Vec<&str> = listed
        .lines()
        .filter_map(|line| line.strip_prefix("  "))
        .filter_map(|line| line.split(' ').next())
        .collect();
    assert!(commands.len() > 15, "{commands:?}");
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let page = std::fs::read_to_string(root.join("docs/commands.md")).unwrap();
    let readme = std::fs::read_to_string(root.join("README.md")).unwrap();
    for command in commands {
        let heads = page.lines().filter_map(|line| line.strip_prefix("## `"));
        let heads = heads.map(|head| head.split([' ', '`']).next().unwrap());
        assert!(
            heads.clone().any(|head| head == command),
            "{command} in docs/commands.md"
        );
        assert!(
            readme.contains(&format!("| `{command}`")),
            "{command} in README.md"
        );
        assert!(
            tests.contains(&format!("\"{command}\"")),
            "no test runs {command}"
        );
        let help = folder.quillon(&[command, "--help"]).out;
        assert!(help.contains("Example"), "{command} has no example");
    }
}

/// The tests of the command line, as text, without this file.
fn tests() -> String {
    let suite = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/suite");
    let files = std::fs::read_dir(suite).unwrap();
    let paths = files.map(|file| file.unwrap().path());
    let others = paths.filter(|path| path.is_file() && !path.ends_with("guide.rs"));
    let texts = others.map(|path| std::fs::read_to_string(path).unwrap());
    texts.collect()
}

fn follow(name: &str) {
    let path = Path::new(env!("CARGO_MANIFEST_DIR"))
        .join("../..")
        .join(name);
    let written = std::fs::read_to_string(&path).unwrap();
    let come = run_through(&written);
    if std::env::var_os("UPDATE_GUIDE").is_some() {
        std::fs::write(&path, &come).unwrap();
    } else {
        assert_eq!(come, written, "{name} does not show what comes");
    }
}

/// The text with the output of its commands replaced by what they really give.
fn run_through(text: &str) -> String {
    let folder = Folder::new();
    let mut inside = String::from(".");
    let mut out = String::new();
    let mut lines = text.lines();
    while let Some(line) = lines.next() {
        out.push_str(line);
        out.push('\n');
        let Some(mark) = line.strip_prefix("```").filter(|mark| !mark.is_empty()) else {
            continue;
        };
        let block: Vec<&str> = lines.by_ref().take_while(|line| *line != "```").collect();
        let body = block.join("\n") + "\n";
        match mark.split_once(' ').unwrap_or((mark, "")) {
            ("quillon" | "text", "") => out.push_str(&body),
            ("quillon", file) => {
                merge(&folder, &format!("{inside}/{file}"), &body);
                out.push_str(&body);
            }
            ("text", file) => {
                folder.write(&format!("{inside}/{file}"), &body);
                out.push_str(&body);
            }
            ("console", _) => {
                for command in block.iter().filter(|line| line.starts_with("$ ")) {
                    out.push_str(command);
                    out.push('\n');
                    out.push_str(&run(&folder, &mut inside, &command[2..]));
                }
            }
            _ => out.push_str(&body),
        }
        out.push_str("```\n");
    }
    out
}

/// Runs a command of the guide: `quillon …`, what it has packed, `cd …`, or `echo '…' | quillon …`.
fn run(folder: &Folder, inside: &mut String, command: &str) -> String {
    if let Some(to) = command.strip_prefix("cd ") {
        *inside = format!("{inside}/{to}");
        return String::new();
    }
    let (input, command) = match command.split_once(" | ") {
        Some((echo, command)) => {
            let text = words(echo).into_iter().skip(1).collect::<Vec<_>>();
            (text.join(" ").replace("\\n", "\n") + "\n", command)
        }
        None => (String::new(), command),
    };
    let words = words(command);
    let args: Vec<&str> = words[1..].iter().map(String::as_str).collect();
    let ran = if let Some(packed) = words[0].strip_prefix("./") {
        let place = folder.path().join(&*inside);
        let packed = std::process::Command::new(place.join(packed));
        folder.run_in(packed, inside, &args, &input)
    } else {
        assert_eq!(words[0], "quillon", "{command}");
        folder.quillon_in(inside, &args, &input)
    };
    let shown = ran.out + &ran.err;
    // Trailing blanks do not survive editing.
    let trimmed: Vec<&str> = shown.trim_end().lines().map(str::trim_end).collect();
    if trimmed.is_empty() {
        return String::new();
    }
    trimmed.join("\n") + "\n"
}

/// Splits a command as a shell would, with single quotes.
fn words(command: &str) -> Vec<String> {
    let mut words = vec![String::new()];
    let mut quoted = false;
    for c in command.chars() {
        match c {
            '\'' => quoted = !quoted,
            ' ' if !quoted => words.push(String::new()),
            c => words.last_mut().unwrap().push(c),
        }
    }
    words
}

/// Adds items to a definition; one with the same first line is replaced.
fn merge(folder: &Folder, file: &str, added: &str) {
    let before = std::fs::read_to_string(folder.path().join(file)).unwrap_or_default();
    let mut items = split_items(&before);
    for item in split_items(added) {
        let head = |item: &str| item.lines().next().unwrap_or("").to_owned();
        match items.iter_mut().find(|i| head(i) == head(&item)) {
            Some(old) => *old = item,
            None => items.push(item),
        }
    }
    folder.write(file, items.join("\n"));
}

fn split_items(text: &str) -> Vec<String> {
    let mut items: Vec<String> = Vec::new();
    for line in text.lines().filter(|line| !line.is_empty()) {
        if line.starts_with(' ')
            && let Some(item) = items.last_mut()
        {
            item.push_str(line);
            item.push('\n');
        } else {
            items.push(format!("{line}\n"));
        }
    }
    items
}
