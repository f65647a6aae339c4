//! `quillon new`: a folder with a small working language.

use std::path::Path;

use quillon_core::definition;
use quillon_core::diagnostic::{Diagnostic, codes, nearest, quote};
use quillon_core::source::SourceText;

use crate::args::New as Args;
use crate::exit::Exit;
use crate::files::is_notation;
use crate::output::print_lines;
use crate::paths::shown;
use crate::render::style::{FORM, QUIET, paint};
use crate::stop::Stop;

/// The files that are made: where, and what is in them. `LANGUAGE` and `EXTENSION`
/// stand for the language's name and its extension.
const FILES: [(&str, &str); 4] = [
    (
        "EXTENSION.quillon",
        include_str!("../../assets/new/language.quillon"),
    ),
    (
        "programs/first.EXTENSION",
        include_str!("../../assets/new/first.program"),
    ),
    (
        "cases/first.cases",
        include_str!("../../assets/new/first.cases"),
    ),
    ("README.md", include_str!("../../assets/new/README.md")),
];

pub fn run(args: &Args) -> Result<Exit, Stop> {
    if args.from.as_deref() == Some("") {
        return super::demo::list(&args.name);
    }
    let folder = Path::new(&args.name);
    let name = folder
        .file_name()
        .map_or_else(String::new, |name| name.to_string_lossy().into_owned());
    let extension: String = name.to_lowercase().replace('-', "_");
    let named_well = extension.starts_with(|c: char| c.is_alphabetic())
        && extension.chars().all(|c| c.is_alphanumeric() || c == '_');
    if !named_well {
        return Err(usage(
            format!("{} cannot be the name of a language", quote(&name)),
            "start with a letter, and go on with letters, digits and `_`",
        ));
    }
    if folder.exists() {
        return Err(usage(
            format!("there is already something called {}", quote(&args.name)),
            "choose another name, or move that away",
        ));
    }
    let language = capitalised(&extension);
    let files = if let Some(from) = &args.from {
        begun_from(from, &language, &extension)?
    } else {
        let fill = |text: &str| {
            text.replace("LANGUAGE", &language)
                .replace("EXTENSION", &extension)
        };
        let filled = FILES.iter().map(|(path, text)| (fill(path), fill(text)));
        filled.collect()
    };
    let mut lines = vec![format!("made {}:", paint(FORM, &args.name))];
    for (path, text) in &files {
        let path = folder.join(path);
        write(&path, in_order(&path, text))?;
        lines.push(format!("  {}", path.display()));
    }
    lines.push(paint(QUIET, "next:"));
    lines.push(format!("  cd {}", args.name));
    lines.push("  quillon test".to_owned());
    let mut paths = files.iter().map(|(path, _)| path);
    if let Some(program) = paths.find(|path| path.starts_with("programs/")) {
        lines.push(format!("  quillon run {program}"));
    }
    print_lines(&lines)?;
    Ok(Exit::Done)
}

/// The text of a file with its columns in order: names are of other lengths than those they stand for.
fn in_order(path: &Path, text: &str) -> String {
    let source = SourceText::new(path.display().to_string(), text);
    let arranged = is_notation(path).then(|| definition::arranged(&source).ok());
    arranged.flatten().unwrap_or_else(|| text.to_owned())
}

/// The files of a language that is bundled, under another name: its definition, programs and
/// cases.
fn begun_from(from: &str, language: &str, extension: &str) -> Result<Vec<(String, String)>, Stop> {
    let Some(bundled) = quillon_languages::named(from) else {
        let names = || {
            quillon_languages::LANGUAGES
                .iter()
                .map(|language| language.name)
        };
        let listed: Vec<String> = names().map(quote).collect();
        let problem = Diagnostic::error(
            codes::USAGE,
            format!("no language called {} is bundled", quote(from)),
        )
        .why(format!("those that are: {}", listed.join(", ")))
        .did_you_mean(nearest(from, names()));
        return Err(Stop::Usage(Box::new(problem)));
    };
    let known = crate::languages::compile(&SourceText::new(from, bundled.definition))?;
    let known = known.definition();
    let own = &known.extensions[0].text;
    let mut definition = bundled.definition.to_owned();
    // The later first, so that places stay what they are.
    for (span, text) in [
        (known.extensions[0].span, format!("\".{extension}\"")),
        (known.name.span, language.to_owned()),
    ] {
        definition.replace_range(span.start as usize..span.end as usize, &text);
    }
    let mut files = vec![(format!("{extension}.quillon"), definition)];
    for (path, text) in bundled.files {
        let path = match path.strip_suffix(own.as_str()) {
            Some(stem) => format!("{stem}.{extension}"),
            None => (*path).to_owned(),
        };
        files.push((path, (*text).to_owned()));
    }
    Ok(files)
}

fn usage(message: String, remedy: &str) -> Stop {
    Stop::Usage(Box::new(
        Diagnostic::error(codes::USAGE, message).remedy(remedy),
    ))
}

/// Writes a file, and the folders it lies in.
pub fn write(path: &Path, content: impl AsRef<[u8]>) -> Result<(), Stop> {
    let made = path.parent().map_or(Ok(()), std::fs::create_dir_all);
    made.and_then(|()| crate::atomic::write(path, content.as_ref()))
        .map_err(|error| unwritable(path, error))
}

/// The error for a file that cannot be written, and why.
pub fn unwritable(path: &Path, why: impl std::fmt::Display) -> Stop {
    let message = format!("{} cannot be written: {why}", shown(path));
    Stop::Unreadable(Box::new(Diagnostic::error(codes::FILE_UNREADABLE, message)))
}

fn capitalised(word: &str) -> String {
    let mut out = String::new();
    for part in word.split('_') {
        let mut letters = part.chars();
        if let Some(first) = letters.next() {
            out.extend(first.to_uppercase());
            out.push_str(letters.as_str());
        }
    }
    out
}
