//! `--accept`: what was got is written into the files as what is expected.

use std::path::Path;
use std::sync::Arc;

use quillon_core::Prepared;
use quillon_core::diagnostic::plural;
use quillon_core::runtime::Limits;
use quillon_core::source::SourceText;
use quillon_core::testing::{Edit, Verdict, accepted, edited};

use super::running::{Results, Task, limits_of};
use crate::args::{Test as Args, TestFormat};
use crate::atomic;
use crate::exit::Exit;
use crate::output::print_lines;
use crate::render::style::{ERROR, GOOD, QUIET, paint};
use crate::stop::Stop;

/// The changes of one file.
struct Changes {
    source: Arc<SourceText>,
    edits: Vec<Edit>,
}

/// Writes what every failed case came to into its file, and says so.
pub fn accept(args: &Args, results: &Results) -> Result<Exit, Stop> {
    let limits = limits_of(args);
    let mut files: Vec<Changes> = Vec::new();
    let mut left = 0;
    for (task, result, _) in &results.all {
        let empty = task
            .case
            .as_ref()
            .is_some_and(|c| c.expectations.is_empty());
        if result.verdict != Verdict::Failed && !empty {
            continue;
        }
        let edits = edits_of(task, limits);
        left += usize::from(edits.is_empty());
        for (source, edit) in edits {
            match files.iter_mut().find(|f| f.source == source) {
                Some(file) => file.edits.push(edit),
                None => files.push(Changes {
                    source,
                    edits: vec![edit],
                }),
            }
        }
    }
    let mut lines = Vec::new();
    for file in &files {
        write(file)?;
        lines.extend(shown(file));
    }
    if left > 0 {
        let cases = plural(left, "case");
        lines.push(paint(
            ERROR,
            format_args!("{cases} cannot be made to pass by another expectation"),
        ));
    }
    if lines.is_empty() {
        lines.push("nothing had to be written".to_owned());
    }
    if args.format == TestFormat::Text {
        print_lines(&lines)?;
    }
    let fine = left == 0 && results.broken() == 0;
    Ok(if fine { Exit::Done } else { Exit::Failed })
}

/// The changes that a case asks for, each in the file that it stands in.
fn edits_of(task: &Task, limits: Limits) -> Vec<(Arc<SourceText>, Edit)> {
    let Some(case) = &task.case else {
        return Vec::new();
    };
    let edits = accepted(&Prepared::new(&task.language), &task.source, case, limits).into_iter();
    edits
        .map(|edit| {
            let (source, span) = task.source.origin(edit.span);
            let edit = Edit { span, ..edit };
            (source, edit)
        })
        .collect()
}

fn write(file: &Changes) -> Result<(), Stop> {
    let path = Path::new(file.source.name());
    let mut changed_meanwhile = false;
    atomic::update(path, |now| {
        // The text has no mark of its byte order, and the file may.
        let (mark, text) = match now.strip_prefix('\u{feff}') {
            Some(rest) => ("\u{feff}", rest),
            None => ("", now),
        };
        changed_meanwhile = text != file.source.text();
        if changed_meanwhile {
            now.to_owned()
        } else {
            format!("{mark}{}", edited(text, &file.edits))
        }
    })?;
    if changed_meanwhile {
        let message = format!("{} has changed meanwhile and is left alone", path.display());
        return Err(Stop::Output(std::io::Error::other(message)));
    }
    Ok(())
}

/// What has been written, line by line.
fn shown(file: &Changes) -> Vec<String> {
    let count = plural(file.edits.len(), "expectation");
    let mut lines = vec![paint(
        GOOD,
        format_args!("wrote {count} into {}", file.source.name()),
    )];
    for edit in &file.edits {
        let line = file.source.line_of(edit.span.start);
        let at = paint(QUIET, format_args!("{line:>5}  "));
        let old = file.source.slice(edit.span).trim();
        if !old.is_empty() {
            lines.push(format!("{at}{}", paint(ERROR, format_args!("- {old}"))));
        }
        for text in edit.text.trim().lines() {
            lines.push(format!(
                "{at}{}",
                paint(GOOD, format_args!("+ {}", text.trim()))
            ));
        }
    }
    lines
}
