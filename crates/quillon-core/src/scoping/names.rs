//! What the names of a program mean, as data.

use std::borrow::Cow;
use std::rc::Rc;

use rustc_hash::{FxHashMap, FxHashSet};

use crate::definition::Form;
use crate::source::{Position, Span};
use crate::tree::{NodeId, Tree};

/// A binding, by index.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub struct BindingId(pub u32);

/// Where a variable lives.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Home {
    /// In the scope that a node opens: made afresh each time the node runs.
    Node(NodeId),
    /// In the session: it outlives the run.
    Session(u32),
    /// In the language: a built-in function or constant.
    BuiltIn(u32),
}

/// A name bound to a variable.
#[derive(Clone, Debug)]
pub struct Binding {
    /// The name.
    pub name: String,
    /// Where it is bound; missing for what was there before the program.
    pub span: Option<Span>,
    /// Where the variable lives.
    pub home: Home,
    /// Whether it cannot be changed.
    pub fixed: bool,
    /// Whether uses find the binding that is under way when they run.
    pub dynamic: bool,
    /// Whether the name is the same in capital and in small letters.
    pub ignores_case: bool,
    /// The name space it belongs to; empty for that of plain names.
    pub space: String,
    /// The binding of the same name that was in sight where this one was made.
    pub hides: Option<BindingId>,
    /// The field of the home node under which it is bound.
    pub field: Option<usize>,
}

impl Binding {
    /// The name of the variable of a dynamic binding: with its name space, if that is not
    /// the one of plain names.
    pub(crate) fn dynamic_key(&self) -> Option<Rc<str>> {
        let key = || {
            let name = folded(&self.name, self.ignores_case);
            match self.space.as_str() {
                "" => Rc::from(&*name),
                space => Rc::from(format!("{name} as {space}")),
            }
        };
        self.dynamic.then(key)
    }
}

/// What a name is known by: in a language that ignores case, the name in small letters.
pub(crate) fn folded(name: &str, ignores_case: bool) -> Cow<'_, str> {
    if ignores_case && name.chars().any(char::is_uppercase) {
        return Cow::Owned(name.to_lowercase());
    }
    Cow::Borrowed(name)
}

/// What the names of a program mean.
#[derive(Clone, Debug, Default)]
pub struct Names {
    /// Every binding.
    pub bindings: Vec<Binding>,
    /// The binding that a name's token means, for uses and bindings alike.
    pub(super) of_node: FxHashMap<NodeId, BindingId>,
    /// The bindings whose variables live at a node.
    pub(super) at_node: FxHashMap<NodeId, Vec<BindingId>>,
    /// The nodes that run when the scope of a node begins, and not where they stand: each with the
    /// field of that node that it is under.
    pub(super) first: FxHashMap<NodeId, Vec<(Option<usize>, NodeId)>>,
    /// How a name's token that is no binding uses what it means.
    pub(super) uses: FxHashMap<NodeId, Use>,
    /// Names that nothing binds, with those that could stand there.
    pub missing: Vec<(NodeId, Vec<String>)>,
    /// The bindings that the next entries of a session are to make.
    pub(crate) awaited: FxHashSet<BindingId>,
    /// The nodes that open scopes in which something is bound, the outer before the inner.
    pub scopes: Vec<NodeId>,
}

/// A use of a name.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Use {
    /// How many scopes lie between the use and the scope of the binding.
    pub scopes_out: u32,
    /// Whether the variable is changed.
    pub changes: bool,
}

/// A name in a program: where it stands, and what it means there.
#[derive(Clone, Copy, Debug)]
pub struct Mention {
    /// The name's token.
    pub node: NodeId,
    /// The binding.
    pub binding: BindingId,
    /// How it is used; nothing where it is bound.
    pub used: Option<Use>,
}

impl Names {
    /// The binding that a name's token means.
    pub fn binding_of(&self, name: NodeId) -> Option<BindingId> {
        self.of_node.get(&name).copied()
    }

    /// Every name of the program, in the order of the text.
    pub fn mentions(&self, tree: &Tree) -> Vec<Mention> {
        let mention = |(&node, &binding): (&NodeId, &BindingId)| Mention {
            node,
            binding,
            used: self.uses.get(&node).copied(),
        };
        let mut all: Vec<Mention> = self.of_node.iter().map(mention).collect();
        all.sort_by_key(|mention| tree.node(mention.node).span.start);
        all
    }

    /// Every variable that the program changes.
    pub fn changed(&self) -> FxHashSet<BindingId> {
        let changes = self.uses.iter().filter(|(_, used)| used.changes);
        changes
            .filter_map(|(node, _)| self.binding_of(*node))
            .collect()
    }

    /// How a name's token uses what it means; nothing where it is bound.
    pub(crate) fn use_of(&self, name: NodeId) -> Option<Use> {
        self.uses.get(&name).copied()
    }

    /// Where a program binds a name: one that is not written, where the form begins that binds
    /// it; nothing for what was there before the program.
    pub fn bound_at(&self, tree: &Tree, binding: BindingId) -> Option<Position> {
        let binding = self.binding(binding);
        let start = match (binding.span, binding.home) {
            (Some(span), _) => span.start,
            (None, Home::Node(node)) => tree.node(node).span.start,
            (None, Home::BuiltIn(_) | Home::Session(_)) => return None,
        };
        Some(tree.source().position(start))
    }

    /// The binding that a form's node makes of a name without its being written.
    pub(crate) fn unwritten(&self, form: &Form, node: NodeId, name: &str) -> Option<BindingId> {
        let index = form.bound_index(name);
        let index = index.filter(|index| *index >= form.fields.len())?;
        let mut here = self.at(node).iter().copied();
        here.find(|binding| self.binding(*binding).field == Some(index))
    }

    /// A binding.
    pub fn binding(&self, id: BindingId) -> &Binding {
        &self.bindings[id.0 as usize]
    }

    /// The bindings whose variables live at a node.
    pub fn at(&self, node: NodeId) -> &[BindingId] {
        self.at_node.get(&node).map_or(&[], Vec::as_slice)
    }

    /// The nodes that run when the scope of a node begins, and not where they stand: each with the
    /// field of that node that it is under.
    pub(crate) fn first_at(&self, node: NodeId) -> &[(Option<usize>, NodeId)] {
        self.first.get(&node).map_or(&[], Vec::as_slice)
    }
}

/// A name that a session has kept from an earlier entry.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Kept {
    /// The name.
    pub name: String,
    /// Whether it cannot be changed.
    pub fixed: bool,
    /// Whether uses find the binding that is under way when they run.
    pub dynamic: bool,
    /// The name space it belongs to; empty for that of plain names.
    pub space: String,
    /// Whether an entry uses it, and the one that is to bind it is still to come.
    pub awaited: bool,
}

/// What a program finds around it.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub enum Around<'a> {
    /// Nothing: its own names end with it.
    Nothing,
    /// A session: names it binds at the top are kept there.
    Session(&'a [Kept]),
}
