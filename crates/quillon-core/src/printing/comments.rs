//! What a text has beside its tree and its reader would miss: comments, and the empty
//! lines between parts.

use std::sync::Arc;

use super::Piece;
use super::fill::Writer;
use crate::definition::Layout;
use crate::lexing::{KindId, Lexer, Token};
use crate::source::SourceText;

/// A comment.
#[derive(Clone, Debug)]
pub(super) struct Comment {
    pub text: String,
    start: u32,
    /// Whether nothing stands before it on its line.
    own_line: bool,
    /// Whether it goes on to the end of the line, whatever comes.
    to_line_end: bool,
}

/// The comments of a text, to be printed with the tree of it.
#[derive(Clone, Debug, Default)]
pub struct Comments {
    pub(super) all: Vec<Comment>,
    /// What stands between the comments, without what layout makes.
    tokens: Vec<Token>,
    source: Option<Arc<SourceText>>,
}

impl Comments {
    /// The comments of a text: its ignored tokens that are more than blanks.
    pub(crate) fn of(lexer: &Lexer, source: &Arc<SourceText>) -> Comments {
        let Some(mut found) = lexer.all_tokens(source).value else {
            return Comments::default();
        };
        let all: Vec<Comment> = found
            .ignored
            .iter()
            .filter(|token| !source.slice(token.span).trim().is_empty())
            .map(|token| {
                let text = source.slice(token.span).trim().to_owned();
                let line = source.line_span(source.line_of(token.span.start));
                let before = &source.text()[line.start as usize..token.span.start as usize];
                Comment {
                    to_line_end: runs_on(lexer, &text),
                    own_line: before.trim().is_empty(),
                    start: token.span.start,
                    text,
                }
            })
            .collect();
        found
            .tokens
            .retain(|token| !all.is_empty() && !lexer.kind(token.kind).is_layout());
        Comments {
            all,
            tokens: found.tokens,
            source: Some(Arc::clone(source)),
        }
    }

    /// The first token from an offset on.
    fn token_at(&self, offset: u32) -> Option<Token> {
        let index = self
            .tokens
            .partition_point(|token| token.span.start < offset);
        self.tokens.get(index).copied()
    }

    /// In which column something stands.
    fn column(&self, offset: u32) -> u32 {
        let source = self.source.as_ref();
        source.map_or(0, |source| source.position(offset).column)
    }

    /// Whether an empty line stands before an offset.
    fn blank_before(&self, offset: u32) -> bool {
        self.source.as_ref().is_some_and(|source| {
            let before = &source.text()[..offset as usize];
            let blanks = &before[before.trim_end().len()..];
            !before.trim().is_empty() && blanks.matches('\n').count() > 1
        })
    }
}

/// Whether a comment would take in what is put after it.
fn runs_on(lexer: &Lexer, text: &str) -> bool {
    let more = SourceText::new("comment", format!("{text}x"));
    let tokens = lexer.all_tokens(&more).value;
    tokens.is_some_and(|tokens| {
        let first = tokens.ignored.first();
        first.is_some_and(|token| token.span.end as usize > text.len())
    })
}

impl Writer<'_> {
    /// Writes the comments that stand before an offset.
    pub(super) fn comments_before(&mut self, offset: u32) {
        while let Some(comment) = self.comments.all.get(self.next_comment)
            && comment.start < offset
        {
            if comment.own_line && self.comments.blank_before(comment.start) {
                self.out.push(Piece::Blank);
            }
            self.out.push(Piece::Comment {
                text: comment.text.clone(),
                own_line: comment.own_line,
                to_line_end: comment.to_line_end,
            });
            self.next_comment += 1;
        }
    }

    /// Writes the comments that stand before a word which is not in the tree, where the text has
    /// that word next.
    pub(super) fn comments_before_word(&mut self, kind: KindId) {
        if self.next_comment == self.comments.all.len() {
            return;
        }
        if let Some(token) = self.comments.token_at(self.position)
            && token.kind == kind
        {
            self.comments_before(token.span.start);
            self.position = token.span.end;
        }
    }

    /// Writes the comments after the last item of a list that belong to it: those up to an offset;
    /// where indentation matters, as long as they are no further out than its items.
    pub(super) fn comments_after_items(&mut self, first: u32, end: u32) {
        if self.definition.layout != Some(Layout::Indentation) {
            self.comments_before(end);
            return;
        }
        // The end of a block comes before the comments at its end.
        let next = self.comments.token_at(self.position);
        let end = next.map_or(u32::MAX, |token| token.span.start).max(end);
        let column = self.comments.column(first);
        while let Some(comment) = self.comments.all.get(self.next_comment)
            && comment.start < end
            && !(comment.own_line && self.comments.column(comment.start) < column)
        {
            self.comments_before(comment.start + 1);
        }
    }

    /// Keeps the empty line before a part that starts at an offset, if there is one.
    pub(super) fn blank_before(&mut self, offset: u32) {
        let comment = self.comments.all.get(self.next_comment);
        let first = comment
            .filter(|comment| comment.own_line && comment.start < offset)
            .map_or(offset, |comment| comment.start);
        if self.comments.blank_before(first) {
            self.out.push(Piece::Blank);
        }
    }
}
