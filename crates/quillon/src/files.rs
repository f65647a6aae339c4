//! Finding and reading definitions and programs.

use std::io::Read;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use quillon_core::bytecode::is_program;
use quillon_core::definition::{Definition, with_includes};
use quillon_core::diagnostic::{Diagnostic, codes, quote};
use quillon_core::source::{SourceText, from_bytes};

use crate::packed;
use crate::paths::{beside, folder_of, shown};
use crate::reach::Reach;
use crate::stop::{Stop, Unreadable};

/// What an input without a file name is called.
pub const STANDARD_INPUT: &str = "standard input";

/// The extension of definitions, without the dot.
pub const DEFINITION: &str = "quillon";

/// The extension of case files, without the dot.
pub const CASES: &str = "cases";

fn unreadable(message: String) -> Unreadable {
    Box::new(Diagnostic::error(codes::FILE_UNREADABLE, message))
}

/// The bytes of a file, if it is a program that was kept.
pub fn kept_program(path: &Path) -> Option<Vec<u8>> {
    let mut beginning = [0; 64];
    let read = std::fs::File::open(path).and_then(|mut file| file.read(&mut beginning));
    let is_program = read.is_ok_and(|count| is_program(&beginning[..count]));
    is_program.then(|| std::fs::read(path).ok()).flatten()
}

/// Reads a file, or standard input for `-`.
pub fn read(path: &Path) -> Result<Arc<SourceText>, Unreadable> {
    if path == Path::new("-") {
        let mut bytes = Vec::new();
        std::io::stdin()
            .read_to_end(&mut bytes)
            .map_err(|error| unreadable(format!("standard input cannot be read: {error}")))?;
        return from_bytes(STANDARD_INPUT, bytes)
            .map_err(|error| unreadable(format!("standard input cannot be read: {error}")));
    }
    if path.is_dir() {
        let mut problem = unreadable(format!("{} is a folder, and a file is needed", shown(path)));
        let inside = files_in(path, |_| true);
        if let Some(first) = inside.first() {
            problem = Box::new(
                problem.remedy(format!("name a file in it, for example {}", shown(first))),
            );
        }
        return Err(problem);
    }
    // A device could go on without end.
    let most = u64::from(u32::MAX);
    let mut bytes = Vec::new();
    let read = std::fs::File::open(path);
    let read = read.and_then(|file| file.take(most).read_to_end(&mut bytes));
    read.map_err(|error| {
        if error.kind() == std::io::ErrorKind::NotFound {
            missing(path)
        } else {
            unreadable(format!("{} cannot be read: {error}", shown(path)))
        }
    })?;
    from_bytes(&path.display().to_string(), bytes)
        .map_err(|error| unreadable(format!("{} cannot be read: {error}", shown(path))))
}

/// Reads a definition together with the files that it includes; one that is packed is at hand.
pub fn read_definition(path: &Path) -> Result<Arc<SourceText>, Stop> {
    if let Some(pack) = packed::at(path) {
        return Ok(pack.source());
    }
    let source = read(path)?;
    with_included(&source, path, &|_| None).map_err(Stop::Definition)
}

/// A definition together with the files that it includes: those that are open in an editor as they
/// are there, the others as they are on the disk.
pub fn with_included(
    source: &Arc<SourceText>,
    path: &Path,
    open: &dyn Fn(&Path) -> Option<String>,
) -> Result<Arc<SourceText>, Vec<Diagnostic>> {
    let folder = folder_of(path);
    with_includes(source, &mut |from, file| {
        let file = beside(Path::new(from.name()), Path::new(file));
        let text = match open(&file) {
            Some(text) => text,
            None => Reach::read_included(&folder, &file)?,
        };
        Ok(SourceText::new(file.display().to_string(), text))
    })
}

/// The error for a file that is not there, with the nearest name that is.
fn missing(path: &Path) -> Unreadable {
    let problem = Diagnostic::error(
        codes::FILE_UNREADABLE,
        format!("there is no file {}", shown(path)),
    );
    let folder = folder_of(path);
    let names: Vec<String> = files_in(&folder, |_| true)
        .iter()
        .filter_map(|p| Some(p.file_name()?.to_string_lossy().into_owned()))
        .collect();
    let wanted = path
        .file_name()
        .map_or_else(String::new, |name| name.to_string_lossy().into_owned());
    let near = quillon_core::diagnostic::nearest(&wanted, names.iter().map(String::as_str));
    Box::new(problem.did_you_mean(near))
}

