//! The commands in the help, by what they are for.

use std::ffi::OsString;

use clap::{Command as Clap, CommandFactory, FromArgMatches};

use super::Args;

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
    ("Trying", &["test", "generate"]),
    (
        "Writing programs and definitions",
        &["arrange", "editor", "debugger", "equip", "completions"],
    ),
    ("Sharing", &["reference", "pack", "manual"]),
];

/// What has been typed; what is wrong with it ends the process.
pub fn typed(args: Vec<OsString>) -> Args {
    let matches = command().get_matches_from(args);
    Args::from_arg_matches(&matches).unwrap_or_else(|error| error.exit())
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
