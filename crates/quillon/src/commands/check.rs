//! `quillon check`: examines a definition.

use std::path::{Path, PathBuf};
use std::time::Duration;

use quillon_core::ambiguity::Findings;
use quillon_core::definition::Form;
use quillon_core::diagnostic::{Diagnostic, Severity, plural};
use quillon_core::scoping::Around;
use quillon_core::source::SourceText;
use quillon_core::{Language, Reading, Stage};
use serde_json::json;

use crate::args::{Check as Args, Common, Format};
use crate::exit::Exit;
use crate::files::{self, DEFINITION, has_extension};
use crate::languages::Languages;
use crate::output::{print_json, print_lines, report, status};
use crate::render::progress::under_way;
use crate::render::style::{GOOD, QUIET, STRONG, paint};
use crate::stop::Stop;

/// How long texts with two readings are looked for.
const SEARCH: Duration = Duration::from_millis(1500);

/// Examines a program.
fn program(args: &Args, path: &Path) -> Result<Exit, Stop> {
    let known = Languages::default().of_program(&Common::of(None), path)?;
    let source = files::read(path)?;
    let compiled = known
        .language
        .compiled(&source, Around::Nothing, Reading::Program);
    let errors = compiled.diagnostics.iter().filter(|one| one.is_error());
    let errors = errors.count();
    if args.format == Format::Json {
        print_json(&json!({ "program": source.name(), "diagnostics": compiled.diagnostics }))?;
    } else {
        report(&compiled.diagnostics, Format::Text);
        let said = match errors {
            0 => paint(GOOD, format_args!("no errors in {}", source.name())),
            _ => format!(
                "{} in {}",
                paint(STRONG, plural(errors, "error")),
                source.name()
            ),
        };
        print_lines(&[said])?;
    }
    Ok(status(&compiled.diagnostics))
}

pub fn run(args: &Args) -> Result<Exit, Stop> {
    let path: PathBuf = match &args.path {
        Some(path) if !has_extension(path, DEFINITION) && files::definition_for(path).is_ok() => {
            return program(args, path);
        }
        Some(path) => path.clone(),
        None => files::definition_near(Path::new("."))?,
    };
    let source = files::read_definition(&path)?;
    let mut outcome = Language::load(&source);
    let mut searched = None;
    if let Some(language) = &outcome.value {
        outcome.diagnostics.extend(language.advice());
        let sign = under_way("searching for texts that can be read in two ways");
        let findings = language.ambiguities(SEARCH);
        sign.finish_and_clear();
        outcome
            .diagnostics
            .extend(findings.diagnostics.iter().cloned());
        searched = Some(findings);
    }
    let errors = outcome.diagnostics.iter().filter(|d| d.is_error()).count();
    if args.format == Format::Json {
        print_json(&json!({
            "definition": source.name(),
            "summary": outcome.value.as_ref().map(facts),
            "diagnostics": outcome.diagnostics,
        }))?;
    } else {
        report(&shown(&outcome.diagnostics), Format::Text);
        match &outcome.value {
            Some(language) => print_lines(&summary(language, searched.as_ref()))?,
            None => print_lines(&[format!(
                "{} in {}",
                paint(STRONG, plural(errors, "error")),
                source.name()
            )])?,
        }
    }
    Ok(if outcome.value.is_some() {
        Exit::Done
    } else {
        Exit::Definition
    })
}

/// Errors and warnings one by one; of notes with the same message, the first with a
/// count of the others.
fn shown(diagnostics: &[Diagnostic]) -> Vec<Diagnostic> {
    let mut out: Vec<Diagnostic> = Vec::new();
    for diagnostic in diagnostics {
        let repeated = diagnostic.severity == Severity::Note
            && out.iter().any(|d| d.message == diagnostic.message);
        if !repeated {
            let same = diagnostics
                .iter()
                .filter(|d| d.message == diagnostic.message)
                .count();
            let mut first = diagnostic.clone();
            if diagnostic.severity == Severity::Note && same > 1 {
                first.why.push(format!(
                    "there {} more like it",
                    match same - 1 {
                        1 => "is 1".to_owned(),
                        n => format!("are {n}"),
                    }
                ));
            }
            out.push(first);
        }
    }
    out
}

/// The forms that lack a clause.
fn lacking(
    language: &Language,
    lacks: impl Fn(&quillon_core::definition::Form) -> bool,
) -> Vec<&str> {
    let forms = &language.definition().forms;
    forms
        .iter()
        .filter(|form| lacks(form))
        .map(|form| form.name.text.as_str())
        .collect()
}

fn facts(language: &Language) -> serde_json::Value {
    let definition = language.definition();
    let (states, terminals, forks) = language
        .parser()
        .map_or((0, 0, 0), quillon_core::parsing::Parser::size);
    json!({
        "language": definition.name.text,
        "tokens": definition.named_tokens(),
        "forms": definition.forms.len(),
        "examples": quillon_core::testing::examples(language).count(),
        "states": states,
        "terminals": terminals,
        "forks": forks,
        "withoutWritten": lacking(language, |f| f.written.is_none()),
        "withoutMeaning": without_meaning(language),
        "withoutType": lacking(language, |f| definition.is_typed() && has_no_type(f)),
        "withoutExample": lacking(language, |f| f.examples.is_empty()),
    })
}

