//! Definitions on the disk as languages.

use std::path::{Path, PathBuf};
use std::rc::Rc;
use std::sync::Arc;

use quillon_core::Language;
use quillon_core::diagnostic::{Diagnostic, Outcome, codes, nearest, quote};
use quillon_core::source::SourceText;

use crate::args::Common;
use crate::files;
use crate::kept;
use crate::packed;
use crate::stop::Stop;

/// Loads a definition; its notes are left to `check`, its warnings are shown.
pub fn load(path: &Path) -> Result<Language, Stop> {
    compile(&files::read_definition(path)?)
}

/// A definition's text as a language.
pub fn compile(source: &Arc<SourceText>) -> Result<Language, Stop> {
    let packed = packed::own().and_then(|pack| pack.language(source));
    if let Some(language) = packed.or_else(|| kept::find(source)) {
        return Ok(language);
    }
    let Outcome { value, diagnostics } = Language::load(source);
    match value {
        Some(language) => {
            kept::keep(&language);
            Ok(language)
        }
        None => Err(Stop::Definition(
            diagnostics
                .into_iter()
                .filter(Diagnostic::is_error)
                .collect(),
        )),
    }
}

/// The definition asked for, or the only one in this folder or above.
pub fn language(asked: Option<&Path>) -> Result<Language, Stop> {
    match asked {
        Some(path) => load(path),
        None => load(&files::definition_near(Path::new("."))?),
    }
}

/// A language in the surface of a name.
pub fn in_surface(language: &Language, name: &str) -> Result<Language, Stop> {
    language.surface(name).ok_or_else(|| {
        let definition = language.definition();
        let known: Vec<String> = language.surface_names().map(quote).collect();
        let problem = Diagnostic::error(
            codes::FILE_LANGUAGE,
            format!("{} has no surface {}", definition.name.text, quote(name)),
        )
        .why(format!("its surfaces are {}", known.join(", ")))
        .did_you_mean(nearest(name, language.surface_names()));
        Stop::Usage(Box::new(problem))
    })
}

/// The languages of several programs, each compiled once.
#[derive(Default)]
pub struct Languages {
    known: Vec<Known>,
}

/// A language in one of its surfaces, and all of it.
pub struct Pair {
    pub whole: Rc<Language>,
    pub language: Rc<Language>,
}

/// A language, and those of its surfaces that have been asked for.
struct Known {
    definition: PathBuf,
    whole: Rc<Language>,
    surfaces: Vec<(String, Rc<Language>)>,
}

impl Languages {
    /// The definition asked for, or the one that fits the program; in the surface asked
    /// for, or the one that the program's extension tells.
    pub fn of_program(&mut self, common: &Common, program: &Path) -> Result<Pair, Stop> {
        let definition = match &common.language {
            Some(asked) => asked.clone(),
            None => files::definition_for(program)?,
        };
        let known = self.known.iter().position(|k| k.definition == definition);
        let at = known.unwrap_or(self.known.len());
        if known.is_none() {
            self.known.push(Known {
                whole: Rc::new(common.types.apply(load(&definition)?)),
                surfaces: Vec::new(),
                definition,
            });
        }
        let name = program.to_string_lossy();
        let language = self.known[at].surface(common, &name)?;
        Ok(Pair {
            whole: Rc::clone(&self.known[at].whole),
            language,
        })
    }
}

impl Known {
    fn surface(&mut self, common: &Common, file: &str) -> Result<Rc<Language>, Stop> {
        let whole = &self.whole;
        let name = match &common.surface {
            Some(name) => name.clone(),
            None => whole.surface_name_of_file(file).to_owned(),
        };
        if name == whole.definition().name.text {
            return Ok(Rc::clone(whole));
        }
        if let Some((_, language)) = self.surfaces.iter().find(|(known, _)| *known == name) {
            return Ok(Rc::clone(language));
        }
        let language = Rc::new(in_surface(whole, &name)?);
        self.surfaces.push((name, Rc::clone(&language)));
        Ok(language)
    }
}
