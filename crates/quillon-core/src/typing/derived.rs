//! What a form's meaning says of its type, where no clause does: a meaning that ends in a
//! field has the type of what is in it, one that jumps gives nothing to those around it, and
//! what jumps to a landing is among what the landing gives.

use super::Con;
use super::checker::TypeChecker;
use super::judge::Misfit;
use super::store::{Fit, How, Origin, TypeId};
use crate::definition::template::BinaryOperator as B;
use crate::definition::{Form, Literal, Template, TemplateKind as T};
use crate::operations::Operation;
use crate::tree::{Child, NodeId};

/// What the typing of a form's nodes needs to know of its meaning.
#[derive(Debug, Default)]
pub(super) struct Outline<'a> {
    pub landings: Vec<Landing<'a>>,
    pub jumps: Vec<Jump<'a>>,
}

/// `landing NAME { … }`
#[derive(Clone, Copy, Debug)]
pub(super) struct Landing<'a> {
    pub name: &'a str,
    pub body: &'a Template,
}

/// `jump NAME with …`
#[derive(Clone, Copy, Debug)]
pub(super) struct Jump<'a> {
    pub name: &'a str,
    pub value: Option<&'a Template>,
}

impl<'a> Outline<'a> {
    pub fn of(form: &'a Form) -> Outline<'a> {
        let mut outline = Outline::default();
        let mut waiting: Vec<&Template> = form.means.iter().collect();
        while let Some(template) = waiting.pop() {
            match &template.kind {
                T::Landing(target, body) => outline.landings.push(Landing {
                    name: &target.name.text,
                    body,
                }),
                // Which landing has the label is found when Core is made.
                T::Jump(target, value) if target.label.is_none() => outline.jumps.push(Jump {
                    name: &target.name.text,
                    value: value.as_deref(),
                }),
                _ => {}
            }
            template.each_part(&mut |part| waiting.push(part));
        }
        outline
    }
}

/// The field that a piece of meaning ends in.
pub(super) fn last_field(template: &Template) -> Option<&str> {
    match &template.kind {
        T::Name(name) => Some(name),
        T::All(path) => path.alone().map(|field| field.text.as_str()),
        T::Block(steps) => steps.last().and_then(last_field),
        T::Landing(_, body) | T::With(_, _, body) => last_field(body),
        _ => None,
    }
}

impl<'a> TypeChecker<'a> {
    /// The type of a piece of a form's meaning, as far as it can be told.
    pub fn derived(&mut self, template: &Template, form: &Form, id: NodeId) -> TypeId {
        let origin = Some(Origin {
            node: id,
            how: How::Gives,
        });
        let simple = |checker: &mut Self, con| checker.store.con(con, &[], origin);
        match &template.kind {
            T::Literal(literal) => self.of_literal(literal, id),
            T::Name(name) => match form.field_index(name) {
                Some(field) => self.of_field(form, id, field, false),
                None => self.store.any(None),
            },
            T::All(path) => match path.alone().and_then(|field| form.field_index(&field.text)) {
                Some(field) => self.of_field(form, id, field, true),
                None => self.store.any(None),
            },
            T::Block(steps) => match steps.last() {
                Some(last) => self.derived(last, form, id),
                None => simple(self, Con::Nothing),
            },
            T::With(_, _, body) => self.derived(body, form, id),
            T::Landing(target, _) => match self.landing(&target.name.text) {
                Some(landed) => landed,
                None => self.store.any(None),
            },
            // What comes after it does not matter: it fits wherever it stands.
            T::Jump(..) | T::Raise(_) | T::Fault(..) => self.store.fresh(self.level),
            T::Set(..) | T::While(..) | T::Each(..) | T::Let(..) => simple(self, Con::Nothing),
            T::Binary(B::Add | B::Subtract | B::Multiply | B::Divide | B::Join, ..) => {
                self.store.any(None)
            }
            T::Binary(..) | T::Not(_) | T::And(..) | T::Or(..) | T::Given(_) => {
                simple(self, Con::Truth)
            }
            T::Spelling(_) => simple(self, Con::Text),
            T::Apply(name, _) => {
                let operation = match self.definition.helper(&name.text) {
                    Some(_) => None,
                    None => Operation::named(&name.text),
                };
                let kind = operation.and_then(|operation| operation.gives().kind());
                match kind.and_then(Con::of_kind) {
                    Some(con) => simple(self, con),
                    None => self.store.any(None),
                }
            }
            _ => self.store.any(None),
        }
    }

    fn of_literal(&mut self, literal: &Literal, id: NodeId) -> TypeId {
        let con = match literal {
            Literal::Nothing => Con::Nothing,
            Literal::Truth(_) => Con::Truth,
            Literal::Integer(_) => Con::Integer,
            Literal::Number(_) => Con::Number,
            Literal::Text(_) => Con::Text,
            Literal::List(_) | Literal::Map(_) => return self.store.any(None),
        };
        let origin = Origin {
            node: id,
            how: How::Gives,
        };
        self.store.con(con, &[], Some(origin))
    }

    /// The type of what a field gives; of a repeated one, of its last child.
    pub fn of_field(&mut self, form: &Form, id: NodeId, field: usize, last: bool) -> TypeId {
        let name = &form.fields[field].name.text;
        match self.tree.field(id, field) {
            Child::One(child) => self.of_child(child),
            Child::Many(children) if last => match children.last() {
                Some(&child) => self.of_child(child),
                None => self.nothing(id),
            },
            Child::Many(_) => self.store.any(None),
            Child::Absent if form.is_name_field(name) => self.store.any(None),
            Child::Absent => self.nothing(id),
        }
    }

    fn nothing(&mut self, id: NodeId) -> TypeId {
        self.of_literal(&Literal::Nothing, id)
    }

    /// The type of a child: of a name what it means, of another token what it holds.
    pub fn of_child(&mut self, child: NodeId) -> TypeId {
        if self.tree.form(child).is_some() {
            return self.visit(child);
        }
        if let Some(binding) = self.names.binding_of(child) {
            let origin = Origin {
                node: child,
                how: How::Gives,
            };
            return self.used_type(binding, origin);
        }
        if self.unbound.contains(&child) {
            return self.store.any(None);
        }
        match self.tree.value(self.lexer, child) {
            Some(value) => self.of_literal(&value, child),
            None => self.store.any(None),
        }
    }

    /// The type of what reaches a landing around.
    fn landing(&self, name: &str) -> Option<TypeId> {
        let mut around = self.landings.iter().rev();
        around.find(|(own, _)| *own == name).map(|(_, t)| *t)
    }

    /// Brings what jumps from a form's node to their landings.
    pub fn follow_jumps(&mut self, form: &'a Form, index: usize, id: NodeId) {
        for jump in self.outlines[index].jumps.clone() {
            let Some(landed) = self.landing(jump.name) else {
                continue;
            };
            let value = match jump.value {
                Some(value) => self.derived(value, form, id),
                None => self.nothing(id),
            };
            let field = jump.value.and_then(last_field);
            let field = field.and_then(|field| form.field_index(field));
            let child = field.and_then(|field| self.tree.children(id, field).last().copied());
            if let Err(clash) = self.store.relate(value, landed, Fit::Accepted) {
                let node = child.unwrap_or(id);
                self.report(&Misfit {
                    node,
                    found: value,
                    wanted: landed,
                    clash,
                });
            }
        }
    }
}
