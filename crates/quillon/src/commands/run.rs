//! `quillon run`: runs programs.

use std::path::Path;
use std::rc::Rc;
use std::sync::Arc;

use quillon_core::bytecode::{self, Function, Program, Unusable, load};
use quillon_core::diagnostic::{Diagnostic, Outcome, codes};
use quillon_core::runtime::Host;
use quillon_core::scoping::Around;
use quillon_core::source::SourceText;
use quillon_core::values::Held;
use quillon_core::{Language, Reading, Session};
use serde_json::{Value as Json, json};

use crate::args::{Format, Run as Args};
use crate::exit::Exit;
use crate::files;
use crate::host::Terminal;
use crate::inputs::{given_text, in_asked_surface};
use crate::interrupts;
use crate::json::Streamed;
use crate::languages::{self, Languages, language};
use crate::output::{print_lines, report, status};
use crate::packed;
use crate::paths;
use crate::reach::Reach;
use crate::render;
use crate::stop::Stop;

pub fn run(args: &Args) -> Result<Exit, Stop> {
    interrupts::watch_for();
    let asked = args.common.language.as_deref();
    if let Some(text) = &args.text {
        let whole = args.common.types.apply(language(asked)?);
        let language = in_asked_surface(&Rc::new(whole), &args.common)?;
        return one(
            args,
            &language,
            &What::Text(given_text(text), Reading::Entry),
        );
    }
    // The process ends after this, and gives its memory back as a whole.
    let mut languages = std::mem::ManuallyDrop::new(Languages::default());
    let mut exit = Exit::Done;
    for path in &args.programs {
        exit = exit.and(match file(args, &mut languages, path) {
            Ok(exit) => exit,
            // The other programs can still be run.
            Err(stop @ Stop::Unreadable(_)) if args.programs.len() > 1 => {
                crate::output::give_up(&stop, args.common.format)
            }
            Err(stop) => return Err(stop),
        });
    }
    Ok(exit)
}

fn file(args: &Args, languages: &mut Languages, path: &Path) -> Result<Exit, Stop> {
    if let Some(bytes) = files::kept_program(path) {
        let kept = load(&bytes).map_err(|unusable| unusable_file(path, &unusable))?;
        let language = Language::load(&kept.definition).into_result();
        let language = language.map_err(|all| Stop::Definition(all.into()))?;
        return one(args, &language, &What::Code(kept.code));
    }
    let language = languages.of_program(&args.common, path)?.language;
    let source = files::read(path)?;
    one(args, &language, &What::Text(source, Reading::Program))
}

fn unusable_file(path: &Path, unusable: &Unusable) -> Stop {
    let message = format!("{}: {}", paths::shown(path), unusable.message);
    let diagnostic = Diagnostic::error(codes::RUN_BYTECODE, message);
    Stop::Unreadable(Box::new(diagnostic.remedy(unusable.help)))
}

/// Runs the program that is packed with this executable.
pub fn packed(args: &Args, bytes: &[u8]) -> Result<Exit, Stop> {
    interrupts::watch_for();
    let own = Path::new("the packed program");
    let kept = load(bytes).map_err(|unusable| unusable_file(own, &unusable))?;
    let language = std::mem::ManuallyDrop::new(languages::compile(&kept.definition)?);
    one(args, &language, &What::Code(kept.code))
}

/// What is run.
enum What {
    Text(Arc<SourceText>, Reading<'static>),
    /// Bytecode that was kept.
    Code(Rc<Function>),
}

impl What {
    /// What its run can reach.
    fn reach(&self, args: &Args) -> Reach {
        match self {
            What::Text(source, _) => args.running.reach(source),
            What::Code(_) => args.running.reach_of_saved(),
        }
    }

