//! Items and clauses: a line that starts in column one starts an item, indented
//! lines belong to it, and lines indented more deeply than the item's first clause
//! continue the clause before them, as a closing bracket in column one does.

use crate::source::{SourceText, Span};

/// An item: its head line and its clauses.
#[derive(Clone, Debug)]
pub(in crate::definition) struct Item {
    /// The first line.
    pub head: Span,
    /// Each clause with its continuation lines.
    pub clauses: Vec<Span>,
}

impl Item {
    /// The whole item.
    pub fn span(&self) -> Span {
        self.clauses
            .last()
            .map_or(self.head, |last| self.head.to(*last))
    }

    fn last_span_mut(&mut self) -> &mut Span {
        self.clauses.last_mut().unwrap_or(&mut self.head)
    }
}

/// The items of a text, and the indented lines that stand before any item.
pub(in crate::definition) fn items(source: &SourceText) -> (Vec<Item>, Vec<Span>) {
    let mut items: Vec<Item> = Vec::new();
    let mut stray = Vec::new();
    let mut clause_indent: Option<usize> = None;
    for line in 1..=source.line_count() as u32 {
        let Some((indent, content)) = content_of(source, line) else {
            continue;
        };
        let closes = source.slice(content).starts_with(['}', ')', ']']);
        if let (true, Some(item)) = (closes && indent == 0, items.last_mut()) {
            item.last_span_mut().end = content.end;
            continue;
        }
        if indent == 0 {
            items.push(Item {
                head: content,
                clauses: Vec::new(),
            });
            clause_indent = None;
            continue;
        }
        let Some(item) = items.last_mut() else {
            stray.push(content);
            continue;
        };
        let first = *clause_indent.get_or_insert(indent);
        match item.clauses.last_mut() {
            Some(clause) if indent > first => clause.end = content.end,
            _ => item.clauses.push(content),
        }
    }
    (items, stray)
}

/// The indentation of a line in bytes and its text without surrounding blanks;
/// nothing for a blank line or one that is only a comment.
pub(in crate::definition) fn content_of(source: &SourceText, line: u32) -> Option<(usize, Span)> {
    let span = source.line_span(line);
    let text = source.slice(span);
    let trimmed = text.trim();
    if trimmed.is_empty() || trimmed.starts_with("--") {
        return None;
    }
    let indent = text.len() - text.trim_start().len();
    let start = span.start as usize + indent;
    Some((indent, Span::new(start, start + trimmed.len())))
}
