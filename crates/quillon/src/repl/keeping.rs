//! What of a conversation is written into files: cases, and programs.

use std::path::{Path, PathBuf};

use quillon_core::definition::Earlier;
use quillon_core::diagnostic::{Diagnostic, codes};
use quillon_core::scoping::Around;
use quillon_core::source::SourceText;
use quillon_core::testing::{Exchange, case_limits, case_of};
use quillon_core::{Prepared, Reading};

use super::conversation::Conversation;
use crate::atomic;
use crate::files;
use crate::paths;
use crate::stop::Stop;

fn problem(message: &str) -> Stop {
    Stop::Usage(Box::new(Diagnostic::error(codes::USAGE, message)))
}

/// That the entries are no program together, though each was right where it stood.
fn no_program(wrong: &Diagnostic) -> Stop {
    let message = "as one program, the entries would fail";
    let problem = Diagnostic::error(codes::USAGE, message)
        .why(wrong.in_one_line())
        .remedy("undo the entry that is in the way with `/undo`, or keep entries one by one with `/keep`");
    Stop::Usage(Box::new(problem))
}

/// Keeps the last entry as a case in the language's case file; what was done.
pub fn keep(conversation: &Conversation<'_>, title: &str) -> Result<String, Stop> {
    let Some(last) = conversation.last() else {
        return Err(problem("there is no entry to keep yet"));
    };
    let before: Vec<Earlier> = conversation.entries[..last.before]
        .iter()
        .map(|entry| Earlier::new(entry.text.clone()))
        .collect();
    let title = match title {
        "" => title_of(&last.entry.text),
        given => given.to_owned(),
    };
    let value = last.value.as_ref().map(quillon_core::values::Held::written);
    let exchange = Exchange {
        prepared: &Prepared::new(&conversation.language),
        after: &before,
        program: &last.entry.text,
        surface: conversation.surface(),
        input: &last.entry.input,
        value: value.as_deref(),
        printed: &last.printed,
        limits: case_limits(),
    };
    let case = case_of(&exchange, &title).map_err(Stop::Usage)?;
    let path = case_file(conversation);
    add_case(&path, &case)?;
    Ok(format!("kept in {} as `{title}`", path.display()))
}

/// Adds a case to a file, with an empty line before it, unless it is there already.
pub fn add_case(path: &Path, case: &str) -> Result<(), Stop> {
    atomic::update(path, |old| match old.trim_end() {
        "" => case.to_owned(),
        _ if old.contains(case) => old.to_owned(),
        old => format!("{old}\n\n{case}"),
    })?;
    Ok(())
}

/// The case file of a definition: in `cases` beside it.
pub fn case_file(conversation: &Conversation<'_>) -> PathBuf {
    case_file_of(&conversation.definition)
}

/// The case file of a definition.
pub fn case_file_of(definition: &Path) -> PathBuf {
    let stem = definition.file_stem().unwrap_or_default();
    let name = Path::new(stem).with_extension(files::CASES);
    let folder = paths::folder_of(definition).join("cases");
    let path = folder.join(name);
    path.strip_prefix("./").map(Path::to_owned).unwrap_or(path)
}

/// A title for an entry: its first line, cut.
fn title_of(text: &str) -> String {
    const LONGEST: usize = 50;
    let line = text.trim().lines().next().unwrap_or("an entry").trim();
    if line.chars().nth(LONGEST).is_none() {
        return line.to_owned();
    }
    let cut: String = line.chars().take(LONGEST).collect();
    format!("{}…", cut.trim_end())
}

/// Writes all entries as one program, but for those that can be no part of one; what was
/// done.
pub fn save(conversation: &Conversation<'_>, file: &Path) -> Result<String, Stop> {
    let is_part = |text: &str| {
        let source = SourceText::new("entry", text.to_owned());
        conversation
            .language
            .tree(&source, Reading::Program)
            .value
            .is_some()
    };
    let all = conversation.entries.iter().map(|entry| entry.text.as_str());
    let (parts, others): (Vec<&str>, Vec<&str>) = all.partition(|text| is_part(text));
    if parts.is_empty() {
        return Err(problem(
            "there is no entry yet that could be a part of a program",
        ));
    }
    let Some(text) = conversation.language.joined(&parts) else {
        return Err(problem(
            "the entries cannot be put one after the other into one program",
        ));
    };
    let source = SourceText::new(file.display().to_string(), text.as_str());
    let whole = conversation
        .language
        .compiled(&source, Around::Nothing, Reading::Program);
    if let Some(wrong) = whole.diagnostics.iter().find(|found| found.is_error()) {
        return Err(no_program(wrong));
    }
    if file.exists() {
        let known = files::read(file).map_err(Stop::Unreadable)?;
        if !text.starts_with(known.text()) {
            let message = format!(
                "{} is there already, with something else in it; choose another name",
                file.display()
            );
            return Err(problem(&message));
        }
    }
    atomic::update(file, |_| text)?;
    let count = |count: usize| match count {
        1 => "1 entry".to_owned(),
        count => format!("{count} entries"),
    };
    let mut said = format!("{} saved in {}", count(parts.len()), file.display());
    if let Some(first) = others.first() {
        said.push_str(&format!(
            "; {} left out, being no part of a program: `{}`{}",
            count(others.len()),
            first.trim().lines().next().unwrap_or_default(),
            if others.len() > 1 { ", …" } else { "" }
        ));
    }
    Ok(said)
}
