//! The programs that a command is asked to look at.

use std::path::Path;
use std::rc::Rc;
use std::sync::Arc;

use quillon_core::source::SourceText;
use quillon_core::{Language, Reading};

use crate::args::{Common, OneProgram, Program};
use crate::files;
use crate::languages::{Languages, Pair, in_surface, language};
use crate::stop::Stop;

/// A program to look at: its language, its text, and what it is to be read as. A file is a
/// program; a text typed on the command line may be less.
pub struct Input {
    /// The language as the program is written, and in all its surfaces.
    pub language: Rc<Language>,
    pub whole: Rc<Language>,
    pub source: Arc<SourceText>,
    pub reading: Reading<'static>,
}

/// The programs asked for; folders stand for the programs in them.
pub fn inputs(program: &Program, common: &Common) -> Result<Vec<Input>, Stop> {
    let asked = common.language.as_deref();
    if let Some(text) = &program.text {
        let whole = Rc::new(common.types.apply(language(asked)?));
        return Ok(vec![Input {
            language: in_asked_surface(&whole, common)?,
            whole,
            source: given_text(text),
            reading: Reading::Entry,
        }]);
    }
    let mut languages = Languages::default();
    let mut inputs = Vec::new();
    for path in files::programs(&program.programs, asked)? {
        let Pair { whole, language } = languages.of_program(common, &path)?;
        inputs.push(Input {
            language,
            whole,
            source: files::read(&path)?,
            reading: Reading::Program,
        });
    }
    Ok(inputs)
}

/// The language in the surface asked for, for a text typed on the command line.
pub fn in_asked_surface(whole: &Rc<Language>, common: &Common) -> Result<Rc<Language>, Stop> {
    match &common.surface {
        Some(name) => Ok(Rc::new(in_surface(whole, name)?)),
        None => Ok(Rc::clone(whole)),
    }
}

/// The one program of a command, typed or in a file, with its language.
pub fn one_program(program: &OneProgram, common: &Common) -> Result<Input, Stop> {
    if let Some(text) = &program.text {
        let asked = language(common.language.as_deref())?;
        let whole = Rc::new(common.types.apply(asked));
        return Ok(Input {
            language: in_asked_surface(&whole, common)?,
            whole,
            source: given_text(text),
            reading: Reading::Entry,
        });
    }
    let path = program.program.as_deref().unwrap_or(Path::new("-"));
    let known = Languages::default().of_program(common, path)?;
    Ok(Input {
        language: known.language,
        whole: known.whole,
        source: files::read(path)?,
        reading: Reading::Program,
    })
}

/// A program typed on the command line.
pub fn given_text(text: &str) -> Arc<SourceText> {
    SourceText::new("text", text)
}
