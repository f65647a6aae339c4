//! A definition named like a program: `quillon tree ferry.quillon --text "1 + 2"` means what it
//! means with `--language` before it.

use std::ffi::{OsStr, OsString};
use std::path::Path;

use crate::files::{DEFINITION, has_extension};

/// The commands that look at programs of a definition.
const OF_PROGRAMS: [&str; 12] = [
    "tokens",
    "tree",
    "scopes",
    "types",
    "core",
    "code",
    "translate",
    "run",
    "trace",
    "steps",
    "profile",
    "repl",
];

/// The arguments with `--language` before a definition that stands alone.
pub fn arranged(args: impl IntoIterator<Item = OsString>) -> Vec<OsString> {
    let mut args: Vec<OsString> = args.into_iter().collect();
    let is_asked = |arg: &OsString| OF_PROGRAMS.iter().any(|command| arg == command);
    let Some(command) = args.iter().position(is_asked) else {
        return args;
    };
    let rest = &args[command + 1..];
    let end = rest
        .iter()
        .position(|arg| arg == "--")
        .unwrap_or(rest.len());
    if rest[..end].iter().any(|arg| names_language(arg)) {
        return args;
    }
    let found = rest[..end].iter().position(|arg| is_definition(arg));
    if let Some(at) = found {
        args.insert(command + 1 + at, OsString::from("--language"));
    }
    args
}

fn names_language(arg: &OsStr) -> bool {
    let text = arg.to_string_lossy();
    let is_short = text.starts_with("-l");
    is_short || text == "--language" || text.starts_with("--language=")
}

fn is_definition(arg: &OsStr) -> bool {
    !arg.to_string_lossy().starts_with('-') && has_extension(Path::new(arg), DEFINITION)
}
