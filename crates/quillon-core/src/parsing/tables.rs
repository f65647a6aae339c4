//! The parse tables: for each state and terminal what to do, with the precedence table
//! built in. Conflicts that precedence does not settle stay, and the parser follows
//! both ways.

use rustc_hash::{FxHashMap, FxHashSet};
use serde::{Deserialize, Serialize};

use super::grammar::{Grammar, Symbol};
use super::grouping::Verdict;
use super::items::{Item, State, TooLarge, states};
use super::lookahead::{TerminalSet, first_sets, lookaheads};
use super::sparse;
use crate::lazy::Lazy;

/// What to do.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub(crate) enum Action {
    /// The terminal cannot stand here.
    Error,
    /// Take the terminal and go to a state.
    Shift(u32),
    /// A production is complete.
    Reduce(u32),
    /// Several things are possible: an index into `forks`.
    Fork(u32),
    /// Take the terminal, and with it alone a production is complete.
    Leaf(u32),
}

/// The terminals that a token can be taken as: as one that touches the token before, if it
/// does, or as any; and the same again for the literal that a soft word may be.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) struct Lookahead {
    pub main: [Option<u16>; 2],
    pub soft: [Option<u16>; 2],
}

impl Lookahead {
    /// Whether the token may also be a soft literal.
    #[inline]
    pub fn is_soft(self) -> bool {
        self.soft != [None, None]
    }
}

/// The compiled grammar.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Tables {
    #[serde(with = "sparse")]
    actions: Vec<Cell>,
    #[serde(with = "sparse")]
    gotos: Vec<u32>,
    pub forks: Vec<Vec<Action>>,
    /// The state after the token of each production of just one, where nothing else can be
    /// done in it.
    after_leaf: FxHashMap<u32, u32>,
    pub states: Lazy<Vec<State>>,
    pub first: Vec<TerminalSet>,
    /// Where two operators that do not chain would have to.
    pub unchained: FxHashSet<(u32, u16)>,
    terminals: usize,
    nonterminals: usize,
}

impl Tables {
    /// Compiles a grammar.
    ///
    /// # Errors
    /// It is too large.
    pub fn new(grammar: &Grammar) -> Result<Tables, TooLarge> {
        let states = states(grammar)?;
        let (empty, first) = first_sets(grammar);
        let lookaheads = lookaheads(grammar, &states, &empty);
        let terminals = grammar.terminals.len();
        let nonterminals = grammar.nonterminals.len();
        let mut tables = Tables {
            actions: vec![Cell::default(); states.len() * terminals],
            gotos: vec![0; states.len() * nonterminals],
            forks: Vec::new(),
            after_leaf: FxHashMap::default(),
            first,
            unchained: FxHashSet::default(),
            terminals,
            nonterminals,
            states: Lazy::default(),
        };
        for (index, state) in states.iter().enumerate() {
            let row = index * terminals;
            let mut claimed = TerminalSet::new(terminals);
            let mut contested = TerminalSet::new(terminals);
            for &(symbol, to) in &state.moves {
                match symbol {
                    Symbol::Terminal(t) => {
                        claimed.insert(t);
                        tables.actions[row + t as usize] = Cell::new(Action::Shift(to));
                    }
                    Symbol::Nonterminal(n) => {
                        tables.gotos[index * nonterminals + n as usize] = to;
                    }
                }
            }
            for (production, set) in &lookaheads[index] {
                let cell = Cell::new(Action::Reduce(*production));
                claimed.claim(set, &mut contested, |terminal| {
                    tables.actions[row + terminal as usize] = cell;
                });
            }
            // Most cells that are not empty have one action.
            for terminal in contested.iter() {
                let all = lookaheads[index].iter();
                let reduces = all.filter(|(_, set)| set.contains(terminal));
                let claims = Claims {
                    grammar,
                    first: &tables.first,
                    empty: &empty,
                    state,
                    terminal,
                };
                let (actions, unchained) = claims.settle(reduces.map(|(id, _)| *id).collect());
                if unchained {
                    tables.unchained.insert((index as u32, terminal));
                }
                let action = tables.one_of(actions);
                tables.actions[row + terminal as usize] = Cell::new(action);
            }
        }
        tables.states = states.into();
        Ok(tables)
    }

