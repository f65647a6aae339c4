//! `quillon tree`: the tree of a program.

use quillon_core::Reading;
use quillon_core::tree::{one_line, to_json};
use serde_json::Value;

use super::{Stop, inputs, print_json, print_lines, report, status, with_diagnostics};
use crate::args::{Format, Tree as Args, TreeView};
use crate::exit::Exit;
use crate::render::tree::outline;

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let (language, source, reading) = inputs(&args.program, &args.common)?;
    let reading = args.entry.as_deref().map_or(reading, Reading::Sort);
    let outcome = language.tree(&source, reading);
    let tree = outcome.value.as_ref();
    let json = args.common.format == Format::Json || args.view == TreeView::Json;
    if json {
        let value = tree.map_or(Value::Null, |tree| {
            to_json(language.definition(), language.lexer(), tree)
        });
        print_json(&with_diagnostics("tree", &value, &outcome.diagnostics))?;
    } else if let Some(tree) = tree {
        match args.view {
            TreeView::Line => {
                print_lines(&[one_line(language.definition(), language.lexer(), tree)])?;
            }
            _ => print_lines(&outline(&language, tree))?,
        }
    }
    let format = if json { Format::Json } else { Format::Text };
    report(&outcome.diagnostics, format);
    Ok(status(&outcome.diagnostics))
}
