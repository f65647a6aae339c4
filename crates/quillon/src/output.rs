//! Results on standard output, and what was said beside them.

use clap::ValueEnum;
use quillon_core::diagnostic::{Diagnostic, codes};
use serde_json::{Value, json};

use crate::exit::Exit;
use crate::render;
use crate::stop::Stop;

/// Text for people, or data for tools.
#[derive(Clone, Copy, PartialEq, Eq, Debug, ValueEnum)]
pub enum Format {
    /// For people
    Text,
    /// For tools
    Json,
}

/// Shows diagnostics: on standard error for people, as part of the result for tools.
pub fn report(diagnostics: &[Diagnostic], format: Format) {
    if format == Format::Text {
        render::show_all(diagnostics);
    }
}

/// The exit status that diagnostics call for.
pub fn status(diagnostics: &[Diagnostic]) -> Exit {
    let errors = || diagnostics.iter().filter(|d| d.is_error());
    if errors().any(|d| d.code == codes::DEFINITION_LACKS) {
        Exit::Definition
    } else if errors().next().is_some() {
        Exit::Failed
    } else {
        Exit::Done
    }
}

/// The version of what is printed as JSON. It grows when a tool that reads the results could be misled: when something
/// is gone, or means something else; not when something is added.
pub const JSON_VERSION: u32 = 1;

/// An object with the version in it.
#[derive(serde::Serialize)]
struct Versioned<'v, T: serde::Serialize> {
    version: u32,
    #[serde(flatten)]
    value: &'v T,
}

impl<'v, T: serde::Serialize> Versioned<'v, T> {
    fn new(value: &'v T) -> Versioned<'v, T> {
        let version = JSON_VERSION;
        Versioned { version, value }
    }
}

/// Prints a result, an object, as JSON.
pub fn print_json(value: &impl serde::Serialize) -> Result<(), Stop> {
    write_json(&Versioned::new(value))
}

/// Prints results, each an object, as one list of JSON.
pub fn print_json_list(values: &[impl serde::Serialize]) -> Result<(), Stop> {
    let all: Vec<_> = values.iter().map(Versioned::new).collect();
    write_json(&all)
}

fn write_json(value: &impl serde::Serialize) -> Result<(), Stop> {
    use std::io::Write;
    let mut out = std::io::BufWriter::new(std::io::stdout().lock());
    serde_json::to_writer_pretty(&mut out, value).map_err(std::io::Error::from)?;
    writeln!(out)?;
    out.flush()?;
    Ok(())
}

/// Prints lines with styles, which are taken out where there is no terminal.
pub fn print_lines(lines: &[String]) -> Result<(), Stop> {
    Ok(render::screen::print(lines)?)
}

/// Prints a text that is a result for a file or for another program.
pub fn hand_over(text: &str) -> Result<(), Stop> {
    Ok(render::screen::hand_over(text)?)
}

/// A result together with its diagnostics, as JSON.
pub fn with_diagnostics(name: &str, value: &Value, diagnostics: &[Diagnostic]) -> Value {
    json!({ name: value, "diagnostics": diagnostics })
}

/// Says why a command cannot go on; gives the exit status.
pub fn give_up(stop: &Stop, format: Format) -> Exit {
    if format == Format::Json
        && let Stop::Unreadable(_) | Stop::Definition(_) | Stop::Usage(_) = stop
    {
        let (diagnostics, exit) = match stop {
            Stop::Definition(diagnostics) => (diagnostics.clone(), Exit::Definition),
            Stop::Unreadable(problem) => (vec![Diagnostic::clone(problem)], Exit::Unreadable),
            Stop::Usage(problem) => (vec![Diagnostic::clone(problem)], Exit::Usage),
            Stop::Output(_) => (Vec::new(), Exit::Unreadable),
        };
        // If this cannot be written either, the exit status still tells.
        let _ = print_json(&json!({ "diagnostics": diagnostics }));
        return exit;
    }
    match stop {
        Stop::Unreadable(problem) => {
            render::show(problem);
            Exit::Unreadable
        }
        Stop::Definition(diagnostics) => {
            render::show_all(diagnostics);
            Exit::Definition
        }
        Stop::Usage(problem) => {
            render::show(problem);
            Exit::Usage
        }
        // The reader went away: nobody is left to tell.
        Stop::Output(error) if error.kind() == std::io::ErrorKind::BrokenPipe => Exit::Done,
        Stop::Output(error) => {
            render::show(&Diagnostic::error(
                codes::FILE_UNREADABLE,
                format!("the result cannot be written: {error}"),
            ));
            Exit::Unreadable
        }
    }
}