    fn name(&self) -> &str {
        match self {
            What::Text(source, _) => source.name(),
            What::Code(code) => code.source.name(),
        }
    }
}

/// Keeps the bytecode of a program in a file.
fn save(path: &Path, language: &Language, what: &What) -> Result<Exit, Stop> {
    let code = match what {
        What::Code(code) => Rc::clone(code),
        What::Text(source, reading) => {
            let outcome = language.code(source, Around::Nothing, *reading);
            report(&outcome.diagnostics, Format::Text);
            match outcome.value {
                Some(code) => code,
                None => return Ok(status(&outcome.diagnostics)),
            }
        }
    };
    let program = Program {
        code,
        definition: Arc::clone(&language.definition().source),
    };
    let bytes = bytecode::save(&program).map_err(|unusable| unusable_file(path, &unusable))?;
    super::new::write(path, &bytes)?;
    let length = bytes.len();
    print_lines(&[format!(
        "{} has {length} bytes; `quillon run` runs it",
        paths::shown(path)
    )])?;
    Ok(Exit::Done)
}

/// Runs one program.
fn one(args: &Args, language: &Language, what: &What) -> Result<Exit, Stop> {
    if let Some(path) = &args.save {
        return save(path, language, what);
    }
    match args.common.format {
        Format::Text => {
            let mut host = Terminal::new(what.reach(args));
            let ran = ran(args, language, what, &mut host)?;
            if args.value
                && let Some(value) = &ran.outcome.value
            {
                host.output(&value.written());
                host.output("\n");
            }
            host.flush();
            let diagnostics = unless_left(ran.outcome.diagnostics);
            if args.show_state {
                print_lines(&render::state::shown(&ran.before, &ran.after))?;
            }
            report(&diagnostics, Format::Text);
            let is_tool = packed::own().is_some_and(|pack| pack.program().is_some());
            if let Some(value) = &ran.outcome.value
                && !(host.has_printed() || args.value || args.show_state || is_tool)
            {
                render::show(&silent(value));
            }
            Ok(ended(&host, &diagnostics))
        }
        Format::Json => {
            let mut host = Terminal::streaming(what.reach(args), Streamed::new(what.name()));
            let ran = ran(args, language, what, &mut host)?;
            let Outcome { value, diagnostics } = ran.outcome;
            let diagnostics = unless_left(diagnostics);
            let outcome = Outcome { value, diagnostics };
            let mut rest = serde_json::Map::new();
            let value = outcome.value.as_ref();
            rest.insert("value".to_owned(), json!(value.map(Held::written)));
            rest.insert(
                "kind".to_owned(),
                json!(value.map(|value| value.kind().word())),
            );
            rest.insert("diagnostics".to_owned(), json!(outcome.diagnostics));
            if args.show_state {
                let object = |cells: Vec<(String, String)>| -> serde_json::Map<String, Json> {
                    let pairs = cells.into_iter();
                    pairs.map(|(name, value)| (name, value.into())).collect()
                };
                let state = json!({
                    "before": object(ran.before), "after": object(ran.after),
                });
                rest.insert("state".to_owned(), state);
            }
            let exit = ended(&host, &outcome.diagnostics);
            if let Some(result) = host.into_result() {
                result.finish(&rest)?;
            }
            Ok(exit)
        }
    }
}

/// What is to be said of a run: not that the program has left.
fn unless_left(mut diagnostics: Vec<Diagnostic>) -> Vec<Diagnostic> {
    diagnostics.retain(|one| one.code != codes::RUN_LEFT);
    diagnostics
}

/// How a run ends: as the program says, if it does.
fn ended(host: &Terminal, diagnostics: &[Diagnostic]) -> Exit {
    match (host.left(), status(diagnostics)) {
        (Some(left), Exit::Done) => Exit::Left(left),
        (_, exit) => exit,
    }
}

/// A note for whoever waits for something to be seen.
fn silent(value: &Held) -> Diagnostic {
    if value.is_nothing() {
        let message = "this program has come to its end, and prints nothing";
        return Diagnostic::note(codes::RUN_SILENT, message);
    }
    let message = format!(
        "this program prints nothing; it gives {}",
        value.described()
    );
    Diagnostic::note(codes::RUN_SILENT, message).remedy("`--value` prints what it gives")
}

/// What came of a run, and the state around it.
struct Ran {
    outcome: Outcome<Held>,
    before: Vec<(String, String)>,
    after: Vec<(String, String)>,
}

fn ran<H: Host>(args: &Args, language: &Language, what: &What, host: H) -> Result<Ran, Stop> {
    let mut session = args.running.session(args.engine.into(), language, host)?;
    let cells = |session: &Session<H>| -> Vec<(String, String)> {
        let cells = session.state();
        cells
            .map(|(name, value)| (name.to_owned(), value.written()))
            .collect()
    };
    let before = cells(&session);
    let outcome = match what {
        What::Text(source, reading) => session.run_source(source, *reading),
        What::Code(code) => session.run_code(code),
    };
    let after = cells(&session);
    if args.programs.len() <= 1 {
        // The process ends after this, and gives the memory back as a whole.
        std::mem::forget(session);
    }
    Ok(Ran {
        outcome,
        before,
        after,
    })
}
