//! `quillon test`: runs the examples of a definition and its case files.

use std::path::{Path, PathBuf};
use std::sync::Arc;

use quillon_core::Language;
use quillon_core::definition::{Example, read_cases};
use quillon_core::diagnostic::{Diagnostic, codes};
use quillon_core::source::SourceText;
use quillon_core::testing::{CaseResult, Verdict, examples, run_case};
use serde_json::{Value, json};

use super::{Stop, compile, print_json, print_lines};
use crate::args::{Format, Test as Args};
use crate::exit::Exit;
use crate::files::{self, CASES, DEFINITION};
use crate::render::diagnostic::rendered;
use crate::render::style::{ERROR, GOOD, QUIET, STRONG, WARNING, paint};

/// How much of a failing case's program is shown.
const MOST_PROGRAM_LINES: usize = 12;

/// What is tested: a definition, and the case files that go with it.
struct Suite {
    definition: PathBuf,
    /// Whether the definition's own examples are run.
    examples: bool,
    cases: Vec<PathBuf>,
}

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let mut tally = Tally::default();
    for suite in suites(args)? {
        run_suite(args, &suite, &mut tally)?;
    }
    match args.format {
        Format::Json => print_json(&tally.as_json())?,
        Format::Text => print_lines(&tally.closing())?,
    }
    Ok(if tally.failed > 0 || tally.broken > 0 {
        Exit::Failed
    } else {
        Exit::Done
    })
}

fn suites(args: &Args) -> Result<Vec<Suite>, Stop> {
    if args.paths.is_empty() {
        return Ok(vec![beside(definition_near(args, Path::new("."))?)]);
    }
    let mut suites = Vec::new();
    for path in &args.paths {
        if path.is_dir() {
            suites.extend(suites_below(args, path)?);
        } else if files::has_extension(path, DEFINITION) {
            suites.push(beside(path.clone()));
        } else {
            // Reading it first, so that a file that is not there is said to be so.
            files::read(path)?;
            suites.push(Suite {
                definition: definition_near(args, &files::folder_of(path))?,
                examples: false,
                cases: vec![path.clone()],
            });
        }
    }
    Ok(suites)
}

fn definition_near(args: &Args, folder: &Path) -> Result<PathBuf, Stop> {
    match &args.language {
        Some(path) => Ok(path.clone()),
        None => Ok(files::definition_near(folder)?),
    }
}

/// The suites of a folder: every definition in it and below, or, when there is none, the
/// case files in it.
fn suites_below(args: &Args, folder: &Path) -> Result<Vec<Suite>, Stop> {
    let mut definitions = Vec::new();
    collect_definitions(folder, 0, &mut definitions);
    if !definitions.is_empty() {
        return Ok(definitions.into_iter().map(beside).collect());
    }
    let cases = files::files_in(folder, |path| files::has_extension(path, CASES));
    if cases.is_empty() {
        return Err(Stop::Unreadable(Box::new(Diagnostic::error(
            codes::FILE_UNREADABLE,
            format!(
                "there is no definition and no case file in `{}`",
                folder.display()
            ),
        ))));
    }
    Ok(vec![Suite {
        definition: definition_near(args, folder)?,
        examples: false,
        cases,
    }])
}

fn collect_definitions(folder: &Path, depth: usize, found: &mut Vec<PathBuf>) {
    const DEEPEST: usize = 6;
    found.extend(files::files_in(folder, |path| {
        files::has_extension(path, DEFINITION)
    }));
    if depth == DEEPEST {
        return;
    }
    let mut folders: Vec<PathBuf> = std::fs::read_dir(folder)
        .into_iter()
        .flatten()
        .filter_map(|entry| Some(entry.ok()?.path()))
        .filter(|path| path.is_dir())
        .collect();
    folders.sort();
    for inner in folders {
        collect_definitions(&inner, depth + 1, found);
    }
}

/// A definition with the case files beside it: in its folder, and in `cases`. Where
/// several definitions share a folder, only those with the definition's name.
fn beside(definition: PathBuf) -> Suite {
    let folder = files::folder_of(&definition);
    let stem = definition.file_stem().map(std::ffi::OsStr::to_owned);
    let shared = files::files_in(&folder, |path| files::has_extension(path, DEFINITION)).len() > 1;
    let is_case = |path: &Path| {
        files::has_extension(path, CASES)
            && (!shared || path.file_stem().map(std::ffi::OsStr::to_owned) == stem)
    };
    let mut cases = files::files_in(&folder, is_case);
    cases.extend(files::files_in(&folder.join("cases"), is_case));
    let cases = cases
        .into_iter()
        .map(|path| path.strip_prefix("./").map(Path::to_owned).unwrap_or(path))
        .collect();
    Suite {
        definition,
        examples: true,
        cases,
    }
}

