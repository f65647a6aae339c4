//! Tokens that may be taken as one terminal or another, as the first with which the text can go on.
//! One that touches the one before it may be what only such a token can be, or what it is
//! anywhere; a sign may be an operator. That is asked of the whole stack:
//! the tables alone know what can follow a form somewhere, not what can follow it here.

use rustc_hash::FxHashSet;

use super::parser::Run;
use super::plans::Plan;
use super::signs::Choices;
use super::stacks::Entry;
use super::stacks::{Stacks, is_entry};
use super::tables::{Action, Lookahead};
use crate::definition::Fixity;
use crate::lexing::Token;

/// Where a terminal has been refused on a plain stack: a height, the entry there by its first
/// token and its state, and a state that would stand on it.
pub(super) type Refusals = FxHashSet<(u16, u32, u32, u32, u32)>;

impl Lookahead {
    /// One terminal and no other.
    pub fn only(terminal: u16) -> Lookahead {
        Lookahead {
            main: [None, Some(terminal)],
            soft: [None, None],
        }
    }
}

/// As what a token has been taken.
#[derive(Clone, Copy)]
pub(super) struct Taken {
    /// How it stands, if it is a sign that is no such operator.
    pub mistaken: Option<Fixity>,
}

/// How a token is taken on several stacks.
#[derive(Clone, Copy)]
pub(super) enum Ways {
    /// As each terminal that it can be.
    All(Lookahead),
    /// On each stack as the first that it can be there.
    First(Choices),
}

impl Ways {
    /// Whether it is the end of the text.
    pub fn is_end(&self) -> bool {
        match self {
            Ways::All(terminals) => terminals.main == [None, Some(0)],
            Ways::First(_) => false,
        }
    }
}

impl Run<'_> {
    /// The terminals among which it has to be decided as what a token is taken, if there are some.
    pub(super) fn choices(&mut self, index: u32, token: Token) -> Option<Choices> {
        let grammar = self.grammar;
        if grammar.signs.has(token.kind) {
            self.finish_declaration(index);
            let signs = &self.assembly.signs;
            let text = signs.text(index);
            return Some(grammar.sign_choices(&signs.signs, text, index, token));
        }
        match grammar.of_kind[token.kind.0 as usize] {
            (Some(loose), Some(tight)) if token.tight() && token.also().is_none() => {
                Some(Choices::of(&[tight, loose]))
            }
            _ => None,
        }
    }

    /// As what the token at hand is taken on the plain stack.
    pub(super) fn chosen(&mut self, index: u32, choices: &Choices) -> u16 {
        let [right, mistaken] = [choices.right(), choices.mistaken()];
        let last = right.last().copied().unwrap_or_default();
        let can = |run: &mut Self, terminals: &[u16]| {
            let mut all = terminals.iter().copied();
            all.find(|&terminal| !run.refuses(terminal))
        };
        if mistaken.is_empty() {
            let before = right.split_last().map_or(&[][..], |(_, before)| before);
            return can(self, before).unwrap_or(last);
        }
        let right = can(self, right);
        let found = right.or_else(|| can(self, mistaken));
        let fixity = found.and_then(|found| self.grammar.terminals[found as usize].fixity);
        self.assembly
            .signs
            .taken(index, fixity.filter(|_| right.is_none()));
        // It is refused, whatever it is, if it is nothing of these.
        found.unwrap_or(last)
    }

    /// Puts the form together that declares a sign, if it has just ended: what comes next may be
    /// that sign.
    fn finish_declaration(&mut self, index: u32) {
        if self.forked.is_some() {
            return;
        }
        let mut height = self.plain.len();
        let mut state = self.plain[height - 1].state;
        let mut is_on_top = true;
        self.decided.clear();
        while let Some(id) = self.tables.sole(state) {
            let rule = self.rules.rule(id);
            if rule.length == 0 || rule.plan == Plan::Accept {
                break;
            }
            height -= rule.length as usize - usize::from(!is_on_top);
            is_on_top = false;
            state = self.tables.goto(self.plain[height - 1].state, rule.left);
            self.decided.push((id, state));
            if self.grammar.declares(id) {
                self.carry_out(index);
                break;
            }
        }
        self.decided.clear();
    }

    /// Whether a terminal cannot be taken on the plain stack, whatever is reduced before. What has
    /// been walked in vain is noted, so that a chain of operators is not walked again at each.
    fn refuses(&mut self, terminal: u16) -> bool {
        let mut walked = Vec::new();
        let mut height = self.plain.len() - 1;
        let mut state = self.plain[height].state;
        // States that reductions would put on the entry at `height`, but for the topmost.
        let mut above: Vec<u32> = Vec::new();
        let mut is_above = false;
        let refused = loop {
            match self.tables.action(state, terminal) {
                Action::Error => break true,
                Action::Fork(_) | Action::Shift(_) | Action::Leaf(_) => return false,
                Action::Reduce(id) => {
                    let rule = self.rules.rule(id);
                    if rule.plan == Plan::Accept {
                        return false;
                    }
                    let mut length = rule.length as usize;
                    let added = above.len() + usize::from(is_above);
                    if length >= added {
                        height -= length - added;
                        above.clear();
                    } else {
                        if length > 0 {
                            length -= 1;
                        } else {
                            above.push(state);
                        }
                        above.truncate(above.len() - length);
                    }
                    let below = above.last().copied();
                    state = self
                        .tables
                        .goto(below.unwrap_or(self.plain[height].state), rule.left);
                    is_above = true;
                    if above.is_empty() && !self.is_mended {
                        let entry = self.plain[height];
                        let place = (terminal, height as u32, entry.start, entry.state, state);
                        if self.refusals.contains(&place) {
                            break true;
                        }
                        walked.push(place);
                    }
                }
            }
        };
        self.refusals.extend(walked);
        refused
    }
}

