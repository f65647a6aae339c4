//! General names that can be used before the form that binds them is read. Where one is used,
//! the form is typed first, and before it those that it uses itself: a chain of them as long as
//! the program needs no native stack.

use rustc_hash::FxHashMap;

use super::checker::TypeChecker;
use crate::definition::{Definition, Form};
use crate::scoping::{BindingId, Names, leaves};
use crate::tree::{NodeId, Tree};

/// The nodes that bind such names.
#[derive(Debug, Default)]
pub(super) struct Owners {
    of: FxHashMap<BindingId, NodeId>,
    /// Where such a name is used, in the order of the text, with the node that binds it.
    uses: Vec<(u32, NodeId)>,
}

/// Whether a form binds general names that can be used before it.
pub(super) fn is_owner(form: &Form) -> bool {
    form.binds.iter().any(|b| b.general && b.throughout)
}

impl Owners {
    pub fn find(definition: &Definition, tree: &Tree, names: &Names) -> Owners {
        let mut owners = Owners::default();
        if !definition.forms.iter().any(is_owner) {
            return owners;
        }
        for id in (0..tree.len() as u32).map(NodeId) {
            let Some(form) = tree.form(id).map(|index| &definition.forms[index]) else {
                continue;
            };
            for clause in form.binds.iter().filter(|b| b.general && b.throughout) {
                for &leaf in leaves(definition, tree, form, id, &clause.field, &clause.reach).iter()
                {
                    if let Some(binding) = names.binding_of(leaf) {
                        owners.of.insert(binding, id);
                    }
                }
            }
        }
        for mention in names.mentions(tree) {
            if let (Some(&owner), Some(_)) = (owners.of.get(&mention.binding), mention.used) {
                let place = tree.node(mention.node).span.start;
                owners.uses.push((place, owner));
            }
        }
        owners
    }

    /// The node that binds a name.
    pub fn of(&self, binding: BindingId) -> Option<NodeId> {
        self.of.get(&binding).copied()
    }

    /// The nodes outside of a node that bind names used in it, the first used first.
    fn needed_by<'t>(
        &'t self,
        tree: &'t Tree,
        id: NodeId,
    ) -> impl DoubleEndedIterator<Item = NodeId> + 't {
        let span = tree.node(id).span;
        let from = self.uses.partition_point(|(place, _)| *place < span.start);
        let to = self.uses.partition_point(|(place, _)| *place < span.end);
        self.uses[from..to]
            .iter()
            .map(|(_, owner)| *owner)
            .filter(move |&owner| {
                let other = tree.node(owner).span;
                other.start < span.start || span.end < other.end
            })
    }
}

/// What is to be done with a node.
enum Step {
    Begin(NodeId),
    Finish(NodeId),
}

impl TypeChecker<'_> {
    /// Finds the type of a node that binds such names.
    pub(super) fn visit_owner(&mut self, owner: NodeId) {
        let mut waiting = vec![Step::Begin(owner)];
        while let Some(step) = waiting.pop() {
            let (Step::Begin(id) | Step::Finish(id)) = step;
            let Some(index) = self.tree.form(id) else {
                continue;
            };
            if let Step::Finish(id) = step {
                self.finish(index, id);
            } else if !self.begun[id.0 as usize] {
                self.begin(&self.definition.forms[index], id);
                waiting.push(Step::Finish(id));
                let needed = self.owners.needed_by(self.tree, id);
                let fresh = needed.filter(|id| !self.begun[id.0 as usize]);
                waiting.extend(fresh.rev().map(Step::Begin));
            }
        }
    }
}
