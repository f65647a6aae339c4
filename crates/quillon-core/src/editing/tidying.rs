//! A program with its blanks in order: every line as deep as what it stands in, no blanks at the ends of
//! lines, at most one empty line, and no more than one blank between words that are not set under each
//! other. Lines stay what they are, but for what `laid out` says of them, and for those that are too long.
//! The tree stays what it is.

use std::sync::Arc;

use rustc_hash::FxHashSet;

use super::Looked;
use super::breaking::Breaking;
use super::depth::Depths;
use super::laying::Laid;
use crate::definition;
use crate::diagnostic::Diagnostic;
use crate::language::{Language, Reading};
use crate::lexing::{KindId, Token, is_closing};
use crate::printing::{WIDTH, may_touch};
use crate::source::{SourceText, Span, exchanged};
use crate::tree::alike;

/// Each round breaks lines that are too long once more, as the round before has set them in: two are enough
/// where they do not get longer by that.
const MOST_ROUNDS: usize = 8;

/// Blanks to be put in the place of others.
pub type Blanks = (Span, String);

/// How far a line is set in.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Indent {
    /// What one step is: some blanks, or a tab.
    pub step: String,
}

impl Indent {
    /// As programs are printed.
    pub fn usual() -> Indent {
        Indent::of_blanks(2)
    }

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

/// A program with its blanks in order.
///
/// # Errors
/// Why there is none, as a sentence: the program cannot be read.
pub fn arranged_program(
    language: &Language,
    source: &Arc<SourceText>,
    indent: &Indent,
) -> Result<String, String> {
    let read = language.tree(source, Reading::Program);
    let wrong = read.diagnostics.iter().find(|one| one.is_error());
    match (wrong, read.value) {
        (None, Some(tree)) => {
            let looked = Looked::of_tree(language, Arc::clone(source), tree);
            Ok(looked.in_order(indent).source.text().to_owned())
        }
        (Some(error), _) => Err(unreadable("program", source, error)),
        (None, None) => Err("the program cannot be read".to_owned()),
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
        let new = arranged_program(&self.language, &self.source, indent)?;
        Ok(blanks_of(self.source.text(), &new))
    }

    /// The program with all of its lines in order, round by round.
    fn in_order(self, indent: &Indent) -> Looked {
        let mut looked = self;
        for _ in 0..MOST_ROUNDS {
            match looked.round(indent) {
                Some(next) => looked = next,
                None => break,
            }
        }
        looked
    }

    /// The program once its blanks are in order and lines that are too long then are broken; nothing if that
    /// is what it is.
    fn round(&self, indent: &Indent) -> Option<Looked> {
        let ordered = self.ordered(indent);
        let now = ordered.as_ref().unwrap_or(self);
        let solid = now.solid();
        let width = self.language.definition().width.unwrap_or(WIDTH);
        let step = indent.step.chars().count();
        let gaps = Breaking::new(now, &solid, width, step).gaps();
        if !gaps.is_empty() {
            let line_end = line_end(self.source.text());
            let blanks = gaps.into_iter().map(|gap| (gap, line_end.to_owned()));
            let broken = now.with(&blanks.collect::<Vec<_>>());
            // How the lines stand that have come of it.
            let broken = broken.map(|broken| broken.ordered(indent).unwrap_or(broken));
            if broken.is_some() {
                return broken;
            }
        }
        ordered
    }

    /// The program with its blanks in order; nothing if they are.
    fn ordered(&self, indent: &Indent) -> Option<Looked> {
        let tidying = Tidying::new(self, indent);
        // Where line ends or the beginnings of lines say something, they may have to stay what they are.
        for (starts, laid) in [(true, true), (true, false), (false, true), (false, false)] {
            let blanks = tidying.changes(starts, laid);
            if blanks.is_empty() {
                return None;
            }
            if let Some(ordered) = self.with(&blanks) {
                return Some(ordered);
            }
        }
        None
    }

    /// The program with other blanks, if it is the same then: the same tree, and the same comments.
    fn with(&self, blanks: &[Blanks]) -> Option<Looked> {
        let edits = blanks.iter().map(|(span, text)| (*span, text.as_str()));
        let text = exchanged(self.source.text(), edits);
        let source = SourceText::new(self.source.name(), text);
        let read = self.language.tree(&source, Reading::Program);
        let is_wrong = read.diagnostics.iter().any(Diagnostic::is_error);
        let before = self.examined.tree.as_ref()?;
        let after = read
            .value
            .filter(|after| !is_wrong && alike(before, after))?;
        let other = Looked::of_tree(&self.language, source, after);
        (self.comments() == other.comments()).then_some(other)
    }

    /// What is passed over and can be seen.
    fn comments(&self) -> Vec<&str> {
        let lexer = self.language.lexer();
        let ignored = self.tokens().filter(|token| lexer.kind(token.kind).ignored);
        let texts = ignored.map(|token| self.source.slice(token.span).trim());
        texts.filter(|text| !text.is_empty()).collect()
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

/// How the lines of a text end.
fn line_end(text: &str) -> &'static str {
    if text.contains("\r\n") { "\r\n" } else { "\n" }
}

/// A program whose blanks are being put in order.
struct Tidying<'l> {
    looked: &'l Looked,
    solid: Vec<Token>,
    indent: &'l Indent,
    depths: Depths,
    laid: Laid,
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
            laid: Laid::of(looked, &solid),
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

    /// The changes of blanks: at the beginnings of lines too or not, and as `laid out` says or not.
    fn changes(&self, line_starts: bool, laid: bool) -> Vec<Blanks> {
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
            let wanted = self.between(at, gap, line_starts, laid);
            if wanted != self.text(gap) {
                found.push((gap, wanted));
            }
        }
        let rest = Span {
            start: end,
            end: self.looked.source.text().len() as u32,
        };
        let has_end = self.text(rest).contains('\n');
        let wanted = if has_end {
            line_end(self.text(rest))
        } else {
            ""
        };
        if !self.solid.is_empty() && self.text(rest) != wanted {
            found.push((rest, wanted.to_owned()));
        }
        found
    }

