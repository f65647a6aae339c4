//! `quillon run`: runs programs.

use std::path::Path;
use std::rc::Rc;
use std::sync::Arc;

use quillon_core::diagnostic::{Diagnostic, Outcome};
use quillon_core::evaluation::{Host, Recorder, Value, written};
use quillon_core::source::SourceText;
use quillon_core::{Language, Reading, Session};
use serde_json::json;

use super::{Languages, Stop, given_text, in_asked_surface, language, print_json, report, status};
use crate::args::{Format, Run as Args};
use crate::exit::Exit;
use crate::files;
use crate::host::Terminal;

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let asked = args.common.language.as_deref();
    if let Some(text) = &args.text {
        let language = in_asked_surface(&Rc::new(language(asked)?), &args.common)?;
        return one(args, &language, &given_text(text), Reading::Entry);
    }
    let mut languages = Languages::default();
    let mut exit = Exit::Done;
    for path in &args.programs {
        exit = exit.and(match file(args, &mut languages, path) {
            Ok(exit) => exit,
            // The other programs can still be run.
            Err(stop @ Stop::Unreadable(_)) if args.programs.len() > 1 => {
                super::give_up(&stop, args.common.format)
            }
            Err(stop) => return Err(stop),
        });
    }
    Ok(exit)
}

fn file(args: &Args, languages: &mut Languages, path: &Path) -> Result<Exit, Stop> {
    let language = languages.of_program(&args.common, path)?.language;
    let source = files::read(path)?;
    one(args, &language, &source, Reading::Program)
}

/// Runs one program.
fn one(
    args: &Args,
    language: &Language,
    source: &Arc<SourceText>,
    reading: Reading<'_>,
) -> Result<Exit, Stop> {
    match args.common.format {
        Format::Text => {
            let mut host = Terminal::new();
            let outcome = outcome(args, language, source, reading, &mut host);
            if args.value
                && let Some(value) = &outcome.value
            {
                host.output(&written(value));
                host.output("\n");
            }
            host.flush();
            report(&outcome.diagnostics, Format::Text);
            Ok(status(&outcome.diagnostics))
        }
        Format::Json => {
            let mut host = Recorder::default();
            let outcome = outcome(args, language, source, reading, &mut host);
            print_json(&json!({
                "program": source.name(),
                "output": host.printed,
                "value": outcome.value.as_ref().map(written),
                "kind": outcome.value.as_ref().map(|value| value.kind().word()),
                "diagnostics": outcome.diagnostics,
            }))?;
            Ok(status(&outcome.diagnostics))
        }
    }
}

fn outcome(
    args: &Args,
    language: &Language,
    source: &Arc<SourceText>,
    reading: Reading<'_>,
    host: &mut dyn Host,
) -> Outcome<Value> {
    match Session::new(language, args.limits.limits(), host) {
        Ok(mut session) => session.run_as(source, reading, host),
        Err(problem) => Outcome {
            value: None,
            diagnostics: vec![Diagnostic { ..*problem }],
        },
    }
}