/// The forms of which nothing says what they mean. An annotation, what becomes another form,
/// and what is only looked at as a part of others need no meaning; nor does any where all
/// programs are rewritten.
fn without_meaning(language: &Language) -> Vec<&str> {
    let definition = language.definition();
    if definition.is_reducing() && language.lacks(Stage::Meaning).is_some() {
        return Vec::new();
    }
    let parts = quillon_core::meaning::only_parts(definition);
    let is_part = |form: &Form| parts.iter().any(|part| part.name == form.name);
    lacking(language, |form| {
        form.means.is_none() && !is_other(form) && !is_part(form)
    })
}

fn has_no_type(form: &Form) -> bool {
    form.typed.is_empty() && !is_other(form)
}

fn is_other(form: &Form) -> bool {
    form.becomes.is_some() || form.sugar.is_some() || form.denotes.is_some()
}

/// What the definition has, what it can do, and what its forms lack.
fn summary(language: &Language, searched: Option<&Findings>) -> Vec<String> {
    let definition = language.definition();
    let examples = quillon_core::testing::examples(language).count();
    let mut lines = vec![format!(
        "{}  {}, {}, {}",
        paint(STRONG, &definition.name.text),
        plural(definition.named_tokens(), "token"),
        plural(definition.forms.len(), "form"),
        plural(examples, "example"),
    )];
    let stages = [
        (Stage::Tokens, "tokenized"),
        (Stage::Tree, "parsed"),
        (Stage::Types, "typed before they run"),
        (Stage::Meaning, "run"),
        (Stage::Reduction, "rewritten step by step"),
    ];
    // Types and rules are a choice: a language without them lacks nothing.
    let asked = |(stage, _): &(Stage, _)| match stage {
        Stage::Types => definition.is_typed(),
        Stage::Reduction => definition.is_reducing(),
        _ => true,
    };
    for (stage, can) in stages.into_iter().filter(asked) {
        let line = match language.lacks(stage) {
            None => format!("  {}  its programs can be {can}", paint(GOOD, "yes")),
            Some(lack) => format!("  {}   {}", paint(QUIET, "no"), lack.message),
        };
        // What one stage lacks, those after it lack as well.
        if lines.last() != Some(&line) {
            lines.push(line);
        }
    }
    let gaps = [
        (
            "no `written` clause",
            lacking(language, |f| f.written.is_none()),
        ),
        ("no meaning yet", without_meaning(language)),
        (
            "no type, but what its meaning says",
            lacking(language, |f| definition.is_typed() && has_no_type(f)),
        ),
        ("no example", lacking(language, |f| f.examples.is_empty())),
    ];
    for (what, forms) in gaps {
        if !forms.is_empty() {
            lines.push(format!(
                "  {} {}",
                paint(QUIET, format_args!("{what}:")),
                forms.join(", ")
            ));
        }
    }
    lines.extend(touching_word(language).map(|line| format!("  {}", paint(QUIET, line))));
    lines
        .extend(searched.map(|findings| format!("  {}", paint(QUIET, doubts(language, findings)))));
    lines
}

/// A word that is read as one though a number touches it, where there is one. It may be meant: then
/// it is no mistake.
fn touching_word(language: &Language) -> Option<String> {
    let words = language
        .lexer()
        .kinds()
        .iter()
        .filter(|kind| kind.is_literal() && kind.name.ends_with(char::is_alphabetic));
    let mut glued = words.map(|word| format!("{}1", word.name)).filter(|text| {
        let tokens = language.tokens(&SourceText::new("word", text.as_str()));
        let tokens = tokens.into_result();
        tokens.is_ok_and(|found| {
            let word_end = text.len() as u32 - 1;
            found
                .tokens
                .first()
                .is_some_and(|token| token.span.end == word_end)
        })
    });
    let text = glued.next()?;
    let word = &text[..text.len() - 1];
    Some(format!(
        "a word may touch a number: `{text}` is `{word}` and `1`"
    ))
}

/// What is known about texts with two readings.
fn doubts(language: &Language, findings: &Findings) -> String {
    let forks = language.parser().map_or(0, |parser| parser.size().2);
    if forks == 0 {
        return "no text can be read in two ways".to_owned();
    }
    let tried = plural(findings.tried, "text");
    let extent = if findings.cut_short {
        format!("{tried} tried until the time was up, not all that were to be tried")
    } else {
        format!("{tried} tried, with every two forms side by side")
    };
    if findings.diagnostics.is_empty() {
        format!("no text with two readings was found: {extent}")
    } else {
        format!("texts with two readings were found: {extent}")
    }
}
