//! Programs as terms that can be taken apart and put together; a tree is over a text and
//! cannot.

use std::cell::Cell;
use std::rc::Rc;
use std::sync::Arc;

use rustc_hash::FxHashMap;
use xxhash_rust::xxh3::xxh3_128;

use crate::definition::{Count, Definition, Literal, Thing};
use crate::lexing::{KindId, Lexer, Token};
use crate::source::{SourceText, Span};
use crate::tree::{Child, NodeId, Tree, TreeBuilder, What, value_text};

/// A part of a program.
pub(super) type TermPart = Rc<Term>;

/// A form with its fields, or a token; each is told from every other by its number.
#[derive(Debug)]
pub(super) struct Term {
    pub number: u32,
    /// How many levels it has, itself among them.
    pub depth: u32,
    pub kind: TermKind,
}

#[derive(Debug)]
pub(super) enum TermKind {
    Form(u16, Vec<Slot>),
    Token(KindId, Rc<str>),
}

/// What a field has.
#[derive(Clone, Debug)]
pub(super) enum Slot {
    Absent,
    One(TermPart),
    Many(Vec<TermPart>),
}

impl Slot {
    /// Its children, however many there are.
    pub fn parts(&self) -> &[TermPart] {
        match self {
            Slot::Absent => &[],
            Slot::One(part) => std::slice::from_ref(part),
            Slot::Many(parts) => parts,
        }
    }
}

/// The way from a program to a part: fields, with the number of the child in each.
pub(super) type Path = Vec<(usize, usize)>;

impl Term {
    pub fn form(&self) -> Option<(usize, &[Slot])> {
        match &self.kind {
            TermKind::Form(form, slots) => Some((*form as usize, slots)),
            TermKind::Token(..) => None,
        }
    }

    /// What tells it from every part that is made of other forms or tokens: a sum of all that is in it, since
    /// what is kept of each step of a long reduction has to be small.
    pub fn key(&self) -> u128 {
        let mut key = Vec::new();
        let mut waiting = vec![self];
        while let Some(term) = waiting.pop() {
            match &term.kind {
                TermKind::Token(kind, text) => {
                    key.push(0);
                    key.extend(kind.0.to_le_bytes());
                    key.extend((text.len() as u32).to_le_bytes());
                    key.extend(text.as_bytes());
                }
                TermKind::Form(form, slots) => {
                    key.push(1);
                    key.extend(form.to_le_bytes());
                    for slot in slots {
                        key.extend((slot.parts().len() as u32).to_le_bytes());
                        waiting.extend(slot.parts().iter().map(|part| &**part));
                    }
                }
            }
        }
        xxh3_128(&key)
    }

    /// Whether it has more than so many parts, itself among them.
    pub fn is_larger(&self, most: usize) -> bool {
        let mut left = most;
        let mut waiting = vec![self];
        while let Some(term) = waiting.pop() {
            if left == 0 {
                return true;
            }
            left -= 1;
            if let Some((_, slots)) = term.form() {
                let parts = slots.iter().flat_map(Slot::parts);
                waiting.extend(parts.map(|part| &**part));
            }
        }
        false
    }
}

/// Makes terms, each with a number of its own.
#[derive(Debug, Default)]
pub(super) struct Terms {
    made: Cell<u32>,
}

impl Terms {
    fn term(&self, kind: TermKind) -> TermPart {
        let number = self.made.get();
        self.made.set(number + 1);
        let depth = match &kind {
            TermKind::Form(_, slots) => {
                let parts = slots.iter().flat_map(Slot::parts);
                1 + parts.map(|part| part.depth).max().unwrap_or(0)
            }
            TermKind::Token(..) => 1,
        };
        Rc::new(Term {
            number,
            depth,
            kind,
        })
    }

    pub fn form(&self, form: usize, slots: Vec<Slot>) -> TermPart {
        self.term(TermKind::Form(form as u16, slots))
    }

    pub fn token(&self, kind: KindId, text: &str) -> TermPart {
        self.term(TermKind::Token(kind, Rc::from(text)))
    }

    /// A node of a tree with all that is in it.
    pub fn of_tree(&self, tree: &Tree, node: NodeId) -> TermPart {
        match tree.node(node).what {
            What::Form(form) => {
                let slots =
                    (0..tree.field_count(node)).map(|field| match tree.field(node, field) {
                        Child::Absent => Slot::Absent,
                        Child::One(child) => Slot::One(self.of_tree(tree, child)),
                        Child::Many(children) => {
                            let children = children.iter();
                            Slot::Many(children.map(|&child| self.of_tree(tree, child)).collect())
                        }
                    });
                self.form(form as usize, slots.collect())
            }
            What::Token(kind) => self.token(kind, tree.text(node)),
            What::List => self.form(0, Vec::new()),
        }
    }

