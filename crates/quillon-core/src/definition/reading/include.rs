//! `include "FILE"`: what stands in another file takes the place of the line.

use std::sync::Arc;

use super::cursor::Cursor;
use super::lexer::Mode;
use super::lines::items;
use crate::diagnostic::{Diagnostic, codes, has_errors, quote};
use crate::source::{Composer, SourceText, Span};

/// The word that starts the item.
pub(in crate::definition) const WORD: &str = "include";

/// Gets a file that a text names, or says why it cannot be had.
type Read<'a> = dyn FnMut(&SourceText, &str) -> Result<Arc<SourceText>, String> + 'a;

/// Puts a definition together with the files it includes, and those that they include.
/// `read` gets a text and the name of a file as it is written there, and gives the file
/// under a name that tells it from every other. A file that is included a second time is
/// passed over.
///
/// # Errors
/// Gives an error for a file that cannot be read, and for files that include each other
/// in a circle.
pub fn with_includes(
    source: &Arc<SourceText>,
    read: &mut Read<'_>,
) -> Result<Arc<SourceText>, Vec<Diagnostic>> {
    let includes = included(source)?;
    if includes.is_empty() {
        return Ok(Arc::clone(source));
    }
    let mut gathering = Gathering {
        read,
        composer: Composer::default(),
        seen: vec![source.name().to_owned()],
        chain: vec![source.name().to_owned()],
    };
    gathering.add(source, &includes)?;
    Ok(gathering.composer.finish(source.name()))
}

/// An `include` of a text: the whole line, the file, and where that is named.
struct Include {
    line: Span,
    file: String,
    span: Span,
}

struct Gathering<'a> {
    read: &'a mut Read<'a>,
    composer: Composer,
    seen: Vec<String>,
    /// The files being read, the outermost first.
    chain: Vec<String>,
}

impl Gathering<'_> {
    fn add(
        &mut self,
        source: &Arc<SourceText>,
        includes: &[Include],
    ) -> Result<(), Vec<Diagnostic>> {
        let mut from = 0;
        for include in includes {
            let before = Span {
                start: from,
                end: include.line.start,
            };
            self.composer.add(source, before);
            from = include.line.end;
            self.follow(source, include)?;
        }
        let rest = Span::new(from as usize, source.text().len());
        self.composer.add(source, rest);
        Ok(())
    }

    fn follow(
        &mut self,
        source: &Arc<SourceText>,
        include: &Include,
    ) -> Result<(), Vec<Diagnostic>> {
        let problem = |message: String| {
            Diagnostic::error(codes::DEFINITION_INCLUDE, message).at(source, include.span)
        };
        let inner = (self.read)(source, &include.file).map_err(|why| {
            vec![problem(format!(
                "{} cannot be included: {why}",
                quote(&include.file)
            ))]
        })?;
        let name = inner.name().to_owned();
        if self.chain.contains(&name) {
            let mut names: Vec<String> = self.chain.iter().map(|n| quote(n)).collect();
            names.push(quote(&name));
            return Err(vec![
                problem("these files include each other in a circle".to_owned())
                    .why(names.join(" includes "))
                    .remedy("take one of the `include` lines out"),
            ]);
        }
        if self.seen.contains(&name) {
            return Ok(());
        }
        self.seen.push(name.clone());
        self.chain.push(name);
        let includes = included(&inner)?;
        self.add(&inner, &includes)?;
        self.chain.pop();
        Ok(())
    }
}

/// The `include`s of a text.
fn included(source: &Arc<SourceText>) -> Result<Vec<Include>, Vec<Diagnostic>> {
    let mut found = Vec::new();
    if !source.text().contains(WORD) {
        return Ok(found);
    }
    let mut diagnostics = Vec::new();
    for item in items(source).0 {
        let Some(rest) = source.slice(item.head).strip_prefix(WORD) else {
            continue;
        };
        if rest.starts_with(|c: char| c.is_alphanumeric() || c == '_') {
            continue;
        }
        let span = Span {
            start: item.head.start + WORD.len() as u32,
            end: item.span().end,
        };
        let mut cursor = Cursor::new(source, span, Mode::Plain, &mut diagnostics);
        let Some(file) = cursor.text("the file to include, in quotes") else {
            continue;
        };
        cursor.finish();
        let line = source.line_span(source.line_of(span.end));
        found.push(Include {
            line: Span {
                start: item.head.start,
                end: line.end,
            },
            file: file.text,
            span: file.span,
        });
    }
    if has_errors(&diagnostics) {
        return Err(diagnostics);
    }
    Ok(found)
}
