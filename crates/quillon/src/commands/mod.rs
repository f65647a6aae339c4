//! One file a command.

use std::path::{Path, PathBuf};
use std::rc::Rc;
use std::sync::Arc;

use quillon_core::diagnostic::{Diagnostic, Outcome, codes, nearest, quote};
use quillon_core::source::SourceText;
use quillon_core::{Language, Reading};
use serde_json::{Value, json};

use crate::args::{Command, Common, Format, Program};
use crate::exit::Exit;
use crate::files::{self, Unreadable};
use crate::render;
use crate::render::style::{HEADING, paint};

mod check;
mod code;
mod compare;
mod core;
mod demo;
mod explain;
mod generate;
mod grammar;
mod new;
mod profile;
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

pub use scopes::as_json as names_json;
pub use tokens::as_json as token_json;
pub use trace::as_json as step_json;
pub use types::as_json as types_json;

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
    }
}

/// Why a command cannot go on.
#[derive(Debug)]
pub enum Stop {
    /// An input that cannot be read.
    Unreadable(Unreadable),
    /// A definition with errors.
    Definition(Vec<Diagnostic>),
    /// Output that cannot be written.
    Output(std::io::Error),
    /// Something asked for that cannot be done, with what to do instead.
    Usage(Box<Diagnostic>),
}

impl From<std::io::Error> for Stop {
    fn from(error: std::io::Error) -> Stop {
        Stop::Output(error)
    }
}

impl From<Unreadable> for Stop {
    fn from(problem: Unreadable) -> Stop {
        Stop::Unreadable(problem)
    }
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

/// Loads a definition; its notes are left to `check`, its warnings are shown.
pub fn load(path: &Path) -> Result<Language, Stop> {
    compile(&files::read_definition(path)?)
}

fn compile(source: &Arc<SourceText>) -> Result<Language, Stop> {
    let Outcome { value, diagnostics } = Language::load(source);
    match value {
        Some(language) => Ok(language),
        None => Err(Stop::Definition(
            diagnostics
                .into_iter()
                .filter(Diagnostic::is_error)
                .collect(),
        )),
    }
}

/// The definition asked for, or the only one in this folder or above.
fn language(asked: Option<&Path>) -> Result<Language, Stop> {
    match asked {
        Some(path) => load(path),
        None => load(&files::definition_near(Path::new("."))?),
    }
}

/// A language in the surface of a name.
fn in_surface(language: &Language, name: &str) -> Result<Language, Stop> {
    language.surface(name).ok_or_else(|| {
        let definition = language.definition();
        let known: Vec<String> = language.surface_names().map(quote).collect();
        let problem = Diagnostic::error(
            codes::FILE_LANGUAGE,
            format!("{} has no surface {}", definition.name.text, quote(name)),
        )
        .why(format!("its surfaces are {}", known.join(", ")))
        .did_you_mean(nearest(name, language.surface_names()));
        Stop::Usage(Box::new(problem))
    })
}

/// The languages of several programs, each compiled once.
#[derive(Default)]
struct Languages {
    known: Vec<Known>,
}

/// A language in one of its surfaces, and all of it.
struct Pair {
    whole: Rc<Language>,
    language: Rc<Language>,
}

/// A language, and those of its surfaces that have been asked for.
struct Known {
    definition: PathBuf,
    whole: Rc<Language>,
    surfaces: Vec<(String, Rc<Language>)>,
}

impl Languages {
    /// The definition asked for, or the one that fits the program; in the surface asked
    /// for, or the one that the program's extension tells.
    fn of_program(&mut self, common: &Common, program: &Path) -> Result<Pair, Stop> {
        let definition = match &common.language {
            Some(asked) => asked.clone(),
            None => files::definition_for(program)?,
        };
        let known = self.known.iter().position(|k| k.definition == definition);
        let at = known.unwrap_or(self.known.len());
        if known.is_none() {
            self.known.push(Known {
                whole: Rc::new(common.types.apply(load(&definition)?)),
                surfaces: Vec::new(),
                definition,
            });
        }
        let name = program.to_string_lossy();
        let language = self.known[at].surface(common, &name)?;
        Ok(Pair {
            whole: Rc::clone(&self.known[at].whole),
            language,
        })
    }
}

impl Known {
    fn surface(&mut self, common: &Common, file: &str) -> Result<Rc<Language>, Stop> {
        let whole = &self.whole;
        let name = match &common.surface {
            Some(name) => name.clone(),
            None => whole.surface_name_of_file(file).to_owned(),
        };
        if name == whole.definition().name.text {
            return Ok(Rc::clone(whole));
        }
        if let Some((_, language)) = self.surfaces.iter().find(|(known, _)| *known == name) {
            return Ok(Rc::clone(language));
        }
        let language = Rc::new(in_surface(whole, &name)?);
        self.surfaces.push((name, Rc::clone(&language)));
        Ok(language)
    }
}

/// A program to look at: its language, its text, and what it is to be read as. A file is a
/// program; a text typed on the command line may be less.
struct Input {
    /// The language as the program is written, and in all its surfaces.
    language: Rc<Language>,
    whole: Rc<Language>,
    source: Arc<SourceText>,
    reading: Reading<'static>,
}

/// The programs asked for; folders stand for the programs in them.
fn inputs(program: &Program, common: &Common) -> Result<Vec<Input>, Stop> {
    let asked = common.language.as_deref();
    if let Some(text) = &program.text {
        let whole = Rc::new(common.types.apply(language(asked)?));
        return Ok(vec![Input {
            language: in_asked_surface(&whole, common)?,
            whole,
            source: given_text(text),
            reading: Reading::Entry,
        }]);
    }
    let mut languages = Languages::default();
    let mut inputs = Vec::new();
    for path in files::programs(&program.programs, asked)? {
        let Pair { whole, language } = languages.of_program(common, &path)?;
        inputs.push(Input {
            language,
            whole,
            source: files::read(&path)?,
            reading: Reading::Program,
        });
    }
    Ok(inputs)
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
        _ => print_json(&results)?,
    }
    Ok(exit)
}

