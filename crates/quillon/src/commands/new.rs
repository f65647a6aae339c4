//! `quillon new`: a folder with a small working language.

use std::path::Path;

use quillon_core::diagnostic::{Diagnostic, codes, quote};

use super::{Stop, print_lines};
use crate::args::New as Args;
use crate::exit::Exit;
use crate::render::style::{FORM, QUIET, paint};

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
    let fill = |text: &str| {
        text.replace("LANGUAGE", &language)
            .replace("EXTENSION", &extension)
    };
    let mut lines = vec![format!("made {}:", paint(FORM, &args.name))];
    for (path, text) in FILES {
        let path = folder.join(fill(path));
        write(&path, fill(text))?;
        lines.push(format!("  {}", path.display()));
    }
    lines.push(paint(QUIET, "next:"));
    lines.push(format!("  cd {}", args.name));
    lines.push("  quillon test".to_owned());
    lines.push(format!("  quillon run programs/first.{extension}"));
    print_lines(&lines)?;
    Ok(Exit::Done)
}

fn usage(message: String, remedy: &str) -> Stop {
    Stop::Usage(Box::new(
        Diagnostic::error(codes::USAGE, message).remedy(remedy),
    ))
}

/// Writes a file, and the folders it lies in.
pub fn write(path: &Path, content: impl AsRef<[u8]>) -> Result<(), Stop> {
    let made = path.parent().map_or(Ok(()), std::fs::create_dir_all);
    made.and_then(|()| std::fs::write(path, content))
        .map_err(|error| {
            Stop::Unreadable(Box::new(Diagnostic::error(
                codes::FILE_UNREADABLE,
                format!(
                    "{} cannot be written: {error}",
                    quote(&path.display().to_string())
                ),
            )))
        })
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
