//! A tree as the notation writes it, made into a tree.

use std::sync::Arc;

use super::{NodeId, Tree, TreeBuilder};
use crate::definition::{Count, Definition, Field, Holds, Literal, Name, Thing, TreeTerm};
use crate::diagnostic::{Diagnostic, codes, nearest, one_of, quote};
use crate::lexing::{KindId, Lexer, Token};
use crate::source::{SourceText, Span};

/// The tree of a term that stands in a text: what its tokens are, the text says, and errors
/// of the tree point at it.
///
/// # Errors
/// What of the term is no tree of the language.
pub(crate) fn from_term(
    definition: &Definition,
    lexer: &Lexer,
    source: &Arc<SourceText>,
    term: &TreeTerm,
) -> Result<Tree, Box<Diagnostic>> {
    let mut maker = Maker {
        definition,
        lexer,
        source,
        builder: TreeBuilder::new(definition, source),
    };
    let root = maker.form_node(term)?;
    Ok(maker.builder.finish(root))
}

struct Maker<'a> {
    definition: &'a Definition,
    lexer: &'a Lexer,
    source: &'a Arc<SourceText>,
    builder: TreeBuilder<'a>,
}

type Made = Result<NodeId, Box<Diagnostic>>;

impl Maker<'_> {
    fn error<T>(&self, message: String, span: Span) -> Result<T, Box<Diagnostic>> {
        let error = Diagnostic::error(codes::CASE_SYNTAX, message);
        Err(Box::new(error.at(self.source, span)))
    }

    fn form_node(&mut self, term: &TreeTerm) -> Made {
        let (name, children) = match term {
            TreeTerm::Form(name, children) => (name, &children[..]),
            TreeTerm::Word(name) => (name, &[][..]),
            other @ (TreeTerm::List(..) | TreeTerm::Value(..)) => {
                return self.error("a form is needed here".to_owned(), span_of(other));
            }
        };
        let Some(index) = self.definition.form_index(&name.text) else {
            let near = self.definition.forms.iter().map(|f| f.name.text.as_str());
            let error = Diagnostic::error(
                codes::CASE_SYNTAX,
                format!("there is no form {}", quote(&name.text)),
            );
            let error = error.at(self.source, name.span);
            return Err(Box::new(error.did_you_mean(nearest(&name.text, near))));
        };
        self.form(index, name, children)
    }

    fn form(&mut self, index: usize, name: &Name, children: &[(Option<Name>, TreeTerm)]) -> Made {
        let form = &self.definition.forms[index];
        if form.sugar.is_some() || form.becomes.is_some() {
            let message = format!(
                "form {} is in no tree: it becomes another one",
                quote(&name.text)
            );
            return self.error(message, name.span);
        }
        let mut given: Vec<Option<&TreeTerm>> = vec![None; form.fields.len()];
        for (position, (field, child)) in children.iter().enumerate() {
            let slot = form.slot_of(field.as_ref(), position);
            match (slot, field) {
                (Some(slot), _) => given[slot] = Some(child),
                (None, Some(field)) => {
                    let fields = form.fields.iter().map(|f| f.name.text.as_str());
                    let near = nearest(&field.text, fields);
                    let message = format!(
                        "form {} has no field {}",
                        quote(&name.text),
                        quote(&field.text)
                    );
                    let error = Diagnostic::error(codes::CASE_SYNTAX, message);
                    let error = error.at(self.source, field.span).did_you_mean(near);
                    return Err(Box::new(error));
                }
                (None, None) => {
                    let fields = crate::diagnostic::plural(form.fields.len(), "field");
                    let message = format!("form {} has only {fields}", quote(&name.text));
                    return self.error(message, span_of(child));
                }
            }
        }
        let mut slots = Vec::new();
        for (field, term) in form.fields.iter().zip(given) {
            slots.push(self.slot(field, term, name)?);
        }
        Ok(self.builder.node(index, name.span, &slots))
    }

    fn slot(&mut self, field: &Field, term: Option<&TreeTerm>, form: &Name) -> Made {
        match (field.count, term) {
            (Count::Many, Some(TreeTerm::List(items, _))) => {
                let nodes: Vec<NodeId> = items
                    .iter()
                    .map(|item| self.child(field, item))
                    .collect::<Result<_, _>>()?;
                Ok(self.builder.list(nodes.into_iter(), form.span))
            }
            (Count::Many, None) => Ok(self.builder.list(std::iter::empty(), form.span)),
            (Count::Many, Some(other)) => {
                let message = format!(
                    "field {} is repeated: its items stand in brackets",
                    quote(&field.name.text)
                );
                self.error(message, span_of(other))
            }
            (Count::Optional, None) => Ok(TreeBuilder::ABSENT),
            (Count::One, None) => {
                let message = format!("field {} is missing here", quote(&field.name.text));
                self.error(message, form.span)
            }
            (_, Some(term)) => self.child(field, term),
        }
    }

    /// A child: a form of one of the field's sorts, or a token of one of its kinds.
    fn child(&mut self, field: &Field, term: &TreeTerm) -> Made {
        if let TreeTerm::Form(name, _) | TreeTerm::Word(name) = term
            && let Some(form) = self.definition.form(&name.text)
        {
            let fits = field.things.iter().any(|thing| match thing {
                Thing::Named(thing) => [&form.name.text, form.sort_name()]
                    .iter()
                    .any(|known| **known == thing.text),
                Thing::Literal(_) => false,
            });
            if fits {
                return self.form_node(term);
            }
        }
        let leaf = match term {
            TreeTerm::Word(word) => Some((word.span, None)),
            TreeTerm::Value(value, span) => Some((*span, Some(value))),
            TreeTerm::Form(..) | TreeTerm::List(..) => None,
        };
        let kinds: Vec<KindId> = self.lexer.kinds_of(&field.things).collect();
        let token =
            leaf.and_then(|(span, value)| kinds.iter().find_map(|k| self.token(*k, span, value)));
        if let Some((kind, span)) = token {
            return Ok(self.builder.token(kind, span));
        }
        let wanted: Vec<String> = field
            .things
            .iter()
            .map(|thing| match thing {
                Thing::Named(name) => name.text.clone(),
                Thing::Literal(name) => quote(&name.text),
            })
            .collect();
        let message = format!(
            "this is no {}, which field {} needs",
            one_of(&wanted),
            quote(&field.name.text)
        );
        self.error(message, span_of(term))
    }

    /// A stretch of the text as a token of a kind, if it can be one.
    fn token(&self, kind: KindId, span: Span, value: Option<&Literal>) -> Option<(KindId, Span)> {
        let text = self.source.slice(span);
        let unquoted = |quote: char| {
            let inner = text.strip_prefix(quote)?.strip_suffix(quote)?;
            (!inner.is_empty()).then_some(Span {
                start: span.start + 1,
                end: span.end - 1,
            })
        };
        // A word may stand in backquotes, and a text that no token holds in quotes.
        let stretches = [Some(span), unquoted('`'), unquoted('"')];
        stretches.into_iter().flatten().find_map(|span| {
            let text = self.source.slice(span);
            let is_kind = self.lexer.is_one(kind, text);
            let held = self.lexer.value(self.source, Token::new(kind, span));
            let is_value = value.is_none_or(|value| *value == held);
            // A text that is no number is held as it stands.
            let is_held = match self.lexer.kind(kind).holds {
                Some(Holds::Integer) => matches!(held, Literal::Integer(_)),
                Some(Holds::Number) => matches!(held, Literal::Number(_)),
                Some(Holds::Text) | None => true,
            };
            let may_stand = is_kind || value.is_some() && self.lexer.kind(kind).holds.is_some();
            (may_stand && is_value && is_held).then_some((kind, span))
        })
    }
}

/// Where a term stands, about.
fn span_of(term: &TreeTerm) -> Span {
    match term {
        TreeTerm::Form(name, _) | TreeTerm::Word(name) => name.span,
        TreeTerm::Value(_, span) | TreeTerm::List(_, span) => *span,
    }
}
