//! One file a command.

use quillon_core::diagnostic::Diagnostic;
use serde_json::Value;

use crate::args::Command;
use crate::exit::Exit;
use crate::inputs::Input;
use crate::output::{Format, print_json, print_json_list, print_lines, report, status};
use crate::render::style::{HEADING, paint};
use crate::stop::Stop;

mod arrange;
mod check;
mod code;
mod compare;
mod completions;
mod core;
mod demo;
mod equip;
mod explain;
mod generate;
mod grammar;
mod new;
mod pack;
mod profile;
mod reference;
mod repl;
mod run;
mod scopes;
mod steps;
mod test;
mod tokens;
mod trace;
mod translate;
mod tree;
mod types;
mod walk;

pub use run::packed as run_packed;

/// Does what was asked for.
pub fn run(command: &Command) -> Result<Exit, Stop> {
    match command {
        Command::New(args) => new::run(args),
        Command::Demo(args) => demo::run(args),
        Command::Check(args) => check::run(args),
        Command::Grammar(args) => grammar::run(args),
        Command::Tokens(args) => tokens::run(args),
        Command::Tree(args) => tree::run(args),
        Command::Scopes(args) => scopes::run(args),
        Command::Steps(args) => steps::run(args),
        Command::Types(args) => types::run(args),
        Command::Core(args) => core::run(args),
        Command::Code(args) => code::run(args),
        Command::Translate(args) => translate::run(args),
        Command::Run(args) => run::run(args),
        Command::Trace(args) => trace::run(args),
        Command::Profile(args) => profile::run(args),
        Command::Explain(args) => explain::run(args),
        Command::Repl(args) => repl::run(args),
        Command::Test(args) => test::run(args),
        Command::Generate(args) => generate::run(args),
        Command::Compare(args) => compare::run(args),
        Command::Arrange(args) => arrange::run(args),
        Command::Pack(args) => pack::run(args),
        Command::Reference(args) => reference::run(args),
        Command::Completions(args) => completions::run(args),
        Command::Manual(args) => completions::manual(args),
        Command::Equip(args) => equip::run(args),
        Command::Editor => Ok(crate::editor::serve()),
        Command::Walk(args) => walk::run(args),
        Command::Debugger(args) => crate::debugger::serve(args),
    }
}

/// Shows each of several programs under its name, and all as one list for tools; gives the
/// worst exit status.
fn each_input(
    inputs: &[Input],
    format: Format,
    mut show: impl FnMut(&Input) -> Result<(Option<Value>, Vec<Diagnostic>), Stop>,
) -> Result<Exit, Stop> {
    let mut exit = Exit::Done;
    let mut results = Vec::new();
    for input in inputs {
        if inputs.len() > 1 && format == Format::Text {
            print_lines(&[paint(HEADING, format_args!("── {}", input.source.name()))])?;
        }
        let (json, diagnostics) = show(input)?;
        if let Some(mut json) = json {
            if inputs.len() > 1 {
                json["file"] = input.source.name().into();
            }
            results.push(json);
        } else {
            report(&diagnostics, format);
        }
        exit = exit.and(status(&diagnostics));
    }
    match (results.len(), inputs.len()) {
        (0, _) => {}
        (1, 1) => print_json(&results[0])?,
        _ => print_json_list(&results)?,
    }
    Ok(exit)
}
