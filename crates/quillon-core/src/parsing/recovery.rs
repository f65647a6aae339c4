//! Going on after a syntax error, so that one reading finds several true errors. First a
//! single token is put in, exchanged or left out (Burke and Fisher 1987: the repair after
//! which most of the text can be read is taken); where that does not help, a phrase is
//! given up: what has been read of it and what is left of it count as one whole.

use super::expected::Wanted;
use super::grammar::{Grammar, Nonterminal, Symbol};
use super::stacks::{Entry, is_entry};
use super::tables::{Action, Tables};
use super::{Parser, lookahead_of};
use crate::lexing::{KindId, Signs, Token};
use crate::source::SourceText;

/// What is done about a token that cannot stand where it stands.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Repair {
    /// A token is put in before it.
    Insert(KindId),
    /// Another token takes its place.
    Replace(KindId),
    /// So many are left out.
    Skip(usize),
    /// The entries from a height on and the tokens up to an index count as a nonterminal.
    Phrase {
        height: usize,
        nonterminal: u16,
        upto: usize,
    },
}

/// How many tokens ahead a repair is tried.
const AHEAD: usize = 8;

/// A repair of one token must let so many tokens be read: few, since the next mistake may
/// be near.
const ENOUGH: usize = 2;

/// Giving up a phrase must let more be read, since it can be given up anywhere.
const ENOUGH_AFTER_PHRASE: usize = 4;

/// How far a phrase is looked for, in tokens and in entries of the stack.
const FARTHEST: usize = 400;
const DEEPEST: usize = 48;

/// States on top of a part of the real stack.
#[derive(Clone)]
pub(super) struct Trial {
    height: usize,
    above: Vec<u32>,
}

impl Trial {
    /// The real stack cut down to a height.
    pub fn up_to(height: usize) -> Trial {
        let above = Vec::new();
        Trial { height, above }
    }
}

pub(super) struct Repairer<'a> {
    pub parser: &'a Parser,
    pub source: &'a SourceText,
    pub tokens: &'a [Token],
    /// The signs that are operators so far.
    pub signs: &'a Signs,
    pub stack: &'a [Entry],
}

