//! The tree of a program: forms with their fields, as the definition has them.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use crate::definition::{Count, Definition};
use crate::lexing::{KindId, Lexer, Signs, Token};
use crate::source::{SourceText, Span};

mod alike;
mod from_term;
mod json;
mod matching;
mod text;

pub(crate) use alike::alike;
pub(crate) use from_term::from_term;
pub use json::{literal_json, to_json};
pub use matching::{Mismatch, matches};
pub(crate) use text::token_text;
pub use text::{Line, leaf, lines, one_line, to_sexp, value_text};

/// A node, by index.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub struct NodeId(pub u32);

/// What a node is.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum What {
    /// A form, by its index in the definition.
    Form(u16),
    /// The children of a repeated field.
    List,
    /// A token.
    Token(KindId),
}

/// A node of a tree.
#[derive(Clone, Copy, Debug)]
pub struct Node {
    /// What it is.
    pub what: What,
    /// The text it covers.
    pub span: Span,
    /// Its first slot. A form has one for each of its fields; how many a list has stands in the slot
    /// before.
    first: u32,
}

/// A node on the way from the root to a place.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct PathStep {
    /// The node.
    pub node: NodeId,
    /// The field of the node above in which it is.
    pub field: Option<usize>,
    /// Its number there, if the field is repeated.
    pub number: Option<usize>,
}

/// The slot of a field that is not there.
const ABSENT: NodeId = NodeId(u32::MAX);

/// A tree. A form has one slot a field, in the order of the definition's fields.
#[derive(Clone, Debug)]
pub struct Tree {
    source: Arc<SourceText>,
    nodes: Vec<Node>,
    slots: Vec<NodeId>,
    /// How many slots the nodes of each form have.
    widths: Arc<[u16]>,
    root: NodeId,
    /// What tokens are called that are called otherwise than in the text.
    renamed: FxHashMap<NodeId, String>,
    /// The signs that are operators before it begins.
    signs: Arc<Signs>,
}

/// What a field of a node holds.
#[derive(Clone, Copy, Debug)]
pub enum Child<'a> {
    /// An optional field that is not there.
    Absent,
    /// One child.
    One(NodeId),
    /// The children of a repeated field.
    Many(&'a [NodeId]),
}

impl Tree {
    /// The text the tree was read from.
    pub fn source(&self) -> &Arc<SourceText> {
        &self.source
    }

    /// The topmost node.
    pub fn root(&self) -> NodeId {
        self.root
    }

    /// A node.
    pub fn node(&self, id: NodeId) -> &Node {
        &self.nodes[id.0 as usize]
    }

    /// The number of nodes.
    pub fn len(&self) -> usize {
        self.nodes.len()
    }

    /// Whether there are no nodes; never so for a finished tree.
    pub fn is_empty(&self) -> bool {
        self.nodes.is_empty()
    }

    /// The memory that nodes and slots take, in bytes.
    pub fn bytes(&self) -> usize {
        self.nodes.capacity() * size_of::<Node>() + self.slots.capacity() * size_of::<NodeId>()
    }

    /// The form of a node, as an index into the definition's forms.
    pub fn form(&self, id: NodeId) -> Option<usize> {
        match self.node(id).what {
            What::Form(form) => Some(form as usize),
            What::List | What::Token(_) => None,
        }
    }

    /// The signs that are operators before it begins.
    pub(crate) fn signs(&self) -> &Arc<Signs> {
        &self.signs
    }

    /// The same tree with some of its tokens called otherwise.
    pub(crate) fn with_names(&self, renamed: FxHashMap<NodeId, String>) -> Tree {
        Tree {
            renamed,
            ..self.clone()
        }
    }

    /// The text a node covers; of a token that is called otherwise, what it is called.
    pub fn text(&self, id: NodeId) -> &str {
        if !self.renamed.is_empty()
            && let Some(name) = self.renamed.get(&id)
        {
            return name;
        }
        self.source.slice(self.node(id).span)
    }