    /// A part once more, with numbers of its own; `copied` gets the old number of each new
    /// one.
    pub fn copy(&self, part: &TermPart, copied: &mut FxHashMap<u32, u32>) -> TermPart {
        let new = match &part.kind {
            TermKind::Form(form, slots) => {
                let slots = slots.iter().map(|slot| match slot {
                    Slot::Absent => Slot::Absent,
                    Slot::One(one) => Slot::One(self.copy(one, copied)),
                    Slot::Many(all) => {
                        Slot::Many(all.iter().map(|one| self.copy(one, copied)).collect())
                    }
                });
                self.form(*form as usize, slots.collect())
            }
            TermKind::Token(kind, text) => self.token(*kind, text),
        };
        copied.insert(new.number, part.number);
        new
    }

    /// The part with others in place of some of its parts, by their numbers.
    pub fn replaced(&self, part: &TermPart, with: &FxHashMap<u32, TermPart>) -> TermPart {
        if let Some(other) = with.get(&part.number) {
            return Rc::clone(other);
        }
        let Some((form, slots)) = part.form() else {
            return Rc::clone(part);
        };
        let mut changed = false;
        let mut one = |old: &TermPart| {
            let new = self.replaced(old, with);
            changed |= !Rc::ptr_eq(old, &new);
            new
        };
        let slots: Vec<Slot> = slots
            .iter()
            .map(|slot| match slot {
                Slot::Absent => Slot::Absent,
                Slot::One(old) => Slot::One(one(old)),
                Slot::Many(all) => Slot::Many(all.iter().map(&mut one).collect()),
            })
            .collect();
        if changed {
            self.form(form, slots)
        } else {
            Rc::clone(part)
        }
    }

    /// A token that a field can have and that holds a value, if there is one.
    pub fn holding(&self, lexer: &Lexer, things: &[Thing], value: &Literal) -> Option<TermPart> {
        let plain = match value {
            Literal::Text(text) => text.clone(),
            other => value_text(other),
        };
        let texts = [
            plain.clone(),
            format!("\"{plain}\""),
            format!("'{plain}'"),
            value_text(value),
        ];
        for kind in lexer.kinds_of(things) {
            for text in &texts {
                let source = SourceText::new("value", text.clone());
                let span = Span::new(0, text.len());
                let holds = lexer.kind(kind).holds.is_some();
                let held = lexer.value(&source, Token::new(kind, span));
                let may = lexer.is_one(kind, text) || holds && !matches!(value, Literal::Text(_));
                let same = if holds {
                    held == *value
                } else {
                    *text == plain
                };
                if may && same {
                    return Some(self.token(kind, text));
                }
            }
        }
        None
    }
}

/// A term as a tree over a text made of its tokens; the nodes of its parts by their numbers.
pub(super) fn to_tree(definition: &Definition, part: &TermPart) -> (Tree, FxHashMap<u32, NodeId>) {
    let mut text = String::new();
    let mut spans = FxHashMap::default();
    write(part, &mut text, &mut spans);
    let source: Arc<SourceText> = SourceText::new("step", text);
    let mut builder = TreeBuilder::new(definition, &source);
    let mut nodes = FxHashMap::default();
    let root = build(definition, part, &spans, &mut builder, &mut nodes);
    (builder.finish(root), nodes)
}

fn write(part: &TermPart, text: &mut String, spans: &mut FxHashMap<u32, Span>) {
    let start = text.len();
    match &part.kind {
        TermKind::Token(_, own) => {
            text.push_str(own);
            spans.insert(part.number, Span::new(start, text.len()));
            text.push(' ');
        }
        TermKind::Form(_, slots) => {
            for child in slots.iter().flat_map(Slot::parts) {
                write(child, text, spans);
            }
            let end = text.trim_end().len().max(start);
            spans.insert(part.number, Span::new(start, end));
        }
    }
}

fn build(
    definition: &Definition,
    part: &TermPart,
    spans: &FxHashMap<u32, Span>,
    builder: &mut TreeBuilder<'_>,
    nodes: &mut FxHashMap<u32, NodeId>,
) -> NodeId {
    let span = spans[&part.number];
    let node = match &part.kind {
        TermKind::Token(kind, _) => builder.token(*kind, span),
        TermKind::Form(form, slots) => {
            let fields = &definition.forms[*form as usize].fields;
            let mut made = Vec::new();
            for (slot, field) in slots.iter().zip(fields) {
                let children: Vec<NodeId> = slot
                    .parts()
                    .iter()
                    .map(|child| build(definition, child, spans, builder, nodes))
                    .collect();
                made.push(match (field.count, slot) {
                    (Count::Many, _) => builder.list(children.into_iter(), span),
                    (_, Slot::Absent) => TreeBuilder::ABSENT,
                    _ => children.first().copied().unwrap_or(TreeBuilder::ABSENT),
                });
            }
            builder.node(*form as usize, span, &made)
        }
    };
    nodes.insert(part.number, node);
    node
}
