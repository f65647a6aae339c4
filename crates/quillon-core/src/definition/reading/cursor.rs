//! A place among the words of a clause, with what can be expected there.

use std::sync::Arc;

use super::lexer::{Lexeme, Mode, Word, lex};
use crate::definition::model::Name;
use crate::diagnostic::{Code, Diagnostic, codes, nearest, one_of, quote};
use crate::source::{SourceText, Span};

/// Reads the words of one clause; mistakes go to `diagnostics`.
pub(in crate::definition) struct Cursor<'a> {
    pub source: &'a Arc<SourceText>,
    diagnostics: &'a mut Vec<Diagnostic>,
    words: Vec<Lexeme>,
    at: usize,
    /// How deeply the reading of nested parts has gone.
    pub depth: usize,
    /// How many links of chains the clause has so far.
    links: usize,
    /// Whether some words of the clause are none: what would be said of the rest follows
    /// from that and is left out.
    broken: bool,
    failed: bool,
}

impl<'a> Cursor<'a> {
    pub fn new(
        source: &'a Arc<SourceText>,
        span: Span,
        mode: Mode,
        diagnostics: &'a mut Vec<Diagnostic>,
    ) -> Cursor<'a> {
        let before = diagnostics.len();
        let words = lex(source, span, mode, diagnostics);
        let broken = diagnostics.len() > before;
        Cursor {
            broken,
            failed: false,
            source,
            diagnostics,
            words,
            at: 0,
            depth: 0,
            links: 0,
        }
    }

    pub fn peek(&self) -> &Word {
        &self.words[self.at].word
    }

    pub fn peek_second(&self) -> &Word {
        &self.words[(self.at + 1).min(self.words.len() - 1)].word
    }

    /// The place of the next word.
    pub fn span(&self) -> Span {
        self.words[self.at].span
    }

    /// The place of the word before.
    pub fn last_span(&self) -> Span {
        self.words[self.at.saturating_sub(1)].span
    }

    pub fn advance(&mut self) -> Lexeme {
        let lexeme = self.words[self.at].clone();
        if self.at + 1 < self.words.len() {
            self.at += 1;
        }
        lexeme
    }

    pub fn at_end(&self) -> bool {
        *self.peek() == Word::End
    }

    pub fn at_sign(&self, sign: &str) -> bool {
        matches!(self.peek(), Word::Sign(s) if *s == sign)
    }

    pub fn at_word(&self, word: &str) -> bool {
        matches!(self.peek(), Word::Name(name) if name == word)
    }

    pub fn eat_sign(&mut self, sign: &str) -> bool {
        let found = self.at_sign(sign);
        if found {
            self.advance();
        }
        found
    }

    pub fn eat_word(&mut self, word: &str) -> bool {
        let found = self.at_word(word);
        if found {
            self.advance();
        }
        found
    }

    /// The sign, or an error that says it was expected.
    pub fn expect_sign(&mut self, sign: &'static str) -> Option<Span> {
        if self.at_sign(sign) {
            return Some(self.advance().span);
        }
        self.unexpected(&quote(sign));
        None
    }

    /// The word, or an error that says it was expected.
    pub fn expect_word(&mut self, word: &str) -> Option<Span> {
        if self.at_word(word) {
            return Some(self.advance().span);
        }
        self.unexpected(&quote(word));
        None
    }

    /// A name, or an error that says what kind of name was expected.
    pub fn name(&mut self, what: &str) -> Option<Name> {
        if let Word::Name(text) = self.peek() {
            let text = text.clone();
            let span = self.advance().span;
            return Some(Name { text, span });
        }
        self.unexpected(what);
        None
    }

    /// A quoted text, or an error that says what it would be.
    pub fn text(&mut self, what: &str) -> Option<Name> {
        if let Word::Text(text) = self.peek() {
            let text = text.clone();
            let span = self.advance().span;
            return Some(Name { text, span });
        }
        self.unexpected(what);
        None
    }

    /// What the next word is, for a message.
    pub fn found(&self) -> String {
        match self.peek() {
            Word::End => "the end of the clause".to_owned(),
            _ => quote(self.source.slice(self.span())),
        }
    }

    /// Reports that something else was expected here.
    pub fn unexpected(&mut self, expected: &str) {
        let message = format!("found {} where {expected} is expected", self.found());
        self.error(codes::DEFINITION_SYNTAX, message, self.span());
    }

    /// Reports that one of these words was expected here, with the nearest.
    pub fn unexpected_word(&mut self, choices: &[&str]) {
        let found = match self.peek() {
            Word::Name(name) => Some(name.clone()),
            _ => None,
        };
        let listed: Vec<String> = choices.iter().map(|c| quote(c)).collect();
        let span = self.span();
        let near = found.and_then(|f| nearest(&f, choices.iter().copied()));
        self.report(
            Diagnostic::error(
                codes::DEFINITION_SYNTAX,
                format!(
                    "found {} where {} is expected",
                    self.found(),
                    one_of(&listed)
                ),
            )
            .at(self.source, span)
            .did_you_mean(near),
        );
    }

    pub fn error(&mut self, code: Code, message: impl Into<String>, span: Span) {
        self.report(Diagnostic::error(code, message).at(self.source, span));
    }

    /// Reports a diagnostic about the clause.
    pub fn report(&mut self, diagnostic: Diagnostic) {
        self.failed |= diagnostic.is_error();
        if !self.broken {
            self.diagnostics.push(diagnostic);
        }
    }

    /// Whether something was wrong with the clause.
    pub fn has_failed(&self) -> bool {
        self.failed || self.broken
    }

    /// Reports words that are left over.
    pub fn finish(&mut self) {
        if !self.at_end() {
            let message = format!(
                "nothing more is expected here, and there is {}",
                self.found()
            );
            self.error(codes::DEFINITION_SYNTAX, message, self.span());
        }
    }

    /// Goes one level down; nesting beyond any real definition is an error.
    pub fn enter(&mut self) -> Option<()> {
        const DEEPEST: usize = 200;
        self.depth += 1;
        if self.depth <= DEEPEST {
            return Some(());
        }
        let message = format!("this is nested more than {DEEPEST} levels deep");
        self.error(codes::DEFINITION_LIMIT, message, self.span());
        None
    }

    /// Goes on with a chain, as of operators: each link makes what is read a level deeper. A
    /// clause with more of them than any real one has is an error.
    pub fn link(&mut self) -> Option<()> {
        const MOST: usize = 1000;
        self.links += 1;
        if self.links <= MOST {
            return Some(());
        }
        let message = format!("this clause has more than {MOST} operators");
        self.error(codes::DEFINITION_LIMIT, message, self.span());
        None
    }

    pub fn leave(&mut self) {
        self.depth -= 1;
    }
}
