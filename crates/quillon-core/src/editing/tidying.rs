//! A program with its blanks in order: every line as deep as what it stands in, no blanks at the ends of
//! lines, at most one empty line, and no more than one blank between words that are not set under each
//! other. Lines stay what they are, and so does the tree.

use std::sync::Arc;

use rustc_hash::FxHashSet;

use super::Looked;
use super::depth::Depths;
use crate::definition;
use crate::diagnostic::Diagnostic;
use crate::language::Reading;
use crate::lexing::{KindId, Token, is_closing};
use crate::source::{SourceText, Span, exchanged};
use crate::tree::alike;

/// Blanks to be put in the place of others.
pub type Blanks = (Span, String);

/// How far a line is set in.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Indent {
    /// What one step is: some blanks, or a tab.
    pub step: String,
}

impl Indent {
    /// Steps of so many blanks.
    pub fn of_blanks(count: usize) -> Indent {
        Indent {
            step: " ".repeat(count),
        }
    }

    /// Steps of a tab.
    pub fn of_tabs() -> Indent {
        Indent {
            step: "\t".to_owned(),
        }
    }
}

/// What is to be changed for a definition or a case file to have its columns in order.
///
/// # Errors
/// Why it cannot be told, as a sentence: there is something that cannot be read even as words.
pub fn arranged(source: &Arc<SourceText>) -> Result<Vec<Blanks>, String> {
    match definition::arranged(source) {
        Ok(text) => Ok(blanks_of(source.text(), &text)),
        Err(error) => Err(unreadable("text", source, &error)),
    }
}

/// The blanks before the line of a place in a definition or a case file that has just been begun; nothing
/// where they are a matter of what one means to write.
pub fn begun(source: &Arc<SourceText>, offset: u32) -> Option<Blanks> {
    let column = definition::column_of_begun_line(source, offset)?;
    let line = source.line_span(source.line_of(offset));
    Some((blanks_before(source, line), " ".repeat(column)))
}

/// The blanks that a line begins with.
fn blanks_before(source: &SourceText, line: Span) -> Span {
    let text = source.slice(line);
    let count = text.len() - text.trim_start_matches([' ', '\t']).len();
    let start = line.start as usize;
    Span::new(start, start + count)
}

/// Why blanks cannot be put in order.
fn unreadable(what: &str, source: &SourceText, error: &Diagnostic) -> String {
    let place = error.place.as_ref();
    let line = place.map_or(0, |place| source.line_of(place.span.start));
    format!("the {what} is wrong in line {line}: {}", error.message)
}

/// The blanks in which a text differs from another with the same words.
fn blanks_of(old: &str, new: &str) -> Vec<Blanks> {
    let mut found = Vec::new();
    let (mut at, mut other) = (0, 0);
    loop {
        let blank = |text: &str| text.len() - text.trim_start().len();
        let (before, after) = (blank(&old[at..]), blank(&new[other..]));
        let blanks = &new[other..other + after];
        if old[at..at + before] != *blanks {
            found.push((Span::new(at, at + before), blanks.to_owned()));
        }
        at += before;
        other += after;
        let Some(c) = old[at..].chars().next() else {
            return found;
        };
        at += c.len_utf8();
        other += c.len_utf8();
    }
}

impl Looked {
    /// What is to be changed for the program to have its blanks in order.
    ///
    /// # Errors
    /// Why it cannot be told, as a sentence: the program cannot be read.
    pub fn tidied(&self, indent: &Indent) -> Result<Vec<Blanks>, String> {
        let read = self.language.tree(&self.source, Reading::Program);
        if let Some(error) = read.diagnostics.iter().find(|one| one.is_error()) {
            return Err(unreadable("program", &self.source, error));
        }
        let tidying = Tidying::new(self, indent);
        // Where the beginnings of lines say something, they may have to stay what they are.
        let ways = [true, false].into_iter();
        let mut ways = ways.map(|line_starts| tidying.changes(line_starts));
        let kept = ways.find(|blanks| self.stays_with(blanks));
        Ok(kept.unwrap_or_default())
    }

    /// Whether the program is the same with other blanks: the same tree, and the same comments.
    fn stays_with(&self, blanks: &[Blanks]) -> bool {
        let edits = blanks.iter().map(|(span, text)| (*span, text.as_str()));
        let text = exchanged(self.source.text(), edits);
        let source = SourceText::new(self.source.name(), text);
        let tree = self.language.tree(&source, Reading::Program);
        let is_wrong = tree.diagnostics.iter().any(Diagnostic::is_error);
        let (Some(before), Some(after)) = (&self.examined.tree, &tree.value) else {
            return false;
        };
        let comments = |source: &Arc<SourceText>| -> Vec<String> {
            let tokens = self.language.all_tokens(source).value.into_iter();
            let ignored = tokens.flat_map(|tokens| tokens.ignored);
            let texts = ignored.map(|token| source.slice(token.span).trim().to_owned());
            texts.filter(|text| !text.is_empty()).collect()
        };
        !is_wrong && alike(before, after) && comments(&self.source) == comments(&source)
    }

    /// The tokens that can be seen, comments among them.
    pub(super) fn solid(&self) -> Vec<Token> {
        let lexer = self.language.lexer();
        let can_be_seen = |token: &Token| {
            let kind = lexer.kind(token.kind);
            !kind.is_layout() && !self.source.slice(token.span).trim().is_empty()
        };
        self.tokens().filter(can_be_seen).collect()
    }

