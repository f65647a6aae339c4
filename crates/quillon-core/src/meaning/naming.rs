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

    /// `owner.field`: a field of a child.
    pub(super) fn member(&mut self, owner: &Name, field: &Name, context: Context<'_>) -> Core {
        let Some(context) = self.member_context(owner, context) else {
            return nothing(context.span);
        };
        let locals = std::mem::take(&mut self.locals);
        let core = self.name(&field.text, context);
        self.locals = locals;
        core
    }

    pub(super) fn member_context(&self, owner: &Name, context: Context<'_>) -> Option<Context<'a>> {
        let (_, tree, _) = self.program?;
        let child = match self.find_local(&owner.text) {
            Some(Local::Child(child)) => child,
            Some(Local::Variable(..)) => return None,
            None => *self.children(owner, context).first()?,
        };
        let form = &self.definition.forms[tree.form(child)?];
        Some(Context {
            node: Some((child, form)),
            span: tree.node(child).span,
        })
    }
}
