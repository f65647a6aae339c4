//! LALR(1) lookaheads (DeRemer and Pennello 1982, "Efficient computation of LALR(1)
//! look-ahead sets").

use super::grammar::{Grammar, Symbol};
use super::items::State;
use super::tables::Tables;
use super::terminal_sets::TerminalSets;

/// Which nonterminals can be empty, and with which terminals each can begin.
pub(super) fn first_sets(grammar: &Grammar) -> (Vec<bool>, TerminalSets) {
    let count = grammar.nonterminals.len();
    let mut empty = vec![false; count];
    let mut first = TerminalSets::new(count, grammar.terminals.len());
    let mut changed = true;
    while changed {
        changed = false;
        for production in &grammar.productions {
            let left = production.left as usize;
            let mut all_empty = true;
            for &symbol in &production.right {
                match symbol {
                    Symbol::Terminal(t) => {
                        changed |= first.insert(left, t);
                        all_empty = false;
                    }
                    Symbol::Nonterminal(n) => {
                        changed |= first.extend(left, n as usize);
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

/// The productions that can end in each state, with the terminals that may follow then.
pub(super) struct Lookaheads {
    /// Where the productions of each state begin, and behind the last where they end.
    starts: Vec<usize>,
    productions: Vec<u32>,
    sets: TerminalSets,
}

impl Lookaheads {
    /// Those of a state.
    pub fn of(&self, state: usize) -> impl Iterator<Item = (u32, &[u64])> {
        let all = self.starts[state]..self.starts[state + 1];
        all.map(|at| (self.productions[at], self.sets.of(at)))
    }
}

/// For each state, the productions that can end there with the terminals that may
/// follow.
pub(super) fn lookaheads(
    grammar: &Grammar,
    states: &[State],
    tables: &Tables,
    empty: &[bool],
) -> Lookaheads {
    let transitions = Transitions::new(grammar, states);
    let (mut follow, reads) = transitions.direct(grammar, states, tables, empty);
    propagate(&mut follow, transitions.list.len(), reads);
    let mut includes = Vec::new();
    let mut ends = Vec::new();
    let mut ways = Ways {
        grammar,
        tables,
        empty,
        transitions: &transitions,
        latest: vec![Way::default(); grammar.productions.len()],
        includes: Vec::new(),
    };
    for (index, &(from, nonterminal)) in (0..).zip(&transitions.list) {
        for &id in &grammar.of[nonterminal as usize] {
            let way = ways.of(from, id);
            let inner = &ways.includes[way.includes.0..way.includes.1];
            includes.extend(inner.iter().map(|&inner| (index, inner)));
            ends.push((way.end, (id, index)));
        }
    }
    propagate(&mut follow, transitions.list.len(), includes);
    let ends = Grouped::new(states.len(), ends);
    let mut found = Lookaheads {
        starts: vec![0],
        productions: Vec::new(),
        sets: TerminalSets::new(0, grammar.terminals.len()),
    };
    let mut sources = Vec::new();
    for state in 0..states.len() {
        sources.clear();
        sources.extend_from_slice(ends.of(state));
        sources.sort_unstable();
        for alike in sources.chunk_by(|(one, _), (other, _)| one == other) {
            found.productions.push(alike[0].0);
            let all = alike.iter().map(|&(_, source)| source as usize);
            found.sets.push_union(&follow, all);
        }
        found.starts.push(found.productions.len());
    }
    found
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
#[derive(Clone, Copy, Default)]
struct Way {
    /// The state, and how many of the symbols are behind it; none has been gone from the state 0.
    start: (u32, usize),
    /// Where the transitions on it stand after which the production can be at its end.
    includes: (usize, usize),
    end: u32,
}

/// The ways of productions. All that come to the same state with their first symbol go on alike,
/// and most productions come to one state wherever they begin.
struct Ways<'a> {
    grammar: &'a Grammar,
    tables: &'a Tables,
    empty: &'a [bool],
    transitions: &'a Transitions,
    /// The way that each production has been gone last.
    latest: Vec<Way>,
    includes: Vec<u32>,
}

impl Ways<'_> {
    fn of(&mut self, from: u32, production: u32) -> Way {
        let right = &self.grammar.productions[production as usize].right;
        let start = match right.first() {
            // What begins with a nonterminal has a transition from this very state.
            Some(&symbol @ Symbol::Terminal(_)) => (self.tables.after(from, symbol), 1),
            Some(Symbol::Nonterminal(_)) | None => (from, 0),
        };
        let latest = self.latest[production as usize];
        if latest.start == start {
            return latest;
        }
        let way = self.way(start, &right[start.1..]);
        self.latest[production as usize] = way;
        way
    }

    fn way(&mut self, start: (u32, usize), symbols: &[Symbol]) -> Way {
        let begin = self.includes.len();
        let mut end = start.0;
        for (at, &symbol) in symbols.iter().enumerate() {
            if let Symbol::Nonterminal(n) = symbol
                && symbols[at + 1..]
                    .iter()
                    .all(|s| can_be_empty(*s, self.empty))
            {
                self.includes.push(self.transitions.number(end, n));
            }
            end = self.tables.after(end, symbol);
        }
        Way {
            start,
            includes: (begin, self.includes.len()),
            end,
        }
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
        tables: &Tables,
        empty: &[bool],
    ) -> (TerminalSets, Vec<(u32, u32)>) {
        let mut sets = TerminalSets::new(self.list.len(), grammar.terminals.len());
        let mut reads = Vec::new();
        let own = self.list.len() - grammar.entries.len();
        for set in own..self.list.len() {
            sets.insert(set, 0);
        }
        for (index, &(from, nonterminal)) in self.list[..own].iter().enumerate() {
            let to = tables.goto(from, nonterminal);
            for &(symbol, _) in &states[to as usize].moves {
                match symbol {
                    Symbol::Terminal(t) => {
                        sets.insert(index, t);
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
fn propagate(sets: &mut TerminalSets, count: usize, dependents: Vec<(u32, u32)>) {
    let dependents = Grouped::new(count, dependents);
    let mut work: Vec<u32> = (0..count as u32).collect();
    let mut waiting = vec![true; count];
    while let Some(source) = work.pop() {
        waiting[source as usize] = false;
        for &dependent in dependents.of(source as usize) {
            let grown = sets.extend(dependent as usize, source as usize);
            if grown && !std::mem::replace(&mut waiting[dependent as usize], true) {
                work.push(dependent);
            }
        }
    }
}
