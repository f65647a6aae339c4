//! Makes the tree while the text is read: what the parser takes and reduces is done here
//! to the entries of the stack, and every node is made as soon as its parts are there.
//!
//! The entry of a token or of a node carries it. The entry of a helper (a list, a group)
//! carries a mark: its values stand in one list from there up to the mark of the next
//! helper on the stack. So a list of a million items costs nothing to pass on.

use super::grammar::{Grammar, Role};
use super::plans::{Plan, Rule, Rules, Slot};
use super::signs::SignReading;
use super::stacks::Entry;
use crate::definition::{Definition, Shape};
use crate::lexing::{KindId, Token, Tokens};
use crate::source::Span;
use crate::tree::{NodeId, Tree, TreeBuilder, What};

/// A value that a helper has gathered.
#[derive(Clone, Copy, Debug)]
pub(super) struct Value {
    node: NodeId,
    /// The field it is for; meaningless for the items of a list that forms share.
    field: u16,
}

/// Marks a token that has no node yet among what entries carry.
const TOKEN: u32 = 1 << 31;

/// Marks where the values of a helper begin.
pub(super) const MARK: u32 = 1 << 30;

/// What the entry of something that could not be read carries.
pub(super) const GAP: u32 = TreeBuilder::ABSENT.0;

/// The token that an entry carries, if it carries one.
pub(super) fn token_of(entry: Entry) -> Option<u32> {
    let is_token = entry.what & TOKEN != 0 && entry.what != GAP;
    is_token.then_some(entry.what & !TOKEN)
}

/// Where the values of an entry begin, if it is a helper's.
#[inline]
pub(super) fn mark_of(entry: Entry) -> Option<usize> {
    (entry.what & (TOKEN | MARK) == MARK).then_some((entry.what & !MARK) as usize)
}

/// Where the values of the first helper among some entries begin.
#[inline]
pub(super) fn first_mark(entries: &[Entry]) -> Option<usize> {
    entries.iter().find_map(|entry| mark_of(*entry))
}

/// The tree in the making.
pub(super) struct Assembly<'a> {
    grammar: &'a Grammar,
    rules: &'a Rules,
    becomes: &'a [Option<Shape>],
    tokens: &'a Tokens,
    /// The signs that are operators.
    pub signs: SignReading<'a>,
    tree: TreeBuilder<'a>,
    pub(super) values: Vec<Value>,
    slots: Vec<NodeId>,
    /// The deepest tree allowed, in nodes.
    deepest: u32,
    /// The first node found to be nested too deep.
    too_deep: Option<Span>,
}

