//! When fields are visited. Those that are repeated together, as in `(defs:Def | steps:Step)*`, take
//! turns: names are looked up in the order of the text. Those of functions run later than what is
//! around them.

use std::rc::Rc;

use rustc_hash::FxHashSet;

use super::Resolver;
use crate::definition::{Definition, Form, fields_in_functions};
use crate::tree::NodeId;

/// For each form, when its fields are visited and run.
#[derive(Debug)]
pub(super) struct Turns {
    /// The fields that each field takes turns with, itself among them.
    together: Vec<Vec<Option<Rc<[usize]>>>>,
    /// The fields that run in functions.
    later: Vec<FxHashSet<usize>>,
}

impl Turns {
    pub(super) fn of(definition: &Definition) -> Turns {
        let later = |form: &Form| {
            let means = form.means.as_ref();
            means.map_or_else(FxHashSet::default, |means| fields_in_functions(means, form))
        };
        Turns {
            together: definition.forms.iter().map(of_form).collect(),
            later: definition.forms.iter().map(later).collect(),
        }
    }

    /// Whether a field of a form runs in a function.
    pub(super) fn runs_later(&self, form: usize, field: usize) -> bool {
        self.later[form].contains(&field)
    }

    /// The fields that a field of a form takes turns with, in order; nothing if it does not.
    pub(super) fn of_field(&self, form: usize, field: usize) -> Option<&Rc<[usize]>> {
        self.together[form].get(field)?.as_ref()
    }
}

fn of_form(form: &Form) -> Vec<Option<Rc<[usize]>>> {
    let mut all = vec![None; form.fields.len()];
    let mut groups = Vec::new();
    if let Some(written) = &form.written {
        written.repeated_together(&mut groups);
    }
    for group in groups {
        let fields = group.into_iter().filter_map(|name| form.field_index(name));
        let mut fields: Vec<usize> = fields.filter(|field| all[*field].is_none()).collect();
        fields.sort_unstable();
        if fields.len() > 1 {
            let shared: Rc<[usize]> = fields.into();
            for &field in shared.iter() {
                all[field] = Some(Rc::clone(&shared));
            }
        }
    }
    all
}

impl Resolver<'_> {
    /// The children of some fields of a node in the order of the text, each with the place of
    /// its field among those.
    pub(super) fn in_turn(&self, id: NodeId, fields: &[usize]) -> Vec<(usize, NodeId)> {
        let of_field = |(place, &field): (usize, &usize)| {
            let children = self.tree.children(id, field).into_iter();
            children.map(move |child| (place, child))
        };
        let mut all: Vec<_> = fields.iter().enumerate().flat_map(of_field).collect();
        all.sort_by_key(|&(_, child)| self.tree.node(child).span.start);
        all
    }
}
