//! Case files: programs and what they must do.

use std::sync::Arc;

use super::model::Example;
use super::reading::{CaseReader, items};
use crate::diagnostic::{Diagnostic, Outcome, codes, quote};
use crate::source::SourceText;

/// The cases of one file.
#[derive(Clone, Debug)]
pub struct CaseFile {
    /// The text they were read from.
    pub source: Arc<SourceText>,
    /// The cases, in order. One that expects nothing is among them, and an error of the
    /// code `case.empty`.
    pub cases: Vec<Example>,
}

/// Reads a case file; its errors point at its lines.
pub fn read_cases(source: &Arc<SourceText>) -> Outcome<CaseFile> {
    let mut reader = CaseReader::new(source);
    let mut cases = Vec::new();
    let (items, stray) = items(source);
    for span in stray {
        reader.report(
            Diagnostic::error(codes::CASE_SYNTAX, "this indented line belongs to no case")
                .at(source, span)
                .remedy("start with a line `case TITLE` or `cases of TITLE`, in column one"),
        );
    }
    for item in &items {
        let head = source.slice(item.head);
        if let Some(title) = head.strip_prefix("cases of ") {
            for (number, &clause) in item.clauses.iter().enumerate() {
                let title = format!("{} ({})", title.trim(), number + 1);
                cases.extend(reader.short_case(clause, title));
            }
        } else if let Some(title) = head.strip_prefix("case ") {
            cases.extend(reader.long_case(item, title.trim()));
        } else {
            reader.report(
                Diagnostic::error(
                    codes::CASE_SYNTAX,
                    format!("{} starts no case", quote(head)),
                )
                .at(source, item.head)
                .remedy(
                    "a case starts with `case TITLE`, a table of short ones with `cases of TITLE`",
                ),
            );
        }
    }
    Outcome {
        diagnostics: reader.diagnostics,
        value: Some(CaseFile {
            source: Arc::clone(source),
            cases,
        }),
    }
}
