//! What the name at a place means, and where else it stands.

use super::Looked;
use crate::definition::template::{Template, TemplateKind};
use crate::definition::{Binds, Form};
use crate::scoping::{BindingId, Home, Mention, Names};
use crate::source::Span;
use crate::tree::{Child, NodeId, Tree};

/// What a name stands for.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum What {
    /// A variable.
    Variable,
    /// A name that cannot be changed.
    Constant,
    /// What a function is called with.
    Parameter,
    /// A function of the program.
    Function,
    /// A function that the language has.
    BuiltInFunction,
    /// A constant that the language has.
    BuiltInConstant,
}

/// A place where a name stands.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Standing {
    /// Where.
    pub span: Span,
    /// Whether it is bound there.
    pub binds: bool,
    /// Whether its variable is changed there.
    pub changes: bool,
}

impl Looked {
    /// The tree with its names, if the text could be read.
    pub(super) fn named(&self) -> Option<(&Tree, &Names)> {
        self.examined
            .tree
            .as_ref()
            .zip(self.examined.names.as_ref())
    }

    /// The name at a place: its token, and what it means.
    pub(super) fn mention_at(&self, offset: u32) -> Option<Mention> {
        let (tree, names) = self.named()?;
        let span = self.token_at(offset)?.span;
        let mentions = names.mentions(tree);
        let is_here = |mention: &&Mention| tree.node(mention.node).span == span;
        mentions.iter().find(is_here).copied()
    }

    /// Every place where the name at a place stands with the same meaning, in the order of the text.
    pub fn standings(&self, offset: u32) -> Vec<Standing> {
        let Some(((tree, names), here)) = self.named().zip(self.mention_at(offset)) else {
            return Vec::new();
        };
        let mentions = names.mentions(tree).into_iter();
        let alike = mentions.filter(|mention| mention.binding == here.binding);
        let mut all: Vec<Standing> = alike
            .map(|mention| Standing {
                span: tree.node(mention.node).span,
                binds: mention.used.is_none(),
                changes: mention.used.is_some_and(|used| used.changes),
            })
            .collect();
        all.dedup_by_key(|standing| standing.span);
        all
    }

    /// Where the name at a place is bound; nothing where the language has it.
    pub fn bound_at(&self, offset: u32) -> Option<Span> {
        let (_, names) = self.named()?;
        names.binding(self.mention_at(offset)?.binding).span
    }

    /// What a binding stands for.
    pub(super) fn what(&self, id: BindingId) -> What {
        let Some((tree, names)) = self.named() else {
            return What::Variable;
        };
        let binding = names.binding(id);
        if let Home::BuiltIn(index) = binding.home {
            let provided = &self.language.definition().provides[index as usize];
            return match provided.params {
                Some(_) => What::BuiltInFunction,
                None => What::BuiltInConstant,
            };
        }
        let binder = binding.span.and_then(|span| self.binder(tree, span));
        let Some((form, clause, node)) = binder else {
            return What::Variable;
        };
        if makes_function(form) && !is_seen_around(clause) {
            return What::Parameter;
        }
        let forms = &self.language.definition().forms;
        let mut values = (0..form.fields.len()).filter_map(|field| match tree.field(node, field) {
            Child::One(child) => tree.form(child),
            Child::Absent | Child::Many(_) => None,
        });
        if makes_function(form) || values.any(|value| makes_function(&forms[value])) {
            What::Function
        } else if binding.fixed {
            What::Constant
        } else {
            What::Variable
        }
    }

    /// The form that binds the name at a stretch: with the clause that says so, and its node.
    pub(super) fn binder(&self, tree: &Tree, span: Span) -> Option<(&Form, &Binds, NodeId)> {
        let forms = &self.language.definition().forms;
        let path = tree.path(span.start);
        for (at, step) in path.iter().enumerate().rev() {
            let Some(form) = tree.form(step.node).map(|form| &forms[form]) else {
                continue;
            };
            let Some(field) = path.get(at + 1).and_then(|inner| inner.field) else {
                continue;
            };
            let name = &form.fields[field].name.text;
            let clause = form.binds.iter().find(|clause| clause.field.text == *name);
            if let Some(clause) = clause {
                return Some((form, clause, step.node));
            }
        }
        None
    }
}

/// Whether what a clause binds is seen around the form, and not just in it.
pub(super) fn is_seen_around(clause: &Binds) -> bool {
    clause.throughout || clause.onward
}

/// Whether a form means a function.
fn makes_function(form: &Form) -> bool {
    fn has_function(template: &Template) -> bool {
        let mut found = matches!(template.kind, TemplateKind::Function(..));
        template.each_part(&mut |part| found = found || has_function(part));
        found
    }
    form.means.as_ref().is_some_and(has_function)
}
