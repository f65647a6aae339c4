//! What is to be run.

use std::path::{Path, PathBuf};
use std::sync::Arc;

use quillon_core::SessionBuilder;
use quillon_core::diagnostic::Outcome;
use quillon_core::reduction::Bounds;
use quillon_core::runtime::{Amount, Host, NotRead, TooLarge};
use quillon_core::source::SourceText;
use quillon_core::values::Held;
use serde_json::{Value, json};

use super::line::Line;
use crate::args::Common;
use crate::files;
use crate::host::Rehearsal;
use crate::languages::Languages;
use crate::reach::Reach;

/// A program that is to be run.
pub struct Launched {
    pub builder: SessionBuilder,
    pub source: Arc<SourceText>,
    /// Whether it stands still at its beginning.
    pub stops_on_entry: bool,
    /// Whether it stops at all.
    pub is_debugged: bool,
    /// So many steps of its reduction are walked through instead, if that is asked for.
    pub reduction: Option<usize>,
    /// Whether steps go through the meanings of forms in the definition.
    pub shows_meanings: bool,
    input: String,
    /// What it is given to work on.
    arguments: Vec<String>,
}

impl Launched {
    /// What the arguments of a request say.
    ///
    /// # Errors
    /// Why it cannot be run, as a sentence.
    pub fn new(arguments: &Value) -> Result<Launched, String> {
        let text = |name: &str| arguments[name].as_str();
        let program = text("program").ok_or("`program` does not say which program is to be run")?;
        let program = PathBuf::from(program);
        let common = Common {
            surface: text("surface").map(str::to_owned),
            ..Common::of(text("definition").map(PathBuf::from))
        };
        let said = |stop: crate::stop::Stop| stop.in_words();
        let pair = Languages::default()
            .of_program(&common, &program)
            .map_err(said)?;
        let source = files::read(&program).map_err(|unread| said(unread.into()))?;
        let mut builder = pair.language.session();
        if let Some(seed) = arguments["seed"].as_u64() {
            builder = builder.seed(seed);
        }
        Ok(Launched {
            builder,
            source,
            stops_on_entry: arguments["stopOnEntry"] == true,
            is_debugged: arguments["noDebug"] != true,
            reduction: steps_of(&arguments["reduction"]),
            shows_meanings: arguments["meanings"] == true,
            input: text("input").unwrap_or_default().to_owned(),
            arguments: texts(&arguments["args"]),
        })
    }

    /// The outside of a run: what it prints goes to the client.
    pub fn host(&self, line: &Line) -> Outside {
        let reach = Reach {
            arguments: self.arguments.clone(),
            ..Reach::default().of_program(&self.source)
        };
        Outside {
            line: line.clone(),
            inside: Rehearsal::new(reach, &self.input),
            left: None,
        }
    }

    /// Whether a path is that of the program.
    pub fn is_program(&self, path: &Path) -> bool {
        is_same(Path::new(self.source.name()), path)
    }

    /// The file of the definition that a path is of, by its name there.
    pub fn definition_file(&self, path: &Path) -> Option<&str> {
        let files = self.builder.language().definition().source.files();
        let mut files = files.into_iter();
        files.find(|file| is_same(Path::new(file), path))
    }
}

/// How many steps of a reduction are asked for, if any: a number, or whether.
fn steps_of(asked: &Value) -> Option<usize> {
    match asked {
        Value::Bool(true) => Some(Bounds::default().steps),
        Value::Number(number) => number.as_u64().map(|steps| steps as usize),
        Value::Bool(false)
        | Value::Null
        | Value::String(_)
        | Value::Array(_)
        | Value::Object(_) => None,
    }
}

/// The texts of a list.
fn texts(list: &Value) -> Vec<String> {
    let items = list.as_array().into_iter().flatten();
    let texts = items.filter_map(Value::as_str);
    texts.map(str::to_owned).collect()
}

/// Whether two paths are of one file.
fn is_same(one: &Path, other: &Path) -> bool {
    let whole = |path: &Path| path.canonicalize().ok();
    one == other || whole(one).is_some_and(|one| whole(other) == Some(one))
}

/// The outside of a run.
pub struct Outside {
    line: Line,
    /// What it reads, and the programs that it loads.
    inside: Rehearsal,
    /// The exit status that it has left with.
    left: Option<u8>,
}

impl Outside {
    /// The exit status of a run: the one that the program has left with, if it has.
    pub fn status(&self, outcome: &Outcome<Held>) -> i32 {
        let failed = i32::from(outcome.has_errors());
        self.left.map_or(failed, i32::from)
    }
}

impl Host for Outside {
    fn output(&mut self, text: &str) {
        self.line
            .tell("output", &json!({ "category": "stdout", "output": text }));
    }

    fn input(&mut self, amount: Amount, most: usize) -> Result<Option<String>, TooLarge> {
        self.inside.input(amount, most)
    }

    fn arguments(&self) -> Vec<String> {
        self.inside.arguments()
    }

    fn leave(&mut self, status: u8) {
        self.left = Some(status);
    }

    fn program(
        &mut self,
        path: &str,
        from: &SourceText,
        most: usize,
    ) -> Result<Arc<SourceText>, NotRead> {
        self.inside.program(path, from, most)
    }
}
