//! What a text has beside its tree and its reader would miss: comments, and the empty
//! lines between parts.

use std::sync::Arc;

use super::Piece;
use super::fill::Writer;
use crate::lexing::Lexer;
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
    source: Option<Arc<SourceText>>,
}

impl Comments {
    /// The comments of a text: its ignored tokens that are more than blanks.
    pub(crate) fn of(lexer: &Lexer, source: &Arc<SourceText>) -> Comments {
        let tokens = lexer.all_tokens(source).value;
        let ignored = tokens.map_or_else(Vec::new, |tokens| tokens.ignored);
        let all = ignored
            .into_iter()
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
        Comments {
            all,
            source: Some(Arc::clone(source)),
        }
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
