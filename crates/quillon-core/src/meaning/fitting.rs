//! `demand VALUE fits TYPE` and `VALUE fits TYPE`: types that a program declares, tested
//! while it runs. What an annotation denotes is known when Core is made; a run only looks at
//! the value, by a pattern of one letter a kind.

use std::rc::Rc;

use super::core::{Core, CoreKind as K, CorePart};
use super::instantiate::Maker;
use super::local::{Context, Local};
use crate::definition::template::{ValueKind, Wanted};
use crate::definition::{Form, Literal, Name, Template, TemplateKind as T, TypeTerm, TypeTermKind};
use crate::diagnostic::quote;
use crate::operations::Operation;
use crate::tree::NodeId;

/// What a value of any kind fits.
const ANY: char = 'a';

impl Maker<'_> {
    /// A value that is tested, and must pass or not.
    pub(super) fn fitting(
        &mut self,
        value: &Template,
        wanted: &Wanted,
        must: bool,
        context: Context<'_>,
    ) -> Core {
        let mut pattern = String::new();
        let annotation = self.annotation(wanted, context);
        match (annotation, wanted) {
            (Some(node), _) => self.denoted(node, &mut pattern),
            (None, Wanted::Type(term)) => self.pattern(term, context.node, &mut pattern),
            (None, Wanted::Part(..)) => pattern.push(ANY),
        }
        let tested = self.template(value, context);
        let span = tested.span;
        let text = |text: String| -> CorePart {
            Rc::new(Core::new(K::Literal(Literal::Text(text)), span))
        };
        let pattern = text(pattern);
        if !must {
            return Core::new(
                K::Apply(Operation::Fits, vec![tested.into(), pattern]),
                span,
            );
        }
        let why = text(self.declared(value, annotation, context));
        let parts = vec![tested.into(), pattern, why];
        Core::new(K::Apply(Operation::Demand, parts), span)
    }

    /// The annotation that a test speaks of, if it is one and is there.
    fn annotation(&self, wanted: &Wanted, context: Context<'_>) -> Option<NodeId> {
        let (_, tree, _) = self.program?;
        let child_of = |(node, form): (NodeId, &Form), field: &Name| {
            let children = tree.children(node, form.field_index(&field.text)?);
            children.first().copied()
        };
        match wanted {
            Wanted::Part(owner, field) => {
                let child = match self.find_local(&owner.text) {
                    Some(Local::Child(child)) => child,
                    _ => child_of(context.node?, owner)?,
                };
                let form = &self.definition.forms[tree.form(child)?];
                child_of((child, form), field)
            }
            Wanted::Type(term) => match &term.kind {
                TypeTermKind::Named(name, _) => child_of(context.node?, name),
                TypeTermKind::TypeOf(name) => {
                    let used = child_of(context.node?, name)?;
                    self.annotation_of(used)
                }
                _ => None,
            },
        }
    }

    /// The annotation with which the variable was bound that a name means.
    fn annotation_of(&self, used: NodeId) -> Option<NodeId> {
        let (_, tree, names) = self.program?;
        let binding = names.binding_of(used)?;
        let bound = names.binding(binding).span?;
        let denotes = |node: &NodeId| {
            let form = tree.form(*node);
            form.is_some_and(|form| self.definition.forms[form].denotes.is_some())
        };
        let around = tree.path(bound.start).into_iter().rev();
        let mut forms = around.filter(|step| tree.form(step.node).is_some());
        let owner = forms.next()?.node;
        let fields = 0..tree.field_count(owner);
        let mut children = fields
            .flat_map(|field| tree.children(owner, field))
            .copied();
        children.find(denotes)
    }

    /// The pattern of what an annotation denotes.
    fn denoted(&self, node: NodeId, out: &mut String) {
        let form = self.program.and_then(|(_, tree, _)| tree.form(node));
        let Some(form) = form.map(|form| &self.definition.forms[form]) else {
            out.push(ANY);
            return;
        };
        match &form.denotes {
            Some(term) => self.pattern(term, Some((node, form)), out),
            None => out.push(ANY),
        }
    }

    fn pattern(&self, term: &TypeTerm, at: Option<(NodeId, &Form)>, out: &mut String) {
        match &term.kind {
            TypeTermKind::Simple(kind) => out.push(letter(*kind)),
            TypeTermKind::List(inner) => {
                out.push(letter(ValueKind::List));
                self.pattern(inner, at, out);
            }
            TypeTermKind::Map(inner) => {
                out.push(letter(ValueKind::Map));
                self.pattern(inner, at, out);
            }
            TypeTermKind::Function(..) => out.push(letter(ValueKind::Function)),
            TypeTermKind::Named(name, _) => {
                let child = at.and_then(|(node, form)| {
                    let (_, tree, _) = self.program?;
                    let children = tree.children(node, form.field_index(&name.text)?);
                    children.first().copied()
                });
                match child {
                    Some(child) => self.denoted(child, out),
                    None => out.push(ANY),
                }
            }
            TypeTermKind::Any | TypeTermKind::Capital(_) | TypeTermKind::TypeOf(_) => out.push(ANY),
        }
    }

    /// Why a type is demanded, in the words of the program; empty where it says nothing.
    fn declared(&self, value: &Template, at: Option<NodeId>, context: Context<'_>) -> String {
        let (Some(at), Some((_, tree, _))) = (at, self.program) else {
            return String::new();
        };
        let kind = quote(tree.text(at));
        let leaf = match &value.kind {
            T::Name(name) => context.node.and_then(|(node, form)| {
                let field = form.field_index(name).filter(|_| form.is_name_field(name));
                tree.children(node, field?).first().copied()
            }),
            T::Member(owner, field) => match self.find_local(&owner.text) {
                Some(Local::Child(child)) => tree.form(child).and_then(|form| {
                    let form = &self.definition.forms[form];
                    let children = tree.children(child, form.field_index(&field.text)?);
                    children.first().copied()
                }),
                _ => None,
            },
            _ => None,
        };
        match leaf {
            Some(leaf) => format!("{} is declared as {kind}", quote(tree.text(leaf))),
            None => format!("what stands there is declared as {kind}"),
        }
    }
}

/// The letter of a kind in a pattern.
fn letter(kind: ValueKind) -> char {
    match kind {
        ValueKind::Nothing => '0',
        ValueKind::Truth => 'b',
        ValueKind::Integer => 'i',
        ValueKind::Number => 'n',
        ValueKind::Text => 't',
        ValueKind::List => 'l',
        ValueKind::Map => 'm',
        ValueKind::Function => 'f',
        ValueKind::Coroutine => 'c',
    }
}

/// The kind of a letter; nothing for `any`.
pub(crate) fn kind_of_letter(letter: u8) -> Option<ValueKind> {
    let mut kinds = ValueKind::ALL.into_iter();
    kinds.find(|kind| self::letter(*kind) as u8 == letter)
}
