//! Lists, and where lines end: as `laid out` has it, or as brackets suggest.

use super::Piece;
use super::fill::{Filling, Writer};
use crate::definition::Lay;
use crate::parsing::{Nonterminal, Production, Symbol};
use crate::tree::NodeId;

impl Writer<'_> {
    /// Writes the children of a list, with what stands between them.
    pub(super) fn items(
        &mut self,
        production: &Production,
        place: usize,
        filling: &mut Filling,
        field: u16,
    ) -> Option<()> {
        let Symbol::Nonterminal(list) = production.right[place] else {
            return None;
        };
        let grammar = self.parser.grammar();
        let longer = grammar.of[list as usize]
            .iter()
            .map(|&id| &grammar.productions[id as usize])
            .find(|p| p.right.first() == Some(&Symbol::Nonterminal(list)))?;
        let between = &longer.right[1..longer.right.len() - 1];
        let item = *longer.right.last()?;
        let children = self.tree.children(filling.node, field as usize);
        let rest = &children[filling.taken[field as usize]..];
        let final_child = *rest.last()?;
        let lay = self
            .lay(production, field)
            .or_else(|| self.usual_lay(production, place, item, filling.node))
            .filter(|lay| *lay != Lay::Inline);
        // The first line of a text needs no line end before it.
        self.begin(lay, place == 0);
        for (index, &child) in rest.iter().enumerate() {
            if index > 0 {
                for &symbol in between {
                    self.dropped(symbol, longer)?;
                }
                match lay {
                    Some(Lay::Apart) => self.out.push(Piece::Blank),
                    Some(_) => self.out.push(Piece::Line),
                    None => self.out.push(Piece::Break),
                }
                if lay.is_some() || self.definition.layout.is_some() {
                    self.blank_before(self.tree.node(child).span.start);
                }
            }
            let is_last = index + 1 == rest.len();
            let follows = between.first().copied().filter(|_| !is_last);
            if follows.is_some_and(|follows| self.would_run_on(child, follows)) {
                self.in_brackets(child)?;
            } else {
                self.child(production, place, item, child)?;
            }
        }
        let end = self.end_of_list(filling.node, final_child);
        self.comments_after_items(self.tree.node(rest[0]).span.start, end);
        self.end(lay);
        filling.taken[field as usize] = children.len();
        Some(())
    }

    /// Where what follows a list begins: comments before that belong to the list.
    fn end_of_list(&self, node: NodeId, final_child: NodeId) -> u32 {
        let after = self.tree.node(final_child).span.end;
        (0..self.tree.field_count(node))
            .flat_map(|field| self.tree.children(node, field))
            .map(|child| self.tree.node(*child).span.start)
            .filter(|&start| start >= after)
            .min()
            .unwrap_or(self.tree.node(node).span.end)
    }

    /// How a field is laid out, if the definition says so.
    pub(super) fn lay(&self, production: &Production, field: u16) -> Option<Lay> {
        let form = &self.definition.forms[production.form?];
        form.lay_of(&form.fields[field as usize].name.text, false)
    }

    /// The blanks before and behind a field, where the definition says so.
    pub(super) fn blanks(&self, production: &Production, field: u16) -> [Option<Piece>; 2] {
        let form = production.form.map(|form| &self.definition.forms[form]);
        let blanks = form.map_or([None, None], |form| {
            form.blanks_of(&form.fields[field as usize].name.text, false)
        });
        blanks.map(|blank| blank.map(Piece::Blanks))
    }

    /// Begins what is laid out in a way; `first` at the front of a text or of a form.
    pub(super) fn begin(&mut self, lay: Option<Lay>, first: bool) {
        match lay {
            Some(Lay::Deeper) => self.out.push(Piece::Deeper),
            Some(Lay::Lines | Lay::Apart) if !first => self.out.push(Piece::Line),
            _ => {}
        }
    }

    /// Ends it.
    pub(super) fn end(&mut self, lay: Option<Lay>) {
        if lay == Some(Lay::Deeper) {
            self.out.push(Piece::Back);
        }
    }

    /// How the items of a list are laid out where nothing is said: on lines of their own
    /// are those of the whole text, and those in braces, unless they are operands or line
    /// ends stand between anyway.
    fn usual_lay(
        &self,
        production: &Production,
        place: usize,
        item: Symbol,
        node: NodeId,
    ) -> Option<Lay> {
        let Symbol::Nonterminal(n) = item else {
            return None;
        };
        let operands = matches!(
            &self.parser.grammar().nonterminals[n as usize],
            Nonterminal::Sort(sort) if self.definition.precedence.iter().any(|t| t.sort.text == *sort)
        );
        let in_braces = place > 0
            && production
                .right
                .get(place - 1)
                .is_some_and(|&s| self.literal(s) == Some("{"));
        if operands || self.definition.layout.is_some() {
            None
        } else if in_braces {
            Some(Lay::Deeper)
        } else {
            (node == self.tree.root() && place == 0).then_some(Lay::Lines)
        }
    }
}
