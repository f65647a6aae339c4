//! What does not fit, in words: both sides, and where each came from.

use super::checker::TypeChecker;
use super::choice::Waiting;
use super::derived::last_field;
use super::judge::Misfit;
use super::store::{Clash, How, Slot, TypeId};
use crate::diagnostic::{Diagnostic, codes, one_of, plural, quote};
use crate::source::Span;
use crate::tree::NodeId;

impl TypeChecker<'_> {
    /// Reports two types that do not go together.
    pub fn report(&mut self, misfit: &Misfit) {
        let node = self.last_node(misfit.node);
        let text = quote(self.tree.text(node));
        let definition = self.definition;
        let found = self.store.export(misfit.found).outline(definition);
        // What an integer has reached could still be a number.
        let wanted = match self.store.find(misfit.wanted).1 {
            Slot::Variable(_) => "a number".to_owned(),
            Slot::Con(..) | Slot::Any | Slot::Link(_) | Slot::Copy(_) => {
                self.store.export(misfit.wanted).outline(definition)
            }
        };
        let error = match misfit.clash {
            Clash::Endless => Diagnostic::error(
                codes::TYPE_ENDLESS,
                format!("the type of {text} would have to contain itself"),
            )
            .why(format!(
                "it is {found}, and that would be a part of itself here"
            )),
            Clash::Count {
                found: one,
                wanted: other,
            } => {
                let has = plural(self.params(one), "argument");
                let more = if self.takes_more(one) { " or more" } else { "" };
                let needed = self.params(other);
                let (_, _, origin) = self.store.find(other);
                let is_call = origin
                    .is_some_and(|origin| origin.node == misfit.node && origin.how == How::Wants);
                let needed = if is_call {
                    format!("gets {needed}")
                } else {
                    format!("one that takes {needed} is needed here")
                };
                let found = self.store.export(misfit.found).described(definition);
                Diagnostic::error(
                    codes::TYPE_COUNT,
                    format!("{text} takes {has}{more}, and {needed}"),
                )
                .why(format!("it is {found}"))
            }
            Clash::Mismatch { .. } => Diagnostic::error(
                codes::TYPE_MISMATCH,
                format!("{text} is {found}, and {wanted} is needed here"),
            )
            .with_detail("wanted", wanted)
            .with_detail("got", found),
        };
        let mut error = error.at(self.tree.source(), self.tree.node(node).span);
        if let Clash::Mismatch { found, wanted } = misfit.clash {
            let outer = [misfit.found, misfit.wanted].map(|id| self.store.find(id).0);
            let inner = [found, wanted].map(|id| self.store.find(id).0);
            if outer != inner && outer != [inner[1], inner[0]] {
                let [one, other] = inner.map(|id| self.store.export(id).outline(definition));
                error = error.why(format!("{one} and {other} do not go together inside them"));
            }
            error = self.came_from(error, node, found, Some(&text));
            error = self.came_from(error, node, wanted, None);
        }
        self.diagnostics.push(error);
    }

    /// Adds where a type comes from, if that is somewhere else: that of a text, or the one
    /// that is wanted of it.
    fn came_from(
        &mut self,
        error: Diagnostic,
        at: NodeId,
        id: TypeId,
        text: Option<&str>,
    ) -> Diagnostic {
        let (_, slot, origin) = self.store.find(id);
        let Some(origin) = origin else {
            return error;
        };
        let node = match origin.how {
            How::Gives => self.last_node(origin.node),
            How::Wants | How::Declared => origin.node,
        };
        let (span, place) = (self.tree.node(node).span, self.tree.node(at).span);
        let is_same = span == place || matches!(slot, Slot::Any | Slot::Link(_));
        if is_same {
            return error;
        }
        let what = match slot {
            Slot::Variable(variable) if variable.reached && origin.how == How::Gives => {
                "an integer".to_owned()
            }
            Slot::Variable(_) => "a number".to_owned(),
            Slot::Con(..) | Slot::Any | Slot::Link(_) | Slot::Copy(_) => {
                self.store.export(id).outline(self.definition)
            }
        };
        let label = match origin.how {
            How::Gives => format!("this gives {what}"),
            How::Wants => format!("{what} is needed here"),
            How::Declared => format!("{what} is declared here"),
        };
        let line = self.line(span);
        let why = match text {
            Some(text) => format!("{text} is {what} because of line {line}"),
            None => format!("{what} is needed because of line {line}"),
        };
        let source = self.tree.source();
        let error = error.related(source, span, label);
        if line == self.line(place) {
            return error;
        }
        error.why(why)
    }

    fn line(&self, span: Span) -> u32 {
        self.tree.source().position(span.start).line
    }

    /// How many parameters a function has, without one that takes any number.
    fn params(&mut self, id: TypeId) -> usize {
        match self.store.find(id).1 {
            Slot::Con(con, args) => self.store.args(args).len() - 1 - usize::from(con.has_rest()),
            Slot::Any | Slot::Variable(_) | Slot::Link(_) | Slot::Copy(_) => 0,
        }
    }

    fn takes_more(&mut self, id: TypeId) -> bool {
        matches!(self.store.find(id).1, Slot::Con(con, _) if con.has_rest())
    }

    /// Reports a node that none of its clauses fits.
    pub fn report_choice(&mut self, waiting: &Waiting<'_>) {
        let (definition, tree) = (self.definition, self.tree);
        let mut found = Vec::new();
        for field in 0..waiting.form.fields.len() {
            for &child in tree.children(waiting.id, field) {
                let own = self.of_child(child);
                let shown = self.store.export(own).outline(definition);
                let child = self.last_node(child);
                found.push(format!("{} is {shown}", quote(tree.text(child))));
            }
        }
        let ways = waiting.clauses.iter().map(|clause| {
            let text = definition.source.slice(clause.span);
            let words: Vec<&str> = text.split_whitespace().collect();
            let judgments = words.join(" ");
            let judgments = judgments.strip_prefix("typed ").unwrap_or(&judgments);
            let end = judgments.find("gives ").unwrap_or(judgments.len());
            format!("({})", judgments[..end].trim())
        });
        let ways: Vec<String> = ways.collect();
        let error = Diagnostic::error(
            codes::TYPE_CHOICE,
            format!(
                "the types in {} do not go together: {}",
                quote(tree.text(waiting.id)),
                found.join(", ")
            ),
        )
        .at(tree.source(), tree.node(waiting.id).span)
        .why(format!("what fits is {}", one_of(&ways)));
        self.diagnostics.push(error);
    }

    /// The part of a node that gives its value: of a block its last step.
    fn last_node(&self, mut node: NodeId) -> NodeId {
        while let Some(form) = self
            .tree
            .form(node)
            .map(|index| &self.definition.forms[index])
        {
            let says = form.typed.iter().any(|typed| typed.gives.is_some());
            let last = form.means.as_ref().filter(|_| !says).and_then(last_field);
            let field = last.and_then(|field| form.field_index(field));
            let Some(&child) = field
                .map(|field| self.tree.children(node, field))
                .as_ref()
                .and_then(|children| children.last())
            else {
                return node;
            };
            node = child;
        }
        node
    }
}
