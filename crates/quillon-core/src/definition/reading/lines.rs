//! Items and clauses: a line that starts in column one starts an item, indented
//! lines belong to it, and lines indented more deeply than the item's first clause
//! continue the clause before them, as a closing bracket in column one does.

use crate::source::{SourceText, Span};

use super::form_item::FORM_CLAUSES;

/// The words that start an item.
pub(in crate::definition) const ITEMS: [&str; 12] = [
    "language",
    "tokens",
    "precedence",
    "form",
    "surface",
    "include",
    "types",
    "define",
    "state",
    "provides",
    "values",
    "messages",
];

/// A clause that is not indented like those it stands with.
#[derive(Clone, Debug)]
pub(in crate::definition) struct Strayed {
    /// Its first word.
    pub span: Span,
    /// A line that is indented as it should be.
    pub like: Option<u32>,
}

/// The word that a line begins with.
pub(crate) fn first_word(text: &str) -> &str {
    let is_plain = |byte: &u8| byte.is_ascii_alphanumeric() || *byte == b'_';
    let plain = text.bytes().take_while(is_plain).count();
    // Most words are of plain letters only.
    if text.as_bytes().get(plain).is_none_or(u8::is_ascii) {
        return &text[..plain];
    }
    let end = text.find(|c: char| !(c.is_alphanumeric() || c == '_'));
    &text[..end.unwrap_or(text.len())]
}

/// An item: its head line and its clauses.
#[derive(Clone, Debug)]
pub(in crate::definition) struct Item {
    /// The first line.
    pub head: Span,
    /// Each clause with its continuation lines.
    pub clauses: Vec<Span>,
    /// Those of the clauses that are not indented like the others.
    pub strayed: Vec<Strayed>,
}

impl Item {
    /// The whole item.
    pub fn span(&self) -> Span {
        self.clauses
            .last()
            .map_or(self.head, |last| self.head.to(*last))
    }
}

/// The items of a text, and the indented lines that stand before any item.
pub(in crate::definition) fn items(source: &SourceText) -> (Vec<Item>, Vec<Span>) {
    let mut split = Split {
        source,
        items: Vec::new(),
        stray: Vec::new(),
        lines: Vec::new(),
    };
    for line in 1..=source.line_count() as u32 {
        if let Some((indent, content)) = content_of(source, line) {
            split.line(indent, content);
        }
    }
    split.close();
    (split.items, split.stray)
}

/// A text in the course of being split into items.
struct Split<'a> {
    source: &'a SourceText,
    items: Vec<Item>,
    stray: Vec<Span>,
    /// The lines of the last item behind its head, each with its indentation.
    lines: Vec<(usize, Span)>,
}

impl Split<'_> {
    fn line(&mut self, indent: usize, content: Span) {
        let text = self.source.slice(content);
        if indent == 0 && !self.belongs(text) {
            self.close();
            self.items.push(Item {
                head: content,
                clauses: Vec::new(),
                strayed: Vec::new(),
            });
        } else if self.items.is_empty() {
            self.stray.push(content);
        } else {
            self.lines.push((indent, content));
        }
    }

    /// Whether a line in column one belongs to the item before it all the same.
    fn belongs(&self, text: &str) -> bool {
        let Some(item) = self.items.last() else {
            return false;
        };
        if text.starts_with(['}', ')', ']']) {
            return true;
        }
        let word = first_word(text);
        if word.is_empty() || ITEMS.contains(&word) {
            return false;
        }
        let is_near = crate::diagnostic::nearest(word, ITEMS).is_some();
        match first_word(self.source.slice(item.head)) {
            "form" => is_form_clause(word),
            "tokens" | "precedence" | "provides" | "state" | "values" | "messages" | "types"
            | "surface" => !is_near,
            // The arms of a `match`.
            "define" => !is_near && text.contains("=>"),
            _ => false,
        }
    }

    /// Puts the lines of the last item together to clauses: a line that stands deeper than the
    /// first of them goes on with the clause before it.
    fn close(&mut self) {
        let lines = std::mem::take(&mut self.lines);
        let Some(item) = self.items.last_mut() else {
            return;
        };
        let head = first_word(self.source.slice(item.head));
        let is_clause = |content: Span| {
            head == "form" && is_form_clause(first_word(self.source.slice(content)))
        };
        let Some(usual) = usual(&lines, is_clause) else {
            return;
        };
        let mut like = lines.iter().filter(|(indent, _)| *indent == usual);
        let like = like
            .next()
            .map(|(_, content)| self.source.line_of(content.start));
        for (indent, content) in lines {
            let text = self.source.slice(content);
            let closes = text.starts_with(['}', ')', ']']);
            let goes_on = indent > usual && !(is_clause(content) && begins(text));
            let last = item.clauses.last_mut();
            match last {
                Some(clause) if goes_on || closes && indent == 0 => clause.end = content.end,
                None if closes && indent == 0 => item.head.end = content.end,
                _ => {
                    if indent != usual {
                        let start = content.start as usize;
                        let end = start + first_word(text).len().max(1);
                        item.strayed.push(Strayed {
                            span: Span::new(start, end),
                            like,
                        });
                    }
                    item.clauses.push(content);
                }
            }
        }
    }
}

/// Whether a clause of a form begins with a word.
fn is_form_clause(word: &str) -> bool {
    let goes_on = |rest: &str| rest.is_empty() || rest.starts_with(' ');
    let mut known = FORM_CLAUSES.iter();
    known.any(|clause| clause.strip_prefix(word).is_some_and(goes_on))
}

/// How the clauses of an item are indented: as most of the lines that begin like one, or as the
/// first line.
fn usual(lines: &[(usize, Span)], is_clause: impl Fn(Span) -> bool) -> Option<usize> {
    let clauses = lines
        .iter()
        .filter(|(indent, content)| *indent > 0 && is_clause(*content));
    let indents: Vec<usize> = clauses.map(|(indent, _)| *indent).collect();
    let count = |indent: usize| indents.iter().filter(|other| **other == indent).count();
    let most = indents
        .iter()
        .copied()
        .rev()
        .max_by_key(|indent| count(*indent));
    let first = lines.iter().find(|(indent, _)| *indent > 0);
    // Lines in column one are clauses of nothing.
    most.or(first.map(|(indent, _)| *indent))
        .or(lines.first().map(|_| usize::MAX))
}

/// Whether a line that starts with the word of a clause is one, and does not go on with a meaning
/// that has a name like it.
fn begins(text: &str) -> bool {
    let rest = &text[first_word(text).len()..];
    let next = rest.trim_start().chars().next();
    rest.starts_with([' ', '\t'])
        && next.is_some_and(|c| c.is_alphanumeric() || "\"'(`[{-".contains(c))
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
