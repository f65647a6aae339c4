//! From derivations to the tree. Works with a stack of its own, so that depth costs no
//! native stack.

use super::forest::{Forest, Ref};
use super::grammar::{Grammar, Role};
use crate::definition::{Definition, Shape};
use crate::lexing::{KindId, Tokens};
use crate::source::Span;
use crate::tree::{NodeId, Tree, TreeBuilder};

/// What to do next.
enum Work {
    Visit(Ref, u32),
    /// Make a node of so many values above, and of as many fields.
    Finish {
        form: usize,
        span: Span,
        count: usize,
    },
}

/// What is used again for every node.
#[derive(Default)]
struct Scratch {
    work: Vec<Work>,
    /// The fields of the values to come, of every node begun.
    fields: Vec<u16>,
    mentions: Vec<(u16, Ref)>,
    inner: Vec<(Ref, Option<u16>)>,
    pending: Vec<(Ref, Role, Option<u16>)>,
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
    /// What each form becomes, if it becomes something else.
    pub becomes: &'a [Option<Shape>],
    /// The deepest tree allowed, in nodes.
    pub depth: u32,
}

impl Builder<'_> {
    /// The tree of a derivation; with `prefer` (an ambiguous node and the number of a
    /// reading) ambiguity there and below is passed over.
    pub fn build(&self, root: Ref, prefer: Option<(Ref, usize)>) -> Result<Tree, Failure> {
        let mut tree = TreeBuilder::new(self.definition, &self.tokens.source);
        let mut values: Vec<NodeId> = Vec::new();
        let mut scratch = Scratch::default();
        scratch.work.push(Work::Visit(root, 0));
        while let Some(step) = scratch.work.pop() {
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
                    self.expand(node, span, depth, prefer, &mut scratch)?;
                }
                Work::Finish { form, span, count } => {
                    let base = values.len() - count;
                    let first = scratch.fields.len() - count;
                    let fields = &scratch.fields[first..];
                    let value = match &self.becomes[form] {
                        Some(Shape::Field(field)) => fields
                            .iter()
                            .position(|f| f == field)
                            .map(|at| values[base + at]),
                        Some(shape) => {
                            shaped(&mut tree, shape, span, fields, &values[base..]).pop()
                        }
                        None => None,
                    };
                    let value = value.unwrap_or_else(|| {
                        let children = fields.iter().copied().zip(values[base..].iter().copied());
                        tree.form(form, span, &children)
                    });
                    scratch.fields.truncate(first);
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
        scratch: &mut Scratch,
    ) -> Result<(), Failure> {
        let form = self
            .forest
            .derivation(node)
            .and_then(|d| self.grammar.productions[d.production as usize].form);
        let Some(form) = form else {
            return Ok(());
        };
        scratch.mentions.clear();
        self.mentions(node, prefer, scratch)?;
        // Found from the right, so already in the order in which the stack wants them.
        let count = scratch.mentions.len();
        scratch
            .fields
            .extend(scratch.mentions.iter().rev().map(|&(field, _)| field));
        scratch.work.push(Work::Finish { form, span, count });
        let children = scratch.mentions.iter();
        scratch
            .work
            .extend(children.map(|&(_, child)| Work::Visit(child, depth + 1)));
        Ok(())
    }

    /// The children of a derivation with their fields, from right to left; those of its
    /// helpers among them.
    fn mentions(
        &self,
        node: Ref,
        prefer: Option<(Ref, usize)>,
        scratch: &mut Scratch,
    ) -> Result<(), Failure> {
        let Scratch {
            mentions: out,
            inner: work,
            pending,
            ..
        } = scratch;
        work.clear();
        pending.clear();
        work.push((node, None));
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
                    if role != Role::Drop {
                        pending.push((child, role, list));
                    }
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
        Ok(())
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

/// The nodes that a shape makes of a form's fields.
fn shaped(
    tree: &mut TreeBuilder<'_>,
    shape: &Shape,
    span: Span,
    fields: &[u16],
    values: &[NodeId],
) -> Vec<NodeId> {
    match shape {
        Shape::Field(field) => fields
            .iter()
            .zip(values)
            .filter(|(f, _)| *f == field)
            .map(|(_, &value)| value)
            .collect(),
        Shape::List(items) => items
            .iter()
            .flat_map(|item| shaped(tree, item, span, fields, values))
            .collect(),
        Shape::Form(form, slots) => {
            let mut children = Vec::new();
            for (slot, inner) in slots {
                let made = shaped(tree, inner, span, fields, values);
                children.extend(made.into_iter().map(|child| (*slot, child)));
            }
            vec![tree.form(*form as usize, span, &children.into_iter())]
        }
    }
}