fn run_suite(args: &Args, suite: &Suite, tally: &mut Tally) -> Result<(), Stop> {
    let source = files::read_definition(&suite.definition)?;
    let language = compile(&source)?;
    if suite.examples {
        let all: Vec<&Example> = examples(&language).collect();
        run_cases(args, &language, &source, &all, tally)?;
    }
    for path in &suite.cases {
        let source = files::read(path)?;
        let read = read_cases(&source);
        tally.broken += read.diagnostics.iter().filter(|d| d.is_error()).count();
        if args.format == Format::Text {
            crate::render::show_all(&read.diagnostics);
        }
        tally.diagnostics.extend(read.diagnostics);
        if let Some(file) = read.value {
            let all: Vec<&Example> = file.cases.iter().collect();
            run_cases(args, &language, &source, &all, tally)?;
        }
    }
    Ok(())
}

/// Runs the cases of one text.
fn run_cases(
    args: &Args,
    language: &Language,
    source: &Arc<SourceText>,
    cases: &[&Example],
    tally: &mut Tally,
) -> Result<(), Stop> {
    let wanted: Vec<&&Example> = cases
        .iter()
        .filter(|case| {
            args.only
                .as_ref()
                .is_none_or(|words| case.title.to_lowercase().contains(&words.to_lowercase()))
        })
        .collect();
    if wanted.is_empty() {
        return Ok(());
    }
    let mut lines = vec![paint(QUIET, source.name())];
    let (mut passed, mut others) = (0, Vec::new());
    for case in wanted {
        let result = run_case(language, source, case);
        tally.count(&result);
        if result.verdict == Verdict::Passed {
            passed += 1;
            if args.list {
                others.push(format!("  {}  {}", paint(GOOD, "pass"), result.title));
            }
        } else {
            others.extend(shown(&result));
        }
    }
    if passed > 0 && !args.list {
        lines.push(format!("  {}  {passed} passed", paint(GOOD, "pass")));
    }
    lines.extend(others);
    if args.format == Format::Text {
        print_lines(&lines)?;
    }
    Ok(())
}

/// A case that did not pass: where it stands, and expected against got.
fn shown(result: &CaseResult) -> Vec<String> {
    let position = result.source.position(result.span.start);
    let at = paint(QUIET, format_args!("{}:{position}", result.source.name()));
    if result.verdict == Verdict::Waiting {
        let reason = result
            .diagnostics
            .first()
            .map_or("", |d| d.message.as_str());
        return vec![format!(
            "  {}  {}: {reason}",
            paint(WARNING, "wait"),
            result.title
        )];
    }
    let mut lines = vec![format!(
        "  {}  {}   {at}",
        paint(ERROR, "FAIL"),
        paint(STRONG, &result.title)
    )];
    for line in result.program.trim_end().lines().take(MOST_PROGRAM_LINES) {
        lines.push(format!("        {} {line}", paint(QUIET, "│")));
    }
    if result.program.trim_end().lines().count() > MOST_PROGRAM_LINES {
        lines.push(format!("        {}", paint(QUIET, "│ …")));
    }
    for difference in &result.differences {
        let place = result.source.position(difference.span.start);
        lines.push(format!(
            "        {} {}",
            difference.what,
            paint(QUIET, format_args!("at {place}"))
        ));
        lines.push(format!(
            "          expected  {}",
            paint(GOOD, &difference.expected)
        ));
        lines.push(format!(
            "          got       {}",
            paint(ERROR, &difference.got)
        ));
    }
    for diagnostic in &result.diagnostics {
        lines.extend(
            rendered(diagnostic)
                .trim_end()
                .lines()
                .map(|line| format!("        {line}")),
        );
    }
    lines
}

/// The counts, and everything for tools.
#[derive(Default)]
struct Tally {
    passed: usize,
    failed: usize,
    waiting: usize,
    /// Errors in case files.
    broken: usize,
    results: Vec<Value>,
    diagnostics: Vec<Diagnostic>,
}

impl Tally {
    fn count(&mut self, result: &CaseResult) {
        match result.verdict {
            Verdict::Passed => self.passed += 1,
            Verdict::Failed => self.failed += 1,
            Verdict::Waiting => self.waiting += 1,
        }
        let position = result.source.position(result.span.start);
        let differences: Vec<Value> = result
            .differences
            .iter()
            .map(|d| json!({ "what": d.what, "expected": d.expected, "got": d.got }))
            .collect();
        self.results.push(json!({
            "title": result.title,
            "file": result.source.name(),
            "line": position.line,
            "verdict": result.verdict,
            "differences": differences,
            "diagnostics": result.diagnostics,
        }));
    }

    fn as_json(&self) -> Value {
        json!({
            "passed": self.passed,
            "failed": self.failed,
            "waiting": self.waiting,
            "cases": self.results,
            "diagnostics": self.diagnostics,
        })
    }

    fn closing(&self) -> Vec<String> {
        let total = self.passed + self.failed + self.waiting;
        if total == 0 {
            return vec!["no cases were run".to_owned()];
        }
        let style = if self.failed > 0 || self.broken > 0 {
            ERROR
        } else {
            GOOD
        };
        let mut line = format!("{} passed, {} failed", self.passed, self.failed);
        if self.waiting > 0 {
            line.push_str(&format!(
                ", {} waiting for clauses of the definition",
                self.waiting
            ));
        }
        if self.broken > 0 {
            let errors = quillon_core::diagnostic::plural(self.broken, "error");
            line.push_str(&format!(", {errors} in case files"));
        }
        vec![paint(style, line)]
    }
}
