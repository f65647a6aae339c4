//! From a text or its tokens to a tree.

use std::sync::Arc;
use std::time::Duration;

use super::told::Read;
use super::{Language, Stage};
use crate::ambiguity::{self, Findings, Grammar};
use crate::diagnostic::{Diagnostic, Outcome, codes, has_errors, quote};
use crate::lexing::{KindId, Token, Tokens};
use crate::parsing::{Ambiguity, Parser};
use crate::source::{SourceText, Span};
use crate::tree::Tree;

/// What a text is read as.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
#[non_exhaustive]
pub enum Reading<'a> {
    /// A whole program.
    Program,
    /// The first of the entries that fits: a program, or something smaller.
    Entry,
    /// This sort, which must be one of the entries.
    Sort(&'a str),
}

/// How much of a text can be read.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Extent {
    Whole,
    Parts,
    Nothing,
}

impl Language {
    /// Reads a text as a tree.
    pub fn tree(&self, source: &Arc<SourceText>, reading: Reading<'_>) -> Outcome<Tree> {
        self.read(source, reading).tree
    }

    /// What could be read of a text, though it may be wrong.
    pub(crate) fn readable(&self, source: &Arc<SourceText>, reading: Reading<'_>) -> Option<Tree> {
        let read = self.read(source, reading);
        read.tree.value.or(read.parts.map(|parts| parts.tree))
    }

    /// How much of a text can be read.
    pub(crate) fn extent(&self, source: &Arc<SourceText>, reading: Reading<'_>) -> Extent {
        let read = self.read(source, reading);
        match (read.tree.value, read.parts) {
            (Some(_), _) => Extent::Whole,
            (None, Some(_)) => Extent::Parts,
            (None, None) => Extent::Nothing,
        }
    }

    /// Reads a text as a tree, and if it is wrong, as much of it as can be.
    pub(super) fn read(&self, source: &Arc<SourceText>, reading: Reading<'_>) -> Read {
        if let Some(lack) = self.lacks(Stage::Tree) {
            return Read::failed(vec![lack]);
        }
        let tokens = self.shared.lexer.tokens_and_odd(source);
        let is_right = !has_errors(&tokens.diagnostics);
        let mut read = match tokens.value {
            Some(found) => self.read_tokens(&self.met(found), reading),
            None => Read::failed(Vec::new()),
        };
        if !is_right {
            read.with_wrong_tokens(source, tokens.diagnostics);
        }
        self.definition().reword(&mut read.tree.diagnostics);
        read
    }

    /// Reads tokens as a tree.
    pub fn tree_of(&self, tokens: &Tokens, reading: Reading<'_>) -> Outcome<Tree> {
        self.worded(self.read_tokens(tokens, reading).tree)
    }

    fn read_tokens(&self, tokens: &Tokens, reading: Reading<'_>) -> Read {
        let Some(parser) = &self.shared.parser else {
            return Read::failed(self.lacks(Stage::Tree).into_iter().collect());
        };
        let names: Vec<&str> = parser.entries().collect();
        let chosen = chosen(parser, reading);
        if let (Reading::Sort(entry), []) = (reading, &chosen[..]) {
            let listed: Vec<String> = names.iter().map(|n| quote(n)).collect();
            return Read::failed(vec![
                Diagnostic::error(
                    codes::DEFINITION_NAME,
                    format!("{} may not stand alone", quote(entry)),
                )
                .at(&tokens.source, Span::default())
                .why(format!("what may stand alone is {}", listed.join(", ")))
                .remedy(format!("add {entry} to `entries`")),
            ]);
        }
        let mut furthest: Option<Read> = None;
        for index in chosen {
            let parsed = parser.parse(&self.shared.definition, &self.shared.lexer, tokens, index);
            let mut read = Read {
                tree: parsed.outcome,
                parts: parsed.parts,
                told: parsed.told,
            };
            if let (Some(found), [diagnostic]) = (&parsed.ambiguity, &mut read.tree.diagnostics[..])
            {
                self.show_readings(diagnostic, found);
                // What can be read in two ways is not read in a third.
                return read;
            }
            if read.tree.value.is_some() {
                return read;
            }
            let reach = |read: &Read| {
                let first = read.tree.diagnostics.first().and_then(|d| d.place.as_ref());
                first.map_or(0, |place| place.span.start)
            };
            if furthest
                .as_ref()
                .is_none_or(|best| reach(&read) > reach(best))
            {
                furthest = Some(read);
            }
        }
        furthest.unwrap_or_else(|| Read::failed(Vec::new()))
    }

