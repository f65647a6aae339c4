//! What can be typed to an executable in which something is packed.

use std::ffi::OsString;

use clap::{Arg, Args as ClapArgs, Command as Clap, CommandFactory, FromArgMatches};

use super::{Args, Arrange, Check, Color, Command, Debugger, Repl, Run, Trace, Walk};
use crate::packed::Pack;

/// What gives a command its arguments.
type Arguments = fn(Clap) -> Clap;

/// The commands that a packed language has.
const OWN: [(&str, Arguments); 8] = [
    ("run", without_language::<Run>),
    ("repl", without_language::<Repl>),
    ("check", of_check),
    ("arrange", without_language::<Arrange>),
    ("trace", without_language::<Trace>),
    ("walk", without_language::<Walk>),
    ("editor", |command| command),
    ("debugger", Debugger::augment_args),
];

/// The variables of the environment that say what a packed program may read and write, each with the option
/// that says so to `run`.
const FOLDERS: [(&str, &str); 2] = [
    ("QUILLON_FILES_FROM", "--files-from"),
    ("QUILLON_FILES_INTO", "--files-into"),
];

/// What has been typed, by what is packed; what is wrong with it ends the process.
pub fn of_packed(pack: &'static Pack) -> Args {
    let typed: Vec<OsString> = std::env::args_os().skip(1).collect();
    match pack.program() {
        Some(_) => of_program(typed),
        None => of_language(pack, typed),
    }
}

/// A packed program has all that is typed.
fn of_program(typed: Vec<OsString>) -> Args {
    let mut args: Vec<OsString> = ["quillon", "run", "-"].map(OsString::from).into();
    for (variable, option) in FOLDERS {
        let folders = std::env::var_os(variable).unwrap_or_default();
        let folders = std::env::split_paths(&folders).filter(|one| !one.as_os_str().is_empty());
        args.extend(folders.flat_map(|folder| [option.into(), folder.into_os_string()]));
    }
    args.push("--".into());
    args.extend(typed);
    super::typed(&args)
}

fn of_language(pack: &'static Pack, mut typed: Vec<OsString>) -> Args {
    let own = command(pack);
    let is_known = |first: &OsString| {
        let word = first.to_string_lossy();
        word.starts_with('-') || word == "help" || own.find_subcommand(&*word).is_some()
    };
    // A program alone is run.
    if typed.first().is_some_and(|first| !is_known(first)) {
        typed.insert(0, "run".into());
    }
    let name = OsString::from(&pack.name);
    let matches = own.get_matches_from(std::iter::once(name).chain(typed));
    let color = matches.get_one::<Color>("color").copied();
    match Command::from_arg_matches(&matches) {
        Ok(command) => Args {
            color: color.unwrap_or(Color::Auto),
            command,
        },
        Err(error) => error.exit(),
    }
}

/// The commands of a packed language, under its own name.
fn command(pack: &'static Pack) -> Clap {
    let all = Args::command();
    let color: Vec<Arg> = all.get_arguments().cloned().collect();
    let commands = OWN.iter().enumerate().filter_map(|(order, (name, args))| {
        let command = all.find_subcommand(name)?.clone().defer(*args);
        let command = if *name == "check" {
            command.about("Examine a program without running it")
        } else {
            command
        };
        Some(command.display_order(order).after_help(""))
    });
    Clap::new(pack.name.as_str())
        .version(pack.version.as_str())
        .about(pack.about.as_str())
        .after_help(
            "A program alone is run.\nExit status: 0 done; 1 a program or a check failed; 2 wrong usage;\n4 an input could not be read; or what the program leaves with.",
        )
        .max_term_width(96)
        .subcommand_required(true)
        .arg_required_else_help(true)
        .args(color)
        .subcommands(commands)
}

/// Arguments in which the language need not be named.
fn without_language<A: ClapArgs>(command: Clap) -> Clap {
    A::augment_args(command).mut_arg("language", |language| language.hide(true))
}

/// A packed language has programs to check, and no definition.
fn of_check(command: Clap) -> Clap {
    Check::augment_args(command).mut_arg("path", |path| path.help("The program").required(true))
}
