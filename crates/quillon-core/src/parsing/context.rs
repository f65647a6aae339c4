//! What was being read where a text went wrong, told by the words that stand around it.

use super::errors::Told;
use super::expected::Frame;
use super::grammar::{Role, Symbol};
use crate::diagnostic::{Diagnostic, quote};
use crate::lexing::BRACKETS;
use crate::purposes::is_sign;
use crate::source::Span;

impl Told<'_> {
    pub(super) fn in_context(&self, error: Diagnostic, frames: &[Frame]) -> Diagnostic {
        match frames.iter().find(|frame| self.leads_with_literal(frame)) {
            Some(frame) => self.context(error, frame),
            None => error,
        }
    }

    /// Says what was being read, by the words that stand around it: after the `then` of this `if`,
    /// which starts on line 3.
    fn context(&self, diagnostic: Diagnostic, frame: &Frame) -> Diagnostic {
        let source = &self.tokens.source;
        let token = |at: usize| self.tokens.tokens[frame.tokens[at] as usize].span;
        let start = self.head(frame);
        let opener = quote(source.slice(start));
        let line = source.position(start.start).line;
        let place = diagnostic.place.as_ref();
        let here = place.map_or(0, |place| source.position(place.span.start).line);
        let which = if line == here {
            String::new()
        } else {
            format!(", which starts on line {line}")
        };
        let is_word = |at: &usize| {
            let text = source.slice(token(*at));
            token(*at).start >= start.end && self.is_literal(frame, *at) && !is_sign(text)
        };
        let what = match (1..frame.dot).rev().find(is_word) {
            Some(at) => {
                let word = quote(source.slice(token(at)));
                format!("after the {word} of this {opener}{which}")
            }
            None => format!("in this {opener}{which}"),
        };
        diagnostic
            .why(what)
            .related(source, start, format!("this {opener}"))
    }

    /// What a form is called by: the word in front, with the sign before it if it begins with one.
    fn head(&self, frame: &Frame) -> Span {
        let source = &self.tokens.source;
        let token = |at: usize| self.tokens.tokens[frame.tokens[at] as usize].span;
        let first = token(0);
        let is_single = |at: usize| {
            let production = &self.parser.grammar.productions[frame.production as usize];
            matches!(production.right[at], Symbol::Terminal(_))
        };
        let is_named = frame.dot > 1 && is_single(1) && is_sign(source.slice(first));
        let second = if is_named { source.slice(token(1)) } else { "" };
        if second.starts_with(char::is_alphabetic) {
            first.to(token(1))
        } else {
            first
        }
    }

    pub(super) fn leads_with_literal(&self, frame: &Frame) -> bool {
        let production = &self.parser.grammar.productions[frame.production as usize];
        let is_literal =
            matches!(production.right[0], Symbol::Terminal(_)) && production.roles[0] == Role::Drop;
        // A sign that is no bracket says little of what it begins, and a line end nothing.
        let first = self.tokens.tokens[frame.tokens[0] as usize].span;
        let text = self.tokens.source.slice(first);
        let is_bracket = BRACKETS.iter().any(|(open, _)| *open == text);
        let head = self.head(frame);
        let is_blank = text.trim().is_empty();
        is_literal && !is_blank && (is_bracket || !is_sign(text) || head != first)
    }
}
