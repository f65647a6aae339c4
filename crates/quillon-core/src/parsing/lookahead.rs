//! LALR(1) lookaheads (DeRemer and Pennello 1982, "Efficient computation of LALR(1)
//! look-ahead sets").

use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};

use super::grammar::{Grammar, Symbol};
use super::items::State;

/// A set of terminals.
#[derive(Clone, Default, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub(crate) struct TerminalSet(Vec<u64>);

impl TerminalSet {
    pub fn new(terminals: usize) -> TerminalSet {
        TerminalSet(vec![0; terminals.div_ceil(64)])
    }

    pub fn insert(&mut self, terminal: u16) -> bool {
        let word = &mut self.0[terminal as usize / 64];
        let bit = 1 << (terminal % 64);
        let new = *word & bit == 0;
        *word |= bit;
        new
    }

    pub fn contains(&self, terminal: u16) -> bool {
        self.0[terminal as usize / 64] >> (terminal % 64) & 1 == 1
    }

    /// Adds all of another set; whether anything was new.
    pub fn extend(&mut self, other: &TerminalSet) -> bool {
        let mut grown = false;
        for (mine, theirs) in self.0.iter_mut().zip(&other.0) {
            grown |= *theirs & !*mine != 0;
            *mine |= theirs;
        }
        grown
    }

    /// Adds all of another set. Calls a function with each terminal that is new, and puts the others
    /// into `contested`.
    pub fn claim(
        &mut self,
        other: &TerminalSet,
        contested: &mut TerminalSet,
        mut new: impl FnMut(u16),
    ) {
        let words = self.0.iter_mut().zip(&mut contested.0).zip(&other.0);
        for (first, ((mine, both), &theirs)) in (0..).step_by(64).zip(words) {
            bits(theirs & !*mine).for_each(|bit| new(first + bit));
            *both |= theirs & *mine;
            *mine |= theirs;
        }
    }

    pub fn iter(&self) -> impl Iterator<Item = u16> + '_ {
        let words = (0..).step_by(64).zip(&self.0);
        words.flat_map(|(first, &word)| bits(word).map(move |bit| first + bit))
    }
}

/// The numbers of the bits that are set, the least first.
fn bits(word: u64) -> impl Iterator<Item = u16> {
    let rest = std::iter::successors(Some(word), |left| Some(left & left.wrapping_sub(1)));
    rest.take_while(|left| *left != 0)
        .map(|left| left.trailing_zeros() as u16)
}

/// Which nonterminals can be empty, and with which terminals each can begin.
pub(crate) fn first_sets(grammar: &Grammar) -> (Vec<bool>, Vec<TerminalSet>) {
    let count = grammar.nonterminals.len();
    let mut empty = vec![false; count];
    let mut first = vec![TerminalSet::new(grammar.terminals.len()); count];
    let mut changed = true;
    while changed {
        changed = false;
        for production in &grammar.productions {
            let left = production.left as usize;
            let mut all_empty = true;
            for &symbol in &production.right {
                match symbol {
                    Symbol::Terminal(t) => {
                        changed |= first[left].insert(t);
                        all_empty = false;
                    }
                    Symbol::Nonterminal(n) => {
                        let other = first[n as usize].clone();
                        changed |= first[left].extend(&other);
                        all_empty = empty[n as usize];
                    }
                }
                if !all_empty {
                    break;
                }
            }
            if all_empty && !empty[left] {
                empty[left] = true;
                changed = true;
            }
        }
    }
    (empty, first)
}

/// For each state, the productions that can end there with the terminals that may
/// follow.
pub(super) fn lookaheads(
    grammar: &Grammar,
    states: &[State],
    empty: &[bool],
) -> Vec<Vec<(u32, TerminalSet)>> {
    let transitions = Transitions::new(grammar, states);
    let (mut follow, reads) = transitions.direct(grammar, states, empty);
    propagate(&mut follow, reads);
    let mut includes = Vec::new();
    let mut ends = Vec::new();
    let mut ways = Ways {
        grammar,
        states,
        empty,
        transitions: &transitions,
        all: Vec::new(),
        known: FxHashMap::default(),
    };
    for (index, &(from, nonterminal)) in (0..).zip(&transitions.list) {
        for &id in &grammar.of[nonterminal as usize] {
            let way = ways.of(from, id);
            includes.extend(way.includes.iter().map(|&inner| (index, inner)));
            ends.push((way.end, (id, index)));
        }
    }
    propagate(&mut follow, includes);
    let ends = Grouped::new(states.len(), ends);
    let rows = (0..states.len()).map(|state| {
        let mut sources = ends.of(state).to_vec();
        sources.sort_unstable();
        let alike = sources.chunk_by(|(one, _), (other, _)| one == other);
        let row = alike.map(|alike| {
            let mut set = TerminalSet::new(grammar.terminals.len());
            for &(_, source) in alike {
                set.extend(&follow[source as usize]);
            }
            (alike[0].0, set)
        });
        row.collect()
    });
    rows.collect()
}

/// Things by a number, those of one number side by side.
struct Grouped<T> {
    /// Where the things of each number begin, and behind the last where they end.
    starts: Vec<usize>,
    things: Vec<T>,
}

impl<T: Copy + Default> Grouped<T> {
    /// Groups pairs of a number below `count` and a thing; those of one number stay in order.
    fn new(count: usize, pairs: Vec<(u32, T)>) -> Grouped<T> {
        let mut starts = vec![0; count + 1];
        for (number, _) in &pairs {
            starts[*number as usize + 1] += 1;
        }
        for at in 1..starts.len() {
            starts[at] += starts[at - 1];
        }
        let mut next = starts.clone();
        let mut things = vec![T::default(); pairs.len()];
        for (number, thing) in pairs {
            let at = &mut next[number as usize];
            things[*at] = thing;
            *at += 1;
        }
        Grouped { starts, things }
    }

