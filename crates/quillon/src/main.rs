//! The command line: arguments in, results out. What is computed is computed by
//! `quillon-core`; here it is only asked for and shown.

use std::process::ExitCode;

use clap::Parser;

mod args;
mod atomic;
mod bundled;

mod commands;
mod debugger;
mod editor;
mod equipping;
mod exit;
mod files;
mod framed;
mod free_memory;
mod host;
mod inputs;
mod json;
mod languages;
mod output;
mod paths;
mod reach;
mod render;
mod repl;
mod state;
mod stop;
mod walk;
mod watching;

fn main() -> ExitCode {
    let args = args::Args::parse_from(args::arranged(std::env::args_os()));
    args.color.apply();
    quillon_core::native_stack::on_deep_stack(move || match commands::run(&args.command) {
        Ok(exit) => exit.into(),
        Err(error) => output::give_up(&error, args.command.format()).into(),
    })
}