    /// What is to stand before a token.
    fn between(&self, at: usize, gap: Span, line_starts: bool, laid: bool) -> String {
        let text = self.text(gap);
        let has = text.matches('\n').count();
        let wanted = if laid {
            self.laid.line_ends(self.solid[at].span.start)
        } else {
            0
        };
        let ends = has.max(wanted);
        if gap.start == 0 {
            return self.line_start(at, text, line_starts);
        }
        if ends == 0 {
            return self.inside_line(at, gap, laid);
        }
        // A line that has not been begins where it stands.
        let start = self.line_start(at, text, line_starts || has == 0);
        let whole = if has > 0 {
            text
        } else {
            self.looked.source.text()
        };
        line_end(whole).repeat(ends.min(2)) + &start
    }

    /// What a line begins with, in the place of the last of some blanks.
    fn line_start(&self, at: usize, blanks: &str, is_set_in: bool) -> String {
        if is_set_in {
            self.indent.step.repeat(self.depths.of_token(at))
        } else {
            blanks[blanks.rfind('\n').map_or(0, |last| last + 1)..].to_owned()
        }
    }

    /// What is to stand before a token that does not begin its line.
    fn inside_line(&self, at: usize, gap: Span, laid: bool) -> String {
        let text = self.text(gap);
        let token = self.solid[at];
        if self.is_comment(token.kind) {
            return text.to_owned();
        }
        match self.laid.blank(token.span.start).filter(|_| laid) {
            Some(true) => return " ".to_owned(),
            Some(false) if self.may_touch(at) => return String::new(),
            Some(false) | None => {}
        }
        if text.chars().count() < 2 || self.is_under_another(at) {
            return text.to_owned();
        }
        " ".to_owned()
    }

    /// Whether a token is still itself, and the one before it, when they touch.
    fn may_touch(&self, at: usize) -> bool {
        let [before, after] = [at - 1, at].map(|at| self.text(self.solid[at].span));
        let lexer = self.looked.language.lexer();
        let group = lexer.group_of(self.solid[at - 1].kind);
        may_touch(lexer, group, before, after)
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
