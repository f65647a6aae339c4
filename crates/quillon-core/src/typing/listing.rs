//! The types of a program as a list, in the order of the text.

use super::{Type, Types};
use crate::definition::{Definition, Form};
use crate::scoping::{BindingId, Names};
use crate::source::Span;
use crate::tree::{NodeId, Tree};

/// The type of one thing in a program.
#[derive(Clone, Debug)]
pub struct Listed {
    /// Where it stands.
    pub span: Span,
    /// What it is.
    pub what: Has,
    /// Its type.
    pub has: Type,
    /// How many forms are around it.
    pub depth: u32,
}

/// What has a type.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Has {
    /// A node of a form, by the form's index in the definition.
    Node(NodeId, usize),
    /// A name where it is bound.
    Binding(BindingId),
}

impl Types {
    /// Every form's node that gives something, and every binding with its type: the outer before the inner.
    pub fn listed(&self, definition: &Definition, tree: &Tree, names: &Names) -> Vec<Listed> {
        let mut all = Vec::new();
        let mut waiting = vec![(tree.root(), 0)];
        while let Some((node, depth)) = waiting.pop() {
            let span = tree.node(node).span;
            let Some(form) = tree.form(node) else {
                let binding = names.binding_of(node);
                let bound = binding.filter(|_| names.use_of(node).is_none());
                if let Some(binding) = bound
                    && let Some(has) = self.of_binding(binding)
                {
                    let what = Has::Binding(binding);
                    all.push(Listed {
                        span,
                        what,
                        has,
                        depth,
                    });
                }
                continue;
            };
            let says = |form: &Form| {
                let gives = form.typed.iter().any(|typed| typed.gives.is_some());
                gives || form.means.is_some() || form.denotes.is_some()
            };
            if let Some(has) = self.of_node(node).filter(|_| says(&definition.forms[form])) {
                let what = Has::Node(node, form);
                all.push(Listed {
                    span,
                    what,
                    has,
                    depth,
                });
            }
            let fields = 0..tree.field_count(node);
            let children: Vec<NodeId> = fields
                .flat_map(|f| tree.children(node, f))
                .copied()
                .collect();
            waiting.extend(children.into_iter().map(|child| (child, depth + 1)));
        }
        all.sort_by_key(|one| (one.span.start, one.depth));
        all
    }
}