/// The language in the surface asked for, for a text typed on the command line.
fn in_asked_surface(whole: &Rc<Language>, common: &Common) -> Result<Rc<Language>, Stop> {
    match &common.surface {
        Some(name) => Ok(Rc::new(in_surface(whole, name)?)),
        None => Ok(Rc::clone(whole)),
    }
}

/// The one program of a command, typed or in a file, with its language.
fn one_program(text: Option<&str>, program: Option<&Path>, common: &Common) -> Result<Input, Stop> {
    if let Some(text) = text {
        let asked = language(common.language.as_deref())?;
        let whole = Rc::new(common.types.apply(asked));
        return Ok(Input {
            language: in_asked_surface(&whole, common)?,
            whole,
            source: given_text(text),
            reading: Reading::Entry,
        });
    }
    let path = program.unwrap_or(Path::new("-"));
    let known = Languages::default().of_program(common, path)?;
    Ok(Input {
        language: known.language,
        whole: known.whole,
        source: files::read(path)?,
        reading: Reading::Program,
    })
}

/// A program typed on the command line.
fn given_text(text: &str) -> Arc<SourceText> {
    SourceText::new("text", text)
}

/// Shows diagnostics: on standard error for people, as part of the result for tools.
fn report(diagnostics: &[Diagnostic], format: Format) {
    if format == Format::Text {
        render::show_all(diagnostics);
    }
}

/// The exit status that diagnostics call for.
fn status(diagnostics: &[Diagnostic]) -> Exit {
    let errors = || diagnostics.iter().filter(|d| d.is_error());
    if errors().any(|d| d.code == codes::DEFINITION_LACKS) {
        Exit::Definition
    } else if errors().next().is_some() {
        Exit::Failed
    } else {
        Exit::Done
    }
}

/// Prints a result as JSON.
fn print_json(value: &(impl serde::Serialize + ?Sized)) -> Result<(), Stop> {
    use std::io::Write;
    let mut out = std::io::BufWriter::new(std::io::stdout().lock());
    serde_json::to_writer_pretty(&mut out, value).map_err(std::io::Error::from)?;
    writeln!(out)?;
    out.flush()?;
    Ok(())
}

/// Prints lines with styles, which are taken out where there is no terminal.
fn print_lines(lines: &[String]) -> Result<(), Stop> {
    Ok(render::screen::print(lines)?)
}

/// Prints a text that is a result for a file or for another program.
fn hand_over(text: &str) -> Result<(), Stop> {
    Ok(render::screen::hand_over(text)?)
}

/// A result together with its diagnostics, as JSON.
fn with_diagnostics(name: &str, value: &Value, diagnostics: &[Diagnostic]) -> Value {
    json!({ name: value, "diagnostics": diagnostics })
}
