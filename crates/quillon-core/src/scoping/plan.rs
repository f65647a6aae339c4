//! What a definition says of the names in each form, worked out once: which scopes its fields are in,
//! what is looked up in them, and when they are visited. Fields that are repeated together, as in
//! `(defs:Def | steps:Step)*`, take turns: names are looked up in the order of the text. Those of
//! functions run later than what is around them.

use std::cell::OnceCell;
use std::ops::Index;
use std::rc::Rc;

use super::Resolver;
use crate::definition::{Definition, Form, Uses, fields_in_functions};
use crate::tree::NodeId;

/// What is to be done for the names in a node of a form.
#[derive(Debug)]
pub(super) struct Plan<'d> {
    /// Whether the form opens a scope around all of it.
    pub opens_whole: bool,
    /// The clauses of each scope in which something is bound inside.
    pub regions: Vec<Vec<usize>>,
    /// Whether some clause binds something for what comes behind the form.
    pub binds_onward: bool,
    /// Whether the form binds something in the whole scope that it stands in.
    pub binds_throughout: bool,
    pub fields: Vec<FieldPlan<'d>>,
}

/// The same for one of its fields.
#[derive(Debug)]
pub(super) struct FieldPlan<'d> {
    /// The number of the region that it is in.
    pub region: Option<usize>,
    /// Whether a scope is opened around it.
    pub opens: bool,
    /// What its names are looked up for.
    pub uses: Option<&'d Uses>,
    /// Whether it runs in a function.
    pub runs_later: bool,
    /// The fields that it takes turns with, in order, itself among them.
    pub together: Option<Rc<[usize]>>,
}

impl FieldPlan<'_> {
    /// Whether it is in the scope of its form.
    pub fn is_plain(&self) -> bool {
        self.region.is_none() && !self.opens
    }
}

/// The plans of the forms of a definition, by index, each made when it is asked for.
pub(super) struct Plans<'a> {
    forms: &'a [Form],
    made: Box<[OnceCell<Plan<'a>>]>,
}

impl<'a> Plans<'a> {
    pub fn new(definition: &'a Definition) -> Plans<'a> {
        Plans {
            forms: &definition.forms,
            made: definition.forms.iter().map(|_| OnceCell::new()).collect(),
        }
    }
}

impl<'a> Index<usize> for Plans<'a> {
    type Output = Plan<'a>;

    fn index(&self, form: usize) -> &Plan<'a> {
        self.made[form].get_or_init(|| plan(&self.forms[form]))
    }
}

fn plan(form: &Form) -> Plan<'_> {
    let later = form
        .means
        .as_ref()
        .map(|means| fields_in_functions(means, form))
        .unwrap_or_default();
    let mut regions: Vec<Vec<usize>> = Vec::new();
    let turns = turns(form);
    let fields = form.fields.iter().zip(turns).enumerate();
    let fields = fields.map(|(index, (field, together))| {
        let clauses = clauses_in(form, index);
        let known = regions.iter().position(|region| *region == clauses);
        let region = known.or_else(|| {
            (!clauses.is_empty()).then(|| {
                regions.push(clauses);
                regions.len() - 1
            })
        });
        let uses = form.uses.iter().find(|u| u.field.text == field.name.text);
        FieldPlan {
            region,
            opens: form.opens_around(index),
            uses: uses.filter(|uses| !uses.or_binds),
            runs_later: later.contains(&index),
            together,
        }
    });
    let fields = fields.collect();
    Plan {
        opens_whole: form.opens.as_ref().is_some_and(|o| o.around.is_empty()),
        regions,
        binds_onward: form.binds.iter().any(|clause| clause.onward),
        binds_throughout: form
            .binds
            .iter()
            .any(|clause| clause.throughout || clause.first),
        fields,
    }
}

/// The `binds … in` clauses whose names are seen in a field.
fn clauses_in(form: &Form, index: usize) -> Vec<usize> {
    let field = &form.fields[index].name.text;
    form.binds
        .iter()
        .enumerate()
        .filter(|(_, clause)| clause.inside.iter().any(|name| name.text == *field))
        .map(|(number, _)| number)
        .collect()
}

/// The fields that each field takes turns with.
fn turns(form: &Form) -> Vec<Option<Rc<[usize]>>> {
    let mut all = vec![None; form.fields.len()];
    let mut groups = Vec::new();
    if let Some(written) = &*form.written {
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
            let children = self.tree.children(id, field).iter();
            children.map(move |child| (place, *child))
        };
        let mut all: Vec<_> = fields.iter().enumerate().flat_map(of_field).collect();
        all.sort_by_key(|&(_, child)| self.tree.node(child).span.start);
        all
    }
}