    /// How far the line of a place is to be set in, in a program that is not finished: as its brackets
    /// say. Nothing where no bracket is open.
    pub fn begun_line(&self, offset: u32, indent: &Indent) -> Option<Blanks> {
        let line = self.source.line_span(self.source.line_of(offset));
        let before = self.solid().into_iter();
        let before = before.filter(|token| token.span.end <= line.start);
        let mut open: Vec<u32> = Vec::new();
        for token in before {
            let text = self.source.slice(token.span);
            if crate::lexing::is_opening(text) {
                open.push(token.span.start);
            } else if is_closing(text) {
                open.pop();
            }
        }
        let text = self.source.slice(line);
        let blanks = blanks_before(&self.source, line);
        let around = self.source.line_span(self.source.line_of(open.pop()?));
        let around = self.source.slice(around);
        let own = &around[..around.len() - around.trim_start().len()];
        let is_back = text.trim_start().starts_with([')', ']', '}']);
        let step = if is_back { "" } else { indent.step.as_str() };
        Some((blanks, format!("{own}{step}")))
    }
}

/// A program whose blanks are being put in order.
struct Tidying<'l> {
    looked: &'l Looked,
    solid: Vec<Token>,
    indent: &'l Indent,
    depths: Depths,
    /// Where the tokens begin.
    spots: Vec<Spot>,
    /// Where those begin that have blanks before them.
    behind_blanks: FxHashSet<Spot>,
}

impl<'l> Tidying<'l> {
    fn new(looked: &'l Looked, indent: &'l Indent) -> Tidying<'l> {
        let solid = looked.solid();
        let depths = Depths::of(looked, &solid);
        let spots = spots(&looked.source, &solid);
        let text = looked.source.text();
        let is_behind_blanks =
            |token: &Token| text[..token.span.start as usize].ends_with([' ', '\t']);
        let both = spots.iter().zip(&solid);
        let behind_blanks = both.filter(|(_, token)| is_behind_blanks(token));
        Tidying {
            behind_blanks: behind_blanks.map(|(spot, _)| *spot).collect(),
            spots,
            looked,
            solid,
            indent,
            depths,
        }
    }

    fn text(&self, span: Span) -> &'l str {
        self.looked.source.slice(span)
    }

    /// The changes of blanks, at the beginnings of lines too or not.
    fn changes(&self, line_starts: bool) -> Vec<Blanks> {
        let mut found: Vec<Blanks> = Vec::new();
        let mut end = 0;
        for (at, token) in self.solid.iter().enumerate() {
            let gap = Span {
                start: end,
                end: token.span.start,
            };
            // A comment can have the end of its line in it.
            let own_end = self.text(token.span).trim_end().len() as u32;
            end = token.span.start + own_end;
            let wanted = self.between(at, gap, line_starts);
            if wanted != self.text(gap) {
                found.push((gap, wanted));
            }
        }
        let rest = Span {
            start: end,
            end: self.looked.source.text().len() as u32,
        };
        let line_end = self.text(rest).contains('\n');
        let wanted = if line_end { self.line_end(rest) } else { "" };
        if !self.solid.is_empty() && self.text(rest) != wanted {
            found.push((rest, wanted.to_owned()));
        }
        found
    }

    /// How a line ends in a stretch.
    fn line_end(&self, gap: Span) -> &'static str {
        if self.text(gap).contains("\r\n") {
            "\r\n"
        } else {
            "\n"
        }
    }

    /// What is to stand before a token.
    fn between(&self, at: usize, gap: Span, line_starts: bool) -> String {
        let text = self.text(gap);
        let ends = text.matches('\n').count();
        if ends == 0 && gap.start > 0 {
            return self.inside_line(at, gap);
        }
        let kept = &text[text.rfind('\n').map_or(0, |last| last + 1)..];
        let start = if line_starts {
            self.indent.step.repeat(self.depths.of_token(at))
        } else {
            kept.to_owned()
        };
        let ends = if gap.start == 0 { 0 } else { ends.min(2) };
        self.line_end(gap).repeat(ends) + &start
    }

    /// What is to stand before a token that does not begin its line.
    fn inside_line(&self, at: usize, gap: Span) -> String {
        let text = self.text(gap);
        let token = self.solid[at];
        if text.chars().count() < 2 || self.is_comment(token.kind) || self.is_under_another(at) {
            return text.to_owned();
        }
        " ".to_owned()
    }

    fn is_comment(&self, kind: KindId) -> bool {
        self.looked.language.lexer().kind(kind).ignored
    }

    /// Whether a token in the line above or below begins in the same column, behind blanks as well.
    fn is_under_another(&self, at: usize) -> bool {
        let Spot { line, column } = self.spots[at];
        let near = [line.saturating_sub(1), line + 1].into_iter();
        let mut near = near.map(|line| Spot { line, column });
        near.any(|spot| self.behind_blanks.contains(&spot))
    }
}

/// A line, and a column of it in characters from 0.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
struct Spot {
    line: u32,
    column: u32,
}

/// Where tokens begin.
fn spots(source: &SourceText, tokens: &[Token]) -> Vec<Spot> {
    let mut at = 0;
    let mut spot = Spot { line: 1, column: 0 };
    let found = tokens.iter().map(|token| {
        let before = &source.text()[at as usize..token.span.start as usize];
        at = token.span.start;
        let line = source.line_of(at);
        let rest = if line > spot.line {
            spot.column = 0;
            &before[before.rfind('\n').map_or(0, |end| end + 1)..]
        } else {
            before
        };
        spot.line = line;
        spot.column += rest.chars().count() as u32;
        spot
    });
    found.collect()
}
