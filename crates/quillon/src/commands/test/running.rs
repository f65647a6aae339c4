//! Runs all cases, several at a time; what comes of them stays in their order.

use std::path::PathBuf;
use std::sync::Arc;
use std::time::{Duration, Instant};

use quillon_core::definition::{Example, read_cases};
use quillon_core::diagnostic::{Diagnostic, codes, nearest, quote};
use quillon_core::runtime::Limits;
use quillon_core::source::SourceText;
use quillon_core::testing::{CaseResult, Verdict, case_limits, check_program, examples, run_case};
use quillon_core::{Language, Prepared};
use rayon::prelude::*;

use super::remembered;
use super::suites::{Suite, suites};
use crate::args::Test as Args;
use crate::files;
use crate::free_memory;
use crate::languages::compile;
use crate::render::progress::progress;
use crate::stop::Stop;

/// The native stack of a thread that runs cases: most of it is never touched.
const STACK: usize = 256 << 20;

/// One case, or a program of which only that is checked that holds for all.
pub struct Task {
    pub language: Language,
    /// The definition's file.
    pub definition: PathBuf,
    /// The text it stands in.
    pub source: Arc<SourceText>,
    /// The case; nothing for a program.
    pub case: Option<Example>,
    /// What it is listed under.
    pub group: String,
}

impl Task {
    pub fn title(&self) -> &str {
        self.case
            .as_ref()
            .map_or(self.source.name(), |case| &case.title)
    }

    fn run(&self, prepared: &Prepared, limits: Limits) -> CaseResult {
        match &self.case {
            Some(case) => run_case(prepared, &self.source, case, limits),
            None => check_program(prepared, &self.source, limits),
        }
    }
}

/// What came of all cases.
pub struct Results {
    /// Each case with what came of it and how long it took, in order.
    pub all: Vec<(Task, CaseResult, Duration)>,
    /// What is wrong with case files.
    pub diagnostics: Vec<Diagnostic>,
    /// How many cases there are that were not asked for.
    pub left_out: usize,
}

impl Results {
    pub fn count(&self, verdict: Verdict) -> usize {
        let all = self.all.iter();
        all.filter(|(_, result, _)| result.verdict == verdict)
            .count()
    }

    pub fn failed(&self) -> usize {
        self.count(Verdict::Failed)
    }

    /// The number of errors in case files.
    pub fn broken(&self) -> usize {
        self.diagnostics.iter().filter(|d| d.is_error()).count()
    }

    /// The results that are listed together, in order.
    pub fn by_group(&self) -> impl Iterator<Item = &[(Task, CaseResult, Duration)]> {
        self.all.chunk_by(|(a, ..), (b, ..)| a.group == b.group)
    }
}

/// How far a case may go.
pub fn limits_of(args: &Args) -> Limits {
    let limits = case_limits();
    // Cases run side by side.
    let threads = std::thread::available_parallelism().map_or(1, |count| count.get() as u64);
    let memory = limits
        .memory
        .map(|each| free_memory::at_most(each * threads) / threads);
    Limits {
        time: Some(args.time),
        memory,
        ..limits
    }
}

/// All cases and programs that the arguments ask for, and what is wrong with case files.
pub fn tasks(args: &Args, diagnostics: &mut Vec<Diagnostic>) -> Result<Vec<Task>, Stop> {
    let mut tasks = Vec::new();
    for suite in suites(args)? {
        collect(&suite, args.accept, &mut tasks, diagnostics)?;
    }
    Ok(tasks)
}

/// Leaves the cases with some words in their title.
///
/// # Errors
/// There are none.
fn keep_titled(tasks: &mut Vec<Task>, words: &str) -> Result<(), Stop> {
    let folded = words.to_lowercase();
    let is_it = |task: &Task| task.title().to_lowercase().contains(&folded);
    if tasks.iter().any(is_it) {
        tasks.retain(is_it);
        return Ok(());
    }
    let message = format!("no case has {} in its title", quote(words));
    let titles = tasks.iter().map(Task::title);
    let diagnostic = Diagnostic::error(codes::USAGE, message)
        .remedy("`quillon test --list` lists the titles of all cases")
        .did_you_mean(nearest(words, titles));
    Err(Stop::Usage(Box::new(diagnostic)))
}

