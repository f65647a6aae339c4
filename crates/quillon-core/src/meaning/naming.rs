//! What a name of a meaning stands for: a local name, a field, a cell of the state.

use std::rc::Rc;

use super::core::{Core, CoreKind as K, Variable};
use super::instantiate::{Maker, nothing};
use super::local::{Context, Local};
use crate::definition::{Count, Name};
use crate::tree::NodeId;

impl<'a> Maker<'a> {
    /// A child under a name; one part where that name is mentioned more than once.
    fn mentioned(&mut self, name: &str, child: NodeId) -> Core {
        if !self.mentioned_often.contains(name) {
            return self.child(child);
        }
        self.shared(child, |maker| maker.child(child))
    }

    /// The values of a field of the meaning at hand, one a child.
    pub(super) fn mentioned_values(&mut self, name: &str, context: Context<'_>) -> Vec<Core> {
        let children = self.children(name, context);
        let each = children.iter();
        each.map(|&child| self.mentioned(name, child)).collect()
    }

    pub(super) fn name(&mut self, name: &str, context: Context<'_>) -> Core {
        match self.find_local(name) {
            Some(Local::Variable(variable, from)) => {
                let place = self.functions.find(variable);
                let name = self.functions.name_of(variable);
                return Core::new(K::Read(place, name), from.unwrap_or(context.span));
            }
            Some(Local::Child(child)) => return self.mentioned(name, child),
            None => {}
        }
        if let Some(binding) = self.unwritten(name, context)
            && let Some(variable) = self.variable_of(binding)
        {
            return Core::new(K::Read(variable, Rc::from(name)), context.span);
        }
        let count = self
            .field_children(name.into(), context)
            .map(|(count, _)| count);
        if count.is_none()
            && let Some(cell) = self.definition.state_index(name)
        {
            let kind = K::Read(Variable::State(cell as u32), Rc::from(name));
            return Core::new(kind, context.span);
        }
        let mut values = self.mentioned_values(name, context);
        match count {
            Some(Count::Many) => Core::new(
                K::List(values.into_iter().map(Rc::new).collect()),
                context.span,
            ),
            _ => values.pop().unwrap_or_else(|| nothing(context.span)),
        }
    }

    /// `owner.field`: a field of a child, or the list of those of all, where there can be many.
    pub(super) fn member(&mut self, owner: &Name, field: &Name, context: Context<'_>) -> Core {
        let Some((count, owners)) = self.owners(owner, context) else {
            return nothing(context.span);
        };
        if count == Count::Many {
            let values = self.members(&owners, field).into_iter().map(Rc::new);
            return Core::new(K::List(values.collect()), context.span);
        }
        match owners.first() {
            Some(owner) => self.member_of(*owner, field),
            None => nothing(context.span),
        }
    }

    /// The values of `owner.field` where there can be many: one for each owner, or as many as each has.
    pub(super) fn member_values(
        &mut self,
        owner: &Name,
        field: &Name,
        context: Context<'_>,
    ) -> Option<Vec<Core>> {
        let (count, owners) = self.owners(owner, context)?;
        let is_many = |owner: &Context<'_>| has_many(*owner, field);
        (count == Count::Many || owners.iter().any(is_many)).then(|| self.members(&owners, field))
    }

    fn members(&mut self, owners: &[Context<'a>], field: &Name) -> Vec<Core> {
        let mut values = Vec::new();
        for owner in owners {
            if has_many(*owner, field) {
                values.extend(self.mentioned_values(&field.text, *owner));
            } else {
                values.push(self.member_of(*owner, field));
            }
        }
        values
    }

    fn member_of(&mut self, owner: Context<'_>, field: &Name) -> Core {
        let locals = std::mem::take(&mut self.locals);
        let core = self.name(&field.text, owner);
        self.locals = locals;
        core
    }

    /// The children that a name stands for, as what a meaning is filled in for, and how many there can be.
    fn owners(&self, owner: &Name, context: Context<'_>) -> Option<(Count, Vec<Context<'a>>)> {
        let (_, tree, _) = self.program?;
        let (count, children) = match self.find_local(&owner.text) {
            Some(Local::Child(child)) => (Count::One, vec![child]),
            Some(Local::Variable(..)) => return None,
            None => {
                let (count, children) = self.field_children(owner.into(), context)?;
                (count, children.into_owned())
            }
        };
        let contexts = children.into_iter().filter_map(|child| {
            let form = &self.definition.forms[tree.form(child)?];
            Some(Context {
                node: Some((child, form)),
                span: tree.node(child).span,
            })
        });
        Some((count, contexts.collect()))
    }
}

/// Whether a child can have many of a field.
fn has_many(owner: Context<'_>, field: &Name) -> bool {
    let form = owner.node.map(|(_, form)| form);
    let index = form.and_then(|form| Some((form, form.field_index(&field.text)?)));
    index.is_some_and(|(form, index)| form.fields[index].count == Count::Many)
}