    /// The number of fields of a form's node.
    pub(crate) fn field_count(&self, id: NodeId) -> usize {
        let node = self.node(id);
        match node.what {
            What::Form(form) => usize::from(self.widths[form as usize]),
            What::List | What::Token(_) => 0,
        }
    }

    /// A field of a form's node.
    pub fn field(&self, id: NodeId, index: usize) -> Child<'_> {
        let node = self.node(id);
        let slot = self.slots[node.first as usize + index];
        if slot == ABSENT {
            return Child::Absent;
        }
        let child = self.node(slot);
        match child.what {
            What::List => Child::Many(self.listed(child)),
            What::Form(_) | What::Token(_) => Child::One(slot),
        }
    }

    /// The children of a field, however many it has.
    pub fn children(&self, id: NodeId, index: usize) -> &[NodeId] {
        let slot = &self.slots[self.node(id).first as usize + index];
        if *slot == ABSENT {
            return &[];
        }
        let child = self.node(*slot);
        match child.what {
            What::List => self.listed(child),
            What::Form(_) | What::Token(_) => std::slice::from_ref(slot),
        }
    }

    /// The items of a list.
    fn listed(&self, list: &Node) -> &[NodeId] {
        let first = list.first as usize;
        let count = self.slots[first - 1].0 as usize;
        &self.slots[first..first + count]
    }

    /// The nodes that cover a place, the outermost first.
    pub fn path(&self, offset: u32) -> Vec<PathStep> {
        let mut path = vec![PathStep {
            node: self.root,
            field: None,
            number: None,
        }];
        let mut at = self.root;
        let covers = |node: NodeId| {
            let span = self.node(node).span;
            span.start <= offset && offset < span.end.max(span.start + 1)
        };
        'down: loop {
            for field in 0..self.field_count(at) {
                let several = matches!(self.field(at, field), Child::Many(_));
                for (number, &child) in self.children(at, field).iter().enumerate() {
                    if covers(child) {
                        path.push(PathStep {
                            node: child,
                            field: Some(field),
                            number: several.then_some(number),
                        });
                        at = child;
                        continue 'down;
                    }
                }
            }
            return path;
        }
    }

    /// What a field of the forms among some nodes holds, one node after the other.
    pub fn parts(&self, definition: &Definition, nodes: &[NodeId], field: &str) -> Vec<NodeId> {
        let of = |&node: &NodeId| {
            let form = &definition.forms[self.form(node)?];
            Some(self.children(node, form.field_index(field)?))
        };
        nodes.iter().filter_map(of).flatten().copied().collect()
    }

    /// The value of a token's node.
    pub fn value(&self, lexer: &Lexer, id: NodeId) -> Option<crate::definition::Literal> {
        match self.node(id).what {
            What::Token(kind) => {
                Some(lexer.value(&self.source, Token::new(kind, self.node(id).span)))
            }
            What::Form(_) | What::List => None,
        }
    }
}

/// Makes a tree from the leaves up.
#[derive(Clone, Debug)]
pub struct TreeBuilder<'a> {
    definition: &'a Definition,
    tree: Tree,
    /// The slots of the node at hand; kept so that not every node asks for memory.
    slots: Vec<NodeId>,
}

impl<'a> TreeBuilder<'a> {
    /// What stands in the slot of a field that is not there.
    pub(crate) const ABSENT: NodeId = ABSENT;

    /// An empty tree over a text.
    pub fn new(definition: &'a Definition, source: &Arc<SourceText>) -> TreeBuilder<'a> {
        TreeBuilder::with_room(definition, source, 0)
    }

    /// An empty tree over a text of so many tokens: with room for about as many nodes as
    /// that makes, so that they need not be moved; what is not used is never touched.
    pub(crate) fn with_room(
        definition: &'a Definition,
        source: &Arc<SourceText>,
        tokens: usize,
    ) -> TreeBuilder<'a> {
        let room = tokens + tokens / 2;
        let widths = definition.forms.iter().map(|form| form.fields.len() as u16);
        TreeBuilder {
            definition,
            slots: Vec::new(),
            tree: Tree {
                source: Arc::clone(source),
                nodes: Vec::with_capacity(room),
                slots: Vec::with_capacity(room),
                widths: widths.collect(),
                root: NodeId(0),
                renamed: FxHashMap::default(),
                signs: Arc::default(),
            },
        }
    }

