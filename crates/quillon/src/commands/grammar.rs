//! `quillon grammar`: the grammar of a definition in a standard notation.

use quillon_core::definition::Definition;
use quillon_core::diagnostic::{Diagnostic, codes, nearest, quote};
use quillon_core::grammar::{self, Notation};
use quillon_core::{Language, Stage};
use quillon_render::diagram;
use serde_json::json;

use crate::args::{Format, Grammar as Args, GrammarView};
use crate::exit::Exit;
use crate::languages::{in_surface, language};
use crate::output::{hand_over, print_json};
use crate::render::style::{HEADING, paint};
use crate::stop::Stop;

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let whole = language(args.definition.as_deref())?;
    let language = match &args.surface {
        Some(name) => in_surface(&whole, name)?,
        None => whole,
    };
    if let Some(lack) = language.lacks(Stage::Tree) {
        return Err(Stop::Definition(vec![lack]));
    }
    let definition = language.definition();
    if args.format == Format::Json {
        print_json(&json!({
            "w3c": grammar::text(definition, Notation::W3c),
            "iso": grammar::text(definition, Notation::Iso),
            "abstract": grammar::abstract_syntax(definition),
            "language": grammar::shapes(definition),
        }))?;
        return Ok(Exit::Done);
    }
    let text = match args.view {
        GrammarView::Both => both(&language),
        GrammarView::W3c => grammar::text(definition, Notation::W3c),
        GrammarView::Iso => grammar::text(definition, Notation::Iso),
        GrammarView::Abstract => grammar::abstract_syntax(definition),
        GrammarView::Html => diagram::to_html(definition),
        GrammarView::Svg => diagram::to_svg(definition, args.sort.as_deref())
            .ok_or_else(|| no_sort(definition, args.sort.as_deref().unwrap_or_default()))?,
    };
    hand_over(&text)?;
    Ok(Exit::Done)
}

/// The error for a sort that there is not.
fn no_sort(definition: &Definition, sort: &str) -> Stop {
    let known: Vec<&str> = definition
        .sorts()
        .into_iter()
        .map(|(name, _)| name)
        .collect();
    let problem = Diagnostic::error(
        codes::DEFINITION_NAME,
        format!("{} has no sort {}", definition.name.text, quote(sort)),
    )
    .did_you_mean(nearest(sort, known.iter().copied()));
    Stop::Usage(Box::new(problem))
}

/// The grammar, and what the tree has, under headings.
fn both(language: &Language) -> String {
    let definition = language.definition();
    format!(
        "{}\n\n{}{}\n\n{}",
        paint(HEADING, "── how it is written"),
        grammar::text(definition, Notation::W3c),
        paint(HEADING, "── what the tree has"),
        grammar::abstract_syntax(definition)
    )
}
