//! What could have stood where a text went wrong, and what was being read.

use super::grammar::{Grammar, Nonterminal, Role, Symbol};
use super::items::Item;
use super::stacks::{Entry, is_entry};
use super::tables::{Action, Tables};

/// Something that could have stood there.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
pub(super) enum Wanted {
    /// Anything of a sort.
    Sort(String),
    /// One terminal.
    Terminal(u16),
    /// A terminal that would go on with an operand before it.
    Operator(u16),
}

/// A form of which a part has been read.
#[derive(Clone, Debug)]
pub(super) struct Frame {
    pub production: u32,
    /// The part that is being read, or comes next.
    pub dot: usize,
    /// The first token of each part read so far.
    pub tokens: Vec<u32>,
}

/// Answers questions about the stack of a reading that went wrong.
pub(super) struct Inquiry<'a> {
    pub grammar: &'a Grammar,
    pub tables: &'a Tables,
}

/// A stack in thought: a part of the real one, with states put on top.
#[derive(Clone)]
struct Thought {
    height: usize,
    above: Vec<u32>,
}

impl Inquiry<'_> {
    /// Everything that could come next on a stack.
    pub fn wanted(&self, stack: &[Entry]) -> Vec<Wanted> {
        let mut all = Vec::new();
        for terminal in 0..self.grammar.terminals.len() as u16 {
            for state in self.takes(stack, terminal) {
                all.extend(self.as_what(state, terminal));
            }
        }
        all.sort();
        all.dedup();
        all
    }

    /// Whether a terminal could come next on a stack.
    pub fn could_take(&self, stack: &[Entry], terminal: u16) -> bool {
        !self.takes(stack, terminal).is_empty()
    }

    /// The fields of forms that a terminal would be taken for, as far as that is known: where it would
    /// be an item of a list it is not.
    pub fn fields(&self, stack: &[Entry], terminal: u16) -> Vec<(usize, usize)> {
        let mut found = Vec::new();
        for state in self.takes(stack, terminal) {
            for item in self.tables.states[state as usize].items() {
                let is_next = self.grammar.next(item) == Some(Symbol::Terminal(terminal));
                let production = &self.grammar.productions[item.production as usize];
                if let Some(Role::Field(field)) = production.roles.get(item.dot as usize)
                    && let Some(form) = production.form
                    && is_next
                {
                    found.push((form, *field as usize));
                }
            }
        }
        found
    }

    /// The states in which a terminal would be taken, after every reduction before it.
    fn takes(&self, stack: &[Entry], terminal: u16) -> Vec<u32> {
        let mut found = Vec::new();
        self.follow(stack, terminal, |state, action| match action {
            Action::Shift(_) => found.push(state),
            Action::Reduce(id) if is_entry(self.grammar, id) => found.push(state),
            Action::Error | Action::Reduce(_) | Action::Fork(_) | Action::Leaf(_) => {}
        });
        found
    }

    /// Every state that the reductions before a terminal lead to.
    pub fn states_before(&self, stack: &[Entry], terminal: u16) -> Vec<u32> {
        let mut found = Vec::new();
        self.follow(stack, terminal, |state, _| found.push(state));
        found
    }

    /// Does, in thought, the reductions that a terminal allows, and tells of each state
    /// with what could be done there.
    fn follow(&self, stack: &[Entry], terminal: u16, mut tell: impl FnMut(u32, Action)) {
        const MOST_STEPS: usize = 2000;
        let mut work = vec![Thought {
            height: stack.len(),
            above: Vec::new(),
        }];
        let mut steps = 0;
        while let Some(thought) = work.pop() {
            steps += 1;
            if steps > MOST_STEPS {
                break;
            }
            let state = top(stack, &thought);
            tell(state, Action::Error);
            for action in self.tables.each(self.tables.action(state, terminal)) {
                tell(state, action);
                match action {
                    Action::Reduce(id) if !is_entry(self.grammar, id) => {
                        let production = &self.grammar.productions[id as usize];
                        let mut next = thought.clone();
                        let length = production.right.len();
                        let from_above = length.min(next.above.len());
                        next.above.truncate(next.above.len() - from_above);
                        next.height -= length - from_above;
                        let goto = self.tables.goto(top(stack, &next), production.left);
                        if goto != 0 {
                            next.above.push(goto);
                            work.push(next);
                        }
                    }
                    Action::Error
                    | Action::Shift(_)
                    | Action::Reduce(_)
                    | Action::Fork(_)
                    | Action::Leaf(_) => {}
                }
            }
        }
    }

    /// What a terminal would be the beginning of.
    fn as_what(&self, state: u32, terminal: u16) -> Vec<Wanted> {
        let mut found = Vec::new();
        for &item in &self.tables.states[state as usize].kernel {
            let production = &self.grammar.productions[item.production as usize];
            match self.grammar.next(item) {
                Some(Symbol::Terminal(t)) if t == terminal => {
                    let operand_before = production.level.is_some()
                        && production.right[0] == Symbol::Nonterminal(production.left);
                    found.push(if operand_before && item.dot == 1 {
                        Wanted::Operator(t)
                    } else {
                        Wanted::Terminal(t)
                    });
                }
                Some(symbol @ Symbol::Nonterminal(_)) => {
                    found.extend(self.begins(symbol, terminal, 0));
                }
                _ => {
                    // The end, after everything.
                    if terminal == 0 && production.form.is_none() {
                        found.push(Wanted::Terminal(0));
                    }
                }
            }
        }
        found
    }

    /// What a terminal is, at the front of a symbol: the symbol as a whole where it is a
    /// sort with a choice of forms, and what is in front otherwise.
    fn begins(&self, symbol: Symbol, terminal: u16, depth: usize) -> Option<Wanted> {
        let nonterminal = match symbol {
            Symbol::Terminal(t) => return (t == terminal).then_some(Wanted::Terminal(t)),
            Symbol::Nonterminal(n) => n,
        };
        if !self.tables.first.contains(nonterminal as usize, terminal) {
            return None;
        }
        let productions = &self.grammar.of[nonterminal as usize];
        let mut forms: Vec<_> = productions
            .iter()
            .map(|&p| self.grammar.productions[p as usize].form)
            .collect();
        forms.dedup();
        if let Nonterminal::Sort(sort) = &self.grammar.nonterminals[nonterminal as usize]
            && (forms.len() > 1 || depth > 8)
        {
            return Some(Wanted::Sort(sort.clone()));
        }
        if depth > 8 {
            return Some(Wanted::Terminal(terminal));
        }
        productions.iter().find_map(|&p| {
            let right = &self.grammar.productions[p as usize].right;
            right
                .iter()
                .take(1)
                .filter(|&&s| s != symbol)
                .find_map(|&s| self.begins(s, terminal, depth + 1))
        })
    }

    /// The forms of which a part has been read, innermost first.
    pub fn frames(&self, stack: &[Entry]) -> Vec<Frame> {
        let mut frames = Vec::new();
        let mut at = stack.len() - 1;
        let mut child: Option<u16> = None;
        // Whether everything found so far could end here: a form that could be over is not
        // what the mistake is in.
        let mut over = true;
        while at > 0 {
            let Some(item) = self.begun(stack[at].state, child, over) else {
                break;
            };
            let production = &self.grammar.productions[item.production as usize];
            let dot = item.dot as usize;
            let base = at + 1 - dot;
            over = over && dot + usize::from(child.is_some()) == production.right.len();
            if production.node && !over {
                frames.push(Frame {
                    production: item.production,
                    dot,
                    tokens: stack[base..=at].iter().map(|entry| entry.start).collect(),
                });
            }
            child = Some(production.left);
            at = base - 1;
        }
        frames
    }

    /// The item of a state that the child (if any) is a part of. Where everything inside
    /// could be over, one that could be over with it comes first.
    fn begun(&self, state: u32, child: Option<u16>, over: bool) -> Option<Item> {
        let kernel = &self.tables.states[state as usize].kernel;
        let begun = kernel.iter().filter(|item| item.dot > 0);
        let going_on = |item: &&Item| self.grammar.next(**item).is_some();
        match child {
            // After a whole operand nothing need go on; after a token something may.
            None if begun.clone().any(|item| self.follows_nonterminal(*item)) => begun
                .clone()
                .find(|item| !going_on(item))
                .or_else(|| begun.clone().next()),
            None => begun
                .clone()
                .find(going_on)
                .or_else(|| begun.clone().next()),
            Some(child) => {
                let fits = |item: &&Item| self.starts_with(self.grammar.next(**item), child);
                let ends = |item: &&Item| {
                    let production = &self.grammar.productions[item.production as usize];
                    item.dot as usize + 1 == production.right.len()
                };
                let mut fitting = begun.clone().filter(fits);
                let ending = fitting.clone().find(ends).filter(|_| over);
                ending.or_else(|| fitting.next())
            }
        }
        .copied()
    }

    fn follows_nonterminal(&self, item: Item) -> bool {
        let right = &self.grammar.productions[item.production as usize].right;
        matches!(
            right.get((item.dot as usize).wrapping_sub(1)),
            Some(Symbol::Nonterminal(_))
        )
    }

    /// Whether a symbol can begin with a nonterminal.
    fn starts_with(&self, symbol: Option<Symbol>, wanted: u16) -> bool {
        let Some(Symbol::Nonterminal(first)) = symbol else {
            return false;
        };
        let mut seen = vec![false; self.grammar.nonterminals.len()];
        let mut work = vec![first];
        while let Some(nonterminal) = work.pop() {
            if nonterminal == wanted {
                return true;
            }
            if std::mem::replace(&mut seen[nonterminal as usize], true) {
                continue;
            }
            for &production in &self.grammar.of[nonterminal as usize] {
                if let Some(Symbol::Nonterminal(n)) =
                    self.grammar.productions[production as usize].right.first()
                {
                    work.push(*n);
                }
            }
        }
        false
    }
}

fn top(stack: &[Entry], thought: &Thought) -> u32 {
    thought
        .above
        .last()
        .copied()
        .unwrap_or_else(|| stack[thought.height - 1].state)
}
