//! Makes the tree while the text is read: what the parser takes and reduces is done here
//! to values, and every node is made as soon as its parts are there.
//!
//! The values of all entries of the stack stand in one list, in the order of the text.
//! An entry of a token or of a node has one value there, an entry of a helper (a list,
//! a group) as many as it has gathered; so a list of a million items costs nothing to
//! pass on.

use super::grammar::{Grammar, Role};
use super::plans::{Plan, Rule, Slot};
use super::stacks::Entry;
use crate::definition::{Definition, Shape};
use crate::lexing::{KindId, Tokens};
use crate::source::Span;
use crate::tree::{NodeId, Tree, TreeBuilder};

/// A part of something that is being read.
#[derive(Clone, Copy, Debug)]
struct Value {
    /// A node, or a token that has none yet.
    what: u32,
    /// The field it is for, once that is known.
    field: u16,
}

/// Marks a token among values.
const TOKEN: u32 = 1 << 31;

/// The field of a value that is not known yet.
const UNKNOWN: u16 = u16::MAX;

/// Entries taken off the stack with their values, to be put back in another way.
#[derive(Debug, Default)]
pub(super) struct Parked {
    entries: Vec<Entry>,
    values: Vec<Value>,
    /// The height of the first.
    height: u32,
}

/// The tree in the making.
pub(super) struct Assembly<'a> {
    grammar: &'a Grammar,
    rules: &'a [Rule],
    becomes: &'a [Option<Shape>],
    tokens: &'a Tokens,
    tree: TreeBuilder<'a>,
    values: Vec<Value>,
    slots: Vec<NodeId>,
    /// The deepest tree allowed, in nodes.
    deepest: u32,
    /// The first node found to be nested too deep.
    too_deep: Option<Span>,
    /// Set once the text is known to be wrong: there will be no tree.
    given_up: bool,
}