/// A state that reductions would put on a node, or on another such state.
#[derive(Clone, Copy, PartialEq, Eq, Hash)]
struct Virtual {
    state: u32,
    below: Below,
}

#[derive(Clone, Copy, PartialEq, Eq, Hash)]
enum Below {
    Node(u32),
    Virtual(u32),
}

impl Stacks<'_> {
    /// Takes a token on each stack as the first of the terminals that it can be there; nothing if no
    /// stack can.
    pub(super) fn take_first(
        &mut self,
        plain: &[Entry],
        index: u32,
        choices: &Choices,
    ) -> Option<Taken> {
        if self.take_first_of(plain, index, choices.right()) {
            return Some(Taken { mistaken: None });
        }
        let mut mistaken = choices.mistaken().iter();
        let found = mistaken.find(|&&terminal| self.take_first_of(plain, index, &[terminal]))?;
        Some(Taken {
            mistaken: self.grammar.terminals[*found as usize].fixity,
        })
    }

    fn take_first_of(&mut self, plain: &[Entry], index: u32, terminals: &[u16]) -> bool {
        let tops = self.tops.clone();
        let mut left = tops.clone();
        let mut taken = Vec::new();
        for &terminal in terminals {
            let (here, others): (Vec<u32>, Vec<u32>) = left
                .iter()
                .partition(|&&top| self.can_take(plain, top, terminal));
            left = others;
            if here.is_empty() {
                continue;
            }
            self.tops = here;
            let terminals = Lookahead::only(terminal);
            self.reduce(plain, index, terminals);
            if self.shift(index, terminals) {
                taken.extend(std::mem::take(&mut self.tops));
            }
        }
        self.tops = if taken.is_empty() {
            tops
        } else {
            self.merged(&taken)
        };
        !taken.is_empty()
    }

    /// Whether a stack can take a terminal, whatever is reduced before.
    fn can_take(&mut self, plain: &[Entry], top: u32, terminal: u16) -> bool {
        let (grammar, tables) = (self.grammar, self.tables);
        let mut made: Vec<Virtual> = Vec::new();
        let mut seen: FxHashSet<Virtual> = FxHashSet::default();
        let mut work = vec![Below::Node(top)];
        while let Some(at) = work.pop() {
            let state = self.state_at(&made, at);
            for action in tables.each(tables.action(state, terminal)) {
                let id = match action {
                    Action::Shift(_) | Action::Leaf(_) => return true,
                    Action::Reduce(id) if !is_entry(grammar, id) => id,
                    Action::Reduce(_) | Action::Error | Action::Fork(_) => continue,
                };
                let production = &grammar.productions[id as usize];
                for below in self.ends(plain, &made, at, production.right.len()) {
                    let state = tables.goto(self.state_at(&made, below), production.left);
                    let next = Virtual { state, below };
                    if state != 0 && seen.insert(next) {
                        made.push(next);
                        work.push(Below::Virtual(made.len() as u32 - 1));
                    }
                }
            }
        }
        false
    }

    fn state_at(&self, made: &[Virtual], at: Below) -> u32 {
        match at {
            Below::Node(node) => self.state_of(node),
            Below::Virtual(index) => made[index as usize].state,
        }
    }

    /// Where the ways down of a length end, each once.
    fn ends(
        &mut self,
        plain: &[Entry],
        made: &[Virtual],
        from: Below,
        length: usize,
    ) -> Vec<Below> {
        let mut ends = vec![from];
        for _ in 0..length {
            let mut next = FxHashSet::default();
            for at in ends {
                match at {
                    Below::Virtual(index) => {
                        next.insert(made[index as usize].below);
                    }
                    Below::Node(node) => {
                        let below = self.below(plain, node);
                        next.extend(below.into_iter().map(Below::Node));
                    }
                }
            }
            ends = next.into_iter().collect();
        }
        ends
    }
}
