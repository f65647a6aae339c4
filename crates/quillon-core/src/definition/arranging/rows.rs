//! What each line of a definition is, and the words in it.

use std::sync::Arc;

use super::cells::{self, Cell};
use super::{is_one_clause, mode_of};
use crate::definition::reading::{
    Item, Lexeme, Word, content_of, first_word, items, lex, split_bars,
};
use crate::diagnostic::Diagnostic;
use crate::source::{SourceText, Span};

/// A line of a definition or a case file.
pub(super) struct Row {
    pub place: Place,
    /// The item that it belongs to.
    pub item: usize,
    pub cells: Vec<Cell>,
}

/// Where a line stands.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Place {
    Blank,
    /// A comment with a line of its own.
    Comment {
        is_indented: bool,
    },
    /// The first line of an item.
    Head,
    /// The first line of a clause.
    Clause,
    /// A line that goes on with an item of one clause: so many steps in.
    Body(usize),
    /// A line that goes on with what a clause says: so many steps deeper than that.
    Deeper(usize),
    /// A line of a program behind a bar, and what comes after one.
    Barred,
    /// A line with a part of a text of several lines, which stays as it is.
    Untouched,
}

/// A head, or a clause with the lines that go on with it.
struct Stretch {
    item: usize,
    span: Span,
    is_head: bool,
    /// Whether it is the whole of a `define`.
    is_whole: bool,
}

impl Stretch {
    /// Whether lines behind bars in it are a program.
    fn has_program(&self, head: &str, word: &str) -> bool {
        !self.is_head && (head.starts_with("case") || word == "example")
    }

    /// Whether it says what something means.
    fn is_code(&self, head: &str, word: &str) -> bool {
        self.is_whole || first_word(head) == "provides" || ["means", "checks"].contains(&word)
    }
}

/// The lines of a text.
pub(super) fn rows(source: &Arc<SourceText>) -> Result<Vec<Row>, Box<Diagnostic>> {
    let (items, _) = items(source);
    let mut rows: Vec<Row> = (1..=source.line_count() as u32)
        .map(|line| bare(source, line))
        .collect();
    for stretch in items.iter().enumerate().flat_map(stretches_of(source)) {
        let head = source.slice(items[stretch.item].head);
        place(source, head, &stretch, &mut rows)?;
    }
    let mut item = 0;
    for row in &mut rows {
        item = row.item.max(item);
        row.item = item;
    }
    Ok(rows)
}

/// A line about which no more is known than its text.
fn bare(source: &SourceText, line: u32) -> Row {
    let text = source.slice(source.line_span(line));
    let content = text.trim();
    let place = if content.is_empty() {
        Place::Blank
    } else if content.starts_with("--") {
        let is_indented = text.starts_with([' ', '\t']);
        Place::Comment { is_indented }
    } else {
        Place::Untouched
    };
    let text = if place == Place::Untouched {
        text.trim_end_matches('\r')
    } else {
        content
    };
    Row {
        place,
        item: 0,
        cells: vec![Cell::first(text)],
    }
}

