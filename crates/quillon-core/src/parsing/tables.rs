//! The parse tables: for each state and terminal what to do, with the precedence table
//! built in. Conflicts that precedence does not settle stay, and the parser follows
//! both ways.

use rustc_hash::{FxHashMap, FxHashSet};
use serde::{Deserialize, Serialize};

use super::grammar::{Grammar, Symbol};
use super::grouping::Verdict;
use super::items::{State, TooLarge, states};
use super::lookahead::{first_sets, lookaheads};
use super::sparse;
use super::terminal_sets::{Claimed, TerminalSets, contains};
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
    /// With which terminals each nonterminal can begin.
    pub first: Lazy<TerminalSets>,
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
        let mut tables = Tables::moving(grammar, &states);
        let lookaheads = lookaheads(grammar, &states, &tables, &empty);
        let mut claimed = Claimed::new(tables.terminals);
        let mut claims = Claims {
            grammar,
            first: &first,
            empty: &empty,
            owners: Vec::new(),
        };
        for (index, state) in states.iter().enumerate() {
            claimed.clear();
            for &(symbol, _) in &state.moves {
                if let Symbol::Terminal(terminal) = symbol {
                    claimed.insert(terminal);
                }
            }
            let row = index * tables.terminals;
            for (production, set) in lookaheads.of(index) {
                let cell = Cell::new(Action::Reduce(production));
                claimed.claim(set, |terminal| {
                    tables.actions[row + terminal as usize] = cell;
                });
            }
            // Most cells that are not empty have one action.
            let mut contested = claimed.contested().peekable();
            if contested.peek().is_some() {
                claims.look_at(state);
            }
            for terminal in contested {
                let all = lookaheads.of(index);
                let reduces = all.filter(|(_, set)| contains(set, terminal));
                let reduces = reduces.map(|(id, _)| id).collect();
                let shift = state.after(Symbol::Terminal(terminal));
                let (actions, unchained) = claims.settle(terminal, reduces, shift);
                if unchained {
                    tables.unchained.insert((index as u32, terminal));
                }
                let action = tables.one_of(actions);
                tables.actions[row + terminal as usize] = Cell::new(action);
            }
        }
        tables.states = states.into();
        tables.first = first.into();
        Ok(tables)
    }

    /// The tables with nothing but where symbols lead.
    fn moving(grammar: &Grammar, states: &[State]) -> Tables {
        let terminals = grammar.terminals.len();
        let nonterminals = grammar.nonterminals.len();
        let mut tables = Tables {
            actions: vec![Cell::default(); states.len() * terminals],
            gotos: vec![0; states.len() * nonterminals],
            forks: Vec::new(),
            after_leaf: FxHashMap::default(),
            first: Lazy::default(),
            unchained: FxHashSet::default(),
            terminals,
            nonterminals,
            states: Lazy::default(),
        };
        for (index, state) in states.iter().enumerate() {
            for &(symbol, to) in &state.moves {
                match symbol {
                    Symbol::Terminal(t) => {
                        tables.actions[index * terminals + t as usize] =
                            Cell::new(Action::Shift(to));
                    }
                    Symbol::Nonterminal(n) => {
                        tables.gotos[index * nonterminals + n as usize] = to;
                    }
                }
            }
        }
        tables
    }

    /// Where a symbol leads while nothing has been decided yet; 0 where it leads nowhere.
    pub(super) fn after(&self, state: u32, symbol: Symbol) -> u32 {
        match symbol {
            Symbol::Terminal(terminal) => match self.action(state, terminal) {
                Action::Shift(to) => to,
                Action::Error | Action::Reduce(_) | Action::Fork(_) | Action::Leaf(_) => 0,
            },
            Symbol::Nonterminal(nonterminal) => self.goto(state, nonterminal),
        }
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

/// The cells of a state, before precedence has spoken.
struct Claims<'a> {
    grammar: &'a Grammar,
    first: &'a TerminalSets,
    empty: &'a [bool],
    /// The productions, begun before, that would go on with a terminal.
    owners: Vec<(u16, u32)>,
}

impl Claims<'_> {
    /// Finds what owns the terminals of a state.
    fn look_at(&mut self, state: &State) {
        self.owners.clear();
        for item in &state.kernel {
            let begin = self.owners.len();
            let right = &self.grammar.productions[item.production as usize].right;
            for &symbol in &right[item.dot as usize..] {
                match symbol {
                    Symbol::Terminal(terminal) => {
                        self.owners.push((terminal, item.production));
                        break;
                    }
                    Symbol::Nonterminal(n) => {
                        let terminals = self.first.iter(n as usize);
                        self.owners.extend(terminals.map(|t| (t, item.production)));
                        if !self.empty[n as usize] {
                            break;
                        }
                    }
                }
            }
            // What may be left out can begin with what comes behind it.
            if self.owners.len() > begin + 1 {
                self.owners[begin..].sort_unstable();
            }
        }
        self.owners.dedup();
    }

    /// The actions left for a terminal where some productions could be reduced, and it can perhaps be taken; and
    /// whether operators met that do not chain.
    fn settle(
        &self,
        terminal: u16,
        mut reduces: Vec<u32>,
        shift: Option<u32>,
    ) -> (Vec<Action>, bool) {
        if reduces.len() > 1 {
            let is_ranked = |id: &u32| self.grammar.productions[*id as usize].level.is_some();
            let ranked: Vec<u32> = reduces.iter().copied().filter(is_ranked).collect();
            let in_brackets = |inner: u32| {
                let mut outer = ranked.iter();
                outer.any(|&outer| self.grammar.stands_in_brackets(inner, outer))
            };
            if ranked.len() > 1 {
                reduces.retain(|&production| !in_brackets(production));
            }
        }
        let Some(to) = shift else {
            return (reduces.into_iter().map(Action::Reduce).collect(), false);
        };
        if reduces.is_empty() {
            return (vec![Action::Shift(to)], false);
        }
        let mut keep_shift = true;
        let mut unchained = false;
        let mut kept = Vec::with_capacity(reduces.len() + 1);
        for production in reduces {
            match self.verdict(production, terminal) {
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

    /// Precedence decides only where all owners of a terminal agree.
    fn verdict(&self, production: u32, terminal: u16) -> Verdict {
        let owners = self.owners.iter().filter(|(own, _)| *own == terminal);
        let mut verdicts = owners.map(|(_, owner)| self.grammar.verdict(production, *owner));
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
