//! The texts that the editor has open.

use std::path::{Path, PathBuf};

use lsp_types::{TextDocumentContentChangeEvent, Uri};

use super::positions::{Lines, Unit};

/// What is written in a text.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Sort {
    Definition,
    Cases,
    Program,
}

impl Sort {
    /// What a file of this name has in it.
    pub fn of(path: &Path) -> Sort {
        match path.extension().and_then(|extension| extension.to_str()) {
            Some("quillon") => Sort::Definition,
            Some("cases") => Sort::Cases,
            _ => Sort::Program,
        }
    }
}

/// A text that is open.
#[derive(Debug)]
pub struct Text {
    pub uri: Uri,
    /// Where it is on the disk, or would be.
    pub path: PathBuf,
    pub sort: Sort,
    pub version: i32,
    pub content: String,
    pub lines: Lines,
    unit: Unit,
}

impl Text {
    pub fn new(uri: Uri, version: i32, content: String, unit: Unit) -> Text {
        let path = path_of(&uri);
        Text {
            sort: Sort::of(&path),
            lines: Lines::new(&content, unit),
            uri,
            path,
            version,
            content,
            unit,
        }
    }

    /// Makes changes, one after the other.
    pub fn change(&mut self, version: i32, changes: Vec<TextDocumentContentChangeEvent>) {
        self.version = version;
        for change in changes {
            match change.range {
                None => self.content = change.text,
                Some(range) => {
                    let span = self.lines.span(&self.content, range);
                    self.content.replace_range(span.range(), &change.text);
                }
            }
            self.lines = Lines::new(&self.content, self.unit);
        }
    }
}

/// Where on the disk something is; what is on none has its address for a name.
pub fn path_of(uri: &Uri) -> PathBuf {
    let file = url::Url::parse(uri.as_str()).ok();
    let path = file.and_then(|url| url.to_file_path().ok());
    path.unwrap_or_else(|| PathBuf::from(uri.as_str()))
}

/// The address of a file.
pub fn uri_of(path: &Path) -> Option<Uri> {
    let path = std::path::absolute(path).ok()?;
    let url = url::Url::from_file_path(path).ok()?;
    url.as_str().parse().ok()
}
