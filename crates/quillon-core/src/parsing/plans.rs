//! What a reduction makes, worked out once for each production: which node, and from
//! which of its parts each slot comes.

use super::grammar::{Grammar, Production, Role};
use super::stacks::is_entry;
use crate::definition::{Count, Definition, Shape};

/// Where the child in a slot of a form's node comes from.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(super) enum Slot {
    /// There is none.
    Absent,
    /// The value of the part at a position.
    Part(u16),
    /// A list of everything in the part at a position.
    Listed(u16),
    /// A list of nothing.
    Empty,
}

/// What becomes of the parts of a production.
#[derive(Clone, Debug)]
pub(super) enum Plan {
    /// The text is accepted.
    Accept,
    /// They are kept for the form that the helper is a part of.
    Gather,
    /// One of them takes the place of all.
    Pass(u16),
    /// A node of a form, slot by slot.
    Node(u16, Box<[Slot]>),
    /// A node of a form, whose parts have to be sorted by their fields first.
    Sorted(u16),
}

/// What the parser has to know of a production, small enough to stay near.
#[derive(Clone, Debug)]
pub(super) struct Rule {
    pub left: u16,
    pub length: u16,
    pub plan: Plan,
}

/// The rules of all productions. `becomes` has what each form becomes.
pub(super) fn rules(
    definition: &Definition,
    grammar: &Grammar,
    becomes: &[Option<Shape>],
) -> Vec<Rule> {
    (0u32..)
        .zip(&grammar.productions)
        .map(|(id, production)| Rule {
            left: production.left,
            length: production.right.len() as u16,
            plan: match production.form {
                _ if is_entry(grammar, id) => Plan::Accept,
                Some(form) if production.node => node_plan(definition, production, form, becomes),
                _ => Plan::Gather,
            },
        })
        .collect()
}

fn node_plan(
    definition: &Definition,
    production: &Production,
    form: usize,
    becomes: &[Option<Shape>],
) -> Plan {
    let sorted = Plan::Sorted(form as u16);
    let Some(slots) = slots(definition, production, form) else {
        return sorted;
    };
    match &becomes[form] {
        None => Plan::Node(form as u16, slots),
        Some(Shape::Field(field)) => match slots[*field as usize] {
            Slot::Part(at) => Plan::Pass(at),
            _ => sorted,
        },
        Some(_) => sorted,
    }
}

/// The slots of a form, if each comes from one part at most.
fn slots(definition: &Definition, production: &Production, form: usize) -> Option<Box<[Slot]>> {
    let fields = &definition.forms[form].fields;
    let mut slots: Vec<Slot> = fields
        .iter()
        .map(|field| match field.count {
            Count::Many => Slot::Empty,
            Count::One | Count::Optional => Slot::Absent,
        })
        .collect();
    for (at, role) in (0u16..).zip(&production.roles) {
        let (field, slot) = match *role {
            Role::Drop => continue,
            Role::Items(field) => (field, Slot::Listed(at)),
            Role::Field(field) if fields[field as usize].count == Count::Many => {
                (field, Slot::Listed(at))
            }
            Role::Field(field) => (field, Slot::Part(at)),
            Role::Item | Role::Inner => return None,
        };
        let old = std::mem::replace(&mut slots[field as usize], slot);
        if !matches!(old, Slot::Absent | Slot::Empty) {
            return None;
        }
    }
    Some(slots.into())
}
