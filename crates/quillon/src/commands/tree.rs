//! `quillon tree`: the tree of a program.

use quillon_core::diagnostic::{Diagnostic, codes};
use quillon_core::printing::Brackets;
use quillon_core::tree::{Tree, one_line, to_json, to_sexp};
use quillon_core::{Language, Reading};
use quillon_render::picture::tree as picture;
use serde_json::{Value, json};

use super::each_input;
use crate::args::{Format, Tree as Args, TreeView};
use crate::exit::Exit;
use crate::inputs::inputs;
use crate::output::{hand_over, print_lines, with_diagnostics};
use crate::render::style::{QUIET, paint};
use crate::render::tree::outline;
use crate::stop::Stop;

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let json = args.common.format == Format::Json || args.view == TreeView::Json;
    let format = if json { Format::Json } else { Format::Text };
    each_input(&inputs(&args.program, &args.common)?, format, |input| {
        let language: &Language = &input.language;
        let (definition, lexer) = (language.definition(), language.lexer());
        let mut reading = args.entry.as_deref().map_or(input.reading, Reading::Sort);
        if args.first && args.entry.is_none() {
            reading = Reading::Entry;
        }
        let (outcome, end) = if args.first {
            language.front(&input.source, reading)
        } else {
            (language.tree(&input.source, reading), None)
        };
        let tree = outcome.value.as_ref();
        let end = end.map(|offset| (offset, input.source.position(offset)));
        if json {
            let value = tree.map_or(Value::Null, |tree| to_json(definition, lexer, tree));
            let mut json = with_diagnostics("tree", &value, &outcome.diagnostics);
            if let Some((offset, position)) = end {
                json["end"] = json!({
                    "offset": offset, "line": position.line, "column": position.column,
                });
            }
            return Ok((Some(json), outcome.diagnostics));
        }
        if let Some(tree) = tree {
            match args.view {
                _ if args.brackets => hand_over(&source(language, tree, Brackets::All)?)?,
                TreeView::Source => hand_over(&source(language, tree, Brackets::Fewest)?)?,
                TreeView::Text | TreeView::Json => print_lines(&outline(language, tree))?,
                TreeView::Line => print_lines(&[one_line(definition, lexer, tree)])?,
                TreeView::Sexp => hand_over(&to_sexp(definition, lexer, tree))?,
                TreeView::Dot => hand_over(&picture::to_dot(language, tree))?,
                TreeView::Svg => hand_over(&picture::to_svg(language, tree))?,
            }
            if let Some((_, position)) = end {
                print_lines(&[paint(QUIET, format_args!("ends at {position}"))])?;
            }
        }
        Ok((None, outcome.diagnostics))
    })
}

/// The source of a tree, with the comments of its text.
fn source(language: &Language, tree: &Tree, brackets: Brackets) -> Result<String, Stop> {
    let comments = language.comments(tree.source());
    match language.source_of(tree, brackets, &comments) {
        Some(text) => Ok(text),
        None => Err(unwritable(language)),
    }
}

/// The error for a tree that a language has no way to write.
pub fn unwritable(language: &Language) -> Stop {
    let definition = language.definition();
    let problem = Diagnostic::error(
        codes::DEFINITION_LACKS,
        "this tree cannot be written: it needs brackets, or a part whose text is not in the tree",
    )
    .at(&definition.source, definition.name.span)
    .remedy("add a form that becomes what stands in its brackets, and give every token that can vary a field");
    Stop::Definition(vec![problem])
}
