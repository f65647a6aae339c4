//! `quillon translate`: a program in another surface of its language.

use std::sync::Arc;

use quillon_core::Language;
use quillon_core::diagnostic::{Diagnostic, codes, quote};
use quillon_core::printing::Brackets;
use quillon_core::source::{SourceText, Span};
use quillon_core::tree::Tree;
use serde_json::Value;

use super::each_input;
use super::tree::unwritable;
use crate::args::{Format, Translate as Args};
use crate::exit::Exit;
use crate::inputs::inputs;
use crate::languages::in_surface;
use crate::output::{hand_over, with_diagnostics};
use crate::stop::Stop;

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let format = args.common.format;
    each_input(&inputs(&args.program, &args.common)?, format, |input| {
        let target = in_surface(&input.whole, &args.to)?;
        let outcome = input.language.tree(&input.source, input.reading);
        let mut diagnostics = outcome.diagnostics;
        let mut written = None;
        if let Some(tree) = &outcome.value {
            let tree = &*input.language.as_in(tree, &target);
            let comments = input.language.comments(&input.source);
            let text = target
                .source_of(tree, Brackets::Fewest, &comments)
                .ok_or_else(|| unwritable(&target))?;
            if target.round_trip(tree, &comments, input.reading).is_err() {
                diagnostics.push(otherwise(&target, tree, &input.source, &args.to));
            }
            written = Some(text);
        }
        if format == Format::Json {
            let value = written.map_or(Value::Null, Value::from);
            let json = with_diagnostics("source", &value, &diagnostics);
            return Ok((Some(json), diagnostics));
        }
        if let Some(text) = written {
            hand_over(&text)?;
        }
        Ok((None, diagnostics))
    })
}

/// The error for a program that means something else in a surface: at the word that does.
fn otherwise(target: &Language, tree: &Tree, source: &Arc<SourceText>, to: &str) -> Diagnostic {
    let to = quote(to);
    let error = |message| Diagnostic::error(codes::SYNTAX_TRANSLATION, message);
    match target.stranger(tree) {
        Some(span) => error(format!("this is no name in {to}"))
            .at(source, span)
            .why(format!(
                "{} is a word of the language there",
                quote(source.slice(span))
            ))
            .remedy("call it something else"),
        None => error(format!("in {to} this would be read as something else"))
            .at(source, Span::default())
            .why("a comment or a line end may not fit there")
            .remedy(
                "look at what came of it, and write what has another meaning there in another way",
            ),
    }
}
