//! The LR(0) automaton (Knuth 1965): its states are sets of productions read up to a
//! dot.

use rustc_hash::FxHashMap;
use serde::{Deserialize, Serialize};

use super::grammar::{Grammar, Symbol};

/// A production with a dot before one of its symbols, or at its end.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug, Serialize, Deserialize)]
pub(crate) struct Item {
    pub production: u32,
    pub dot: u16,
}

/// One state.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub(crate) struct State {
    /// The items that brought the automaton here.
    pub kernel: Vec<Item>,
    /// Where each symbol leads.
    pub moves: Vec<(Symbol, u32)>,
    /// Productions of which nothing has been read yet.
    pub fresh: Vec<u32>,
}

impl State {
    /// Where a symbol leads.
    pub fn after(&self, symbol: Symbol) -> Option<u32> {
        self.moves
            .binary_search_by_key(&symbol, |&(s, _)| s)
            .ok()
            .map(|at| self.moves[at].1)
    }

    /// Every item: the kernel, and fresh productions with the dot in front.
    pub fn items(&self) -> impl Iterator<Item = Item> + '_ {
        let fresh = self
            .fresh
            .iter()
            .map(|&production| Item { production, dot: 0 });
        self.kernel.iter().copied().chain(fresh)
    }
}

impl Grammar {
    /// The symbol after the dot.
    pub fn next(&self, item: Item) -> Option<Symbol> {
        self.productions[item.production as usize]
            .right
            .get(item.dot as usize)
            .copied()
    }
}

/// The grammar is too large for tables: they grow with the square of the forms that can stand
/// in the same places.
#[derive(Debug)]
pub(super) struct TooLarge;

/// So many times a form can begin in some state. A language of a hundred forms has some
/// ten thousand.
const MOST_BEGINNINGS: usize = 4_000_000;

/// So many cells the tables may have.
const MOST_CELLS: usize = 1 << 25;

/// The states of a grammar; state `i + 1` is the start for entry `i`, state 0 is none.
///
/// # Errors
/// There are too many, or too many forms can begin in them.
pub(super) fn states(grammar: &Grammar) -> Result<Vec<State>, TooLarge> {
    let mut states: Vec<State> = vec![State::default()];
    let mut known: FxHashMap<Vec<Item>, u32> = FxHashMap::default();
    for entry in &grammar.entries {
        let kernel = vec![Item {
            production: entry.production,
            dot: 0,
        }];
        known.insert(kernel.clone(), states.len() as u32);
        states.push(State {
            kernel,
            ..State::default()
        });
    }
    let mut at = 1;
    let mut beginnings = 0;
    let mut steps = Steps::new(grammar);
    let mut begins = Beginnings::new(grammar);
    while at < states.len() {
        states[at].fresh = begins.of(at, &states[at].kernel);
        beginnings += states[at].fresh.len();
        let cells = states.len() * (grammar.terminals.len() + grammar.nonterminals.len());
        if beginnings > MOST_BEGINNINGS || cells > MOST_CELLS {
            return Err(TooLarge);
        }
        for item in states[at].items() {
            if let Some(symbol) = grammar.next(item) {
                let dot = item.dot + 1;
                steps.add(symbol, Item { dot, ..item });
            }
        }
        states[at].moves.reserve_exact(steps.symbols.len());
        steps.take(|symbol, kernel| {
            let target = known.get(kernel).copied().unwrap_or_else(|| {
                let next = states.len() as u32;
                known.insert(kernel.to_vec(), next);
                states.push(State {
                    kernel: kernel.to_vec(),
                    ..State::default()
                });
                next
            });
            states[at].moves.push((symbol, target));
        });
        at += 1;
    }
    Ok(states)
}

/// The steps that can be taken from a state, by symbol; used again for each state.
struct Steps {
    /// What each symbol leads to: the terminals first.
    items: Vec<Vec<Item>>,
    terminals: usize,
    /// The symbols that lead to anything.
    symbols: Vec<Symbol>,
}

impl Steps {
    fn new(grammar: &Grammar) -> Steps {
        let terminals = grammar.terminals.len();
        Steps {
            items: vec![Vec::new(); terminals + grammar.nonterminals.len()],
            terminals,
            symbols: Vec::new(),
        }
    }

    fn of(&mut self, symbol: Symbol) -> &mut Vec<Item> {
        match symbol {
            Symbol::Terminal(t) => &mut self.items[t as usize],
            Symbol::Nonterminal(n) => &mut self.items[self.terminals + n as usize],
        }
    }

    fn add(&mut self, symbol: Symbol, item: Item) {
        let items = self.of(symbol);
        let is_first = items.is_empty();
        items.push(item);
        if is_first {
            self.symbols.push(symbol);
        }
    }

    /// Gives each symbol with the kernel that it leads to, in order, and forgets them.
    fn take(&mut self, mut each: impl FnMut(Symbol, &[Item])) {
        let mut symbols = std::mem::take(&mut self.symbols);
        symbols.sort_unstable();
        for &symbol in &symbols {
            let items = self.of(symbol);
            items.sort_unstable();
            items.dedup();
            each(symbol, items);
            items.clear();
        }
        symbols.clear();
        self.symbols = symbols;
    }
}

/// What can begin at the dots of kernels; used again for each of them.
struct Beginnings<'a> {
    grammar: &'a Grammar,
    /// The state in which each nonterminal was come to last.
    seen: Vec<usize>,
    work: Vec<u16>,
    productions: Vec<u32>,
}

impl Beginnings<'_> {
    fn new(grammar: &Grammar) -> Beginnings<'_> {
        Beginnings {
            grammar,
            seen: vec![0; grammar.nonterminals.len()],
            work: Vec::new(),
            productions: Vec::new(),
        }
    }

    /// The productions that can begin at the dots of a kernel, that of a state.
    fn of(&mut self, state: usize, kernel: &[Item]) -> Vec<u32> {
        self.productions.clear();
        for &item in kernel {
            self.visit(state, item);
        }
        while let Some(nonterminal) = self.work.pop() {
            for &production in &self.grammar.of[nonterminal as usize] {
                self.productions.push(production);
                self.visit(state, Item { production, dot: 0 });
            }
        }
        self.productions.sort_unstable();
        self.productions.clone()
    }

    fn visit(&mut self, state: usize, item: Item) {
        if let Some(Symbol::Nonterminal(n)) = self.grammar.next(item)
            && std::mem::replace(&mut self.seen[n as usize], state) != state
        {
            self.work.push(n);
        }
    }
}
