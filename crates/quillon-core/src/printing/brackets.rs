//! Where brackets are needed, by the levels of the precedence table.

use super::Brackets;
use super::fill::Writer;
use crate::definition::Grouping;
use crate::parsing::{Production, Symbol, Verdict, beside};
use crate::tree::NodeId;

/// A level: table, number (a higher one is tighter), grouping.
type Level = (usize, usize, Grouping);

impl Writer<'_> {
    /// Whether a child at a place of a production needs brackets to be read as it is.
    pub(super) fn needs_brackets(&self, parent: &Production, place: usize, child: NodeId) -> bool {
        let first = place == 0;
        let last = place + 1 == parent.right.len();
        if self.brackets == Brackets::All
            && (first || last)
            && parent.right[place] == Symbol::Nonterminal(parent.left)
        {
            return self.is_operation(child);
        }
        let after = parent.right.get(place + 1);
        if after.is_some_and(|&after| self.would_run_on(child, after)) {
            return true;
        }
        if self.beside_operator(parent, place, child) {
            return true;
        }
        let Some(level) = parent.level else {
            return false;
        };
        let operand = self.parser.grammar().operand(parent);
        if operand != Some(parent.right[place]) {
            return false;
        }
        if !(first || last) {
            return self.has_open(child, parent.right[place + 1], level);
        }
        // On the left, what the child ends with could take the operator for itself; on the
        // right, the operator could take what the child begins with.
        (first && last_open(self, child).is_some_and(|own| yields(own, level, true)))
            || (last
                && self
                    .first_open(child)
                    .is_some_and(|own| yields(own, level, false)))
    }

    /// Whether a node is an operation with a sign, looser than a level, or has one among its
    /// operands that is not in brackets.
    fn has_open(&self, node: NodeId, sign: Symbol, level: Level) -> bool {
        let mut work = vec![node];
        while let Some(node) = work.pop() {
            let Some(production) = self.production_of(node) else {
                continue;
            };
            let Some(own) = production.level else {
                continue;
            };
            let operand = Some(Symbol::Nonterminal(production.left));
            let begins_open = production.right.first().copied() == operand;
            let is_looser = own.0 == level.0 && own.1 < level.1;
            if begins_open && is_looser && production.right.get(1) == Some(&sign) {
                return true;
            }
            let last = production.right.len() - 1;
            let first = self.first_child(node).filter(|_| begins_open);
            let ends_open = last > 0 && production.right.last().copied() == operand;
            let end = self.last_child(node).filter(|_| ends_open);
            let edges = first.map(|child| (0, child)).into_iter();
            let edges = edges.chain(end.map(|child| (last, child)));
            let open =
                edges.filter(|&(place, child)| !self.needs_brackets(production, place, child));
            work.extend(open.map(|(_, child)| child));
        }
        false
    }

    /// Whether a child, or what it ends with, would be read on into what follows it: `(a.b)(c)`
    /// is no call of a method, and the comma behind `(call size with 0)` no comma of that call.
    pub(super) fn would_run_on(&self, child: NodeId, after: Symbol) -> bool {
        let mut node = Some(child);
        while let Some((id, production)) = node.and_then(|id| Some((id, self.production_of(id)?))) {
            if self.continues_with(production, after) {
                return true;
            }
            let next = self
                .last_child(id)
                .zip(production.right.len().checked_sub(1));
            let next = next.filter(|&(next, last)| !self.needs_brackets(production, last, next));
            node = next.map(|(next, _)| next);
        }
        false
    }

    /// Whether some production begins as another does and goes on with what a symbol begins with, or
    /// a list that the production ends with does.
    fn continues_with(&self, production: &Production, after: Symbol) -> bool {
        let grammar = self.parser.grammar();
        let makes_node = |id: &u32| grammar.productions[*id as usize].node;
        let is_list = |n: u16| !grammar.of[n as usize].iter().any(makes_node);
        let goes_on = |n: u16| self.is_begun_by(n, &[Symbol::Nonterminal(n)], after);
        let mut at_end = self.at_end(production).into_iter();
        self.is_begun_by(production.left, &production.right, after)
            || at_end.any(|n| is_list(n) && goes_on(n))
    }

    /// Whether a production of a nonterminal begins with some symbols and goes on with what another
    /// begins with.
    fn is_begun_by(&self, nonterminal: u16, symbols: &[Symbol], after: Symbol) -> bool {
        let grammar = self.parser.grammar();
        grammar.of[nonterminal as usize].iter().any(|&id| {
            let longer = &grammar.productions[id as usize].right;
            let next = longer.get(symbols.len());
            longer.starts_with(symbols) && next.is_some_and(|&next| self.begin_alike(next, after))
        })
    }

    /// Whether two symbols can begin with the same terminal.
    fn begin_alike(&self, one: Symbol, other: Symbol) -> bool {
        let begins = |nonterminal: u16, terminal: u16| self.parser.can_begin(nonterminal, terminal);
        match (one, other) {
            (Symbol::Terminal(t), Symbol::Terminal(u)) => t == u,
            (Symbol::Terminal(t), Symbol::Nonterminal(n))
            | (Symbol::Nonterminal(n), Symbol::Terminal(t)) => begins(n, t),
            (Symbol::Nonterminal(n), Symbol::Nonterminal(m)) => {
                let terminals = self.parser.grammar().terminals.len() as u16;
                n == m || (0..terminals).any(|t| begins(n, t) && begins(m, t))
            }
        }
    }

    /// The same where a production has the sign of another operator beside the child, as in
    /// `change list # place + 1 to value` and `value between low and high`.
    fn beside_operator(&self, parent: &Production, place: usize, child: NodeId) -> bool {
        let operand = self.parser.grammar().operand(parent);
        let begins_open = operand.is_some() && parent.right.first() == operand.as_ref();
        let level_of = |at: usize, is_one: &dyn Fn(&Production) -> bool| {
            // Its own sign is a matter of its own level.
            let sign = *parent.right.get(at).filter(|_| !(begins_open && at == 1))?;
            self.productions_with_levels()
                .find(|p| {
                    p.right.get(1) == Some(&sign)
                        && p.right[0] == Symbol::Nonterminal(p.left)
                        && p.right[0] == parent.right[place]
                        && is_one(p)
                })
                .and_then(|p| p.level)
        };
        let after = level_of(place + 1, &|_| true);
        // A sign is an operator only behind an operand: `when (` begins no call. And what it has
        // in brackets is open to neither side.
        let before = place
            .checked_sub(2)
            .filter(|&operand| matches!(parent.right[operand], Symbol::Nonterminal(_)))
            .and_then(|operand| level_of(operand + 1, &|p| p.right.last() == p.right.first()));
        after
            .is_some_and(|level| last_open(self, child).is_some_and(|own| yields(own, level, true)))
            || before.is_some_and(|level| {
                self.first_open(child)
                    .is_some_and(|own| yields(own, level, false))
            })
    }

    /// Whether a node begins or ends with an operand.
    fn is_operation(&self, node: NodeId) -> bool {
        self.production_of(node).is_some_and(|production| {
            let operand = Some(&Symbol::Nonterminal(production.left));
            production.right.first() == operand || production.right.last() == operand
        })
    }

    /// Whether a production ends with an operand, be it the last of a list or of a part that
    /// may be missing.
    fn ends_open(&self, production: &Production) -> bool {
        match self.parser.grammar().operand(production) {
            Some(Symbol::Nonterminal(operand)) => self.at_end(production).contains(&operand),
            Some(Symbol::Terminal(_)) | None => false,
        }
    }

    /// The nonterminals that a production can end with, those at the end of its lists and parts included.
    fn at_end(&self, production: &Production) -> Vec<u16> {
        let grammar = self.parser.grammar();
        let last = |p: &Production| match p.right.last() {
            Some(Symbol::Nonterminal(n)) => Some(*n),
            Some(Symbol::Terminal(_)) | None => None,
        };
        let mut found: Vec<u16> = last(production).into_iter().collect();
        let mut next = 0;
        while let Some(&n) = found.get(next) {
            next += 1;
            let inner = grammar.of[n as usize].iter();
            let inner = inner.map(|&id| &grammar.productions[id as usize]);
            // What is in a form of another sort is not laid open.
            for n in inner.filter(|p| !p.node).filter_map(last) {
                if !found.contains(&n) {
                    found.push(n);
                }
            }
        }
        found
    }

    /// The level of a node that begins with an operand.
    fn first_open(&self, node: NodeId) -> Option<Level> {
        let production = self.production_of(node)?;
        let operand = self.parser.grammar().operand(production)?;
        (production.right.first() == Some(&operand))
            .then_some(production.level)
            .flatten()
    }
}

