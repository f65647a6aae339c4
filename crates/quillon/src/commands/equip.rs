//! `quillon equip`: an editor package for a language.

use std::path::Path;

use crate::args::Equip as Args;
use crate::commands::new::write;
use crate::equipping::package;
use crate::exit::Exit;
use crate::languages;
use crate::output::print_lines;
use crate::paths::shown;
use crate::stop::Stop;

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let language = languages::language(args.definition.as_deref())?;
    let mut lines = Vec::new();
    for file in package(&language, args.editor) {
        let path = args.into.join(Path::new(&file.path));
        write(&path, file.text)?;
        lines.push(format!("{} written", shown(&path)));
    }
    lines.push(format!(
        "{} says how to install it",
        shown(&args.into.join("README.md"))
    ));
    print_lines(&lines)?;
    Ok(Exit::Done)
}