impl Repairer<'_> {
    fn grammar(&self) -> &Grammar {
        &self.parser.grammar
    }

    fn tables(&self) -> &Tables {
        &self.parser.tables
    }

    /// The best repair for the token at an index, if there is any.
    pub fn repair(&self, index: usize, wanted: &[Wanted]) -> Option<Repair> {
        let mut best: Option<(usize, Repair)> = None;
        let mut consider = |reach: usize, repair: Repair| {
            let next = match repair {
                Repair::Insert(_) => index,
                Repair::Replace(_) | Repair::Skip(_) | Repair::Phrase { .. } => index + 1,
            };
            // The next line may have a mistake of its own.
            let ends = reach == 1 && next < self.tokens.len() && self.starts_line(next);
            if (reach >= ENOUGH || ends) && best.is_none_or(|(most, _)| reach > most) {
                best = Some((reach, repair));
            }
        };
        consider(self.reach(self.whole(), index + 1), Repair::Skip(1));
        for kind in self.candidates(wanted) {
            let token = Token::new(kind, self.tokens[index].span);
            let after = self.take(self.whole(), token);
            if !after.is_empty() {
                consider(self.reach(after.clone(), index), Repair::Insert(kind));
                consider(self.reach(after, index + 1), Repair::Replace(kind));
            }
        }
        let most = best.map_or(0, |(most, _)| most);
        let Some((_, single)) = best.filter(|_| most < AHEAD) else {
            return best
                .map(|(_, repair)| repair)
                .or_else(|| self.phrase(index, FARTHEST));
        };
        // What one token helps not far is better given up, if no more is lost than it lets read.
        self.phrase(index, most + 1).or(Some(single))
    }

    /// The kinds that could stand there; literals first, since what is missing or wrong is
    /// a literal more often than not.
    fn candidates(&self, wanted: &[Wanted]) -> Vec<KindId> {
        let mut terminals: Vec<u16> = Vec::new();
        for wanted in wanted {
            match wanted {
                Wanted::Terminal(t) | Wanted::Operator(t) => terminals.push(*t),
                Wanted::Sort(sort) => terminals.extend(self.parser.first_of(sort)),
            }
        }
        let mut kinds: Vec<KindId> = terminals
            .into_iter()
            .map(|t| self.grammar().terminals[t as usize].kind)
            .filter(|kind| *kind != KindId::END)
            .collect();
        kinds.sort_by_key(|kind| (!self.parser.lexer_kind(*kind).is_literal(), *kind));
        kinds.dedup();
        kinds
    }

    /// The text of a token.
    pub fn text(&self, token: Token) -> &str {
        self.source.slice(token.span)
    }

    /// The kind of a terminal.
    pub fn kind_of(&self, terminal: u16) -> KindId {
        self.grammar().terminals[terminal as usize].kind
    }

    pub fn whole(&self) -> Vec<Trial> {
        vec![Trial::up_to(self.stack.len())]
    }

    fn top(&self, trial: &Trial) -> u32 {
        trial
            .above
            .last()
            .copied()
            .unwrap_or_else(|| self.stack[trial.height - 1].state)
    }

    /// How many tokens from an index on can be read; reaching the end counts as all.
    fn reach(&self, trials: Vec<Trial>, from: usize) -> usize {
        self.reach_within(trials, from, AHEAD)
    }

    /// The same, looking so many tokens ahead.
    pub fn reach_within(&self, mut trials: Vec<Trial>, from: usize, ahead: usize) -> usize {
        let tokens = &self.tokens[from.min(self.tokens.len())..];
        for (count, token) in tokens.iter().take(ahead).enumerate() {
            trials = self.take(trials, *token);
            if trials.is_empty() {
                return count;
            }
            if token.kind == KindId::END {
                return ahead;
            }
        }
        ahead
    }

    /// The stacks after a token: each way to take it, of the first few.
    pub fn take(&self, trials: Vec<Trial>, token: Token) -> Vec<Trial> {
        const MOST_STEPS: usize = 500;
        const MOST_WAYS: usize = 4;
        let lookahead = lookahead_of(self.grammar(), token);
        let ways = self.grammar().ways(self.signs, self.source, token);
        let mut work = trials;
        let mut after = Vec::new();
        for _ in 0..MOST_STEPS {
            let Some(trial) = work.pop().filter(|_| after.len() < MOST_WAYS) else {
                break;
            };
            let state = self.top(&trial);
            let mut actions = self.tables().each(self.tables().first_of(state, &ways));
            actions.extend(
                self.tables()
                    .each(self.tables().first_action(state, lookahead.soft)),
            );
            for action in actions {
                match action {
                    Action::Shift(state) => {
                        let mut next = trial.clone();
                        next.above.push(state);
                        after.push(next);
                    }
                    Action::Reduce(id) if is_entry(self.grammar(), id) => after.push(trial.clone()),
                    Action::Reduce(id) => work.extend(self.reduced(&trial, id)),
                    Action::Error | Action::Fork(_) | Action::Leaf(_) => {}
                }
            }
        }
        after
    }

    fn reduced(&self, trial: &Trial, production: u32) -> Option<Trial> {
        let production = &self.grammar().productions[production as usize];
        let length = production.right.len();
        let mut next = trial.clone();
        let from_above = length.min(next.above.len());
        next.above.truncate(next.above.len() - from_above);
        next.height -= length - from_above;
        let goto = self.tables().goto(self.top(&next), production.left);
        (goto != 0).then(|| {
            next.above.push(goto);
            next
        })
    }

    /// The shortest stretch of text that, together with what lies on top of the stack, can
    /// count as one phrase.
    fn phrase(&self, index: usize, farthest: usize) -> Option<Repair> {
        let lowest = self.stack.len().saturating_sub(DEEPEST).max(1);
        let last = (index + farthest).min(self.tokens.len());
        for upto in index..last {
            for height in (lowest..=self.stack.len()).rev() {
                let state = self.stack[height - 1].state;
                for &(symbol, to) in &self.tables().states[state as usize].moves {
                    let Symbol::Nonterminal(nonterminal) = symbol else {
                        continue;
                    };
                    // Giving up nothing and reading nothing would be no progress.
                    let is_phrase = !matches!(
                        self.grammar().nonterminals[nonterminal as usize],
                        Nonterminal::Form(_)
                    ) && (height < self.stack.len() || upto > index);
                    if !is_phrase {
                        continue;
                    }
                    let trial = Trial {
                        height,
                        above: vec![to],
                    };
                    if self.reach(vec![trial], upto) >= ENOUGH_AFTER_PHRASE {
                        return Some(Repair::Phrase {
                            height,
                            nonterminal,
                            upto,
                        });
                    }
                }
            }
        }
        None
    }
}
