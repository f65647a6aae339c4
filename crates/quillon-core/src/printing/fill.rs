//! Writes a node with a production of its form.

use std::cell::RefCell;
use std::rc::Rc;

use rustc_hash::FxHashMap;

use super::{Brackets, Comments, Join, Piece};
use crate::definition::{Definition, Fixity, Layout};
use crate::lexing::Lexer;
use crate::parsing::{Parser, Production, Role, Symbol, signs_after};
use crate::tree::{NodeId, Tree, What};

/// Writes the nodes of a tree.
pub(super) struct Writer<'a> {
    pub definition: &'a Definition,
    pub tree: &'a Tree,
    pub brackets: Brackets,
    pub out: Vec<Piece>,
    pub comments: &'a Comments,
    /// The first comment that has not been written.
    pub next_comment: usize,
    /// Where the last thing written ends in the text that the tree comes from.
    pub position: u32,
    pub lexer: &'a Lexer,
    pub parser: &'a Parser,
    /// The productions of the forms that have been asked for.
    pub known: RefCell<FxHashMap<usize, Rc<[&'a Production]>>>,
    /// How the sign of each node stands that has a declared one as its operator: behind an operand,
    /// and before one.
    pub signs: FxHashMap<NodeId, [Option<Fixity>; 2]>,
}

/// A node being written: how many children of each field have been.
pub(super) struct Filling {
    pub node: NodeId,
    pub taken: Vec<usize>,
}

/// How far writing has got.
#[derive(Clone, Copy)]
struct Mark {
    length: usize,
    comment: usize,
    position: u32,
}

