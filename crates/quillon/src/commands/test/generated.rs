//! `--generated`: what holds for every program, checked of programs made up from the
//! definition.

use std::collections::HashSet;
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};
use std::time::{Duration, Instant};

use quillon_core::diagnostic::{Diagnostic, codes};
use quillon_core::runtime::Limits;
use quillon_core::source::SourceText;
use quillon_core::testing::{
    CaseResult, Generator, Verdict, check_program, check_soundness, shrink, tree_case,
};
use quillon_core::{Language, Prepared};
use rayon::prelude::*;

use super::running::{Task, limits_of, pool};
use super::suites::suites;
use crate::args::{Test as Args, TestFormat};
use crate::languages::load;
use crate::output::print_lines;
use crate::render::progress::progress;
use crate::render::style::{GOOD, paint};
use crate::repl::keeping::{add_case, case_file_of};
use crate::stop::Stop;

/// What generated programs are checked for.
#[derive(Clone, Copy, PartialEq, Eq)]
pub enum Promise {
    /// What holds for every program.
    Properties,
    /// What types promise.
    Soundness,
}

impl Promise {
    /// What comes of a program; nothing for one that the promise is not about.
    fn check(
        self,
        prepared: &Prepared,
        program: &Arc<SourceText>,
        limits: Limits,
    ) -> Option<CaseResult> {
        match self {
            Promise::Properties => Some(check_program(prepared, program, limits)),
            Promise::Soundness => check_soundness(prepared, program, limits),
        }
    }
}

/// Checks so many programs of each definition; those that fail, as small as they can be
/// made, and one result for all that do not.
pub fn check(
    args: &Args,
    count: u64,
    promise: Promise,
) -> Result<Vec<(Task, CaseResult, Duration)>, Stop> {
    let mut results = Vec::new();
    for suite in suites(args)?.into_iter().filter(|suite| suite.examples) {
        let language = load(&suite.definition)?;
        if promise == Promise::Soundness && !language.checks_types() {
            continue;
        }
        let start = Instant::now();
        let (made, failed) = failing(args, count, &language, promise)?;
        let time = start.elapsed();
        let task = |text: &str| Task {
            language: language.clone(),
            definition: suite.definition.clone(),
            source: SourceText::new("generated program", text.to_owned()),
            case: None,
            group: format!("programs made up from {}", suite.definition.display()),
        };
        // A part of few programs may have none.
        if made == 0 && count > 0 && args.shard.is_none() {
            return Err(Stop::Usage(Box::new(nothing_made(&language))));
        }
        if failed.is_empty() {
            let task = task("");
            let mut passed = empty(&task.source);
            let what = match promise {
                Promise::Properties => "generated programs",
                Promise::Soundness => "well-typed programs",
            };
            passed.title = format!("{made} {what} of {}", language.definition().name.text);
            results.push((task, passed, time));
        }
        for (seed, text, mut result) in once(failed, promise) {
            result.title = format!("generated program of seed {seed}");
            if args.keep {
                keep(args, &language, &suite.definition, seed, &text)?;
            }
            results.push((task(&text), result, time));
        }
    }
    Ok(results)
}

/// Of the programs in which the same goes wrong, the smallest.
fn once(mut failed: Failing, promise: Promise) -> Failing {
    let mut seen = HashSet::new();
    failed.sort_by_key(|(_, text, _)| text.len());
    failed.retain(|(_, text, result)| {
        seen.insert(match promise {
            Promise::Properties => text.split_whitespace().collect::<Vec<_>>().join(" "),
            Promise::Soundness => result.notes.join(" "),
        })
    });
    failed
}

/// The error for a language of which no program can be made up.
fn nothing_made(language: &Language) -> Diagnostic {
    let name = &language.definition().name.text;
    Diagnostic::error(
        codes::USAGE,
        format!("no program of {name} could be generated"),
    )
    .why("every text that was tried breaks a rule of names, or cannot be read")
    .remedy("try another `--size` or another `--seed`")
}

fn empty(source: &Arc<SourceText>) -> CaseResult {
    CaseResult {
        title: String::new(),
        program: String::new(),
        source: Arc::clone(source),
        span: quillon_core::source::Span::default(),
        verdict: Verdict::Passed,
        differences: Vec::new(),
        notes: Vec::new(),
        diagnostics: Vec::new(),
    }
}

/// Programs with their seeds, and what does not hold for them.
type Failing = Vec<(u64, String, CaseResult)>;

/// How many programs could be made, and those for which something does not hold.
fn failing(
    args: &Args,
    count: u64,
    language: &Language,
    promise: Promise,
) -> Result<(u64, Failing), Stop> {
    let generator =
        Generator::new(language, None).map_err(|problem| Stop::Definition(vec![*problem]))?;
    let limits = Limits {
        steps: Some(100_000),
        ..limits_of(args)
    };
    let made = AtomicU64::new(0);
    let seeds = args.seed..args.seed.saturating_add(count);
    let own = |seed: &u64| args.shard.is_none_or(|shard| shard.has(seed - args.seed));
    let seeds: Vec<u64> = seeds.filter(own).collect();
    let bar = progress(seeds.len(), "programs");
    let failed = pool()?.install(|| {
        seeds
            .into_par_iter()
            .map_init(
                || Prepared::new(language),
                |prepared, seed| {
                    let checked = |text: &str| {
                        let source = SourceText::new("generated program", text.to_owned());
                        promise.check(prepared, &source, limits)
                    };
                    bar.inc(1);
                    let text = generator.program(seed, args.size)?;
                    let result = checked(&text)?;
                    made.fetch_add(1, Ordering::Relaxed);
                    if result.verdict == Verdict::Passed {
                        return None;
                    }
                    let what = result.differences.first().map(|found| found.what);
                    let smallest = shrink(&generator, &text, |smaller| {
                        let found = checked(smaller).map(|result| result.differences);
                        let mut found = found.into_iter().flatten();
                        found.any(|found| Some(found.what) == what)
                    });
                    let result = checked(&smallest)?;
                    Some((seed, smallest, result))
                },
            )
            .flatten()
            .collect()
    });
    bar.finish_and_clear();
    Ok((made.into_inner(), failed))
}

/// Keeps a program that fails as a case.
fn keep(
    args: &Args,
    language: &Language,
    definition: &std::path::Path,
    seed: u64,
    text: &str,
) -> Result<(), Stop> {
    let path = case_file_of(definition);
    let title = format!("generated, seed {seed}");
    if let Some(case) = tree_case(language, text, &title) {
        add_case(&path, &case)?;
        if args.format == TestFormat::Text {
            let said = format!("kept in {} as `{title}`", path.display());
            print_lines(&[paint(GOOD, said)])?;
        }
    }
    Ok(())
}