impl<'a> Assembly<'a> {
    /// An empty tree over some tokens.
    pub fn new(
        definition: &'a Definition,
        grammar: &'a Grammar,
        rules: &'a [Rule],
        becomes: &'a [Option<Shape>],
        tokens: &'a Tokens,
    ) -> Assembly<'a> {
        Assembly {
            grammar,
            rules,
            becomes,
            tokens,
            tree: TreeBuilder::new(definition, &tokens.source),
            values: Vec::new(),
            slots: Vec::new(),
            deepest: crate::deep::deepest_tree(),
            too_deep: None,
            given_up: false,
        }
    }

    /// The place of the first node that is nested too deep.
    pub fn too_deep(&self) -> Option<Span> {
        self.too_deep
    }

    /// Makes no more nodes.
    pub fn give_up(&mut self) {
        self.given_up = true;
        self.values.clear();
    }

    /// Whether no more nodes are made.
    pub fn has_given_up(&self) -> bool {
        self.given_up
    }

    /// The entry of a token.
    #[inline]
    pub fn take(&mut self, token: u32, state: u32) -> Entry {
        let mark = self.values.len() as u32;
        if !self.given_up {
            self.values.push(Value {
                what: token | TOKEN,
                field: UNKNOWN,
            });
        }
        Entry {
            state,
            start: token,
            mark,
            height: 0,
        }
    }

    /// Puts the parts of a production together; `end` is the token after the last.
    #[inline]
    pub fn reduce(&mut self, stack: &mut Vec<Entry>, production: u32, state: u32, end: u32) {
        let rules = self.rules;
        let rule = &rules[production as usize];
        let base = stack.len() - rule.length as usize;
        let (start, mark) = match stack.get(base) {
            Some(entry) => (entry.start, entry.mark),
            None => (end, self.values.len() as u32),
        };
        let mut height = 0;
        if !self.given_up {
            height = stack[base..].iter().map(|e| e.height).max().unwrap_or(0);
            match &rule.plan {
                Plan::Accept => {}
                Plan::Gather => self.gather(stack, base, production),
                Plan::Pass(at) => {
                    let value = self.part(stack, base, *at);
                    self.put(mark, value);
                }
                Plan::Node(form, slots) => {
                    height += 1;
                    let span = self.span(start, end);
                    self.check_height(height, span);
                    let node = self.node(*form, slots, span, stack, base);
                    self.put(mark, node);
                }
                Plan::Sorted(form) => {
                    height += 1;
                    let span = self.span(start, end);
                    self.check_height(height, span);
                    self.gather(stack, base, production);
                    let node = self.sorted(*form, span, mark);
                    self.put(mark, node);
                }
            }
        }
        stack.truncate(base);
        stack.push(Entry {
            state,
            start,
            mark,
            height,
        });
    }

    #[inline]
    fn check_height(&mut self, height: u32, span: Span) {
        if height > self.deepest {
            self.too_deep.get_or_insert(span);
        }
    }

    /// Replaces everything from a mark on by one value.
    #[inline]
    fn put(&mut self, mark: u32, node: NodeId) {
        self.values.truncate(mark as usize);
        self.values.push(Value {
            what: node.0,
            field: UNKNOWN,
        });
    }

    /// The node of a value; a token gets one.
    #[inline]
    fn node_of(&mut self, at: usize) -> NodeId {
        let what = self.values[at].what;
        if what & TOKEN == 0 {
            return NodeId(what);
        }
        let token = self.tokens.tokens[(what & !TOKEN) as usize];
        self.tree.token(token.kind, token.span)
    }

    /// The node of a part that has one value.
    #[inline]
    fn part(&mut self, stack: &[Entry], base: usize, at: u16) -> NodeId {
        self.node_of(stack[base + at as usize].mark as usize)
    }

    /// The values of an entry.
    #[inline]
    fn values_of(&self, stack: &[Entry], at: usize) -> std::ops::Range<usize> {
        let end = stack
            .get(at + 1)
            .map_or(self.values.len(), |next| next.mark as usize);
        stack[at].mark as usize..end
    }

    fn node(
        &mut self,
        form: u16,
        slots: &[Slot],
        span: Span,
        stack: &[Entry],
        base: usize,
    ) -> NodeId {
        self.slots.clear();
        for slot in slots {
            let child = match *slot {
                Slot::Absent => TreeBuilder::ABSENT,
                Slot::Part(at) => self.part(stack, base, at),
                Slot::Empty => self.tree.list(std::iter::empty(), span),
                Slot::Listed(at) => {
                    let range = self.values_of(stack, base + at as usize);
                    self.list(range, span)
                }
            };
            self.slots.push(child);
        }
        self.tree.node(form as usize, span, &self.slots)
    }

    fn list(&mut self, range: std::ops::Range<usize>, span: Span) -> NodeId {
        for at in range.clone() {
            self.values[at].what = self.node_of(at).0;
        }
        let nodes = self.values[range].iter().map(|value| NodeId(value.what));
        self.tree.list(nodes, span)
    }

    /// Gathers the values of the parts of a production, each with its field, and drops
    /// what is not in the tree. What a list in front has gathered stays where it is.
    fn gather(&mut self, stack: &[Entry], base: usize, production: u32) {
        let grammar = self.grammar;
        let roles = &grammar.productions[production as usize].roles;
        let Some(first) = stack.get(base) else {
            return;
        };
        let mut to = first.mark as usize;
        for (at, role) in (base..).zip(roles) {
            let range = self.values_of(stack, at);
            match *role {
                Role::Drop => {}
                Role::Inner if to == range.start => to = range.end,
                Role::Inner => {
                    self.values.copy_within(range.clone(), to);
                    to += range.len();
                }
                Role::Item => {
                    self.values[to] = Value {
                        what: self.node_of(range.start).0,
                        field: UNKNOWN,
                    };
                    to += 1;
                }
                Role::Field(field) | Role::Items(field) => {
                    for from in range {
                        let what = self.node_of(from).0;
                        self.values[to] = Value { what, field };
                        to += 1;
                    }
                }
            }
        }
        self.values.truncate(to);
    }

    /// The node of a form whose values have been gathered from a mark on.
    fn sorted(&mut self, form: u16, span: Span, mark: u32) -> NodeId {
        let values = &self.values[mark as usize..];
        let children = values.iter().map(|value| (value.field, NodeId(value.what)));
        if let Some(shape) = &self.becomes[form as usize] {
            let given: Vec<(u16, NodeId)> = children.clone().collect();
            if let Some(&made) = shaped(&mut self.tree, shape, span, &given).last() {
                return made;
            }
        }
        self.tree.form(form as usize, span, &children)
    }

    /// The text from one token to before another.
    #[inline]
    pub fn span(&self, start: u32, end: u32) -> Span {
        let tokens = &self.tokens.tokens;
        let first = tokens[start as usize];
        if end > start {
            return first.span.to(tokens[end as usize - 1].span);
        }
        let at = if first.kind == KindId::END && start > 0 {
            tokens[start as usize - 1].span.end
        } else {
            first.span.start
        };
        Span { start: at, end: at }
    }

    /// Takes the entries from a height on off the stack.
    pub fn park(&mut self, stack: &mut Vec<Entry>, height: u32) -> Parked {
        let entries = stack.split_off(height as usize);
        let values = match entries.first() {
            Some(first) if !self.given_up => self.values.split_off(first.mark as usize),
            _ => Vec::new(),
        };
        Parked {
            entries,
            values,
            height,
        }
    }

    /// Puts one of the entries of a height back on top of the stack.
    pub fn put_back(&mut self, stack: &mut Vec<Entry>, parked: &Parked, height: u32) {
        let at = (height - parked.height) as usize;
        let entry = parked.entries[at];
        let low = parked.entries[0].mark as usize;
        let mark = self.values.len() as u32;
        if !self.given_up {
            let end = parked
                .entries
                .get(at + 1)
                .map_or(parked.values.len(), |next| next.mark as usize - low);
            let values = &parked.values[entry.mark as usize - low..end];
            self.values.extend_from_slice(values);
        }
        stack.push(Entry { mark, ..entry });
    }

    /// The tree as it is, with the topmost entry as its root.
    pub fn tree_of_top(&mut self, stack: &[Entry], production: u32, end: u32) -> Tree {
        let at = stack.len() - 1;
        let range = self.values_of(stack, at);
        let root = match (range.len(), self.grammar.productions[production as usize].form) {
            (1, _) | (_, None) => self.node_of(range.start),
            // A part of a form: shown as the form with just that part.
            (_, Some(form)) => {
                let span = self.span(stack[at].start, end);
                for at in range.clone() {
                    self.values[at].what = self.node_of(at).0;
                }
                let values = &self.values[range];
                let children = values.iter().map(|value| (value.field, NodeId(value.what)));
                self.tree.form(form, span, &children)
            }
        };
        self.tree.clone().finish(root)
    }

    /// The finished tree, of the only entry above the bottom.
    pub fn finish(mut self, stack: &[Entry]) -> Tree {
        let root = self.part(stack, stack.len() - 1, 0);
        self.tree.finish(root)
    }
}

/// The nodes that a shape makes of a form's fields.
fn shaped(
    tree: &mut TreeBuilder<'_>,
    shape: &Shape,
    span: Span,
    given: &[(u16, NodeId)],
) -> Vec<NodeId> {
    match shape {
        Shape::Field(field) => given
            .iter()
            .filter(|(f, _)| f == field)
            .map(|&(_, value)| value)
            .collect(),
        Shape::List(items) => items
            .iter()
            .flat_map(|item| shaped(tree, item, span, given))
            .collect(),
        Shape::Form(form, slots) => {
            let mut children = Vec::new();
            for (slot, inner) in slots {
                let made = shaped(tree, inner, span, given);
                children.extend(made.into_iter().map(|child| (*slot, child)));
            }
            vec![tree.form(*form as usize, span, &children.into_iter())]
        }
    }
}
