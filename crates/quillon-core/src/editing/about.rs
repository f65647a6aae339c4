//! What is known of a place.

use super::{Looked, What};
use crate::definition::Form;
use crate::scoping::{Home, Mention};
use crate::source::{SourceText, Span};
use crate::tree::{NodeId, value_text};

/// What is known of a place.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct About {
    /// The stretch that it is about.
    pub span: Span,
    /// What token stands there: its kind, or nothing for a text of the language itself.
    pub token: Option<String>,
    /// What the token holds, if it holds something else than its text.
    pub held: Option<String>,
    /// What the name means, if it is one.
    pub name: Option<AboutName>,
    /// The innermost form.
    pub form: Option<AboutForm>,
}

/// What is known of a name.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct AboutName {
    /// The name.
    pub name: String,
    /// What it stands for.
    pub what: What,
    /// Where it is bound; nothing where the language has it.
    pub bound: Option<Span>,
    /// How it is called, if the language has it.
    pub signature: Option<String>,
    /// What the definition says of it.
    pub help: String,
    /// Its type, if the language has types.
    pub type_of: Option<String>,
}

/// What is known of a form.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct AboutForm {
    /// The form's name.
    pub name: String,
    /// How it is written, as the definition has it.
    pub written: String,
    /// The comment above it in the definition.
    pub remark: String,
    /// Its type, if the language has types.
    pub type_of: Option<String>,
    /// The text it covers.
    pub span: Span,
}

impl Looked {
    /// What is known of a place; nothing where no token stands.
    pub fn about(&self, offset: u32) -> Option<About> {
        let token = self.token_at(offset)?;
        if self.source.slice(token.span).trim().is_empty() {
            return None;
        }
        let lexer = self.language.lexer();
        let kind = lexer.kind(token.kind);
        let held = kind
            .holds
            .map(|_| value_text(&lexer.value(&self.source, token)));
        Some(About {
            span: token.span,
            token: (!kind.is_literal()).then(|| kind.name.clone()),
            held,
            name: self
                .mention_at(offset)
                .map(|mention| self.about_name(&mention)),
            form: self.form_at(token.span.start).filter(|_| !kind.ignored),
        })
    }

    fn about_name(&self, mention: &Mention) -> AboutName {
        let definition = self.language.definition();
        let names = self.examined.names.as_ref();
        let binding = names.map(|names| names.binding(mention.binding));
        let provided = binding.and_then(|binding| match binding.home {
            Home::BuiltIn(index) => definition.provides.get(index as usize),
            Home::Node(_) | Home::Session(_) => None,
        });
        let types = self.examined.types.as_ref();
        let of_binding = types.and_then(|types| types.of_binding(mention.binding));
        AboutName {
            name: binding.map_or_else(String::new, |binding| binding.name.clone()),
            what: self.what(mention.binding),
            bound: binding.and_then(|binding| binding.span),
            signature: provided.map(super::signature),
            help: provided.map_or_else(String::new, super::help),
            type_of: of_binding.map(|one| one.shown(definition)),
        }
    }

    /// Behind each name that is bound in a stretch, its type, if the language has types.
    pub fn types_of_names(&self, within: Span) -> Vec<(u32, String)> {
        let (Some((tree, names)), Some(types)) = (self.named(), &self.examined.types) else {
            return Vec::new();
        };
        let bound = names
            .mentions(tree)
            .into_iter()
            .filter(|one| one.used.is_none());
        let of = bound.filter_map(|mention| {
            let span = tree.node(mention.node).span;
            let is_within = within.start <= span.end && span.start <= within.end;
            let of = types.of_binding(mention.binding).filter(|_| is_within)?;
            Some((span.end, of.shown(self.language.definition())))
        });
        of.collect()
    }

    /// The innermost form at a place.
    fn form_at(&self, offset: u32) -> Option<AboutForm> {
        let tree = self.examined.tree.as_ref()?;
        let definition = self.language.definition();
        let mut path = tree.path(offset).into_iter().rev();
        let (node, form): (NodeId, &Form) = path.find_map(|step| {
            let form = tree.form(step.node)?;
            Some((step.node, &definition.forms[form]))
        })?;
        let types = self.examined.types.as_ref();
        Some(AboutForm {
            name: form.name.text.clone(),
            written: form.written_text(&definition.source).unwrap_or_default(),
            remark: remark_above(&definition.source, form.name.span),
            type_of: types
                .and_then(|types| types.of_node(node))
                .map(|one| one.shown(definition)),
            span: tree.node(node).span,
        })
    }
}

/// The comment in the lines right above one of a definition.
pub(crate) fn remark_above(source: &SourceText, span: Span) -> String {
    let mut lines = Vec::new();
    let mut line = source.line_of(span.start);
    while line > 1 {
        line -= 1;
        let text = source.slice(source.line_span(line)).trim();
        let Some(remark) = text.strip_prefix("--") else {
            break;
        };
        lines.push(remark.trim());
    }
    lines.reverse();
    lines.join("\n")
}
