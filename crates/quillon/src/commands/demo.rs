//! `quillon demo`: the language that is built in, stage by stage.

use std::path::Path;
use std::sync::Arc;

use anstyle::Style;
use quillon_core::source::SourceText;
use quillon_core::{Language, Reading};
use quillon_languages::LANGUAGES;

use super::new::write;
use crate::args::Demo as Args;
use crate::exit::Exit;
use crate::host::Terminal;
use crate::languages::compile;
use crate::output::print_lines;
use crate::pausing::goes_on;
use crate::reach::Reach;
use crate::render;
use crate::render::style::{FORM, HEADING, QUIET, VALUE, paint};
use crate::render::table::{self, Cell};
use crate::render::{tokens, tree};
use crate::stop::Stop;

/// The short program on which every stage is shown.
const SHORT: &str = "let lift be way (level) gives level + 2\nanswer lift(3) * 2\n";

/// The same with a mistake, for the look of an error.
const WRONG: &str = "let level be 3\nanswer levle * 2\n";

pub fn run(args: &Args) -> Result<Exit, Stop> {
    if let Some(folder) = &args.save {
        return save(folder);
    }
    if args.list {
        return list("NAME");
    }
    let demo = &LANGUAGES[0];
    let definition = SourceText::new(format!("{}.quillon", demo.name), demo.definition);
    let language = compile(&definition)?;
    let (name, text) = demo.files[0];
    let parts: [&dyn Fn() -> Result<(), Stop>; 6] = [
        &|| print_lines(&opening(&language, &definition)),
        &|| print_lines(&its_tokens(&language)),
        &|| print_lines(&its_tree(&language)),
        &|| print_lines(&its_value(&language)),
        &|| show_mistake(&language),
        &|| {
            print_lines(&heading(&format!("a longer program: {name}")))?;
            run_program(&language, &SourceText::new(name, text))
        },
    ];
    for (index, part) in parts.into_iter().enumerate() {
        if index > 0 && !goes_on() {
            return Ok(Exit::Done);
        }
        part()?;
    }
    print_lines(&closing())?;
    Ok(Exit::Done)
}

/// Names the languages that are bundled, and how one of a name begins with one of them.
pub fn list(name: &str) -> Result<Exit, Stop> {
    let rows: Vec<Vec<Cell>> = LANGUAGES
        .iter()
        .map(|language| {
            vec![
                Cell::new(language.name, FORM),
                Cell::new(language.shows, Style::new()),
            ]
        })
        .collect();
    let mut lines = table::lines(&["language", "shows"], &rows);
    lines.push(String::new());
    lines.push(paint(
        QUIET,
        format_args!("quillon new {name} --from LANGUAGE begins a language with one of them"),
    ));
    print_lines(&lines)?;
    Ok(Exit::Done)
}

fn save(folder: &Path) -> Result<Exit, Stop> {
    let mut lines = Vec::new();
    let demo = &LANGUAGES[0];
    let definition = format!("{}.quillon", demo.name);
    let files = demo.files.iter().copied();
    for (path, text) in std::iter::once((definition.as_str(), demo.definition)).chain(files) {
        let path = folder.join(path);
        write(&path, text)?;
        lines.push(format!("wrote {}", path.display()));
    }
    print_lines(&lines)?;
    Ok(Exit::Done)
}

fn heading(text: &str) -> Vec<String> {
    vec![
        String::new(),
        paint(HEADING, format_args!("── {text}")),
        String::new(),
    ]
}

fn program_lines(text: &str) -> Vec<String> {
    text.lines().map(|line| format!("    {line}")).collect()
}

/// What the definition is, with one form of it.
fn opening(language: &Language, definition: &SourceText) -> Vec<String> {
    let facts = language.definition();
    let mut lines = vec![format!(
        "{} is described in one file of {} lines: {} tokens, {} forms. This is one form:",
        facts.name.text,
        definition.line_count() - 1,
        facts.named_tokens(),
        facts.forms.len()
    )];
    lines.push(String::new());
    let form = definition
        .text()
        .lines()
        .skip_while(|line| !line.starts_with("form While"))
        .take_while(|line| !line.is_empty());
    lines.extend(form.map(|line| format!("    {line}")));
    lines
}

/// The short program.
fn short() -> Arc<SourceText> {
    SourceText::new("lift.tow", SHORT)
}

fn its_tokens(language: &Language) -> Vec<String> {
    let mut lines = heading("a program");
    lines.extend(program_lines(SHORT));
    lines.extend(heading("its tokens   (quillon tokens)"));
    if let Some(found) = &language.tokens(&short()).value {
        lines.extend(tokens::listing(language, found, false));
    }
    lines
}

fn its_tree(language: &Language) -> Vec<String> {
    let mut lines = heading("its tree   (quillon tree)");
    if let Some(found) = &language.tree(&short(), Reading::Program).value {
        lines.extend(tree::outline(language, found));
    }
    lines
}

fn its_value(language: &Language) -> Vec<String> {
    let mut lines = heading("its value   (quillon run --value)");
    if let Ok(mut session) = language.session().start(Terminal::new(Reach::default()))
        && let Some(value) = session.run_source(&short(), Reading::Program).value
    {
        lines.push(paint(VALUE, value.written()));
    }
    lines
}

fn show_mistake(language: &Language) -> Result<(), Stop> {
    let source = SourceText::new("lift.tow", WRONG);
    let outcome = language.compiled(
        &source,
        quillon_core::scoping::Around::Nothing,
        Reading::Program,
    );
    let mut lines = heading("a mistake in it, and what is said");
    lines.extend(program_lines(WRONG));
    lines.push(String::new());
    for diagnostic in &outcome.diagnostics {
        let text = render::diagnostic::rendered(diagnostic);
        lines.extend(text.trim_end().lines().map(str::to_owned));
    }
    print_lines(&lines)
}

fn run_program(language: &Language, source: &Arc<SourceText>) -> Result<(), Stop> {
    let session = language.session().start(Terminal::new(Reach::default()));
    let mut session = session.map_err(|problems| Stop::Definition(problems.into()))?;
    let outcome = session.run_source(source, Reading::Program);
    session.host_mut().flush();
    render::show_all(&outcome.diagnostics);
    Ok(())
}

fn closing() -> Vec<String> {
    let mut lines = heading("what next");
    lines.extend([
        format!(
            "quillon demo --save towpath    {}",
            paint(QUIET, "the language, its programs and cases, in a folder")
        ),
        format!(
            "quillon new ferry              {}",
            paint(QUIET, "a small language of your own to start from")
        ),
        format!(
            "quillon demo --list            {}",
            paint(QUIET, "other languages to look at, and to start from")
        ),
    ]);
    lines
}
