//! What could come after the beginning of a text, and what is open there.

use super::Parser;
use super::expected::Inquiry;
use super::grammar::{Production, Role, Symbol};
use crate::definition::Definition;
use crate::lexing::{BRACKETS, KindId, Tokens};
use crate::source::Span;

/// What stands after the beginning of a text.
#[derive(Clone, Debug, Default)]
pub struct Ahead {
    /// The kinds of token that could come next.
    pub kinds: Vec<KindId>,
    /// Those of them that would only be names that are bound there.
    pub bound: Vec<KindId>,
    /// The words and brackets of forms that are begun and not over, from the outside in.
    pub open: Vec<Span>,
    /// The words and brackets that would end forms that are begun and not over, from the inside out.
    pub closing: Vec<String>,
}

impl Parser {
    /// What could come after some tokens, read as the beginning of an entry; nothing if
    /// they cannot begin one.
    pub fn ahead(&self, definition: &Definition, tokens: &Tokens, entry: usize) -> Option<Ahead> {
        let mut run = self.run(definition, tokens, entry).in_haste();
        let count = tokens.tokens.len();
        // What layout adds at the end, and the end, are not typed yet.
        let typed = (0..count).find(|&index| self.only_layout_from(tokens, index))?;
        if run.advance(&tokens.tokens[..typed], 0) != (typed, super::Step::Taken) {
            return None;
        }
        let stacks = run.plain_stacks();
        let inquiry = Inquiry {
            grammar: &self.grammar,
            tables: &self.tables,
        };
        let terminals = &self.grammar.terminals;
        let taken: Vec<u16> = (1..terminals.len() as u16)
            .filter(|&terminal| stacks.iter().any(|s| inquiry.could_take(s, terminal)))
            .collect();
        let kind = |terminal: &u16| terminals[*terminal as usize].kind;
        let is_bound = |terminal: &&u16| {
            let of_stack = stacks.iter().map(|stack| inquiry.fields(stack, **terminal));
            let fields: Vec<(usize, usize)> = of_stack.flatten().collect();
            let only = fields.iter().all(|(form, field)| {
                let form = &definition.forms[*form];
                form.only_binds(&form.fields[*field].name.text)
            });
            only && !fields.is_empty()
        };
        let bound = taken.iter().filter(is_bound).map(kind).collect();
        let mut kinds: Vec<KindId> = taken.iter().map(kind).collect();
        kinds.dedup();
        let frames = stacks.first().map_or_else(Vec::new, |s| inquiry.frames(s));
        let mut open: Vec<Span> = Vec::new();
        for frame in frames.iter().rev() {
            open.extend(
                self.marks(frame)
                    .map(|token| tokens.tokens[token as usize].span),
            );
        }
        let closing = frames.iter().filter_map(|frame| self.last_mark(frame));
        let closing = closing.map(str::to_owned).collect();
        Some(Ahead {
            kinds,
            bound,
            open,
            closing,
        })
    }

    /// The word or sign with which a form that is begun ends.
    fn last_mark(&self, frame: &super::expected::Frame) -> Option<&str> {
        let production = &self.grammar.productions[frame.production as usize];
        let last = production.right.len().checked_sub(1)?;
        self.literal(production, last).filter(|_| last >= frame.dot)
    }

    /// The word or sign that a part of a production is.
    fn literal(&self, production: &Production, at: usize) -> Option<&str> {
        match production.right.get(at) {
            Some(Symbol::Terminal(t)) if production.roles[at] == Role::Drop => {
                let kind = self.lexer_kind(self.grammar.terminals[*t as usize].kind);
                kind.is_literal().then_some(kind.name.as_str())
            }
            Some(Symbol::Terminal(_) | Symbol::Nonterminal(_)) | None => None,
        }
    }

    /// The tokens of a form that is begun by which it is known: its first word, and its
    /// last bracket that is not closed.
    fn marks(&self, frame: &super::expected::Frame) -> impl Iterator<Item = u32> {
        let production = &self.grammar.productions[frame.production as usize];
        let literal = |at: usize| self.literal(production, at);
        let bracket = (0..frame.dot).rev().find(|&at| {
            BRACKETS.iter().any(|(open, close)| {
                let closes = |later: usize| literal(later) == Some(*close);
                literal(at) == Some(*open) && !(at..frame.dot).any(closes)
            })
        });
        let first = literal(0).map(|_| 0).filter(|_| frame.dot > 0);
        let last = bracket.filter(|at| Some(*at) != first);
        first
            .into_iter()
            .chain(last)
            .filter_map(|at| frame.tokens.get(at).copied())
            .collect::<Vec<_>>()
            .into_iter()
    }
}