    /// One action that stands for what is left.
    fn one_of(&mut self, actions: Vec<Action>) -> Action {
        match actions[..] {
            [] => Action::Error,
            [action] => action,
            _ => {
                self.forks.push(actions);
                Action::Fork(self.forks.len() as u32 - 1)
            }
        }
    }

    /// Marks where taking a terminal makes one of some productions complete, whatever comes
    /// next: then both can be done at once.
    pub fn mark_leaves(&mut self, is_leaf: impl Fn(u32) -> bool) {
        let leaf_of = |state: &State| match (&state.kernel[..], &state.moves[..], &state.fresh[..])
        {
            ([item], [], []) if is_leaf(item.production) => Some(item.production),
            _ => None,
        };
        let leaves: Vec<Option<u32>> = self.states.iter().map(leaf_of).collect();
        for cell in &mut self.actions {
            if let Action::Shift(state) = cell.action()
                && let Some(production) = leaves[state as usize]
            {
                self.after_leaf.insert(production, state);
                *cell = Cell::new(Action::Leaf(production));
            }
        }
    }

    /// What to do with a terminal in a state.
    #[inline]
    pub fn action(&self, state: u32, terminal: u16) -> Action {
        self.cell(state, terminal).action()
    }

    /// The cell of a terminal in a state.
    #[inline]
    pub fn cell(&self, state: u32, terminal: u16) -> Cell {
        self.actions[state as usize * self.terminals + terminal as usize]
    }

    /// What to do with the first of some terminals with which anything can be done.
    #[inline]
    pub fn first_action(&self, state: u32, terminals: [Option<u16>; 2]) -> Action {
        self.first_of(state, terminals.iter().flatten())
    }

    /// The same of any number of terminals.
    #[inline]
    pub fn first_of<'t>(&self, state: u32, terminals: impl IntoIterator<Item = &'t u16>) -> Action {
        let actions = terminals
            .into_iter()
            .map(|&terminal| self.action(state, terminal));
        let mut actions = actions.filter(|action| *action != Action::Error);
        actions.next().unwrap_or(Action::Error)
    }

    /// What to do with a token on one stack: a fork where it could be taken both as what
    /// it is and as a soft word.
    #[inline]
    pub fn decide(&self, state: u32, terminals: Lookahead) -> Action {
        let action = self.first_action(state, terminals.main);
        if !terminals.is_soft() {
            return action;
        }
        match (action, self.first_action(state, terminals.soft)) {
            (_, Action::Error) => action,
            (Action::Error, soft) => soft,
            _ => Action::Fork(u32::MAX),
        }
    }

    /// The production that is complete in a state in which nothing else can be done.
    pub fn sole(&self, state: u32) -> Option<u32> {
        let state = &self.states[state as usize];
        match (&state.kernel[..], &state.moves[..], &state.fresh[..]) {
            ([item], [], []) => Some(item.production),
            _ => None,
        }
    }

    /// Where a nonterminal leads.
    #[inline]
    pub fn goto(&self, state: u32, nonterminal: u16) -> u32 {
        self.gotos[state as usize * self.nonterminals + nonterminal as usize]
    }

    /// The single actions that an action stands for.
    pub fn each(&self, action: Action) -> Vec<Action> {
        match action {
            Action::Error => Vec::new(),
            Action::Fork(index) => self.forks[index as usize].clone(),
            Action::Leaf(production) => vec![Action::Shift(self.after_leaf[&production])],
            one @ (Action::Shift(_) | Action::Reduce(_)) => vec![one],
        }
    }
}

/// An action as it stands in the table.
#[derive(Clone, Copy, Default, Debug)]
pub(crate) struct Cell(u32);

impl From<u32> for Cell {
    fn from(number: u32) -> Cell {
        Cell(number)
    }
}

