//! Reads tokens with the tables: one stack where the tables decide, several where they
//! do not.

use super::forest::{Forest, Ref};
use super::grammar::Grammar;
use super::lookahead_of;
use super::stacks::{Entry, Stacks, is_entry};
use super::tables::{Action, Lookahead, Tables};
use crate::lexing::Token;

/// A reading in progress.
pub(super) struct Run<'a> {
    pub grammar: &'a Grammar,
    pub tables: &'a Tables,
    pub forest: Forest,
    plain: Vec<Entry>,
    stacks: Option<Stacks>,
    children: Vec<Ref>,
    /// What the step at hand has taken off the plain stack, the topmost first, and how far
    /// down that reaches: to take the step back when its token is refused.
    before: Vec<Entry>,
    low: usize,
    tops_before: Option<Vec<u32>>,
}

/// What came of giving a token to the parser.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Step {
    Taken,
    Accepted(Ref),
    Refused,
}

impl<'a> Run<'a> {
    /// Starts reading an entry.
    pub fn new(grammar: &'a Grammar, tables: &'a Tables, entry: usize) -> Run<'a> {
        Run {
            grammar,
            tables,
            forest: Forest::default(),
            plain: vec![Entry {
                state: entry as u32 + 1,
                value: Ref::token(0),
            }],
            stacks: None,
            children: Vec::new(),
            before: Vec::new(),
            low: 0,
            tops_before: None,
        }
    }

    /// Gives the parser a token.
    pub fn step(&mut self, index: u32, token: Token) -> Step {
        let terminals = lookahead_of(self.grammar, token);
        self.before.clear();
        self.low = self.plain.len();
        self.tops_before = self.stacks.as_ref().map(|stacks| stacks.tops.clone());
        if self.stacks.is_none()
            && let Some(step) = self.plain_step(index, terminals)
        {
            return step;
        }
        self.forked_step(index, terminals)
    }

    /// A step with one stack; nothing when the tables leave a conflict.
    fn plain_step(&mut self, index: u32, terminals: Lookahead) -> Option<Step> {
        loop {
            let state = self.plain[self.plain.len() - 1].state;
            let mut action = self.tables.first_action(state, terminals.main);
            if terminals.is_soft() {
                match (action, self.tables.first_action(state, terminals.soft)) {
                    (_, Action::Error) => {}
                    (Action::Error, soft) => action = soft,
                    _ => return None,
                }
            }
            match action {
                Action::Error => return Some(Step::Refused),
                Action::Fork(_) => return None,
                Action::Shift(state) => {
                    self.plain.push(Entry {
                        state,
                        value: Ref::token(index),
                    });
                    return Some(Step::Taken);
                }
                Action::Reduce(id) => {
                    let production = &self.grammar.productions[id as usize];
                    let base = self.plain.len() - production.right.len();
                    if is_entry(self.grammar, id) {
                        return Some(Step::Accepted(self.plain[base].value));
                    }
                    self.children.clear();
                    self.children
                        .extend(self.plain[base..].iter().map(|entry| entry.value));
                    let value = self.forest.add(id, &self.children, index);
                    if base < self.low {
                        let known = self.low;
                        self.before.extend(self.plain[base..known].iter().rev());
                        self.low = base;
                    }
                    self.plain.truncate(base);
                    let below = self.plain[base - 1].state;
                    self.plain.push(Entry {
                        state: self.tables.goto(below, production.left),
                        value,
                    });
                }
            }
        }
    }

    fn forked_step(&mut self, index: u32, terminals: Lookahead) -> Step {
        let stacks = self.stacks.get_or_insert_with(|| Stacks::new(&self.plain));
        stacks.reduce(
            self.grammar,
            self.tables,
            &mut self.forest,
            &self.plain,
            (index, terminals),
        );
        if terminals.main == [None, Some(0)] {
            return stacks
                .accepted(self.grammar, self.tables)
                .map_or(Step::Refused, Step::Accepted);
        }
        if !stacks.shift(self.tables, index, terminals) {
            return Step::Refused;
        }
        if let Some((height, entries)) = stacks.single() {
            self.plain.truncate(height as usize + 1);
            self.plain.extend(entries);
            self.stacks = None;
        }
        Step::Taken
    }

    /// Takes a refused step back: the stacks are as they were after the token before.
    pub fn take_back(&mut self) {
        self.plain.truncate(self.low);
        self.plain.extend(self.before.drain(..).rev());
        self.low = self.plain.len();
        match (&mut self.stacks, &self.tops_before) {
            (Some(stacks), Some(tops)) => stacks.tops.clone_from(tops),
            (stacks, _) => *stacks = None,
        }
    }

    /// Goes on with a plain stack cut down to a height, with a nonterminal on top that
    /// stands for everything from there up to the token at an index.
    pub fn give_up(&mut self, stack: &[Entry], height: usize, nonterminal: u16, upto: u32) {
        let value = stack
            .get(height)
            .map_or(Ref::token(upto), |entry| entry.value);
        self.stacks = None;
        self.plain = stack[..height].to_vec();
        let below = self.plain[height - 1].state;
        self.plain.push(Entry {
            state: self.tables.goto(below, nonterminal),
            value,
        });
    }

    /// The stacks as they are, one entry a symbol.
    pub fn plain_stacks(&mut self) -> Vec<Vec<Entry>> {
        match &mut self.stacks {
            None => vec![self.plain.clone()],
            Some(stacks) => stacks.plain_stacks(&self.plain),
        }
    }
}
