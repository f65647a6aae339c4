//! `quillon grammar`: the grammar of a definition in a standard notation.

use quillon_core::definition::Notation;
use quillon_core::{Language, Stage};
use serde_json::json;

use super::{Stop, language, print_json, print_lines};
use crate::args::{Format, Grammar as Args, GrammarView};
use crate::exit::Exit;
use crate::render::style::{HEADING, paint};

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let language = language(args.definition.as_deref())?;
    if let Some(lack) = language.lacks(Stage::Tree) {
        return Err(Stop::Definition(vec![lack]));
    }
    let definition = language.definition();
    if args.format == Format::Json {
        print_json(&json!({
            "w3c": definition.grammar_text(Notation::W3c),
            "iso": definition.grammar_text(Notation::Iso),
            "abstract": definition.abstract_syntax(),
        }))?;
        return Ok(Exit::Done);
    }
    let text = match args.view {
        GrammarView::Both => both(&language),
        GrammarView::W3c => definition.grammar_text(Notation::W3c),
        GrammarView::Iso => definition.grammar_text(Notation::Iso),
        GrammarView::Abstract => definition.abstract_syntax(),
    };
    print_lines(&[text.trim_end().to_owned()])?;
    Ok(Exit::Done)
}

/// The grammar, and what the tree has, under headings.
fn both(language: &Language) -> String {
    let definition = language.definition();
    format!(
        "{}\n\n{}{}\n\n{}",
        paint(HEADING, "── how it is written"),
        definition.grammar_text(Notation::W3c),
        paint(HEADING, "── what the tree has"),
        definition.abstract_syntax()
    )
}
