//! From derivations to the tree. Works with a stack of its own, so that depth costs no
//! native stack.

use super::forest::{Forest, Ref};
use super::grammar::{Grammar, Role};
use crate::definition::Definition;
use crate::lexing::{KindId, Tokens};
use crate::source::Span;
use crate::tree::{NodeId, Tree, TreeBuilder};

/// What to do next.
enum Work {
    Visit(Ref, u32),
    /// Make a node of the values above, one a field mention.
    Finish {
        form: usize,
        span: Span,
        fields: Vec<u16>,
    },
}

/// Why there is no tree.
pub(super) enum Failure {
    /// A node with several readings.
    Ambiguous(Ref),
    /// Nested beyond the limit; where.
    TooDeep(Span),
}

pub(super) struct Builder<'a> {
    pub definition: &'a Definition,
    pub grammar: &'a Grammar,
    pub forest: &'a Forest,
    pub tokens: &'a Tokens,
    /// The deepest tree allowed, in nodes.
    pub depth: u32,
}

impl Builder<'_> {
    /// The tree of a derivation; with `prefer` (an ambiguous node and the number of a
    /// reading) ambiguity there and below is passed over.
    pub fn build(&self, root: Ref, prefer: Option<(Ref, usize)>) -> Result<Tree, Failure> {
        let mut tree = TreeBuilder::new(self.definition, &self.tokens.source);
        let mut values: Vec<NodeId> = Vec::new();
        let mut work = vec![Work::Visit(root, 0)];
        while let Some(step) = work.pop() {
            match step {
                Work::Visit(node, depth) => {
                    if let Some(index) = node.as_token() {
                        let token = self.tokens.tokens[index as usize];
                        values.push(tree.token(token.kind, token.span));
                        continue;
                    }
                    let span = self.span(node);
                    if depth > self.depth {
                        return Err(Failure::TooDeep(span));
                    }
                    let node = self.chosen(node, prefer)?;
                    self.expand(node, span, depth, prefer, &mut work)?;
                }
                Work::Finish { form, span, fields } => {
                    let base = values.len() - fields.len();
                    let becomes = self.definition.forms[form]
                        .becomes
                        .as_ref()
                        .and_then(|field| self.definition.forms[form].field_index(&field.text))
                        .and_then(|index| fields.iter().position(|&f| f as usize == index));
                    let value = if let Some(at) = becomes {
                        values[base + at]
                    } else {
                        let children: Vec<(u16, NodeId)> = fields
                            .into_iter()
                            .zip(values[base..].iter().copied())
                            .collect();
                        tree.form(form, span, &children)
                    };
                    values.truncate(base);
                    values.push(value);
                }
            }
        }
        Ok(tree.finish(values[0]))
    }

    /// The reading to take of a node.
    fn chosen(&self, node: Ref, prefer: Option<(Ref, usize)>) -> Result<Ref, Failure> {
        let others = self.forest.others(node);
        if others.is_empty() {
            return Ok(node);
        }
        match prefer {
            Some((preferred, number)) if preferred == node && number > 0 => {
                Ok(others[(number - 1).min(others.len() - 1)])
            }
            Some(_) => Ok(node),
            None => Err(Failure::Ambiguous(node)),
        }
    }

    /// Puts the children of a form's derivation on the work list.
    fn expand(
        &self,
        node: Ref,
        span: Span,
        depth: u32,
        prefer: Option<(Ref, usize)>,
        work: &mut Vec<Work>,
    ) -> Result<(), Failure> {
        let form = self
            .forest
            .derivation(node)
            .and_then(|d| self.grammar.productions[d.production as usize].form);
        let Some(form) = form else {
            return Ok(());
        };
        let mentions = self.mentions(node, prefer)?;
        // Found from the right, so already in the order in which the stack wants them.
        let fields = mentions.iter().rev().map(|&(field, _)| field).collect();
        work.push(Work::Finish { form, span, fields });
        work.extend(
            mentions
                .into_iter()
                .map(|(_, child)| Work::Visit(child, depth + 1)),
        );
        Ok(())
    }

    /// The children of a derivation with their fields, from right to left; those of its
    /// helpers among them.
    fn mentions(
        &self,
        node: Ref,
        prefer: Option<(Ref, usize)>,
    ) -> Result<Vec<(u16, Ref)>, Failure> {
        let mut out = Vec::new();
        let mut work = vec![(node, None)];
        let mut pending: Vec<(Ref, Role, Option<u16>)> = Vec::new();
        while let Some((inner, list)) = work.pop() {
            let node = if inner == node {
                inner
            } else {
                self.chosen(inner, prefer)?
            };
            if let Some(derivation) = self.forest.derivation(node) {
                let production = &self.grammar.productions[derivation.production as usize];
                let children = self.forest.children(derivation);
                for (&child, &role) in children.iter().zip(&production.roles) {
                    pending.push((child, role, list));
                }
            }
            while let Some((child, role, list)) = pending.pop() {
                match role {
                    Role::Drop => {}
                    Role::Field(field) => out.push((field, child)),
                    Role::Item => out.push((list.unwrap_or_default(), child)),
                    Role::Items(field) => {
                        work.push((child, Some(field)));
                        break;
                    }
                    Role::Inner => {
                        work.push((child, list));
                        break;
                    }
                }
            }
        }
        Ok(out)
    }

    /// The text that a derivation covers.
    pub fn span(&self, node: Ref) -> Span {
        let tokens = &self.tokens.tokens;
        let start = self.forest.start(node) as usize;
        let end = self.forest.end(node) as usize;
        let first = tokens[start.min(tokens.len() - 1)];
        if end > start {
            return first.span.to(tokens[end - 1].span);
        }
        let at = if first.kind == KindId::END && start > 0 {
            tokens[start - 1].span.end
        } else {
            first.span.start
        };
        Span { start: at, end: at }
    }
}
