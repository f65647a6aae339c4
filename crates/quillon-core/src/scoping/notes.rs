//! What may not be meant in the names of a program: notes, given on request.

use rustc_hash::FxHashSet;

use super::{Binding, BindingId, Home, Names};
use crate::definition::Definition;
use crate::diagnostic::{Diagnostic, codes, quote};
use crate::tree::Tree;

/// Names that are never used, never changed though they could be, or that hide another of
/// the same name; in the order of the text.
pub fn notes(definition: &Definition, tree: &Tree, names: &Names) -> Vec<Diagnostic> {
    let mut uses = definition.forms.iter().flat_map(|form| &form.uses);
    let has_changes = uses.any(|uses| uses.to_change);
    let mentions = names.mentions(tree);
    let of = |pass: &dyn Fn(&super::Use) -> bool| -> FxHashSet<BindingId> {
        let uses = mentions
            .iter()
            .filter(|m| m.used.as_ref().is_some_and(pass));
        uses.map(|mention| mention.binding).collect()
    };
    let (read, changed) = (of(&|used| !used.changes), of(&|used| used.changes));
    let mut found = Vec::new();
    for mention in mentions.iter().filter(|mention| mention.used.is_none()) {
        let binding = names.binding(mention.binding);
        let span = tree.node(mention.node).span;
        let name = quote(&binding.name);
        if !read.contains(&mention.binding) {
            let message = if changed.contains(&mention.binding) {
                format!("{name} is set and never read")
            } else {
                format!("{name} is never used")
            };
            let note = Diagnostic::note(codes::NAME_NOTE, message).of_no_use();
            found.push(note.at(tree.source(), span).label("bound here"));
        } else if has_changes && !binding.fixed && !changed.contains(&mention.binding) {
            let note = Diagnostic::note(codes::NAME_NOTE, format!("{name} is never changed"));
            found.push(note.at(tree.source(), span).label("bound here"));
        }
        if let Some(hidden) = hidden(names, binding) {
            let note = Diagnostic::note(
                codes::NAME_NOTE,
                format!("{name} hides another {name} around it"),
            )
            .at(tree.source(), span)
            .label("this one is meant from here on");
            found.push(match (hidden.span, hidden.home) {
                (Some(span), _) => note.related(tree.source(), span, "the one it hides"),
                (None, Home::BuiltIn(_)) => note.why("the other one is built in"),
                (None, _) => note,
            });
        }
    }
    found
}

/// The binding that another one was bound in sight of.
fn hidden<'a>(names: &'a Names, binding: &Binding) -> Option<&'a Binding> {
    binding.hides.map(|id| names.binding(id))
}
