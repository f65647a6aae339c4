//! Patterns as one nondeterministic automaton (Thompson 1968, "Regular expression
//! search algorithm").

use rustc_hash::FxHashMap;

use super::automaton::{Automaton, DEAD};
use crate::definition::{CharSet, Pattern};

/// A state: where it leads without and with a character.
#[derive(Clone, Debug, Default)]
pub(super) struct State {
    /// Moves that read nothing.
    pub free: Vec<u32>,
    /// A move that reads one character of a set, by the set's index.
    pub reads: Option<(u32, u32)>,
    /// The token kind recognised here.
    pub accepts: Option<u16>,
}

/// The automaton; state 0 is the start.
#[derive(Debug)]
pub(super) struct Nfa {
    pub states: Vec<State>,
    /// Every set of characters that a move reads, each once.
    pub sets: Vec<CharSet>,
    /// Whether a part of a pattern would need too large a table.
    pub too_large: bool,
}

impl Nfa {
    /// One automaton for all patterns, each with the kind it recognises.
    pub fn new(patterns: &[(u16, Pattern)]) -> Nfa {
        let mut nfa = Nfa {
            states: vec![State::default()],
            sets: Vec::new(),
            too_large: false,
        };
        for (kind, pattern) in patterns {
            let start = nfa.state();
            nfa.states[0].free.push(start);
            let end = nfa.add(pattern, start);
            nfa.states[end as usize].accepts = Some(*kind);
        }
        nfa
    }

    /// The kind recognised where the automaton is in all of some states.
    pub fn accepted(&self, states: &[u32], rank: &FxHashMap<u16, usize>) -> Option<u16> {
        let accepts = states
            .iter()
            .filter_map(|&s| self.states[s as usize].accepts);
        accepts.min_by_key(|kind| rank[kind])
    }

    fn state(&mut self) -> u32 {
        self.states.push(State::default());
        self.states.len() as u32 - 1
    }

    fn read(&mut self, from: u32, set: &CharSet) -> u32 {
        let to = self.state();
        self.read_to(from, set, to);
        to
    }

    fn read_to(&mut self, from: u32, set: &CharSet, to: u32) {
        let index = self.sets.iter().position(|s| s == set).unwrap_or_else(|| {
            self.sets.push(set.clone());
            self.sets.len() - 1
        });
        let middle = self.state();
        self.states[from as usize].free.push(middle);
        self.states[middle as usize].reads = Some((index as u32, to));
    }

    fn link(&mut self, from: u32, to: u32) {
        self.states[from as usize].free.push(to);
    }

    /// Adds a pattern that starts in a state; gives the state in which it ends.
    fn add(&mut self, pattern: &Pattern, from: u32) -> u32 {
        match pattern {
            // Of what nests, only the opening is regular; the rest is counted.
            Pattern::Literal(text) | Pattern::Nested(text, _) => text
                .chars()
                .fold(from, |at, c| self.read(at, &CharSet::single(c))),
            Pattern::Class(set) => self.read(from, set),
            Pattern::Sequence(parts) => parts.iter().fold(from, |at, part| self.add(part, at)),
            Pattern::Choice(parts) => {
                let end = self.state();
                for part in parts {
                    let start = self.state();
                    self.link(from, start);
                    let last = self.add(part, start);
                    self.link(last, end);
                }
                end
            }
            Pattern::Optional(part) => {
                let last = self.add(part, from);
                let end = self.state();
                self.link(from, end);
                self.link(last, end);
                end
            }
            Pattern::Star(part) => {
                let turn = self.state();
                self.link(from, turn);
                let last = self.add(part, turn);
                self.link(last, turn);
                let end = self.state();
                self.link(turn, end);
                end
            }
            Pattern::Plus(part) => {
                let turn = self.state();
                self.link(from, turn);
                let last = self.add(part, turn);
                self.link(last, turn);
                let end = self.state();
                self.link(last, end);
                end
            }
            Pattern::Except(part, but) => self.except(part, but, from),
        }
    }