/// Runs everything that the arguments ask for.
pub fn run_all(args: &Args) -> Result<Results, Stop> {
    let mut diagnostics = Vec::new();
    let mut tasks = tasks(args, &mut diagnostics)?;
    let before = tasks.len();
    if let Some(words) = &args.only {
        keep_titled(&mut tasks, words)?;
    }
    if args.failed {
        remembered::retain_failed(&mut tasks);
    }
    if let Some(shard) = args.shard {
        let mut numbers = 0..;
        tasks.retain(|_| numbers.next().is_some_and(|number| shard.has(number)));
    }
    let left_out = before - tasks.len();
    Ok(Results {
        all: in_parallel(tasks, limits_of(args))?,
        diagnostics,
        left_out,
    })
}

/// The cases of a suite. One that expects nothing is among them only when it is to be
/// told what to expect.
fn collect(
    suite: &Suite,
    accepting: bool,
    tasks: &mut Vec<Task>,
    diagnostics: &mut Vec<Diagnostic>,
) -> Result<(), Stop> {
    let source = files::read_definition(&suite.definition)?;
    let language = compile(&source)?;
    let task = |source: &Arc<SourceText>, case: Option<Example>| Task {
        language: language.clone(),
        definition: suite.definition.clone(),
        source: Arc::clone(source),
        group: match case {
            Some(_) => source.name().to_owned(),
            None => format!("every program of {}", suite.definition.display()),
        },
        case,
    };
    if suite.examples {
        tasks.extend(examples(&language).map(|case| task(&source, Some(case.clone()))));
    }
    for path in &suite.cases {
        let source = files::read(path)?;
        let read = read_cases(&source);
        let mut problems = read.diagnostics;
        if accepting {
            problems.retain(|problem| problem.code != codes::CASE_EMPTY);
        }
        diagnostics.extend(problems);
        let cases = read.value.into_iter().flat_map(|file| file.cases);
        let wanted = cases.filter(|case| accepting || !case.expectations.is_empty());
        tasks.extend(wanted.map(|case| task(&source, Some(case))));
    }
    for path in &suite.programs {
        let source = files::read(path)?;
        let name = language.surface_name_of_file(source.name()).to_owned();
        let mut task = task(&source, None);
        if let Some(surface) = language.surface(&name) {
            task.language = surface;
        }
        tasks.push(task);
    }
    Ok(())
}

fn in_parallel(
    tasks: Vec<Task>,
    limits: Limits,
) -> Result<Vec<(Task, CaseResult, Duration)>, Stop> {
    let progress = progress(tasks.len(), "cases");
    let results = pool()?.install(|| {
        tasks
            .into_par_iter()
            .map_init(Vec::new, |known, task| {
                let start = Instant::now();
                let result = task.run(prepared(known, &task), limits);
                progress.inc(1);
                (task, result, start.elapsed())
            })
            .collect()
    });
    progress.finish_and_clear();
    Ok(results)
}

/// The threads that run cases.
pub fn pool() -> Result<rayon::ThreadPool, Stop> {
    let with = |size| rayon::ThreadPoolBuilder::new().stack_size(size).build();
    // Less where there is not so much address space: then programs may be less deep.
    with(STACK)
        .or_else(|_| with(STACK / 8))
        .or_else(|_| with(STACK / 64))
        .map_err(|error| Stop::Output(std::io::Error::other(error)))
}

/// What sessions of a task's language begin with; each thread makes it once.
fn prepared<'a>(known: &'a mut Vec<Prepared>, task: &Task) -> &'a Prepared {
    let at = known
        .iter()
        .position(|prepared| prepared.language().is(&task.language));
    let at = at.unwrap_or_else(|| {
        known.push(Prepared::new(&task.language));
        known.len() - 1
    });
    &known[at]
}
