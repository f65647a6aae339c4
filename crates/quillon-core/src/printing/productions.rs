//! With which production of its form a node is written.

use std::rc::Rc;

use super::fill::{Filling, Writer};
use crate::definition::Fixity;
use crate::parsing::{Nonterminal, Production, Role, Symbol};
use crate::tree::{NodeId, What};

impl<'a> Writer<'a> {
    pub(super) fn filling(&self, node: NodeId) -> Filling {
        Filling {
            node,
            taken: vec![0; self.tree.field_count(node)],
        }
    }

    pub(super) fn is_full(&self, filling: &Filling) -> bool {
        filling
            .taken
            .iter()
            .enumerate()
            .all(|(field, &taken)| taken == self.tree.children(filling.node, field).len())
    }

    /// The productions of a form, the shortest first.
    pub(super) fn productions(&self, form: usize) -> Rc<[&'a Production]> {
        let mut known = self.known.borrow_mut();
        let found = known.entry(form);
        Rc::clone(found.or_insert_with(|| self.productions_of(form).into()))
    }

    fn productions_of(&self, form: usize) -> Vec<&'a Production> {
        let grammar = self.parser.grammar();
        let mut found: Vec<&Production> = grammar
            .productions
            .iter()
            .filter(|p| p.node && p.form == Some(form))
            .collect();
        let left = found.first().map(|p| p.left);
        found.retain(|p| Some(p.left) == left);
        // Optional line ends are written: a tidy text has them.
        found.sort_by_key(|p| {
            let ends = p.right.iter().filter(|&&s| self.is_layout(s)).count();
            (p.right.len() - ends, std::cmp::Reverse(ends))
        });
        found
    }

    /// Whether a node begins with a block: comments are written once that has begun.
    pub(super) fn begins_block(&self, id: NodeId) -> bool {
        let production = self.production_of(id);
        let first = production.and_then(|production| production.right.first());
        first.is_some_and(|&symbol| self.is_layout(symbol))
    }

    fn is_layout(&self, symbol: Symbol) -> bool {
        let Symbol::Terminal(t) = symbol else {
            return false;
        };
        let kind = self.parser.grammar().terminals[t as usize].kind;
        self.lexer.kind(kind).is_layout()
    }

    /// The productions of operators.
    pub fn productions_with_levels(&self) -> impl Iterator<Item = &'a Production> {
        let all = &self.parser.grammar().productions;
        all.iter().filter(|p| p.node && p.level.is_some())
    }

    /// The production a node is written with.
    pub fn production_of(&self, id: NodeId) -> Option<&'a Production> {
        let form = self.tree.form(id)?;
        let candidates = self.productions(form);
        if let [only] = candidates[..] {
            return Some(only);
        }
        let mut candidates = candidates.iter().copied();
        candidates.find(|production| self.has_shape(production, id))
    }

    /// Whether a production takes all fields of a node, as far as that can be seen without
    /// writing its children. What a group takes cannot.
    pub(super) fn has_shape(&self, production: &Production, id: NodeId) -> bool {
        let mut filling = self.filling(id);
        let mut has_group = false;
        for (&symbol, &role) in production.right.iter().zip(&production.roles) {
            let fits = match role {
                Role::Drop | Role::Item => true,
                Role::Field(field) => self.next_child(&mut filling, field, symbol).is_some(),
                Role::Items(field) => {
                    let all = self.tree.children(id, field as usize).len();
                    let taken = &mut filling.taken[field as usize];
                    std::mem::replace(taken, all) < all
                }
                Role::Inner => {
                    has_group = true;
                    true
                }
            };
            if !(fits || has_group) {
                return false;
            }
        }
        has_group || self.is_full(&filling)
    }

    /// The last child of a node, as it is written.
    pub fn last_child(&self, id: NodeId) -> Option<NodeId> {
        let production = self.production_of(id)?;
        let last = self.children_of(id, *production.roles.last()?).last();
        last.copied()
    }

    /// The first child of a node, as it is written.
    pub fn first_child(&self, id: NodeId) -> Option<NodeId> {
        let production = self.production_of(id)?;
        let children = self.children_of(id, *production.roles.first()?);
        children.first().copied()
    }

    /// The children of a node that a part of its production stands for.
    fn children_of(&self, id: NodeId, role: Role) -> &'a [NodeId] {
        match role {
            Role::Field(field) | Role::Items(field) => self.tree.children(id, field as usize),
            Role::Drop | Role::Item | Role::Inner => &[],
        }
    }

    /// The sort that a symbol wants, if a form is not of it.
    pub(super) fn other_sort(&self, symbol: Symbol, form: usize) -> Option<&'a str> {
        let Symbol::Nonterminal(n) = symbol else {
            return None;
        };
        match &self.parser.grammar().nonterminals[n as usize] {
            Nonterminal::Sort(sort) => {
                (self.definition.forms[form].sort_name() != sort).then_some(sort.as_str())
            }
            Nonterminal::Form(_) | Nonterminal::Helper => None,
        }
    }

    /// Whether the sign of a node stands so; one that nothing declares stands as loosely as can be.
    fn stands(&self, node: NodeId, fixity: Fixity) -> bool {
        let [after, before] = self.signs.get(&node).copied().unwrap_or_default();
        let own = if fixity.is_before() { before } else { after };
        own.map_or_else(
            || self.parser.grammar().signs.is_guess(fixity),
            |own| own == fixity,
        )
    }

    /// The next child of a field, if it is what a symbol wants.
    pub(super) fn next_child(
        &self,
        filling: &mut Filling,
        field: u16,
        symbol: Symbol,
    ) -> Option<NodeId> {
        let taken = &mut filling.taken[field as usize];
        let child = *self
            .tree
            .children(filling.node, field as usize)
            .get(*taken)?;
        let fits = match (symbol, self.tree.node(child).what) {
            (Symbol::Terminal(t), What::Token(kind)) => {
                let terminal = self.parser.grammar().terminals[t as usize];
                let wanted = terminal.kind;
                // A soft keyword may have been taken for what its text is elsewhere.
                (wanted == kind || self.lexer.kind(wanted).name == self.tree.text(child))
                    && terminal
                        .fixity
                        .is_none_or(|fixity| self.stands(filling.node, fixity))
            }
            (Symbol::Nonterminal(_), What::Form(_)) => true,
            _ => false,
        };
        fits.then(|| {
            *taken += 1;
            child
        })
    }
}
