//! A reading of a wrong text: what is mended changes the stack, and what the stack was before the
//! last few tokens can be asked for, since the slip may be there.

use super::Nonterminal;
use super::aside::Gap;
use super::assembly::Assembly;
use super::parser::{Run, Step};
use super::stacks::Entry;
use crate::lexing::Token;

/// So many tokens are looked left of the one where reading got stuck.
const LEFT: usize = 8;

/// What the stacks were before a token.
pub(super) struct Undo {
    /// Up to this height the plain stack is as it was.
    low: usize,
    /// What stood above; without what it carries.
    above: Vec<Entry>,
    /// The stacks side by side: the height of the plain stack on which each stands, and what it has
    /// above.
    forks: Vec<(u32, Vec<Entry>)>,
}

/// Stacks side by side with more entries than this are not remembered.
const MOST_REMEMBERED: usize = 256;

impl Run<'_> {
    /// From here on the text is known to be wrong: what can be read in two ways does not matter.
    pub fn is_wrong(&mut self) {
        self.is_mended = true;
    }

    /// Goes on with one of the stacks alone, where there are several.
    pub fn settle_on(&mut self, number: usize) {
        let Some(stacks) = self.forked.take() else {
            return;
        };
        match stacks.ways_down().into_iter().nth(number) {
            Some((height, entries)) => self.settle(&stacks.forest, height + 1, &entries),
            None => self.is_lost = true,
        }
    }

    /// Goes on with a nonterminal that stands for everything from a height of the stack up to the
    /// token at an index.
    pub fn give_up(&mut self, height: usize, nonterminal: u16, upto: u32) {
        let below = self.plain[height - 1].state;
        let gap = Gap {
            state: self.tables.goto(below, nonterminal),
            is_helper: self.grammar.nonterminals[nonterminal as usize] == Nonterminal::Helper,
            upto,
        };
        self.assembly.cut_to_gap(&mut self.plain, height, gap);
        self.recent.clear();
    }

    /// Where what stands on top of the stack starts; nothing may have been read of it.
    pub fn top_start(&self, next: usize) -> usize {
        let top = self.plain.last();
        top.map_or(next, |entry| entry.start as usize).min(next)
    }

    /// Takes a token that is not in the text. A literal is not in the tree either; of anything
    /// else nobody knows what it would be.
    pub fn supply(&mut self, index: u32, token: Token, is_literal: bool) {
        if !is_literal {
            self.settle_on(0);
        }
        let is_taken = self.step(index, token) == Step::Taken;
        match &self.forked {
            None if is_taken => Assembly::leave_gap(&mut self.plain),
            None => {}
            Some(_) => self.is_lost |= !is_literal,
        }
        self.recent.clear();
    }

    /// Keeps how the stacks are before a token.
    pub(super) fn remember(&mut self) {
        let forks = self.forked.as_ref().map(|stacks| stacks.ways(&self.plain));
        let forks = forks.unwrap_or_default();
        if forks.iter().map(|(_, above)| above.len()).sum::<usize>() > MOST_REMEMBERED {
            self.recent.clear();
            return;
        }
        self.recent.push_back(Undo {
            low: self.plain.len(),
            above: Vec::new(),
            forks,
        });
        if self.recent.len() > LEFT {
            self.recent.pop_front();
        }
    }

    /// Keeps what the reductions decided on are about to take off the plain stack.
    pub(super) fn remember_decided(&mut self) {
        let mut height = self.plain.len();
        let mut low = height;
        for (production, _) in &self.decided {
            height -= self.rules.rule(*production).length as usize;
            low = low.min(height);
            height += 1;
        }
        self.remember_cut(low);
    }

    /// Keeps what is about to be taken off the plain stack down to a height.
    pub(super) fn remember_cut(&mut self, low: usize) {
        if let Some(undo) = self.recent.back_mut()
            && low < undo.low
        {
            let mut above = self.plain[low..undo.low].to_vec();
            above.append(&mut undo.above);
            *undo = Undo {
                low,
                above,
                forks: std::mem::take(&mut undo.forks),
            };
        }
    }

    /// The stacks before each of the last few tokens, the nearest first.
    pub fn stacks_before(&self) -> Vec<Vec<Vec<Entry>>> {
        let mut stack = self.plain.clone();
        let undone = self.recent.iter().rev().map(|undo| {
            stack.truncate(undo.low);
            stack.extend_from_slice(&undo.above);
            if undo.forks.is_empty() {
                return vec![stack.clone()];
            }
            let forks = undo.forks.iter();
            forks
                .map(|(height, above)| {
                    let mut own = stack[..=*height as usize].to_vec();
                    own.extend_from_slice(above);
                    own
                })
                .collect()
        });
        undone.collect()
    }
}
