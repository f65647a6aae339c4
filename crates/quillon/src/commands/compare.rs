//! `quillon compare`: the same programs under two definitions.

use std::path::{Path, PathBuf};
use std::sync::Arc;

use quillon_core::definition::read_cases;
use quillon_core::diagnostic::plural;
use quillon_core::runtime::Limits;
use quillon_core::source::SourceText;
use quillon_core::testing::{Compared, Difference, case_limits, compare, examples};
use quillon_core::{Language, Prepared};
use rayon::prelude::*;
use serde_json::{Value, json};

use super::test::{beside, pool};
use crate::args::{Compare as Args, Format};
use crate::exit::Exit;
use crate::files::{self, CASES};
use crate::languages::load;
use crate::output::{print_json, print_lines};
use crate::render::difference;
use crate::render::progress::progress;
use crate::render::style::{ERROR, GOOD, QUIET, STRONG, paint};
use crate::stop::Stop;

/// In what programs can differ, stage by stage.
const STAGES: [Compared; 8] = [
    Compared::Tokens,
    Compared::Tree,
    Compared::Names,
    Compared::Types,
    Compared::Error,
    Compared::Value,
    Compared::Output,
    Compared::State,
];

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let (old, new) = (load(&args.old)?, load(&args.new)?);
    let programs = programs(args, &old, &new)?;
    // A change may well make programs loop.
    let limits = Limits {
        steps: Some(2_000_000),
        memory: Some(1 << 28),
        output: Some(1 << 20),
        time: Some(std::time::Duration::from_secs(2)),
        ..case_limits()
    };
    let both = || (Prepared::new(&old), Prepared::new(&new));
    let bar = progress(programs.len(), "programs");
    let found: Vec<(&Arc<SourceText>, Vec<Difference>)> = pool()?.install(|| {
        programs
            .par_iter()
            .map_init(both, |(old, new), program| {
                let differences = compare(old, new, program, limits);
                bar.inc(1);
                (program, differences)
            })
            .collect()
    });
    bar.finish_and_clear();
    match args.format {
        Format::Json => print_json(&as_json(&found))?,
        Format::Text => print_lines(&lines(args, &found))?,
    }
    let same = found.iter().all(|(_, differences)| differences.is_empty());
    Ok(if same { Exit::Done } else { Exit::Failed })
}

/// The programs to compare, each text once.
fn programs(args: &Args, old: &Language, new: &Language) -> Result<Vec<Arc<SourceText>>, Stop> {
    let mut all: Vec<Arc<SourceText>> = Vec::new();
    let mut add = |source: Arc<SourceText>| {
        if !all.iter().any(|known| known.text() == source.text()) {
            all.push(source);
        }
    };
    if args.programs.is_empty() {
        for (path, language) in [(&args.old, old), (&args.new, new)] {
            for case in examples(language) {
                add(SourceText::new(
                    format!("example of {}", case.title),
                    case.program.clone(),
                ));
            }
            let suite = beside(path.clone());
            for path in &suite.cases {
                cases_of(path, &mut add)?;
            }
            for path in &suite.programs {
                add(files::read(path)?);
            }
        }
        return Ok(all);
    }
    for path in &args.programs {
        let mut given: Vec<PathBuf> = Vec::new();
        if path.is_dir() {
            given.extend(files::files_in(path, |file| {
                files::has_extension(file, CASES)
            }));
            given.extend(files::programs_of(&args.old, path));
            let fresh = files::programs_of(&args.new, path).into_iter();
            let fresh: Vec<PathBuf> = fresh.filter(|file| !given.contains(file)).collect();
            given.extend(fresh);
        } else {
            given.push(path.clone());
        }
        for path in given {
            if files::has_extension(&path, CASES) {
                cases_of(&path, &mut add)?;
            } else {
                add(files::read(&path)?);
            }
        }
    }
    Ok(all)
}

/// The programs of a case file.
fn cases_of(path: &Path, add: &mut impl FnMut(Arc<SourceText>)) -> Result<(), Stop> {
    let read = read_cases(&files::read(path)?);
    for case in read.value.into_iter().flat_map(|file| file.cases) {
        if case.start.is_none() {
            let name = format!("{}: {}", path.display(), case.title);
            add(SourceText::new(name, case.program));
        }
    }
    Ok(())
}

fn lines(args: &Args, found: &[(&Arc<SourceText>, Vec<Difference>)]) -> Vec<String> {
    let mut lines = Vec::new();
    for (program, differences) in found.iter().filter(|(_, d)| !d.is_empty()) {
        let what: Vec<&str> = differences.iter().map(|d| d.what.words()).collect();
        lines.push(format!(
            "{}  {}",
            paint(STRONG, program.name()),
            paint(ERROR, what.join(", "))
        ));
        if args.brief {
            continue;
        }
        for line in program.text().trim_end().lines().take(8) {
            lines.push(format!("    {} {line}", paint(QUIET, "│")));
        }
        for difference in differences {
            lines.push(format!("    {}", difference.what.words()));
            let shown = difference::changed(difference);
            lines.extend(shown.into_iter().map(|line| format!("      {line}")));
        }
    }
    let differing = found.iter().filter(|(_, d)| !d.is_empty()).count();
    let counts: Vec<String> = counts(found)
        .into_iter()
        .map(|(stage, count)| format!("{} {count}", stage.words()))
        .collect();
    let all = plural(found.len(), "program");
    lines.push(match differing {
        0 => paint(GOOD, format_args!("{all}, all the same")),
        _ => paint(
            ERROR,
            format_args!(
                "{all}: {} the same, {differing} {} ({})",
                found.len() - differing,
                if differing == 1 { "differs" } else { "differ" },
                counts.join(", ")
            ),
        ),
    });
    lines
}

/// How many programs differ in each stage, those in which none does left out.
fn counts(found: &[(&Arc<SourceText>, Vec<Difference>)]) -> Vec<(Compared, usize)> {
    let count = |stage: Compared| {
        let all = found.iter();
        all.filter(|(_, d)| d.iter().any(|d| d.what == stage))
            .count()
    };
    STAGES
        .into_iter()
        .map(|stage| (stage, count(stage)))
        .filter(|(_, count)| *count > 0)
        .collect()
}

fn as_json(found: &[(&Arc<SourceText>, Vec<Difference>)]) -> Value {
    let programs: Vec<Value> = found
        .iter()
        .map(|(program, differences)| {
            let differences: Vec<Value> = differences
                .iter()
                .map(|d| json!({ "what": d.what.words(), "old": d.expected, "new": d.got }))
                .collect();
            json!({ "program": program.name(), "text": program.text(), "differences": differences })
        })
        .collect();
    let counts = counts(found).into_iter();
    let counts: serde_json::Map<String, Value> = counts
        .map(|(stage, count)| (stage.words().to_owned(), count.into()))
        .collect();
    json!({ "programs": programs, "differing": counts })
}