impl From<Cell> for u32 {
    fn from(cell: Cell) -> u32 {
        cell.0
    }
}

impl Cell {
    const REDUCE: u32 = 2;

    fn new(action: Action) -> Cell {
        Cell(match action {
            Action::Error => 0,
            Action::Shift(state) => state << 3 | 1,
            Action::Reduce(production) => production << 3 | Cell::REDUCE,
            Action::Fork(index) => index << 3 | 3,
            Action::Leaf(production) => production << 3 | 4,
        })
    }

    /// The production that is complete, if that is what it says.
    #[inline]
    pub fn reduces(self) -> Option<u32> {
        (self.0 & 7 == Cell::REDUCE).then_some(self.0 >> 3)
    }

    /// The action.
    #[inline]
    pub fn action(self) -> Action {
        match (self.0 & 7, self.0 >> 3) {
            (1, state) => Action::Shift(state),
            (Cell::REDUCE, production) => Action::Reduce(production),
            (3, index) => Action::Fork(index),
            (4, production) => Action::Leaf(production),
            _ => Action::Error,
        }
    }
}

/// One cell of the table, before precedence has spoken.
struct Claims<'a> {
    grammar: &'a Grammar,
    first: &'a [TerminalSet],
    empty: &'a [bool],
    state: &'a State,
    terminal: u16,
}

impl Claims<'_> {
    /// The actions left where some productions could be reduced, and whether operators met that do
    /// not chain.
    fn settle(&self, mut reduces: Vec<u32>) -> (Vec<Action>, bool) {
        let is_ranked = |id: &u32| self.grammar.productions[*id as usize].level.is_some();
        let ranked: Vec<u32> = reduces.iter().copied().filter(is_ranked).collect();
        if ranked.len() > 1 {
            let in_brackets = |inner: u32| {
                let mut outer = ranked.iter();
                outer.any(|&outer| self.grammar.stands_in_brackets(inner, outer))
            };
            reduces.retain(|&production| !in_brackets(production));
        }
        let Some(to) = self.state.after(Symbol::Terminal(self.terminal)) else {
            return (reduces.into_iter().map(Action::Reduce).collect(), false);
        };
        if reduces.is_empty() {
            return (vec![Action::Shift(to)], false);
        }
        let owners = self.owners();
        let mut keep_shift = true;
        let mut unchained = false;
        let mut kept = Vec::new();
        for production in reduces {
            match self.verdict(production, &owners) {
                Verdict::Shift => {}
                Verdict::Reduce => {
                    keep_shift = false;
                    kept.push(Action::Reduce(production));
                }
                Verdict::Neither => {
                    keep_shift = false;
                    unchained = true;
                }
                Verdict::Open => kept.push(Action::Reduce(production)),
            }
        }
        if keep_shift {
            kept.insert(0, Action::Shift(to));
        }
        (kept, unchained)
    }

    /// The productions, begun before, that would go on with the terminal.
    fn owners(&self) -> Vec<u32> {
        self.state
            .kernel
            .iter()
            .filter(|item| self.goes_on(**item))
            .map(|item| item.production)
            .collect()
    }

    fn goes_on(&self, item: Item) -> bool {
        let right = &self.grammar.productions[item.production as usize].right;
        for &symbol in &right[item.dot as usize..] {
            match symbol {
                Symbol::Terminal(t) => return t == self.terminal,
                Symbol::Nonterminal(n) => {
                    if self.first[n as usize].contains(self.terminal) {
                        return true;
                    }
                    if !self.empty[n as usize] {
                        return false;
                    }
                }
            }
        }
        false
    }

    /// Precedence decides only where all owners agree.
    fn verdict(&self, production: u32, owners: &[u32]) -> Verdict {
        let owners = owners.iter();
        let mut verdicts = owners.map(|&owner| self.grammar.verdict(production, owner));
        let Some(first) = verdicts.next() else {
            return Verdict::Open;
        };
        if verdicts.all(|verdict| verdict == first) {
            first
        } else {
            Verdict::Open
        }
    }
}