    /// Adds the two readings of an ambiguous text to its error, and what would settle it.
    fn show_readings(&self, diagnostic: &mut Diagnostic, found: &Ambiguity) {
        let Some(grammar) = self.grammar() else {
            return;
        };
        diagnostic.why.extend(ambiguity::readings(grammar, found));
        diagnostic
            .remedies
            .push("in the program: bracket the part that belongs together".to_owned());
        let settlement = ambiguity::settlement(grammar, found);
        diagnostic
            .remedies
            .push(format!("in the definition: {settlement}"));
    }

    /// Reads one entry off the front of a text, as long as can be: its tree, and the offset
    /// where it ends. What comes after it may be anything.
    pub fn front(
        &self,
        source: &Arc<SourceText>,
        reading: Reading<'_>,
    ) -> (Outcome<Tree>, Option<u32>) {
        let (Some(parser), None) = (&self.shared.parser, self.lacks(Stage::Tree)) else {
            return (self.tree(source, reading), None);
        };
        let scanned = self.shared.lexer.tokens(source);
        let Some(mut tokens) = scanned.value.map(|tokens| self.met(tokens)) else {
            return (self.tree(source, reading), None);
        };
        // Nothing that is no token can be part of the entry.
        let errors = scanned.diagnostics.iter().filter(|d| d.is_error());
        let places = errors.filter_map(|d| Some(d.place.as_ref()?.span.start));
        if let Some(bad) = places.min() {
            tokens.tokens.retain(|token| token.span.start < bad);
            let end = Span {
                start: bad,
                end: bad,
            };
            tokens.tokens.push(Token::new(KindId::END, end));
        }
        let entries = chosen(parser, reading);
        let fronts = entries.into_iter().filter_map(|entry| {
            Some((
                parser.front(&self.shared.definition, &tokens, entry)?,
                entry,
            ))
        });
        // Of entries of the same length the first one listed counts.
        let longest = fronts.max_by_key(|&(count, entry)| (count, std::cmp::Reverse(entry)));
        let Some((count, entry)) = longest else {
            return (self.tree(source, reading), None);
        };
        let end = tokens.tokens[count - 1].span.after();
        tokens.tokens.truncate(count);
        tokens.tokens.push(Token::new(KindId::END, end));
        let sort = parser.entries().nth(entry).unwrap_or_default();
        (self.tree_of(&tokens, Reading::Sort(sort)), Some(end.end))
    }

    /// Every entry that a text could be read as, the program first.
    pub fn readings(&self) -> impl Iterator<Item = Reading<'_>> {
        self.shared
            .parser
            .iter()
            .flat_map(Parser::entries)
            .map(Reading::Sort)
    }

    /// The grammar with all that reading and writing by it takes, when there are forms with a
    /// `written` clause.
    pub(crate) fn grammar(&self) -> Option<Grammar<'_>> {
        Some(Grammar {
            definition: self.definition(),
            lexer: self.lexer(),
            parser: self.parser()?,
        })
    }

    /// Searches for at most so long for short texts that can be read in two ways.
    pub fn ambiguities(&self, limit: Duration) -> Findings {
        let grammar = self.grammar();
        grammar.map_or_else(Findings::default, |grammar| {
            ambiguity::search(grammar, limit)
        })
    }
}

/// The numbers of the entries that a text may be read as.
pub(super) fn chosen(parser: &Parser, reading: Reading<'_>) -> Vec<usize> {
    match reading {
        Reading::Program => vec![0],
        Reading::Entry => (0..parser.entries().count()).collect(),
        Reading::Sort(sort) => parser
            .entries()
            .position(|e| e == sort)
            .into_iter()
            .collect(),
    }
}
