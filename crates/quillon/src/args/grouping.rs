//! The commands in the help, by what they are for.

use std::ffi::OsString;

use clap::error::{ContextKind, ContextValue, ErrorKind};
use clap::{Command as Clap, CommandFactory, FromArgMatches};
use quillon_core::diagnostic::nearest;

use super::Args;
use crate::exit::Exit;
use crate::render::style::{FORM, paint};

/// What commands are for, with those that are for it, in the order of the work.
const GROUPS: [(&str, &[&str]); 7] = [
    ("Begin", &["new", "demo"]),
    ("The definition", &["check", "grammar", "compare"]),
    (
        "A program, stage by stage",
        &[
            "tokens",
            "tree",
            "scopes",
            "types",
            "core",
            "code",
            "explain",
            "translate",
        ],
    ),
    (
        "Running",
        &["run", "repl", "steps", "trace", "walk", "profile"],
    ),
    ("Testing", &["test", "generate"]),
    (
        "Writing programs and definitions",
        &["arrange", "editor", "debugger", "equip", "completions"],
    ),
    ("Sharing", &["reference", "pack", "manual"]),
];

/// What has been typed; what is wrong with it ends the process, with the nearest line that is right where there is one.
pub fn typed(args: &[OsString]) -> Args {
    // Groups are for who reads the help: a line that is right is read without them.
    let plain = Args::command().try_get_matches_from(args);
    let matches = plain.or_else(|_| command().try_get_matches_from(args));
    let typed = matches.and_then(|matches| Args::from_arg_matches(&matches));
    typed.unwrap_or_else(|error| {
        let Some(line) = nearest_line(args, &error) else {
            error.exit();
        };
        let told = error.render().to_string();
        let (told, _) = told.split_once("\n\n").unwrap_or((&told, ""));
        crate::render::screen::tell_line(format!("{told}\n  try  `{line}`"));
        std::process::exit(Exit::Usage.number().into());
    })
}

/// What was typed with the command or the option in place that was meant, if it is a line that can be carried out.
fn nearest_line(args: &[OsString], error: &clap::Error) -> Option<String> {
    let told = |kind| match error.get(kind) {
        Some(ContextValue::String(told)) => Some(told.as_str()),
        _ => None,
    };
    let all = Args::command();
    let (wrong, meant) = match error.kind() {
        ErrorKind::InvalidSubcommand => {
            let wrong = told(ContextKind::InvalidSubcommand)?;
            let names = all.get_subcommands().map(Clap::get_name);
            (wrong, nearest(wrong, names)?)
        }
        ErrorKind::UnknownArgument => {
            let wrong = told(ContextKind::InvalidArg)?;
            (wrong, told(ContextKind::SuggestedArg)?)
        }
        _ => return None,
    };
    let mut line: Vec<String> = Vec::new();
    for arg in args {
        line.push(arg.to_str()?.to_owned());
    }
    let at = line.iter().position(|arg| {
        let rest = arg.strip_prefix(wrong);
        rest.is_some_and(|rest| rest.is_empty() || rest.starts_with('='))
    })?;
    line[at] = line[at].replacen(wrong, meant, 1);
    Args::command().try_get_matches_from(&line).ok()?;
    let words: Vec<String> = line[1..].iter().map(|word| for_shell(word)).collect();
    Some(format!("quillon {}", words.join(" ")))
}

/// A word as it is typed in a shell: in quotes where it would not stand for itself.
fn for_shell(word: &str) -> String {
    let is_plain = |c: char| c.is_alphanumeric() || "-_./=:,@%+".contains(c);
    if !word.is_empty() && word.chars().all(is_plain) {
        return word.to_owned();
    }
    format!("'{}'", word.replace('\'', "'\\''"))
}

/// What `quillon` says that is given nothing to do.
pub fn welcome() -> Vec<String> {
    let line = |command: &str, does: &str| {
        format!("  {}  {does}", paint(FORM, format_args!("{command:<20}")))
    };
    vec![
        "Quillon makes a language out of its description. Three things to try:".to_owned(),
        String::new(),
        line(
            "quillon demo",
            "a language stage by stage, from its tokens to its errors",
        ),
        line(
            "quillon new ferry",
            "a small language of your own, in a folder",
        ),
        line("quillon --help", "all commands, by what they are for"),
    ]
}

/// All that can be typed, with the commands in groups.
pub fn command() -> Clap {
    let all = Args::command();
    let width = all.get_subcommands().map(|one| one.get_name().len()).max();
    let width = width.unwrap_or_default();
    let mut commands = String::new();
    for (what, names) in GROUPS {
        commands.push_str(&format!("\n{what}:\n"));
        for one in names.iter().filter_map(|name| all.find_subcommand(name)) {
            let about = one.get_about().map(ToString::to_string);
            let (name, about) = (one.get_name(), about.unwrap_or_default());
            commands.push_str(&format!("  {name:<width$}  {about}\n"));
        }
    }
    all.help_template(format!(
        "{{about-with-newline}}\n{{usage-heading}} {{usage}}\n{commands}\nOptions:\n{{options}}{{after-help}}"
    ))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_command_is_in_one_group() {
        let mut grouped: Vec<&str> = GROUPS
            .iter()
            .flat_map(|(_, names)| names.iter().copied())
            .collect();
        grouped.sort_unstable();
        let all = Args::command();
        let mut known: Vec<&str> = all.get_subcommands().map(Clap::get_name).collect();
        known.sort_unstable();
        assert_eq!(grouped, known);
    }
}
