//! The names that a clause means: the tokens of a field, or what is in its forms.

use crate::definition::{Definition, Form, Name, Reach};
use crate::tree::{NodeId, Tree};

/// The tokens of a field, or of a field of its forms.
pub(crate) fn leaves(
    definition: &Definition,
    tree: &Tree,
    form: &Form,
    id: NodeId,
    field: &Name,
    reach: &Reach,
) -> Vec<NodeId> {
    let Some(index) = form.field_index(&field.text) else {
        return Vec::new();
    };
    let children = tree.children(id, index);
    match reach {
        Reach::Unwritten => Vec::new(),
        Reach::Itself => children,
        Reach::Part(part) => tree.parts(definition, &children, &part.text),
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
        .flat_map(|o| leaves(definition, tree, form, id, &o.field, &o.reach))
        .collect()
}
