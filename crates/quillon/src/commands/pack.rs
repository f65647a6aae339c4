//! `quillon pack`: a language, or a program with its language, as one executable.

use std::path::{Path, PathBuf};
use std::sync::Arc;

use quillon_core::bytecode::{self, Program};
use quillon_core::definition::Definition;
use quillon_core::scoping::Around;
use quillon_core::{Language, Reading};

use crate::args::{Common, Format, Pack as Args};
use crate::commands::new::unwritable;
use crate::exit::Exit;
use crate::files;
use crate::languages::{self, Languages};
use crate::output::{print_lines, report, status};
use crate::packed::Pack;
use crate::paths::shown;
use crate::stop::Stop;

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let packed = match &args.program {
        Some(program) => with_program(args, program)?,
        None => Ok(language(args)?),
    };
    let (language, program) = match packed {
        Ok(packed) => packed,
        Err(exit) => return Ok(exit),
    };
    let pack = Pack::new(&language, program);
    let mut pack = pack.ok_or_else(|| unwritable(&args.into, "the language cannot be kept"))?;
    if let Some(name) = args.into.file_stem() {
        pack.name = name.to_string_lossy().into_owned();
    }
    pack.version.clone_from(&args.release);
    pack.about = about(language.definition());
    pack.write(&args.into)
        .map_err(|error| unwritable(&args.into, error))?;
    let what = match (&args.program, language.definition()) {
        (Some(program), _) => format!("the program {}", shown(program)),
        (None, definition) => format!("the language {}", definition.name.text),
    };
    print_lines(&[format!("{} is {what}, by itself", shown(&args.into))])?;
    Ok(Exit::Done)
}

/// A language, and a program of it.
type Packed = (Language, Option<Vec<u8>>);

fn language(args: &Args) -> Result<Packed, Stop> {
    let path: PathBuf = match &args.definition {
        Some(path) => path.clone(),
        None => files::definition_near(Path::new("."))?,
    };
    Ok((languages::load(&path)?, None))
}

/// A program with its language; how it ends where the program is wrong.
fn with_program(args: &Args, path: &Path) -> Result<Result<Packed, Exit>, Stop> {
    let common = Common::of(args.definition.clone());
    let known = Languages::default().of_program(&common, path)?;
    let source = files::read(path)?;
    let code = known
        .language
        .code(&source, Around::Nothing, Reading::Program);
    report(&code.diagnostics, Format::Text);
    let Some(function) = code.value else {
        return Ok(Err(status(&code.diagnostics)));
    };
    let program = Program {
        code: function,
        definition: Arc::clone(&known.whole.definition().source),
    };
    let bytes =
        bytecode::save(&program).map_err(|unusable| unwritable(&args.into, unusable.message))?;
    Ok(Ok(((*known.whole).clone(), Some(bytes))))
}

/// What a language is for: the remark that its definition begins with, as far as its first sentence goes.
fn about(definition: &Definition) -> String {
    let text = definition.remark();
    match text.split_once(". ") {
        Some((first, _)) => first.to_owned(),
        None => text.trim_end_matches('.').to_owned(),
    }
}