    /// Adds what one pattern matches and another does not: both are run at once by an
    /// automaton of their own, whose states become states here.
    fn except(&mut self, part: &Pattern, but: &Pattern, from: u32) -> u32 {
        const PART: u16 = 0;
        const BUT: u16 = 1;
        let end = self.state();
        // On a tie the first is recognised: what both match.
        let both = [(BUT, but.clone()), (PART, part.clone())];
        let Some(automaton) = Automaton::new(&both) else {
            self.too_large = true;
            return end;
        };
        let first = self.states.len() as u32;
        for _ in 0..automaton.count() {
            self.state();
        }
        self.link(from, first + automaton.start());
        for state in 0..automaton.count() {
            for (set, to) in automaton.moves_from(state) {
                if to != DEAD {
                    self.read_to(first + state, &set, first + to);
                }
            }
            if automaton.accepted(state) == Some(PART) {
                self.link(first + state, end);
            }
        }
        end
    }
}

/// The place of each kind among the patterns: on a tie the first wins.
pub(super) fn ranks(patterns: &[(u16, Pattern)]) -> FxHashMap<u16, usize> {
    let kinds = patterns.iter().map(|(kind, _)| *kind);
    kinds.zip(0..).collect()
}

/// What is reached from states without reading; used again for each set of them.
pub(super) struct Closure<'a> {
    nfa: &'a Nfa,
    /// In which turn each state was reached last.
    reached: Vec<u32>,
    turn: u32,
    seen: Vec<u32>,
}

impl<'a> Closure<'a> {
    pub fn new(nfa: &'a Nfa) -> Closure<'a> {
        Closure {
            nfa,
            reached: vec![0; nfa.states.len()],
            turn: 0,
            seen: Vec::new(),
        }
    }

    /// The states reached from some, which are taken away, sorted.
    pub fn of(&mut self, from: &mut Vec<u32>) -> &[u32] {
        self.turn += 1;
        self.seen.clear();
        while let Some(state) = from.pop() {
            if std::mem::replace(&mut self.reached[state as usize], self.turn) == self.turn {
                continue;
            }
            let node = &self.nfa.states[state as usize];
            // States that only pass through need not be told apart later.
            if node.reads.is_some() || node.accepts.is_some() {
                self.seen.push(state);
            }
            from.extend(&node.free);
        }
        self.seen.sort_unstable();
        &self.seen
    }
}

/// Some patterns, asked about a text each: for a few texts that costs less than an automaton
/// that has only one state at a time.
pub(super) struct Matching {
    nfa: Nfa,
    rank: FxHashMap<u16, usize>,
    /// The states before anything has been read.
    start: Vec<u32>,
}

impl Matching {
    pub fn new(patterns: &[(u16, Pattern)]) -> Matching {
        let nfa = Nfa::new(patterns);
        let start = Closure::new(&nfa).of(&mut vec![0]).to_vec();
        Matching {
            nfa,
            rank: ranks(patterns),
            start,
        }
    }

    /// The kind that a whole text is recognised as.
    pub fn whole(&self, text: &str) -> Option<u16> {
        self.nfa.accepted(&self.after(text), &self.rank)
    }

    /// Whether anything is recognised that begins with a text.
    pub fn can_begin_with(&self, text: &str) -> bool {
        let mut work = self.after(text);
        let mut seen = vec![false; self.nfa.states.len()];
        while let Some(state) = work.pop() {
            let node = &self.nfa.states[state as usize];
            if node.accepts.is_some() {
                return true;
            }
            if !std::mem::replace(&mut seen[state as usize], true) {
                work.extend(&node.free);
                work.extend(node.reads.map(|(_, to)| to));
            }
        }
        false
    }

    /// The states after a text.
    fn after(&self, text: &str) -> Vec<u32> {
        let nfa = &self.nfa;
        let read = |states: &[u32], c: char| -> Vec<u32> {
            let reads = states
                .iter()
                .filter_map(|&at| nfa.states[at as usize].reads);
            let read = reads.filter(|(set, _)| nfa.sets[*set as usize].contains(c));
            read.map(|(_, to)| to).collect()
        };
        let mut closure = None;
        let mut states = self.start.clone();
        for c in text.chars() {
            let mut next = read(&states, c);
            if next.is_empty() {
                return next;
            }
            let closure = closure.get_or_insert_with(|| Closure::new(nfa));
            states = closure.of(&mut next).to_vec();
        }
        states
    }
}