/// The files of a folder that pass, by name.
pub fn files_in(folder: &Path, pass: impl Fn(&Path) -> bool) -> Vec<PathBuf> {
    let mut found: Vec<PathBuf> = std::fs::read_dir(folder)
        .into_iter()
        .flatten()
        .filter_map(|entry| Some(entry.ok()?.path()))
        .filter(|path| path.is_file() && pass(path))
        .map(without_dot)
        .collect();
    found.sort();
    found
}

/// The case files beside a definition, in its folder and in `cases`. Where several definitions share a
/// folder, only those with the definition's name.
pub fn cases_of(definition: &Path) -> Vec<PathBuf> {
    let folder = folder_of(definition);
    let is_shared = definitions_in(&folder).len() > 1;
    let is_case = |path: &Path| {
        let is_its_own = path.file_stem() == definition.file_stem();
        has_extension(path, CASES) && (!is_shared || is_its_own)
    };
    let mut cases = files_in(&folder, is_case);
    cases.extend(files_in(&folder.join("cases"), is_case));
    cases
}

/// A path in this folder as a person writes it.
fn without_dot(path: PathBuf) -> PathBuf {
    path.strip_prefix("./").map(Path::to_owned).unwrap_or(path)
}

/// Whether a path has an extension.
pub fn has_extension(path: &Path, extension: &str) -> bool {
    path.extension().is_some_and(|e| e == extension)
}

fn definitions_in(folder: &Path) -> Vec<PathBuf> {
    files_in(folder, |path| has_extension(path, DEFINITION))
}

/// The folder and every one above it; those inside the current folder by their paths from
/// there.
fn upward(folder: &Path) -> Vec<PathBuf> {
    let mut folders = vec![folder.to_owned()];
    let full = std::path::absolute(folder).unwrap_or_else(|_| folder.to_owned());
    let here = std::env::current_dir().unwrap_or_default();
    let named = |folder: &Path| match folder.strip_prefix(&here) {
        Ok(inside) if inside.as_os_str().is_empty() => PathBuf::from("."),
        Ok(inside) => inside.to_owned(),
        Err(_) => folder.to_owned(),
    };
    folders.extend(full.ancestors().skip(1).map(named));
    folders
}

/// The extensions of programs that a definition file says it reads.
fn extensions_of(path: &Path) -> Vec<String> {
    read_definition(path).map_or_else(|_| Vec::new(), |source| Definition::extensions_of(&source))
}

fn no_definition(message: String) -> Unreadable {
    Box::new(
        Diagnostic::error(codes::FILE_LANGUAGE, message)
            .remedy("name the definition with `-l FILE.quillon`"),
    )
}

fn listed(paths: &[PathBuf]) -> String {
    let names: Vec<String> = paths.iter().map(|path| shown(path)).collect();
    names.join(", ")
}

/// The only definition in a folder, or in the nearest folder above that has any.
pub fn definition_near(folder: &Path) -> Result<PathBuf, Unreadable> {
    if let Some(pack) = packed::own() {
        return Ok(pack.definition());
    }
    for folder in upward(folder) {
        match &definitions_in(&folder)[..] {
            [] => {}
            [only] => return Ok(only.clone()),
            several => {
                return Err(no_definition(format!(
                    "there are several definitions: {}",
                    listed(several)
                )));
            }
        }
    }
    Err(no_definition(format!(
        "no definition was found in {} or above",
        if folder == Path::new(".") {
            "this folder".to_owned()
        } else {
            shown(folder)
        }
    )))
}

/// The definition for a program, by the program's extension, in the program's folder or
/// above.
pub fn definition_for(program: &Path) -> Result<PathBuf, Unreadable> {
    if program == Path::new("-") {
        return definition_near(Path::new("."));
    }
    if program.is_dir() || !program.exists() {
        return Err(match read(program) {
            Err(problem) => problem,
            Ok(_) => missing(program),
        });
    }
    definition_reading(program)
}