    fn of(&self, number: usize) -> &[T] {
        &self.things[self.starts[number]..self.starts[number + 1]]
    }
}

/// Where a production leads from a state.
#[derive(Default)]
struct Way {
    /// The transitions on it after which the production can be at its end.
    includes: Vec<u32>,
    end: u32,
}

/// The ways of productions. All that come to the same state with their first symbol go on alike,
/// so each is gone once from there.
struct Ways<'a> {
    grammar: &'a Grammar,
    states: &'a [State],
    empty: &'a [bool],
    transitions: &'a Transitions,
    all: Vec<Way>,
    /// The number of each way among them.
    known: FxHashMap<(u32, u32), usize>,
}

impl Ways<'_> {
    fn of(&mut self, from: u32, production: u32) -> &Way {
        let right = &self.grammar.productions[production as usize].right;
        let first = match right.first() {
            // What begins with a nonterminal has a transition from this very state.
            Some(&symbol @ Symbol::Terminal(_)) => self.states[from as usize].after(symbol),
            Some(Symbol::Nonterminal(_)) | None => None,
        };
        let (start, at) = match first {
            Some(after) => (after, 1),
            None => (from, 0),
        };
        let key = (start << 1 | at as u32, production);
        let known = self.known.get(&key).copied();
        let number = known.unwrap_or_else(|| {
            let way = self.way(start, &right[at..]);
            self.all.push(way);
            let number = self.all.len() - 1;
            self.known.insert(key, number);
            number
        });
        &self.all[number]
    }

    fn way(&self, start: u32, symbols: &[Symbol]) -> Way {
        let mut way = Way {
            includes: Vec::new(),
            end: start,
        };
        for (at, &symbol) in symbols.iter().enumerate() {
            if let Symbol::Nonterminal(n) = symbol
                && symbols[at + 1..]
                    .iter()
                    .all(|s| can_be_empty(*s, self.empty))
            {
                way.includes.push(self.transitions.number(way.end, n));
            }
            way.end = self.states[way.end as usize]
                .after(symbol)
                .unwrap_or_default();
        }
        way
    }
}

fn can_be_empty(symbol: Symbol, empty: &[bool]) -> bool {
    matches!(symbol, Symbol::Nonterminal(n) if empty[n as usize])
}

/// The moves over nonterminals.
struct Transitions {
    list: Vec<(u32, u16)>,
    /// The number of each, a row of nonterminals for each state.
    numbers: Vec<u32>,
    nonterminals: usize,
}

impl Transitions {
    fn new(grammar: &Grammar, states: &[State]) -> Transitions {
        let mut list = Vec::new();
        let nonterminals = grammar.nonterminals.len();
        let mut numbers = vec![0; states.len() * nonterminals];
        let mut add = |state: u32, nonterminal: u16| {
            numbers[state as usize * nonterminals + nonterminal as usize] = list.len() as u32;
            list.push((state, nonterminal));
        };
        for (state, node) in states.iter().enumerate() {
            for &(symbol, _) in &node.moves {
                if let Symbol::Nonterminal(n) = symbol {
                    add(state as u32, n);
                }
            }
        }
        // The entries' own nonterminals stand on no right side; the end follows them.
        for (at, entry) in grammar.entries.iter().enumerate() {
            add(
                at as u32 + 1,
                grammar.productions[entry.production as usize].left,
            );
        }
        Transitions {
            list,
            numbers,
            nonterminals,
        }
    }

    /// The number of the move over a nonterminal from a state that has one.
    fn number(&self, state: u32, nonterminal: u16) -> u32 {
        self.numbers[state as usize * self.nonterminals + nonterminal as usize]
    }

    /// The terminals read directly after each transition; and each transition over nothing with
    /// one that it may follow.
    fn direct(
        &self,
        grammar: &Grammar,
        states: &[State],
        empty: &[bool],
    ) -> (Vec<TerminalSet>, Vec<(u32, u32)>) {
        let mut sets = vec![TerminalSet::new(grammar.terminals.len()); self.list.len()];
        let mut reads = Vec::new();
        let own = self.list.len() - grammar.entries.len();
        for set in &mut sets[own..] {
            set.insert(0);
        }
        for (index, &(from, nonterminal)) in self.list[..own].iter().enumerate() {
            let to = states[from as usize]
                .after(Symbol::Nonterminal(nonterminal))
                .unwrap_or_default();
            for &(symbol, _) in &states[to as usize].moves {
                match symbol {
                    Symbol::Terminal(t) => {
                        sets[index].insert(t);
                    }
                    Symbol::Nonterminal(n) if empty[n as usize] => {
                        reads.push((self.number(to, n), index as u32));
                    }
                    Symbol::Nonterminal(_) => {}
                }
            }
        }
        (sets, reads)
    }
}

/// Makes each set contain the sets it depends on, however indirectly; each pair is a set and one
/// that depends on it.
fn propagate(sets: &mut [TerminalSet], dependents: Vec<(u32, u32)>) {
    let dependents = Grouped::new(sets.len(), dependents);
    let mut work: Vec<u32> = (0..sets.len() as u32).collect();
    let mut waiting = vec![true; sets.len()];
    while let Some(source) = work.pop() {
        let source = source as usize;
        waiting[source] = false;
        // A set that depends on itself has all of it already.
        let set = std::mem::take(&mut sets[source]);
        for &dependent in dependents.of(source) {
            let grown = sets[dependent as usize].extend(&set);
            if grown && !std::mem::replace(&mut waiting[dependent as usize], true) {
                work.push(dependent);
            }
        }
        sets[source] = set;
    }
}
