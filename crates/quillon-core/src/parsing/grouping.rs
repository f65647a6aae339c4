//! How operators group: what the levels of a precedence table say where two of them meet.

use super::forest::{Derivation, Forest, Ref, Referent};
use super::grammar::{Grammar, Production, Symbol};
use crate::definition::Grouping;

/// What precedence says about going on against stopping.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Verdict {
    /// The operator takes the operand in the middle.
    Shift,
    /// The production that is complete takes it.
    Reduce,
    /// They do not chain.
    Neither,
    /// Nothing.
    Open,
}

impl Grammar {
    /// What precedence says where a production that ends with an operand meets one that
    /// begins with it: it decides only between operators of one table.
    pub(super) fn verdict(&self, complete: u32, owner: u32) -> Verdict {
        let [complete, owner] = [complete, owner].map(|id| &self.productions[id as usize]);
        let (Some(mine), Some(other)) = (complete.level, owner.level) else {
            return Verdict::Open;
        };
        if mine.0 != other.0 || (mine.1 == other.1 && begin_together(complete, owner)) {
            return Verdict::Open;
        }
        match mine.1.cmp(&other.1) {
            std::cmp::Ordering::Greater => Verdict::Reduce,
            std::cmp::Ordering::Less => Verdict::Shift,
            std::cmp::Ordering::Equal => beside(mine.2, other.2),
        }
    }

    /// Whether an operator stands in brackets only where another one ends as it does, from one of
    /// its operands in the middle on: with `and` looser than `between`, `b and c` is none of the
    /// operands of `a between b and c and d`.
    pub(super) fn stands_in_brackets(&self, inner: u32, outer: u32) -> bool {
        let [inner, outer] = [inner, outer].map(|id| &self.productions[id as usize]);
        let (Some(mine), Some(around)) = (inner.level, outer.level) else {
            return false;
        };
        mine.0 == around.0
            && mine.1 < around.1
            && inner.right.first() == Some(&Symbol::Nonterminal(inner.left))
            && inner.right.len() < outer.right.len()
            && outer.right.ends_with(&inner.right)
    }

    /// The symbol that stands for the operands of an operator: the sort of its table.
    pub(crate) fn operand(&self, production: &Production) -> Option<Symbol> {
        let (table, ..) = production.level?;
        self.operands[table].map(Symbol::Nonterminal)
    }

    /// Whether a derivation goes against the precedence table: among what an operator has on
    /// one side stands another that is looser. The tables of the parser see to that by
    /// themselves, but not where other forms go on with the same tokens.
    pub(super) fn is_misgrouped(&self, forest: &Forest, derivation: Derivation) -> bool {
        let outer = derivation.production;
        let production = &self.productions[outer as usize];
        let Some(operand) = self.operand(production) else {
            return false;
        };
        let children = forest.children(derivation);
        let (Some(&first), Some(&last)) = (children.first(), children.last()) else {
            return false;
        };
        let on_the_left = production.right.first() == Some(&operand)
            && self.edge(forest, first, operand, false, &mut |inner| {
                matches!(
                    self.verdict(inner, outer),
                    Verdict::Shift | Verdict::Neither
                )
            });
        let on_the_right = production.right.last() == Some(&operand)
            && self.edge(forest, last, operand, true, &mut |inner| {
                matches!(
                    self.verdict(outer, inner),
                    Verdict::Reduce | Verdict::Neither
                )
            });
        on_the_left || on_the_right
    }

    /// Whether some derivation along the left or the right edge of a node, with an operand
    /// at that edge, is a wrong one.
    fn edge(
        &self,
        forest: &Forest,
        mut node: Ref,
        operand: Symbol,
        left: bool,
        is_wrong: &mut dyn FnMut(u32) -> bool,
    ) -> bool {
        let at_edge = |derivation: Derivation| {
            let children = forest.children(derivation);
            let right = &self.productions[derivation.production as usize].right;
            if left {
                right.first().copied().zip(children.first().copied())
            } else {
                right.last().copied().zip(children.last().copied())
            }
        };
        while let Referent::Derivation(derivation) = forest.referent(node) {
            let Some((symbol, child)) = at_edge(derivation) else {
                break;
            };
            if symbol == operand && is_wrong(derivation.production) {
                return true;
            }
            node = child;
        }
        false
    }
}

/// What groupings say where an operator of one, complete, meets one of another of the same level.
pub(crate) fn beside(complete: Grouping, owner: Grouping) -> Verdict {
    use Grouping as G;
    match (complete, owner) {
        (G::Suffix, _) | (G::Left, G::Left | G::Suffix | G::Prefix) => Verdict::Reduce,
        (G::Prefix, _) | (G::Right, G::Right | G::Suffix | G::Prefix) => Verdict::Shift,
        // Signs of one rank may group differently.
        (G::Left, G::Right | G::None) | (G::Right, G::Left | G::None) | (G::None, _) => {
            Verdict::Neither
        }
    }
}

/// Whether one form is the beginning of another, so that they do not meet as operators
/// do: how they group says nothing then.
fn begin_together(short: &Production, long: &Production) -> bool {
    short.form != long.form && long.right.starts_with(&short.right)
}