/// The same for a program that need not be there yet.
pub fn definition_reading(program: &Path) -> Result<PathBuf, Unreadable> {
    if let Some(pack) = packed::own() {
        return pack.reading(program);
    }
    let name = program
        .file_name()
        .map_or_else(String::new, |name| name.to_string_lossy().into_owned());
    let Some(at) = name.find('.') else {
        return Err(no_definition(format!(
            "{} has no extension, so its language cannot be told",
            shown(program)
        )));
    };
    let extension = &name[at..];
    for folder in upward(&folder_of(program)) {
        let mut fitting = definitions_in(&folder);
        fitting.retain(|path| {
            extensions_of(path)
                .iter()
                .any(|known| extension.ends_with(known.as_str()))
        });
        match &fitting[..] {
            [] => {}
            [one] => return Ok(one.clone()),
            several => {
                return Err(no_definition(format!(
                    "several definitions read {}: {}",
                    shown(program),
                    listed(several)
                )));
            }
        }
    }
    Err(no_definition(format!(
        "no definition beside {} or above it reads {}",
        shown(program),
        quote(extension)
    )))
}

/// The programs that paths stand for: a folder stands for every file in it and below that
/// the definition asked for reads, or that some definition beside or above it reads.
pub fn programs(paths: &[PathBuf], asked: Option<&Path>) -> Result<Vec<PathBuf>, Unreadable> {
    let none = "no program in it has a definition";
    standing_for(paths, asked, none, |_| false)
}

/// The files that paths stand for and that can be put in order: a folder stands for every program in it and
/// below, and for every definition and case file.
pub fn arrangeable(paths: &[PathBuf], asked: Option<&Path>) -> Result<Vec<PathBuf>, Unreadable> {
    let none = "neither a program nor a definition nor a case file is in it";
    standing_for(paths, asked, none, is_notation)
}

/// Whether a file is a definition or a case file.
pub fn is_notation(file: &Path) -> bool {
    has_extension(file, DEFINITION) || has_extension(file, CASES)
}

/// The files that paths stand for: a folder stands for the programs in it and below, and for what else passes;
/// `none` says that there are none.
fn standing_for(
    paths: &[PathBuf],
    asked: Option<&Path>,
    none: &str,
    pass: impl Fn(&Path) -> bool,
) -> Result<Vec<PathBuf>, Unreadable> {
    let mut all = Vec::new();
    for path in paths {
        if !path.is_dir() {
            all.push(path.clone());
            continue;
        }
        let known = asked.map(extensions_of);
        let is_program = |file: &Path| match &known {
            Some(known) => reads(known, file),
            None => definition_for(file).is_ok(),
        };
        let found = files_below(path, &|file| pass(file) || is_program(file));
        if found.is_empty() {
            let message = format!("{} is a folder, and {none}", shown(path));
            return Err(unreadable(message));
        }
        all.extend(found);
    }
    Ok(all)
}

/// The programs of a definition in a folder and below.
pub fn programs_of(definition: &Path, folder: &Path) -> Vec<PathBuf> {
    let known = extensions_of(definition);
    files_below(folder, &|file| reads(&known, file))
}

/// Whether a file has one of some extensions.
fn reads(extensions: &[String], file: &Path) -> bool {
    let name = file.file_name().map(|n| n.to_string_lossy().into_owned());
    name.is_some_and(|n| extensions.iter().any(|e| n.ends_with(e.as_str())))
}

/// The files of a folder and of those in it that pass, by name, those of a folder before those of
/// the folders in it. What `.gitignore` names is not entered.
fn files_below(folder: &Path, pass: &dyn Fn(&Path) -> bool) -> Vec<PathBuf> {
    let walk = ignore::WalkBuilder::new(folder)
        .hidden(false)
        .require_git(false)
        .filter_entry(|entry| entry.file_name() != ".git")
        .build();
    let paths = walk.filter_map(|entry| Some(entry.ok()?.into_path()));
    let files = paths.filter(|path| path.is_file() && pass(path));
    let mut found: Vec<PathBuf> = files.map(without_dot).collect();
    found.sort_by_cached_key(|path| {
        let parts = path.parent().into_iter().flat_map(Path::iter);
        let parts: Vec<std::ffi::OsString> = parts.map(ToOwned::to_owned).collect();
        (parts, path.file_name().map(ToOwned::to_owned))
    });
    found
}