fn stretches_of<'a>(
    source: &'a SourceText,
) -> impl FnMut((usize, &'a Item)) -> Vec<Stretch> + use<'a> {
    move |(number, item)| {
        let stretch = |span: Span, is_head: bool, is_whole: bool| Stretch {
            item: number,
            span,
            is_head,
            is_whole,
        };
        if is_one_clause(source.slice(item.head)) {
            return vec![stretch(item.span(), true, true)];
        }
        let clauses = item.clauses.iter();
        let clauses = clauses.map(|clause| stretch(*clause, false, false));
        std::iter::once(stretch(item.head, true, false))
            .chain(clauses)
            .collect()
    }
}

/// Notes what the lines of a stretch are.
fn place(
    source: &Arc<SourceText>,
    head: &str,
    stretch: &Stretch,
    rows: &mut [Row],
) -> Result<(), Box<Diagnostic>> {
    // The title of a case is no notation.
    if stretch.is_head && head.starts_with("case") {
        let row = &mut rows[source.line_of(stretch.span.start) as usize - 1];
        row.item = stretch.item;
        row.place = Place::Head;
        row.cells = vec![Cell::first(source.slice(stretch.span))];
        return Ok(());
    }
    let word = first_word(source.slice(stretch.span));
    let (program, parts) = if stretch.has_program(head, word) {
        split_bars(source, stretch.span)
    } else {
        (None, vec![stretch.span])
    };
    let lexemes = words(source, parts, head)?;
    let mut lexemes = &lexemes[..];
    let first = source.line_of(stretch.span.start);
    let mut depths = Depths::new(stretch.is_whole, stretch.is_code(head, word));
    // The last line that a text of several lines reaches into.
    let mut reached = 0;
    for line in first..=source.line_of(stretch.span.end) {
        let span = source.line_span(line);
        let count = lexemes.partition_point(|lexeme| lexeme.span.start < span.end);
        let (own, rest) = lexemes.split_at(count);
        lexemes = rest;
        let row = &mut rows[line as usize - 1];
        row.item = stretch.item;
        let end = own
            .last()
            .map_or(line, |last| source.line_of(last.span.end));
        if end > line || line <= reached {
            reached = reached.max(end);
            row.place = Place::Untouched;
            row.cells = vec![Cell::first(source.slice(span).trim_end_matches('\r'))];
        } else if !own.is_empty() {
            let level = depths.line(own);
            row.place = match (line == first, stretch.is_head, program.is_some()) {
                (true, true, _) => Place::Head,
                (true, false, _) => Place::Clause,
                (false, _, true) => Place::Barred,
                (false, true, false) => Place::Body(level),
                (false, false, false) => Place::Deeper(level),
            };
            let starts = cells::starts(head, row.place, own);
            row.cells = cells::cells(source, line, own, &starts);
        } else if let Some((_, content)) = content_of(source, line) {
            // A line behind a bar stays to its end.
            let whole = content.start as usize..span.end as usize;
            row.place = Place::Barred;
            row.cells = vec![Cell::first(source.text()[whole].trim_end_matches('\r'))];
        }
    }
    Ok(())
}

/// The words of the stretches of a clause.
fn words(
    source: &Arc<SourceText>,
    parts: Vec<Span>,
    head: &str,
) -> Result<Vec<Lexeme>, Box<Diagnostic>> {
    let mut found = Vec::new();
    let mut all = Vec::new();
    for part in parts {
        all.extend(lex(source, part, mode_of(head), &mut found));
        all.pop();
    }
    match found.into_iter().next() {
        Some(error) => Err(Box::new(error)),
        None => Ok(all),
    }
}

/// How many steps lines stand deeper than what they go on with, by the brackets that are open.
struct Depths {
    /// Of each open bracket the level of the line that opened it.
    open: Vec<usize>,
    /// Whether what comes behind the first line stands deeper than it without a bracket.
    is_whole: bool,
    /// Whether a line that goes on with what the last one says stands deeper.
    is_code: bool,
    /// The level outside of all brackets, once a line has been read.
    base: Option<usize>,
    /// Whether the last line has not said all.
    goes_on: bool,
}

impl Depths {
    fn new(is_whole: bool, is_code: bool) -> Depths {
        Depths {
            open: Vec::new(),
            is_whole,
            is_code,
            base: None,
            goes_on: false,
        }
    }

    /// The level of a line with these words; those after it are told by it.
    fn line(&mut self, lexemes: &[Lexeme]) -> usize {
        let closing = lexemes.iter().take_while(|lexeme| is_closing(lexeme));
        let closing = closing.count();
        let mut closed = None;
        for _ in 0..closing {
            closed = self.open.pop().or(closed);
        }
        let inside = self
            .open
            .last()
            .map_or(self.base.unwrap_or(0), |level| level + 1);
        let is_apart = lexemes[0].word == Word::Sign("{")
            || lexemes.iter().any(|one| one.word == Word::Sign("=>"));
        let hangs = self.goes_on && !is_apart;
        let level = closed.unwrap_or(inside + usize::from(hangs));
        for lexeme in &lexemes[closing..] {
            if is_closing(lexeme) {
                self.open.pop();
            } else if is_opening(lexeme) {
                self.open.push(level);
            }
        }
        let is_over = matches!(
            lexemes[lexemes.len() - 1].word,
            Word::Sign(";" | "," | "{" | "(" | "[" | "}" | "=" | "=>" | "|")
        );
        // The word of a clause alone has begun nothing.
        let is_word = self.base.is_none() && lexemes.len() == 1;
        self.goes_on = self.is_code && !is_over && !is_word;
        let base = usize::from(self.is_whole && self.open.is_empty());
        self.base = self.base.or(Some(base));
        level
    }
}

pub(super) fn is_opening(lexeme: &Lexeme) -> bool {
    matches!(lexeme.word, Word::Sign("(" | "{" | "["))
}

pub(super) fn is_closing(lexeme: &Lexeme) -> bool {
    matches!(lexeme.word, Word::Sign(")" | "}" | "]"))
}