    /// The same, with the signs that are operators before it begins.
    pub(crate) fn with_signs(mut self, signs: &Arc<Signs>) -> TreeBuilder<'a> {
        self.tree.signs = Arc::clone(signs);
        self
    }

    fn add(&mut self, what: What, span: Span, slots: &[NodeId]) -> NodeId {
        let first = self.slot_count();
        self.tree.slots.extend_from_slice(slots);
        self.close(what, span, first)
    }

    /// The number of slots there are: where those of the next node begin.
    #[inline]
    pub(crate) fn slot_count(&self) -> u32 {
        self.tree.slots.len() as u32
    }

    /// Adds a slot for the next node.
    #[inline]
    pub(crate) fn slot(&mut self, child: NodeId) {
        self.tree.slots.push(child);
    }

    /// A form's node with one slot, in which there is a token.
    #[inline]
    pub(crate) fn leaf(&mut self, form: u16, kind: KindId, span: Span) -> NodeId {
        let first = self.slot_count();
        let token = self.close(What::Token(kind), span, first);
        self.slot(token);
        self.close(What::Form(form), span, first)
    }

    /// The node of all slots from `first` on.
    #[inline]
    pub(crate) fn close(&mut self, what: What, span: Span, first: u32) -> NodeId {
        self.tree.nodes.push(Node { what, span, first });
        NodeId(self.tree.nodes.len() as u32 - 1)
    }

    /// A form's node, with what is in its slots.
    #[inline]
    pub(crate) fn node(&mut self, form: usize, span: Span, slots: &[NodeId]) -> NodeId {
        self.add(What::Form(form as u16), span, slots)
    }

    /// A token's node.
    #[inline]
    pub fn token(&mut self, kind: KindId, span: Span) -> NodeId {
        let first = self.slot_count();
        self.close(What::Token(kind), span, first)
    }

    /// A form's node. `children` are pairs of a field's index and a child, in the order
    /// of the text.
    pub fn form(
        &mut self,
        form: usize,
        span: Span,
        children: &(impl Iterator<Item = (u16, NodeId)> + Clone),
    ) -> NodeId {
        let fields = &self.definition.forms[form].fields;
        let mut slots = std::mem::take(&mut self.slots);
        slots.clear();
        for (index, field) in fields.iter().enumerate() {
            let own = children
                .clone()
                .filter(|(f, _)| *f as usize == index)
                .map(|(_, child)| child);
            slots.push(match field.count {
                Count::Many => self.list(own, span),
                Count::One | Count::Optional => own.clone().next().unwrap_or(ABSENT),
            });
        }
        let node = self.node(form, span, &slots);
        self.slots = slots;
        node
    }

    /// The node of a repeated field of a form that covers `around`.
    pub(crate) fn list(&mut self, items: impl Iterator<Item = NodeId>, around: Span) -> NodeId {
        self.tree.slots.push(NodeId(0));
        let first = self.slot_count();
        self.tree.slots.extend(items);
        self.tree.slots[first as usize - 1] = NodeId(self.slot_count() - first);
        let span = match &self.tree.slots[first as usize..] {
            [] => around.after(),
            [one, .., last] => self.tree.node(*one).span.to(self.tree.node(*last).span),
            [only] => self.tree.node(*only).span,
        };
        self.close(What::List, span, first)
    }

    /// The finished tree.
    pub fn finish(mut self, root: NodeId) -> Tree {
        self.tree.root = root;
        self.tree.nodes.shrink_to_fit();
        self.tree.slots.shrink_to_fit();
        self.tree
    }
}
