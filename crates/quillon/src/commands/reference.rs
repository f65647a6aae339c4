//! `quillon reference`: a reference of a language for those who use it.

use std::path::{Path, PathBuf};
use std::sync::Arc;

use quillon_core::diagnostic::{Diagnostic, codes};
use quillon_core::reference;
use quillon_core::source::SourceText;
use quillon_core::{Language, Stage};
use quillon_render::reference::{markdown, page};

use crate::args::Reference as Args;
use crate::commands::new::write;
use crate::exit::Exit;
use crate::files::{self, has_extension};
use crate::languages;
use crate::output::{hand_over, print_lines};
use crate::paths::{folder_of, shown};
use crate::render;
use crate::stop::Stop;

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let path: PathBuf = match &args.definition {
        Some(path) => path.clone(),
        None => files::definition_near(Path::new("."))?,
    };
    let language = languages::load(&path)?;
    if let Some(lack) = language.lacks(Stage::Tree) {
        return Err(Stop::Definition(vec![lack]));
    }
    let first = first_program(args, &language, &path)?;
    let told = reference::of(&language, first.as_ref());
    for example in &told.left_out {
        let message = format!("an example does not hold, and is left out: {example}");
        let note = Diagnostic::warning(codes::CASE_FAILED, message);
        render::show(&note.remedy("`quillon test` says what comes of it"));
    }
    let definition = language.definition();
    let Some(into) = &args.into else {
        hand_over(&page(definition, &told))?;
        return Ok(Exit::Done);
    };
    let wanted: Vec<(PathBuf, String)> = if has_extension(into, "html") {
        vec![(into.clone(), page(definition, &told))]
    } else if has_extension(into, "md") {
        vec![(into.clone(), markdown(definition, &told))]
    } else {
        vec![
            (into.join("index.html"), page(definition, &told)),
            (into.join("reference.md"), markdown(definition, &told)),
        ]
    };
    let mut lines = Vec::new();
    for (file, text) in wanted {
        write(&file, text)?;
        lines.push(format!("{} written", shown(&file)));
    }
    print_lines(&lines)?;
    Ok(Exit::Done)
}

/// The program to begin with: the one asked for, or the shortest beside the definition.
fn first_program(
    args: &Args,
    language: &Language,
    definition: &Path,
) -> Result<Option<Arc<SourceText>>, Stop> {
    if let Some(first) = &args.first {
        return Ok(Some(files::read(first)?));
    }
    let folder = folder_of(definition).join("programs");
    let own = files::programs_of(definition, &folder).into_iter();
    // In other surfaces it would be read otherwise.
    let surface = |path: &Path| {
        let name = path.to_string_lossy();
        language.surface_name_of_file(&name).to_owned()
    };
    let usual = language.surface_names().next().map(str::to_owned);
    let own = own.filter(|path| Some(surface(path)) == usual);
    let read = own.filter_map(|path| files::read(&path).ok());
    Ok(read.min_by_key(|source| source.text().len()))
}
