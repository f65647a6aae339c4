//! The call that is being written at a place.

use super::Looked;
use super::naming::is_seen_around;
use crate::definition::Part;
use crate::lexing::{Token, is_closing, is_opening};
use crate::scoping::{BindingId, Home};

/// A call that is being written.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Call {
    /// What is called.
    pub function: String,
    /// The names of its parameters.
    pub parameters: Vec<String>,
    /// The number of the argument at the place, from 0.
    pub argument: u32,
    /// What the definition says of it.
    pub help: String,
}

impl Looked {
    /// The innermost call whose brackets are open at a place: a function's name before a bracket.
    pub fn call_at(&self, offset: u32) -> Option<Call> {
        let call = self.call_seen_from(self, offset);
        call.or_else(|| self.call_seen_from(&self.without_begun(offset)?, offset))
    }

    /// The same, with the names that another look at the text has found.
    fn call_seen_from(&self, names: &Looked, offset: u32) -> Option<Call> {
        let lexer = self.language.lexer();
        let before = self.tokens().take_while(|token| token.span.end <= offset);
        let before: Vec<Token> = before
            .filter(|token| !lexer.kind(token.kind).ignored)
            .collect();
        let separators = self.separators();
        let (mut depth, mut argument) = (0, 0);
        for (at, token) in before.iter().enumerate().rev() {
            let text = self.source.slice(token.span);
            if is_closing(text) {
                depth += 1;
            } else if is_opening(text) {
                if depth > 0 {
                    depth -= 1;
                    continue;
                }
                let name = at.checked_sub(1).map(|at| before[at].span);
                if let Some(call) =
                    name.and_then(|name| names.call_of(self.source.slice(name), argument))
                {
                    return Some(call);
                }
                argument = 0;
            } else if depth == 0 && separators.contains(&text) {
                argument += 1;
            }
        }
        None
    }

    /// The signs that stand between what is repeated.
    pub(super) fn separators(&self) -> Vec<&str> {
        let mut found = Vec::new();
        let forms = self.language.definition().forms.iter();
        for part in forms.filter_map(|form| form.written.as_ref()) {
            between(part, &mut found);
        }
        found
    }

    fn call_of(&self, text: &str, argument: u32) -> Option<Call> {
        let definition = self.language.definition();
        if let Some(id) = self.own_binding(text) {
            let parameters = self.parameters(id);
            return (!parameters.is_empty()).then(|| Call {
                function: text.to_owned(),
                parameters,
                argument,
                help: String::new(),
            });
        }
        let provided = definition
            .provides
            .iter()
            .find(|one| one.name.text == text)?;
        let parameters = provided.params.as_ref()?;
        Some(Call {
            function: text.to_owned(),
            parameters: parameters.iter().map(|name| name.text.clone()).collect(),
            argument: argument.min(parameters.len().saturating_sub(1) as u32),
            help: super::help(provided),
        })
    }

    /// The last binding of a name that the program has.
    fn own_binding(&self, name: &str) -> Option<BindingId> {
        let (_, names) = self.named()?;
        let mut all = (0..names.bindings.len() as u32).map(BindingId).rev();
        all.find(|id| {
            let binding = names.binding(*id);
            binding.name == name && matches!(binding.home, Home::Node(_))
        })
    }

    /// The names of the parameters of a function of the program.
    fn parameters(&self, function: BindingId) -> Vec<String> {
        let Some((tree, names)) = self.named() else {
            return Vec::new();
        };
        let binder = names
            .binding(function)
            .span
            .and_then(|span| self.binder(tree, span));
        let Some((_, _, node)) = binder else {
            return Vec::new();
        };
        let whole = tree.node(node).span;
        let bound = names
            .bindings
            .iter()
            .filter_map(|binding| Some((binding, binding.span?)));
        let inside = bound.filter(|(_, span)| whole.start <= span.start && span.end <= whole.end);
        let own = inside.filter(|(_, span)| {
            let binder = self.binder(tree, *span);
            binder.is_some_and(|(_, clause, of)| of == node && !is_seen_around(clause))
        });
        own.map(|(binding, _)| binding.name.clone()).collect()
    }
}

fn between<'p>(part: &'p Part, found: &mut Vec<&'p str>) {
    match part {
        Part::Sequence(parts) | Part::Choice(parts) => {
            parts.iter().for_each(|part| between(part, found));
        }
        Part::Optional(part) => between(part, found),
        Part::Repeat(repeat) => {
            between(&repeat.part, found);
            if let Some(by) = &repeat.by {
                by.literals(found);
            }
        }
        Part::Literal(_) | Part::Soft(_) | Part::Field(..) | Part::Unnamed(_) | Part::Tight(_) => {}
    }
}
