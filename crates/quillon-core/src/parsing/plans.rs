//! What a reduction makes, worked out once for each production: which node, and from
//! which of its parts each slot comes.

use serde::{Deserialize, Serialize};

use super::grammar::{Grammar, Production, Role, Symbol};
use super::stacks::is_entry;
use crate::definition::{Count, Definition, Shape};

/// Where the child in a slot of a form's node comes from.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub(super) enum Slot {
    /// There is none.
    Absent,
    /// The value of the part at a position.
    Part(u16),
    /// A list of the one value of the part at a position.
    Single(u16),
    /// A list of what the helper at a position has gathered.
    Listed(u16),
    /// A list of nothing.
    Empty,
}

/// What becomes of the parts of a production.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Serialize, Deserialize)]
pub(super) enum Plan {
    /// The text is accepted.
    Accept,
    /// The item at a position begins a list.
    Begin(u16),
    /// The item at a position goes on the list in front.
    Append(u16),
    /// They are kept for the form that the helper is a part of.
    Gather,
    /// One of them takes the place of all.
    Pass(u16),
    /// A node of just one token.
    Leaf(u16),
    /// A node whose slots can be filled one by one.
    Node(u16),
    /// A node with lists among its slots.
    WithLists(u16),
    /// A node whose parts have to be sorted by their fields first.
    Sorted(u16),
}

/// What the parser has to know of a production, small enough to stay near.
#[derive(Clone, Copy, Debug, Serialize, Deserialize)]
pub(super) struct Rule {
    pub left: u16,
    pub length: u16,
    pub plan: Plan,
    first_slot: u32,
    slots: u32,
}

/// The rules of all productions.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(super) struct Rules {
    rules: Vec<Rule>,
    slots: Vec<Slot>,
}

impl Rules {
    /// The rules of a grammar. `becomes` has what each form becomes.
    pub fn new(definition: &Definition, grammar: &Grammar, becomes: &[Option<Shape>]) -> Rules {
        let mut all = Rules {
            rules: Vec::new(),
            slots: Vec::new(),
        };
        for (id, production) in (0u32..).zip(&grammar.productions) {
            let (plan, slots) = match production.form {
                _ if is_entry(grammar, id) => (Plan::Accept, Vec::new()),
                Some(form) if production.node && definition.forms[form].declares.is_some() => {
                    (Plan::Sorted(form as u16), Vec::new())
                }
                Some(form) if production.node => node_plan(definition, production, form, becomes),
                _ => (helper_plan(production), Vec::new()),
            };
            all.rules.push(Rule {
                left: production.left,
                length: production.right.len() as u16,
                plan,
                first_slot: all.slots.len() as u32,
                slots: slots.len() as u32,
            });
            all.slots.extend(slots);
        }
        all
    }

    /// The rule of a production.
    #[inline]
    pub fn rule(&self, production: u32) -> &Rule {
        &self.rules[production as usize]
    }

    /// Whether a production makes a node of just one token.
    pub fn is_leaf(&self, production: u32) -> bool {
        matches!(self.rule(production).plan, Plan::Leaf(_))
    }

    /// Where the slots of a rule's node come from.
    #[inline]
    pub fn slots(&self, rule: &Rule) -> &[Slot] {
        &self.slots[rule.first_slot as usize..(rule.first_slot + rule.slots) as usize]
    }
}

fn helper_plan(production: &Production) -> Plan {
    let kept: Vec<usize> = (0..production.roles.len())
        .filter(|&at| production.roles[at] != Role::Drop)
        .collect();
    match kept[..] {
        [item] if production.roles[item] == Role::Item => Plan::Begin(item as u16),
        [0, item] if production.roles[0] == Role::Inner && production.roles[item] == Role::Item => {
            Plan::Append(item as u16)
        }
        _ => Plan::Gather,
    }
}

fn node_plan(
    definition: &Definition,
    production: &Production,
    form: usize,
    becomes: &[Option<Shape>],
) -> (Plan, Vec<Slot>) {
    let sorted = (Plan::Sorted(form as u16), Vec::new());
    let Some(slots) = slots(definition, production, form) else {
        return sorted;
    };
    match &becomes[form] {
        None => {
            let simple = |slot: &Slot| matches!(slot, Slot::Absent | Slot::Part(_));
            let form = form as u16;
            let plan = match (&slots[..], &production.right[..]) {
                ([Slot::Part(0)], [Symbol::Terminal(_)]) => Plan::Leaf(form),
                _ if slots.iter().all(simple) => Plan::Node(form),
                _ => Plan::WithLists(form),
            };
            (plan, slots)
        }
        Some(Shape::Field(field)) => match slots[*field as usize] {
            Slot::Part(at) => (Plan::Pass(at), Vec::new()),
            Slot::Absent | Slot::Single(_) | Slot::Listed(_) | Slot::Empty => sorted,
        },
        Some(_) => sorted,
    }
}

/// The slots of a form, if each comes from one part at most.
fn slots(definition: &Definition, production: &Production, form: usize) -> Option<Vec<Slot>> {
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
                (field, Slot::Single(at))
            }
            Role::Field(field) => (field, Slot::Part(at)),
            Role::Item | Role::Inner => return None,
        };
        let old = std::mem::replace(&mut slots[field as usize], slot);
        if !matches!(old, Slot::Absent | Slot::Empty) {
            return None;
        }
    }
    Some(slots)
}