impl<'a> Writer<'a> {
    pub fn new(
        definition: &'a Definition,
        lexer: &'a Lexer,
        parser: &'a Parser,
        tree: &'a Tree,
        brackets: Brackets,
        comments: &'a Comments,
    ) -> Writer<'a> {
        let mut signs = FxHashMap::default();
        if definition.ranks().is_some() {
            signs_after(definition, tree, &mut |node, stands| {
                signs.insert(node, stands);
            });
        }
        Writer {
            definition,
            tree,
            signs,
            brackets,
            out: Vec::new(),
            comments,
            next_comment: 0,
            position: 0,
            lexer,
            parser,
            known: RefCell::default(),
        }
    }

    fn mark(&self) -> Mark {
        Mark {
            length: self.out.len(),
            comment: self.next_comment,
            position: self.position,
        }
    }

    /// Takes back what has been written since a mark.
    fn take_back(&mut self, mark: Mark) {
        self.out.truncate(mark.length);
        self.next_comment = mark.comment;
        self.position = mark.position;
    }

    /// Writes a node, as what a symbol wants if one does.
    pub fn node(&mut self, id: NodeId, wanted: Option<Symbol>) -> Option<()> {
        if self.next_comment < self.comments.all.len() && !self.begins_block(id) {
            self.comments_before(self.tree.node(id).span.start);
        }
        let Some(form) = self.tree.form(id) else {
            self.token(id);
            return Some(());
        };
        if let Some(sort) = wanted.and_then(|symbol| self.other_sort(symbol, form)) {
            return self.through(sort, id);
        }
        let mark = self.mark();
        for &production in self.productions(form).iter() {
            // What cannot be it is seen without writing the children, which would be written
            // again and again otherwise.
            if !self.has_shape(production, id) {
                continue;
            }
            let mut filling = self.filling(id);
            self.out.push(Piece::Open);
            if self.fill(production, &mut filling, false).is_some() && self.is_full(&filling) {
                self.out.push(Piece::Close);
                return Some(());
            }
            self.take_back(mark);
        }
        None
    }

    /// Writes a token. The pieces of a text with holes touch what is in the holes.
    fn token(&mut self, id: NodeId) {
        let What::Token(kind) = self.tree.node(id).what else {
            return;
        };
        let join = if self.lexer.ends_hole(kind) {
            Join::Touching
        } else {
            Join::Free
        };
        let text = self.tree.text(id).to_owned();
        self.position = self.tree.node(id).span.end;
        self.out.push(Piece::Token(text, join, kind));
        if self.lexer.begins_hole(kind) {
            self.out.push(Piece::Touch);
        }
    }

    /// Writes a node through a form of a sort that becomes it.
    fn through(&mut self, sort: &str, id: NodeId) -> Option<()> {
        let mark = self.mark();
        for (index, form) in self.definition.forms.iter().enumerate() {
            let Some(field) = form.becomes.as_ref().filter(|_| form.sort_name() == sort) else {
                continue;
            };
            let field = form.field_index(&field.text)? as u16;
            for &production in self.productions(index).iter() {
                let single = production
                    .roles
                    .iter()
                    .filter(|r| **r != Role::Drop)
                    .count()
                    == 1;
                if single && self.wrap(production, field, id).is_some() {
                    return Some(());
                }
                self.take_back(mark);
            }
        }
        None
    }

    /// Writes a production of a form that becomes its only field.
    fn wrap(&mut self, production: &Production, field: u16, id: NodeId) -> Option<()> {
        for (&symbol, &role) in production.right.iter().zip(&production.roles) {
            match role {
                Role::Drop => self.dropped(symbol, production)?,
                Role::Field(f) if f == field => {
                    let form = self.tree.form(id)?;
                    if self.other_sort(symbol, form).is_some() {
                        return None;
                    }
                    self.node(id, None)?;
                }
                Role::Field(_) | Role::Items(_) | Role::Item | Role::Inner => return None,
            }
        }
        Some(())
    }

    /// Writes a production with what is left of a node's fields.
    fn fill(
        &mut self,
        production: &Production,
        filling: &mut Filling,
        skip_first: bool,
    ) -> Option<()> {
        let start = usize::from(skip_first);
        for place in start..production.right.len() {
            let symbol = production.right[place];
            match production.roles[place] {
                Role::Drop => {
                    if self.may_break(production, place) {
                        self.out.push(Piece::Break);
                    }
                    self.dropped(symbol, production)?;
                }
                Role::Item => return None,
                Role::Field(field) => {
                    let child = self.next_child(filling, field, symbol)?;
                    let lay = self.lay(production, field);
                    let [before, after] = self.blanks(production, field);
                    self.begin(lay, false);
                    self.out.extend(before);
                    self.child(production, place, symbol, child)?;
                    self.out.extend(after);
                    self.end(lay);
                }
                Role::Items(field) => {
                    let [before, after] = self.blanks(production, field);
                    self.out.extend(before);
                    self.items(production, place, filling, field)?;
                    self.out.extend(after);
                }
                Role::Inner => self.inner(symbol, filling)?,
            }
        }
        Some(())
    }

    /// Whether a line can be broken before a word or a sign that is not in the tree: before words,
    /// and before signs between two operands.
    fn may_break(&self, production: &Production, place: usize) -> bool {
        let Some(text) = self.literal(production.right[place]).filter(|_| place > 0) else {
            return false;
        };
        let is_part = |role: Option<&Role>| matches!(role, Some(Role::Field(_) | Role::Items(_)));
        let between =
            is_part(production.roles.get(place - 1)) && is_part(production.roles.get(place + 1));
        let is_word = text.starts_with(char::is_alphabetic);
        is_word || production.level.is_some() && between
    }

    /// Writes a child, in brackets if it needs them.
    pub(super) fn child(
        &mut self,
        production: &Production,
        place: usize,
        symbol: Symbol,
        child: NodeId,
    ) -> Option<()> {
        let before = self.out.len();
        if self.needs_brackets(production, place, child) {
            self.in_brackets(child)?;
        } else {
            self.node(child, Some(symbol))?;
        }
        if let Symbol::Terminal(t) = symbol {
            self.join_at(before, t, false);
        } else if place == 1 && is_sign_before_operand(self, production) {
            self.join_close(before);
        }
        Some(())
    }

    /// Writes a node through a form that gives what is in it.
    pub(super) fn in_brackets(&mut self, child: NodeId) -> Option<()> {
        let form = self.tree.form(child)?;
        let sort = self.definition.forms[form].sort_name().to_owned();
        self.through(&sort, child)
    }

    /// Writes a group: its parts once, and for a repetition as often as they can be.
    fn inner(&mut self, symbol: Symbol, filling: &mut Filling) -> Option<()> {
        let Symbol::Nonterminal(helper) = symbol else {
            return None;
        };
        let grammar = self.parser.grammar();
        let all: Vec<&Production> = grammar.of[helper as usize]
            .iter()
            .map(|&id| &grammar.productions[id as usize])
            .collect();
        let again = |p: &&&Production| p.right.first() == Some(&symbol);
        let (mut more, mut once): (Vec<&Production>, Vec<&Production>) =
            all.iter().copied().partition(|p| again(&p));
        // What takes the most comes first: an empty choice only where nothing else fits.
        once.sort_by_key(|p| std::cmp::Reverse(p.right.len()));
        more.sort_by_key(|p| std::cmp::Reverse(p.right.len()));
        self.first_that_fits(&once, filling, false)?;
        while !self.is_full(filling) {
            let (mark, taken) = (self.mark(), filling.taken.clone());
            if self.first_that_fits(&more, filling, true).is_none() {
                break;
            }
            // Once more would take nothing then either, and not come to an end.
            if filling.taken == taken {
                self.take_back(mark);
                break;
            }
        }
        Some(())
    }

    fn first_that_fits(
        &mut self,
        productions: &[&Production],
        filling: &mut Filling,
        skip_first: bool,
    ) -> Option<()> {
        let mark = self.mark();
        let before = filling.taken.clone();
        for production in productions {
            if self.fill(production, filling, skip_first).is_some() {
                return Some(());
            }
            self.take_back(mark);
            filling.taken.clone_from(&before);
        }
        None
    }

    pub(super) fn literal(&self, symbol: Symbol) -> Option<&'a str> {
        let Symbol::Terminal(t) = symbol else {
            return None;
        };
        let kind = self
            .lexer
            .kind(self.parser.grammar().terminals[t as usize].kind);
        kind.is_literal().then_some(kind.name.as_str())
    }

    /// Writes a symbol that is not in the tree: a literal, or layout.
    pub(super) fn dropped(&mut self, symbol: Symbol, production: &Production) -> Option<()> {
        let Symbol::Terminal(t) = symbol else {
            return None;
        };
        let id = self.parser.grammar().terminals[t as usize].kind;
        let kind = self.lexer.kind(id);
        if kind.is_layout() {
            let names = Layout::Indentation.tokens();
            self.out
                .push(match names.iter().position(|n| *n == kind.name) {
                    Some(0) => Piece::Line,
                    Some(1) => Piece::Deeper,
                    _ => Piece::BackHere,
                });
            return Some(());
        }
        let text = if kind.is_literal() {
            kind.name.clone()
        } else {
            let rules = self.definition.tokens.iter();
            let mut rules = rules.filter(|rule| rule.name.text == kind.name);
            rules.next()?.pattern.only_text()?
        };
        let form = production.form.map(|form| &self.definition.forms[form]);
        self.begin(form.and_then(|form| form.lay_of(&kind.name, true)), false);
        self.comments_before_word(id);
        let blanks = form.map_or([None, None], |form| form.blanks_of(&kind.name, true));
        let [blank_before, blank_after] = blanks.map(|blank| blank.map(Piece::Blanks));
        self.out.extend(blank_before);
        let before = self.out.len();
        self.out.push(Piece::Token(text, Join::Free, id));
        let apart = production.right.len() > 1;
        self.join_at(before, t, apart);
        self.out.extend(blank_after);
        Some(())
    }

    /// Says how the first token from a place on stands to the one before it.
    fn join_at(&mut self, at: usize, terminal: u16, apart: bool) {
        let grammar = self.parser.grammar();
        let terminal = grammar.terminals[terminal as usize];
        let has_tight = grammar.of_kind[terminal.kind.0 as usize].1.is_some();
        if let Some(join) = self.first_join(at) {
            if terminal.tight {
                *join = Join::Touching;
            } else if has_tight && apart && *join == Join::Free {
                *join = Join::Apart;
            }
        }
    }

    /// How the token stands that comes first from a place on, if one does.
    fn first_join(&mut self, at: usize) -> Option<&mut Join> {
        let mut pieces = self.out[at..].iter_mut();
        let Piece::Token(_, join, _) = pieces.find(|piece| **piece != Piece::Open)? else {
            return None;
        };
        Some(join)
    }

    fn join_close(&mut self, at: usize) {
        let mut pieces = self.out[at..].iter_mut();
        if let Some(Piece::Token(text, join @ Join::Free, _)) = pieces.find(|p| **p != Piece::Open)
        {
            // Two signs in a row read badly together.
            if text.starts_with(|c: char| c.is_alphanumeric() || "(_\"".contains(c)) {
                *join = Join::Close;
            }
        }
    }
}

/// Whether a production is a sign before its operand, such as `-a`.
fn is_sign_before_operand(writer: &Writer<'_>, production: &Production) -> bool {
    production.right.len() == 2
        && writer
            .literal(production.right[0])
            .is_some_and(|text| !text.chars().any(char::is_alphanumeric))
}
