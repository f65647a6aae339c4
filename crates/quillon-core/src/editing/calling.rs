//! The call that is being written at a place.

use rustc_hash::FxHashMap;

use super::Looked;
use super::naming::is_seen_around;
use crate::definition::{FieldRef, Form, Part, Template, TemplateKind};
use crate::lexing::{Token, is_closing, is_opening};
use crate::scoping::{BindingId, Home};
use crate::source::Span;
use crate::tree::{NodeId, Tree};

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

    /// Before each argument in a stretch, the name of the parameter that it is for, unless it is called
    /// so itself.
    pub fn names_of_arguments(&self, within: Span) -> Vec<(u32, String)> {
        let Some((tree, names)) = self.named() else {
            return Vec::new();
        };
        let forms = &self.language.definition().forms;
        let calling: Vec<Option<Calling>> = forms.iter().map(Calling::of).collect();
        let mut known: FxHashMap<BindingId, Vec<String>> = FxHashMap::default();
        let mut found = Vec::new();
        let mut work = vec![tree.root()];
        while let Some(node) = work.pop() {
            let span = tree.node(node).span;
            if span.end < within.start || within.end < span.start {
                continue;
            }
            for field in 0..tree.field_count(node) {
                work.extend(tree.children(node, field));
            }
            let form = tree.form(node);
            let Some(calling) = form.and_then(|form| calling[form].as_ref()) else {
                continue;
            };
            let callee = tree.children(node, calling.callee).first();
            let callee = callee.and_then(|callee| only_name(tree, *callee));
            let Some(binding) = callee.and_then(|name| names.binding_of(name)) else {
                continue;
            };
            let parameters = known
                .entry(binding)
                .or_insert_with(|| self.parameters_of(binding));
            let fields = calling.arguments.iter();
            let arguments = fields.flat_map(|field| tree.children(node, *field));
            for (argument, name) in arguments.zip(parameters) {
                if tree.text(*argument) != name {
                    found.push((tree.node(*argument).span.start, name.clone()));
                }
            }
        }
        found.sort_by_key(|(at, _)| *at);
        found
    }

    /// The names of the parameters of a function of the program, or of one that is built in.
    fn parameters_of(&self, function: BindingId) -> Vec<String> {
        let home = self.named().map(|(_, names)| names.binding(function).home);
        match home {
            Some(Home::BuiltIn(at)) => {
                let provided = &self.language.definition().provides[at as usize];
                let params = provided.params.iter().flatten();
                params.map(|name| name.text.clone()).collect()
            }
            Some(Home::Node(_) | Home::Session(_)) | None => self.parameters(function),
        }
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

/// The single name that a node is.
fn only_name(tree: &Tree, node: NodeId) -> Option<NodeId> {
    let mut node = node;
    while tree.form(node).is_some() {
        let fields = 0..tree.field_count(node);
        let mut children = fields.flat_map(|field| tree.children(node, field));
        let (first, second) = (children.next(), children.next());
        node = *first.filter(|_| second.is_none())?;
    }
    Some(node)
}

/// What a form calls, and with what: the fields.
struct Calling {
    callee: usize,
    arguments: Vec<usize>,
}

impl Calling {
    /// The call that a form's meaning makes of its fields.
    fn of(form: &Form) -> Option<Calling> {
        let mut work = vec![form.means.as_ref()?];
        while let Some(template) = work.pop() {
            let field = |part: &Template| match part.field_path() {
                Some(FieldRef { field, part: None }) => form.field_index(field),
                Some(FieldRef { part: Some(_), .. }) | None => None,
            };
            if let TemplateKind::Call(callee, arguments) = &template.kind
                && let Some(callee) = field(callee)
            {
                let arguments = arguments.iter().map_while(field).collect();
                return Some(Calling { callee, arguments });
            }
            template.each_part(&mut |part| work.push(part));
        }
        None
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
