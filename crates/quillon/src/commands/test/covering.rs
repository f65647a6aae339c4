//! `--coverage`: what of a language no case touches.

use quillon_core::Language;
use quillon_core::diagnostic::Diagnostic;
use quillon_core::testing::{Item, ItemKind, Survey, Trial, trial};
use serde_json::{Value, json};

use super::running::{Task, tasks};
use crate::args::{CoverageOf, Test as Args, TestFormat};
use crate::exit::Exit;
use crate::output::{print_json, print_lines};
use crate::render::style::{FORM, GOOD, HEADING, QUIET, STRONG, VALUE, WARNING, paint};
use crate::render::table::{self, Cell};
use crate::stop::Stop;

impl CoverageOf {
    fn includes(self, kind: ItemKind) -> bool {
        match self {
            CoverageOf::All => true,
            CoverageOf::Tokens => kind == ItemKind::Token,
            CoverageOf::Forms => kind == ItemKind::Form,
            CoverageOf::Ways => kind == ItemKind::Way,
            CoverageOf::Surfaces => kind == ItemKind::Surface,
            CoverageOf::Pairs => kind == ItemKind::Pair,
            CoverageOf::Branches => kind == ItemKind::Branch,
            CoverageOf::Errors => kind == ItemKind::Message,
        }
    }
}

/// Shows what the cases of each language leave out.
pub fn cover(args: &Args) -> Result<Exit, Stop> {
    let mut diagnostics = Vec::new();
    let tasks = tasks(args, &mut diagnostics)?;
    let wanted = args.coverage.unwrap_or(CoverageOf::All);
    let mut results = Vec::new();
    for of_definition in tasks.chunk_by(|a, b| a.definition == b.definition) {
        let survey = survey(of_definition);
        let language = &of_definition[0].language;
        let items: Vec<&Item> = survey
            .items()
            .iter()
            .filter(|item| wanted.includes(item.kind))
            .collect();
        match args.format {
            TestFormat::Json => results.push(as_json(language, &items)),
            TestFormat::Text | TestFormat::Junit | TestFormat::Tap => {
                print_lines(&lines(language, &items))?;
            }
        }
    }
    if args.format == TestFormat::Json {
        print_json(&json!({ "coverage": results, "diagnostics": diagnostics }))?;
    } else {
        crate::render::show_all(&diagnostics);
    }
    let broken = diagnostics.iter().any(Diagnostic::is_error);
    Ok(if broken { Exit::Failed } else { Exit::Done })
}

fn survey(tasks: &[Task]) -> Survey {
    let mut survey = Survey::new(&tasks[0].language);
    let prepared = survey.prepared().clone();
    for task in tasks {
        let made = if let Some(case) = &task.case {
            // What is wrong with a case is said when it is run.
            trial(&prepared, &task.source, case).ok()
        } else {
            // A program in another surface is read in that.
            let name = prepared.language().surface_name_of_file(task.source.name());
            let prepared = prepared.surface(name);
            prepared.map(|prepared| Trial::of(&prepared, &task.source))
        };
        if let Some(made) = made {
            survey.add(&made);
        }
    }
    survey.suggest();
    survey
}

fn lines(language: &Language, items: &[&Item]) -> Vec<String> {
    let definition = language.definition();
    let mut lines = vec![paint(HEADING, &definition.name.text)];
    let mut missing = 0;
    for kind in ItemKind::ALL {
        let of_kind: Vec<&&Item> = items.iter().filter(|item| item.kind == kind).collect();
        if of_kind.is_empty() {
            continue;
        }
        let left: Vec<&Item> = of_kind
            .iter()
            .map(|item| **item)
            .filter(|item| item.touched == 0)
            .collect();
        missing += left.len();
        let touched = of_kind.len() - left.len();
        let style = if left.is_empty() { GOOD } else { WARNING };
        lines.push(format!(
            "  {}  {}",
            paint(style, format_args!("{touched:>4} of {:<4}", of_kind.len())),
            paint(STRONG, kind.words())
        ));
        lines.extend(table(language, &left));
    }
    let touched = items.len() - missing;
    let percent = (touched * 100).checked_div(items.len()).unwrap_or(100);
    lines.push(format!(
        "{touched} of {} things are touched by some case, {percent} %",
        items.len()
    ));
    lines
}

/// What no case touches: where it stands, and a program that would touch it.
fn table(language: &Language, items: &[&Item]) -> Vec<String> {
    let source = &language.definition().source;
    let rows: Vec<Vec<Cell>> = items
        .iter()
        .map(|item| {
            let line = source.line_of(item.span.start);
            let program = match item.suggestion.as_deref() {
                None => Cell::new("", QUIET),
                Some("") => Cell::new("the empty text", QUIET),
                // What is on several lines is one line here: it is to be read, not run.
                Some(text) => Cell::new(text.replace('\n', " ⏎ "), VALUE),
            };
            vec![
                Cell::new("       ", QUIET),
                Cell::new(&item.name, FORM),
                Cell::right(line.to_string(), QUIET),
                program,
            ]
        })
        .collect();
    if rows.is_empty() {
        return Vec::new();
    }
    table::lines(&["", "no case touches", "line", "this would"], &rows)
}

fn as_json(language: &Language, items: &[&Item]) -> Value {
    let definition = language.definition();
    let items: Vec<Value> = items
        .iter()
        .map(|item| {
            json!({
                "kind": item.kind,
                "name": item.name,
                "line": definition.source.line_of(item.span.start),
                "touched": item.touched,
                "suggestion": item.suggestion,
            })
        })
        .collect();
    json!({ "language": definition.name.text, "items": items })
}
