//! The names that a clause means: the tokens of a field, or what is in its forms.

use std::borrow::Cow;

use crate::definition::{Definition, Form, Name, Reach};
use crate::tree::{NodeId, Tree};

/// The tokens of a field, or of a field of its forms.
pub(crate) fn leaves<'t>(
    definition: &Definition,
    tree: &'t Tree,
    form: &Form,
    id: NodeId,
    field: &Name,
    reach: &Reach,
) -> Cow<'t, [NodeId]> {
    let Some(index) = form.field_index(&field.text) else {
        return Cow::Borrowed(&[]);
    };
    let children = tree.children(id, index);
    match reach {
        Reach::Unwritten => Cow::Borrowed(&[]),
        Reach::Itself => Cow::Borrowed(children),
        Reach::Part(part) => Cow::Owned(tree.parts(definition, children, &part.text)),
        Reach::Offered => children
            .iter()
            .flat_map(|&child| offered(definition, tree, child))
            .collect(),
    }
}

/// The names that a node offers to the forms around it.
fn offered(definition: &Definition, tree: &Tree, id: NodeId) -> Vec<NodeId> {
    let Some(form) = tree.form(id) else {
        return Vec::new();
    };
    let form = &definition.forms[form];
    form.offers
        .iter()
        .flat_map(|o| leaves(definition, tree, form, id, &o.field, &o.reach).into_owned())
        .collect()
}