impl<'a> Assembly<'a> {
    /// An empty tree over some tokens.
    pub fn new(
        definition: &'a Definition,
        grammar: &'a Grammar,
        rules: &'a Rules,
        becomes: &'a [Option<Shape>],
        tokens: &'a Tokens,
    ) -> Assembly<'a> {
        Assembly {
            grammar,
            rules,
            becomes,
            tokens,
            signs: SignReading::new(definition, tokens),
            tree: TreeBuilder::with_room(definition, &tokens.source, tokens.tokens.len())
                .with_signs(&tokens.signs),
            values: Vec::new(),
            slots: Vec::new(),
            deepest: crate::native_stack::deepest_tree(),
            too_deep: None,
        }
    }

    /// The place of the first node that is nested too deep.
    pub fn too_deep(&self) -> Option<Span> {
        self.too_deep
    }

    /// Puts a form of just one token on the stack.
    #[expect(
        clippy::inline_always,
        reason = "the loop over all tokens is slower without"
    )]
    #[inline(always)]
    pub fn leaf(&mut self, stack: &mut Vec<Entry>, rule: &Rule, token: u32, state: u32) {
        let what = match rule.plan {
            Plan::Leaf(form) => self.leaf_node(form, token).0,
            _ => 0,
        };
        stack.push(Entry {
            state,
            start: token,
            what,
            height: 1,
        });
    }

    #[inline]
    fn leaf_node(&mut self, form: u16, token: u32) -> NodeId {
        let Token { kind, span, .. } = self.tokens.tokens[token as usize];
        self.tree.leaf(form, kind, span)
    }

    /// Puts the parts of a production together; `end` is the token after the last.
    pub fn reduce(&mut self, stack: &mut Vec<Entry>, production: u32, state: u32, end: u32) {
        let rule = self.rules.rule(production);
        self.put_together(stack, (production, rule), state, end);
    }

    /// The same, part of the loop that it stands in.
    #[expect(
        clippy::inline_always,
        reason = "the loop over all tokens is slower without"
    )]
    #[inline(always)]
    pub fn put_together(
        &mut self,
        stack: &mut Vec<Entry>,
        (production, rule): (u32, &Rule),
        state: u32,
        end: u32,
    ) {
        let rules = self.rules;
        let base = stack.len() - rule.length as usize;
        let parts = &stack[base..];
        let start = parts.first().map_or(end, |entry| entry.start);
        let (what, height) = match rule.plan {
            Plan::Node(form) => {
                let first = self.tree.slot_count();
                let mut height = 0;
                for slot in rules.slots(rule) {
                    let child = match *slot {
                        Slot::Part(at) => {
                            let part = parts[at as usize];
                            height = height.max(part.height);
                            self.node_of(part)
                        }
                        Slot::Absent | Slot::Single(_) | Slot::Listed(_) | Slot::Empty => {
                            TreeBuilder::ABSENT
                        }
                    };
                    self.tree.slot(child);
                }
                self.close(form, (start, end), first, height)
            }
            Plan::Begin(at) => {
                let item = parts[at as usize];
                let mark = self.values.len() as u32 | MARK;
                self.append(item);
                (mark, item.height)
            }
            Plan::Append(at) => {
                let (list, item) = (parts[0], parts[at as usize]);
                self.append(item);
                (list.what, item.height.max(list.height))
            }
            _ => self.rarer(parts, production, (start, end)),
        };
        let entry = Entry {
            state,
            start,
            what,
            height,
        };
        match stack.get_mut(base) {
            Some(first) => {
                *first = entry;
                stack.truncate(base + 1);
            }
            None => stack.push(entry),
        }
    }

    /// What is left of `reduce`: what the entry carries, and how deep it is.
    #[inline(never)]
    fn rarer(&mut self, parts: &[Entry], production: u32, tokens: (u32, u32)) -> (u32, u32) {
        let rules = self.rules;
        let rule = rules.rule(production);
        match rule.plan {
            Plan::Gather => self.gather(parts, production),
            Plan::Pass(at) => {
                let part = parts[at as usize];
                self.drop_values(parts);
                (part.what, part.height)
            }
            Plan::WithLists(form) => {
                let span = self.span(tokens.0, tokens.1);
                let (node, height) = self.with_lists(form, rules.slots(rule), span, parts);
                self.drop_values(parts);
                (node.0, self.deepened(height, span))
            }
            Plan::Sorted(form) => {
                if self.grammar.declares(production) {
                    self.declare(parts, production, tokens.1);
                }
                let span = self.span(tokens.0, tokens.1);
                let (mark, height) = self.gather(parts, production);
                let node = self.sorted(form, span, mark);
                (node.0, self.deepened(height, span))
            }
            Plan::Leaf(form) => (self.leaf_node(form, tokens.0).0, 1),
            Plan::Accept | Plan::Begin(_) | Plan::Append(_) | Plan::Node(_) => (0, 0),
        }
    }

    /// Makes a sign an operator from a token on, as the parts of a form say.
    fn declare(&mut self, parts: &[Entry], production: u32, from: u32) {
        let tokens: Vec<Option<u32>> = parts.iter().map(|part| token_of(*part)).collect();
        self.declare_of(production, &tokens, from);
    }

    /// The same, of parts that are the tokens given.
    pub fn declare_of(&mut self, production: u32, tokens: &[Option<u32>], from: u32) {
        let production = &self.grammar.productions[production as usize];
        if let Some(form) = production.form {
            let of_field = |field: usize| tokens[production.place_of(field)?];
            self.signs.declare(form, from, of_field);
        }
    }

    /// The node of a form over some tokens with all slots from `first` on, and how deep it
    /// is if its deepest part is so deep.
    #[inline]
    fn close(&mut self, form: u16, tokens: (u32, u32), first: u32, height: u32) -> (u32, u32) {
        let span = self.span(tokens.0, tokens.1);
        let node = self.tree.close(What::Form(form), span, first);
        (node.0, self.deepened(height, span))
    }

    /// How deep a node is with a part so deep.
    #[inline]
    fn deepened(&mut self, height: u32, span: Span) -> u32 {
        if height >= self.deepest {
            self.too_deep.get_or_insert(span);
        }
        height + 1
    }

    #[inline]
    fn append(&mut self, item: Entry) {
        let node = self.node_of(item);
        self.value(node, 0);
    }

    /// Keeps a value for the form that it is a part of.
    #[inline]
    fn value(&mut self, node: NodeId, field: u16) {
        if node != TreeBuilder::ABSENT {
            self.values.push(Value { node, field });
        }
    }

    /// The node that an entry carries; a token gets one.
    #[inline]
    fn node_of(&mut self, entry: Entry) -> NodeId {
        if entry.what & TOKEN == 0 {
            return NodeId(entry.what);
        }
        if entry.what == GAP {
            return TreeBuilder::ABSENT;
        }
        let token = self.tokens.tokens[(entry.what & !TOKEN) as usize];
        self.tree.token(token.kind, token.span)
    }

    /// Forgets what the helpers among some parts have gathered.
    #[inline]
    pub(super) fn drop_values(&mut self, parts: &[Entry]) {
        if let Some(first) = first_mark(parts) {
            self.values.truncate(first);
        }
    }

    /// A node that has lists, and how deep its deepest part is.
    fn with_lists(
        &mut self,
        form: u16,
        slots: &[Slot],
        span: Span,
        parts: &[Entry],
    ) -> (NodeId, u32) {
        self.slots.clear();
        let mut height = 0;
        for slot in slots {
            let child = match *slot {
                Slot::Absent => TreeBuilder::ABSENT,
                Slot::Empty => self.tree.list(std::iter::empty(), span),
                Slot::Part(at) => {
                    let part = parts[at as usize];
                    height = height.max(part.height);
                    self.node_of(part)
                }
                Slot::Single(at) => {
                    let part = parts[at as usize];
                    height = height.max(part.height);
                    let node = self.node_of(part);
                    let node = Some(node).filter(|node| *node != TreeBuilder::ABSENT);
                    self.tree.list(node.into_iter(), span)
                }
                Slot::Listed(at) => {
                    height = height.max(parts[at as usize].height);
                    let values = &self.values[self.range(parts, at as usize)];
                    self.tree.list(values.iter().map(|value| value.node), span)
                }
            };
            self.slots.push(child);
        }
        (self.tree.node(form as usize, span, &self.slots), height)
    }

    /// Where the values of a helper among some entries stand; empty for other entries.
    #[inline]
    fn range(&self, entries: &[Entry], at: usize) -> std::ops::Range<usize> {
        let start = mark_of(entries[at]);
        let end = first_mark(&entries[at + 1..]).unwrap_or(self.values.len());
        start.unwrap_or(end)..end
    }

    /// Gathers the values of the parts of a production, each with its field, and drops
    /// what is not in the tree: where they begin, and how deep the deepest is. What a
    /// helper in front has gathered stays where it is.
    fn gather(&mut self, parts: &[Entry], production: u32) -> (u32, u32) {
        let roles = &self.grammar.productions[production as usize].roles;
        let height = parts.iter().map(|part| part.height).max().unwrap_or(0);
        let low = first_mark(parts).unwrap_or(self.values.len());
        let stays = usize::from(roles.first() == Some(&Role::Inner));
        let from = first_mark(&parts[stays..]).unwrap_or(self.values.len());
        let ranges: Vec<_> = (stays..parts.len())
            .map(|at| self.range(parts, at))
            .collect();
        let old = self.values.split_off(from);
        for ((part, role), range) in parts.iter().zip(roles).skip(stays).zip(ranges) {
            let field = match *role {
                Role::Drop => continue,
                Role::Field(field) | Role::Items(field) => Some(field),
                Role::Item | Role::Inner => None,
            };
            if mark_of(*part).is_some() {
                let values = &old[range.start - from..range.end - from];
                self.values.extend(values.iter().map(|value| Value {
                    node: value.node,
                    field: field.unwrap_or(value.field),
                }));
            } else {
                let node = self.node_of(*part);
                self.value(node, field.unwrap_or_default());
            }
        }
        (low as u32 | MARK, height)
    }

    /// The node of a form whose values have been gathered from a mark on.
    fn sorted(&mut self, form: u16, span: Span, mark: u32) -> NodeId {
        let values = self.values.split_off((mark & !MARK) as usize);
        let children = values.iter().map(|value| (value.field, value.node));
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

    /// The entry of a token.
    #[inline]
    pub fn take(token: u32, state: u32) -> Entry {
        Entry {
            state,
            start: token,
            what: token | TOKEN,
            height: 0,
        }
    }

    /// The tree as it is, with the topmost entry as its root.
    pub fn tree_of_top(&mut self, stack: &[Entry], production: u32, end: u32) -> Tree {
        let top = stack[stack.len() - 1];
        let form = self.grammar.productions[production as usize].form;
        let root = match (mark_of(top), form) {
            // A part of a form: shown as the form with just that part.
            (Some(mark), Some(form)) => {
                let span = self.span(top.start, end);
                let values = self.values[mark..].iter();
                let children = values.map(|value| (value.field, value.node));
                self.tree.form(form, span, &children)
            }
            _ => self.node_of(top),
        };
        self.tree.clone().finish(root)
    }

    /// The finished tree, of the topmost entry; nothing if no root could be read.
    pub fn finish(mut self, stack: &[Entry]) -> Option<Tree> {
        let root = self.node_of(stack[stack.len() - 1]);
        (root != TreeBuilder::ABSENT).then(|| self.tree.finish(root))
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
