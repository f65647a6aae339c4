//! What is tested: definitions with their examples, case files, and programs.

use std::path::{Path, PathBuf};

use quillon_core::diagnostic::{Diagnostic, codes};

use crate::args::Test as Args;
use crate::files::{self, CASES, DEFINITION};
use crate::paths;
use crate::stop::Stop;

/// What is tested: a definition, and the case files that go with it.
pub struct Suite {
    pub definition: PathBuf,
    /// Whether the definition's own examples are run.
    pub examples: bool,
    pub cases: Vec<PathBuf>,
    /// Programs of which only that is checked that holds for every program.
    pub programs: Vec<PathBuf>,
}

/// What the arguments ask for.
pub fn suites(args: &Args) -> Result<Vec<Suite>, Stop> {
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
                definition: definition_near(args, &paths::folder_of(path))?,
                examples: false,
                cases: vec![path.clone()],
                programs: Vec::new(),
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
        programs: Vec::new(),
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

/// A definition with its case files, and the programs in `programs`.
pub fn beside(definition: PathBuf) -> Suite {
    let folder = paths::folder_of(&definition);
    let cases = files::cases_of(&definition);
    let programs = files::programs_of(&definition, &folder.join("programs"));
    Suite {
        definition,
        examples: true,
        cases,
        programs,
    }
}
