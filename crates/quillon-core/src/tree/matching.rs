//! Whether a tree is the one that a case expects.

use super::{Child, NodeId, Tree, What};
use crate::definition::{Definition, Name, TreeTerm};
use crate::diagnostic::{nearest, quote};
use crate::lexing::Lexer;

/// Where a tree is not as expected.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Mismatch {
    /// The node that differs.
    pub node: NodeId,
    /// What is wrong with it.
    pub problem: String,
}

/// Compares a tree with an expected one; a program's only statement may be given
/// without the forms around it.
pub fn matches(
    definition: &Definition,
    lexer: &Lexer,
    tree: &Tree,
    term: &TreeTerm,
) -> Result<(), Mismatch> {
    let matcher = Matcher {
        definition,
        lexer,
        tree,
    };
    let whole = matcher.node(tree.root(), term);
    let mut at = tree.root();
    let mut result = whole.clone();
    let mut best = whole;
    while let Err(mismatch) = &result {
        // One inside what fits so far says more than one of the outermost forms.
        if mismatch.node != at {
            best = result;
            break;
        }
        let Some(inner) = matcher.only_child(at) else {
            break;
        };
        at = inner;
        result = matcher.node(at, term);
        if result.is_ok() {
            return result;
        }
    }
    best
}

struct Matcher<'a> {
    definition: &'a Definition,
    lexer: &'a Lexer,
    tree: &'a Tree,
}

impl Matcher<'_> {
    /// The single form directly inside a form, if there is nothing else in it.
    fn only_child(&self, id: NodeId) -> Option<NodeId> {
        let all: Vec<NodeId> = (0..self.tree.field_count(id))
            .flat_map(|index| self.tree.children(id, index))
            .copied()
            .collect();
        match all[..] {
            [only] if self.tree.form(only).is_some() => Some(only),
            _ => None,
        }
    }

    fn mismatch<T>(node: NodeId, problem: String) -> Result<T, Mismatch> {
        Err(Mismatch { node, problem })
    }

    fn node(&self, id: NodeId, term: &TreeTerm) -> Result<(), Mismatch> {
        match (self.tree.node(id).what, term) {
            (What::Form(form), TreeTerm::Form(name, children)) => {
                self.form(id, form as usize, &name.text, children)
            }
            (What::Form(form), TreeTerm::Word(name)) => {
                self.form(id, form as usize, &name.text, &[])
            }
            (What::Token(_), TreeTerm::Word(word)) if self.tree.text(id) == word.text => Ok(()),
            (What::Token(_), TreeTerm::Value(value, _))
                if self.tree.value(self.lexer, id).as_ref() == Some(value) =>
            {
                Ok(())
            }
            (What::Form(form), _) => Self::mismatch(
                id,
                format!(
                    "there is form {} here",
                    self.definition.forms[form as usize].name.text
                ),
            ),
            (What::Token(_) | What::List, TreeTerm::Word(word)) => self.other_token(id, &word.text),
            (What::Token(_) | What::List, TreeTerm::Value(value, _)) => {
                self.other_token(id, &super::value_text(value))
            }
            (What::Token(_) | What::List, TreeTerm::Form(..) | TreeTerm::List(..)) => {
                Self::mismatch(
                    id,
                    format!("there is the token {} here", quote(self.tree.text(id))),
                )
            }
        }
    }

    /// One token stands where another is expected.
    fn other_token(&self, id: NodeId, expected: &str) -> Result<(), Mismatch> {
        let (found, expected) = (quote(self.tree.text(id)), quote(expected));
        Self::mismatch(id, format!("expected {expected}, found {found}"))
    }

    fn form(
        &self,
        id: NodeId,
        form: usize,
        name: &str,
        children: &[(Option<Name>, TreeTerm)],
    ) -> Result<(), Mismatch> {
        let form = &self.definition.forms[form];
        if self.definition.form(name).is_none() {
            let known = self
                .definition
                .forms
                .iter()
                .map(|form| form.name.text.as_str());
            let near = nearest(name, known);
            let near = near.map_or(String::new(), |near| {
                format!("; did you mean {}?", quote(near))
            });
            return Self::mismatch(id, format!("there is no form {}{near}", quote(name)));
        }
        if form.name.text != name {
            return Self::mismatch(
                id,
                format!("expected {name}, found form {}", form.name.text),
            );
        }
        let mut expected: Vec<Option<&TreeTerm>> = vec![None; form.fields.len()];
        for (index, (field, term)) in children.iter().enumerate() {
            let slot = match field {
                Some(field) => form.field_index(&field.text),
                None => (index < form.fields.len()).then_some(index),
            };
            let Some(slot) = slot else {
                return Self::mismatch(id, format!("{name} has no such field"));
            };
            expected[slot] = Some(term);
        }
        for (index, term) in expected.into_iter().enumerate() {
            let field = &form.fields[index].name.text;
            match (self.tree.field(id, index), term) {
                (Child::Absent | Child::Many([]), None) => {}
                (Child::One(child), Some(term)) => self.node(child, term)?,
                (Child::Many(items), Some(TreeTerm::List(terms, _))) => {
                    if items.len() != terms.len() {
                        let problem = format!(
                            "field {field} has {} where {} expected",
                            crate::diagnostic::plural(items.len(), "item"),
                            if terms.len() == 1 {
                                "1 is".to_owned()
                            } else {
                                format!("{} are", terms.len())
                            }
                        );
                        return Self::mismatch(id, problem);
                    }
                    for (item, term) in items.iter().zip(terms) {
                        self.node(*item, term)?;
                    }
                }
                (Child::Many(_), Some(_)) => {
                    return Self::mismatch(
                        id,
                        format!("field {field} is repeated: its items stand in brackets"),
                    );
                }
                (Child::Absent, Some(_)) => {
                    return Self::mismatch(id, format!("field {field} is missing"));
                }
                (_, None) => {
                    return Self::mismatch(id, format!("field {field} is not expected"));
                }
            }
        }
        Ok(())
    }
}