/// The loosest level among a node that ends with an operand, that operand if it does, and
/// so on.
fn last_open(writer: &Writer<'_>, node: NodeId) -> Option<Level> {
    let mut loosest: Option<Level> = None;
    let mut node = node;
    loop {
        let Some(production) = writer.production_of(node) else {
            return loosest;
        };
        let Some(level) = production.level else {
            return loosest;
        };
        if !writer.ends_open(production) {
            return loosest;
        }
        if loosest.is_none_or(|known| known.0 != level.0 || level.1 < known.1) {
            loosest = Some(level);
        }
        let Some(child) = writer.last_child(node) else {
            return loosest;
        };
        let place = production.right.len() - 1;
        if writer.needs_brackets(production, place, child) {
            return loosest;
        }
        node = child;
    }
}

/// Whether an operand of a level would be torn apart beside an operator of another.
fn yields(own: Level, operator: Level, on_the_left: bool) -> bool {
    if own.0 != operator.0 {
        return false;
    }
    match own.1.cmp(&operator.1) {
        std::cmp::Ordering::Less => true,
        std::cmp::Ordering::Greater => false,
        std::cmp::Ordering::Equal if on_the_left => beside(own.2, operator.2) != Verdict::Reduce,
        std::cmp::Ordering::Equal => beside(operator.2, own.2) != Verdict::Shift,
    }
}
