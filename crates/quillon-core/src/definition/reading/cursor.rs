//! A place among the words of a clause, with what can be expected there.

use std::borrow::Cow;
use std::cell::RefCell;
use std::sync::Arc;

use super::lexer::{Lexeme, Mode, Word, lex};
use crate::definition::model::Name;
use crate::diagnostic::{Code, Diagnostic, codes, nearest, one_of, quote};
use crate::source::{SourceText, Span};

/// Reads the words of one clause; mistakes go to `diagnostics`.
pub(in crate::definition) struct Cursor<'a> {
    pub source: &'a Arc<SourceText>,
    diagnostics: &'a mut Vec<Diagnostic>,
    words: Cow<'a, [Lexeme]>,
    at: usize,
    /// How deeply the reading of nested parts has gone.
    pub depth: usize,
    /// How many links of chains the clause has so far.
    links: usize,
    /// Whether some words of the clause are none: what would be said of the rest follows
    /// from that and is left out.
    broken: bool,
    /// The word at which the first mistake was found.
    stuck: Option<usize>,
    /// What has been asked for in vain at the word at hand, if that is to be known.
    asked: Option<RefCell<Vec<Asked>>>,
}

/// What the notation could have at a place.
#[derive(Clone, PartialEq, Debug)]
pub(in crate::definition) enum Asked {
    Sign(&'static str),
    Word(String),
    /// This, and nothing else.
    Needed(Word),
    /// A word in the place of the one there.
    Instead(String),
    /// Any name.
    Name,
    /// A quoted text.
    Text,
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
            ..Cursor::of(source, words, diagnostics)
        }
    }

    /// A cursor over words, of which the last is the end.
    pub fn of(
        source: &'a Arc<SourceText>,
        words: impl Into<Cow<'a, [Lexeme]>>,
        diagnostics: &'a mut Vec<Diagnostic>,
    ) -> Cursor<'a> {
        Cursor {
            broken: false,
            stuck: None,
            asked: None,
            source,
            diagnostics,
            words: words.into(),
            at: 0,
            depth: 0,
            links: 0,
        }
    }

    /// The same, and what is asked for in vain is kept.
    pub fn asking(self) -> Cursor<'a> {
        Cursor {
            asked: Some(RefCell::default()),
            ..self
        }
    }

    /// The word at which the first mistake was found.
    pub fn stuck(&self) -> Option<usize> {
        self.stuck
    }

    /// What was asked for in vain at the word where the first mistake was found.
    pub fn into_asked(self) -> Vec<Asked> {
        self.asked.map(RefCell::into_inner).unwrap_or_default()
    }

    fn ask(&self, what: impl FnOnce() -> Asked) {
        if let Some(asked) = &self.asked
            && self.stuck.is_none()
        {
            asked.borrow_mut().push(what());
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

    /// Goes on to the next word; where the one at hand stands.
    pub fn advance(&mut self) -> Span {
        let span = self.span();
        if self.at + 1 < self.words.len() {
            self.at += 1;
            if let Some(asked) = &self.asked
                && self.stuck.is_none()
            {
                asked.borrow_mut().clear();
            }
        }
        span
    }

    pub fn at_end(&self) -> bool {
        *self.peek() == Word::End
    }

    pub fn at_sign(&self, sign: &'static str) -> bool {
        let is_there = matches!(self.peek(), Word::Sign(s) if *s == sign);
        if !is_there {
            self.ask(|| Asked::Sign(sign));
        }
        is_there
    }

    pub fn at_word(&self, word: &str) -> bool {
        let is_there = matches!(self.peek(), Word::Name(name) if name == word);
        if !is_there {
            self.ask(|| Asked::Word(word.to_owned()));
        }
        is_there
    }

    /// The same, and it is not what was asked for.
    fn is_word(&self, word: &str) -> bool {
        matches!(self.peek(), Word::Name(name) if name == word)
    }

    pub fn eat_sign(&mut self, sign: &'static str) -> bool {
        let found = self.at_sign(sign);
        if found {
            self.advance();
        }
        found
    }

    /// A comma after which more of the same may stand. That there is none is not worth a guess:
    /// such a clause is complete without it.
    pub fn eat_comma(&mut self) -> bool {
        let found = matches!(self.peek(), Word::Sign(","));
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
            return Some(self.advance());
        }
        self.ask(|| Asked::Needed(Word::Sign(sign)));
        self.unexpected(&quote(sign));
        None
    }

    /// The word, or an error that says it was expected.
    pub fn expect_word(&mut self, word: &str) -> Option<Span> {
        if self.at_word(word) {
            return Some(self.advance());
        }
        self.ask(|| Asked::Needed(Word::Name(word.to_owned())));
        self.unexpected(&quote(word));
        None
    }

    /// A name, or an error that says what kind of name was expected.
    pub fn name(&mut self, what: &str) -> Option<Name> {
        if let Word::Name(text) = self.peek() {
            let text = text.clone();
            let span = self.advance();
            return Some(Name { text, span });
        }
        self.ask(|| Asked::Name);
        self.unexpected(what);
        None
    }

    /// Says that a quoted text could stand here.
    pub fn could_be_text(&self) {
        self.ask(|| Asked::Text);
    }

    /// Reports that a name is missing before the next word.
    pub fn missing_name(&mut self, what: &str) {
        self.ask(|| Asked::Name);
        self.unexpected(what);
    }

    /// A quoted text, or an error that says what it would be.
    pub fn text(&mut self, what: &str) -> Option<Name> {
        if let Word::Text(text) = self.peek() {
            let text = text.clone();
            let span = self.advance();
            return Some(Name { text, span });
        }
        self.ask(|| Asked::Text);
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
        if self.is_odd() {
            return;
        }
        let message = format!("expected {expected}, found {}", self.found());
        self.error(codes::DEFINITION_SYNTAX, message, self.span());
    }

    /// Whether the next word is none of the notation, which is then reported.
    fn is_odd(&mut self) -> bool {
        let Word::Odd(odd) = *self.peek() else {
            return false;
        };
        let odd = quote(&odd.to_string());
        let message = format!("{odd} is no part of the notation");
        self.error(codes::DEFINITION_CHARACTER, message, self.span());
        true
    }

    /// Reports that one of these words was expected here, with the nearest.
    pub fn unexpected_word(&mut self, choices: &[&str]) {
        for word in choices {
            self.ask(|| Asked::Word((*word).to_owned()));
        }
        if self.is_odd() {
            return;
        }
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
                format!("expected {}, found {}", one_of(&listed), self.found()),
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
        if self.stuck.is_none() {
            // What is wrong may have been passed already.
            let mut before = (0..=self.at).rev();
            let is_it = |at: &usize| self.words[*at].span.start == diagnostic.start();
            self.stuck = Some(before.find(is_it).unwrap_or(self.at));
        }
        if !self.broken {
            self.diagnostics.push(diagnostic);
        }
    }

    /// One of these words, each of which begins a clause of its owner; another is reported.
    pub fn clause(
        &mut self,
        known: &[&'static str],
        owner: impl Fn() -> String,
    ) -> Option<&'static str> {
        let first = |word: &'static str| word.split(' ').next().unwrap_or(word);
        if let Some(word) = known.iter().find(|word| self.is_word(first(word))) {
            self.advance();
            return Some(word);
        }
        for word in known {
            self.ask(|| Asked::Instead(first(word).to_owned()));
        }
        let Word::Name(found) = self.peek().clone() else {
            self.unexpected("a clause");
            return None;
        };
        let listed: Vec<String> = known.iter().map(|word| quote(word)).collect();
        let message = format!("{} is no clause of {}", quote(&found), owner());
        self.report(
            Diagnostic::error(codes::DEFINITION_CLAUSE, message)
                .at(self.source, self.span())
                .why(format!("its clauses are {}", one_of(&listed)))
                .did_you_mean(nearest(&found, known.iter().copied())),
        );
        None
    }

    /// Reports words that are left over; nothing if there are any.
    pub fn finish(&mut self) -> Option<()> {
        if self.at_end() {
            return Some(());
        }
        if !self.is_odd() {
            let message = format!("expected the end of the clause, found {}", self.found());
            self.error(codes::DEFINITION_SYNTAX, message, self.span());
        }
        None
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
