//! Why a type is what it is: the judgments of a node and of what is in it, as a tree.

use super::judge::counting;
use super::{Type, Types};
use crate::definition::{Definition, Subject, Typed};
use crate::scoping::{BindingId, Names};
use crate::tree::{NodeId, Tree};

/// The judgment of a node: its type, by which clause, from which others.
#[derive(Clone, Debug)]
pub struct Derivation {
    /// The node.
    pub node: NodeId,
    /// Its type.
    pub has: Type,
    /// The clause that says so, as the definition writes it; nothing where the type follows
    /// from the meaning.
    pub clause: Option<String>,
    /// What it rests on.
    pub premises: Vec<Premise>,
}

/// What a judgment rests on.
#[derive(Clone, Debug)]
pub struct Premise {
    /// The field.
    pub field: String,
    /// What it is.
    pub what: Judged,
}

/// What a premise is about.
#[derive(Clone, Debug)]
pub enum Judged {
    /// A form with a judgment of its own.
    Form(Derivation),
    /// A name, with the type that it is bound with.
    Name {
        /// The name's token.
        node: NodeId,
        /// What it means.
        binding: BindingId,
        /// The type of the binding.
        has: Type,
    },
    /// Another token.
    Token(NodeId),
}

impl Types {
    /// Why a node has the type it has; nothing for a node that is no form.
    pub fn derivation(
        &self,
        definition: &Definition,
        tree: &Tree,
        names: &Names,
        node: NodeId,
    ) -> Option<Derivation> {
        let has = self.of_node(node)?;
        let form = &definition.forms[tree.form(node)?];
        let chosen = self.chosen.get(&node).copied().unwrap_or(0);
        let clause = counting(form, tree, node).nth(chosen);
        let mut premises = Vec::new();
        for (index, field) in form.fields.iter().enumerate() {
            let judged = clause.is_none_or(|clause| speaks_of(clause, &field.name.text));
            if !judged {
                continue;
            }
            for &child in tree.children(node, index) {
                let what = match names.binding_of(child) {
                    Some(binding) => Judged::Name {
                        node: child,
                        binding,
                        has: self.of_binding(binding).unwrap_or(Type::Any),
                    },
                    None => match self.derivation(definition, tree, names, child) {
                        Some(own) => Judged::Form(own),
                        None => Judged::Token(child),
                    },
                };
                premises.push(Premise {
                    field: field.name.text.clone(),
                    what,
                });
            }
        }
        let text = |clause: &Typed| {
            let text = definition.source.slice(clause.span);
            text.split_whitespace().collect::<Vec<_>>().join(" ")
        };
        let denotes = form.denotes.as_ref().map(|term| {
            let text = definition.source.slice(term.span);
            format!("denotes {text}")
        });
        Some(Derivation {
            node,
            has,
            clause: clause.map(text).or(denotes),
            premises,
        })
    }
}

/// Whether a clause says something of a field.
fn speaks_of(clause: &Typed, field: &str) -> bool {
    use crate::definition::TypeTermKind as K;
    let mut judged = clause.judgments.iter().flat_map(|j| &j.subjects);
    if judged.any(|subject: &Subject| subject.name().text == field) {
        return true;
    }
    let mut waiting: Vec<_> = clause.terms().collect();
    while let Some(term) = waiting.pop() {
        match &term.kind {
            K::TypeOf(name) | K::Named(name, _) if name.text == field => return true,
            _ => {}
        }
        term.each_part(&mut |part| waiting.push(part));
    }
    false
}
