//! What a shell completes: commands and options, and the names of the definition at hand. The script that a shell has been
//! given asks this program, by a variable of the environment, whenever the tab key is pressed.

use std::ffi::{OsStr, OsString};
use std::path::{Path, PathBuf};

use clap::{Arg, Command as Clap};
use clap_complete::engine::{ArgValueCompleter, CompletionCandidate};
use clap_complete::env::{CompleteEnv, EnvCompleter, Shells};
use quillon_core::Language;
use quillon_core::definition::Definition;

use crate::args::command;
use crate::files::{DEFINITION, definition_near, definition_reading, has_extension};
use crate::languages;

/// The variable by which a shell asks.
const ASKED: &str = "QUILLON_COMPLETE";

/// Answers a shell that asks, and ends then; does nothing otherwise.
pub fn answer() {
    if std::env::var_os(ASKED).is_some() {
        CompleteEnv::with_factory(asked).var(ASKED).complete();
    }
}

/// The script that has a shell ask; nothing for one that is not known.
pub fn script(shell: &str) -> Option<String> {
    let shells = Shells::builtins();
    let shell: &dyn EnvCompleter = shells.completer(shell)?;
    let mut script = Vec::new();
    let written = shell.write_registration(ASKED, "quillon", "quillon", "quillon", &mut script);
    written.ok()?;
    String::from_utf8(script).ok()
}

/// All that can be typed, with what completes the values of options.
fn asked() -> Clap {
    let mut all = command();
    all.build();
    let names: Vec<String> = all
        .get_subcommands()
        .map(|one| one.get_name().to_owned())
        .collect();
    for name in names {
        all = all.mut_subcommand(name, |one| one.mut_args(with_values));
    }
    all
}

/// An option that also completes its values, where they are names.
fn with_values(arg: Arg) -> Arg {
    let value = arg.get_value_names().and_then(|names| names.first());
    let names: fn(&Definition) -> Vec<String> = match value.map(clap::builder::Str::as_str) {
        Some("SORT") => sorts,
        Some("FORM") => forms,
        Some("SURFACE") => surfaces,
        Some("LANGUAGE") => return arg.add(completer(bundled)),
        _ => return arg,
    };
    let of_language = move || at_hand().map(|language| names(language.definition()));
    arg.add(completer(move || of_language().unwrap_or_default()))
}

/// Offers those of some names that begin like what has been typed.
fn completer(names: impl Fn() -> Vec<String> + Send + Sync + 'static) -> ArgValueCompleter {
    ArgValueCompleter::new(move |begun: &OsStr| {
        let begun = begun.to_string_lossy();
        let all = names().into_iter();
        let fitting = all.filter(|name| name.starts_with(&*begun));
        fitting.map(CompletionCandidate::new).collect()
    })
}

fn sorts(definition: &Definition) -> Vec<String> {
    let all = definition.sorts().into_iter();
    all.map(|(name, _)| name.to_owned()).collect()
}

fn forms(definition: &Definition) -> Vec<String> {
    let all = definition.forms.iter();
    all.map(|form| form.name.text.clone()).collect()
}

fn surfaces(definition: &Definition) -> Vec<String> {
    let others = definition.surfaces.iter().map(|other| &other.name);
    let all = std::iter::once(&definition.name).chain(others);
    all.map(|name| name.text.clone()).collect()
}

fn bundled() -> Vec<String> {
    let all = quillon_languages::LANGUAGES.iter();
    all.map(|language| language.name.to_owned()).collect()
}

/// The language that the line so far is about: of the definition that it names, of a program in it, or of the folder.
fn at_hand() -> Option<Language> {
    let args: Vec<OsString> = std::env::args_os().skip(1).collect();
    let line = args.iter().skip_while(|arg| *arg != "--").skip(1);
    let paths: Vec<PathBuf> = line.map(PathBuf::from).collect();
    let named = paths.iter().find(|path| has_extension(path, DEFINITION));
    let definition = named.cloned().or_else(|| {
        let mut programs = paths.iter().filter(|path| path.is_file());
        programs.find_map(|path| definition_reading(path).ok())
    });
    let definition = definition.or_else(|| definition_near(Path::new(".")).ok())?;
    languages::load(&definition).ok()
}
