//! Blocks, and what they set: a meaning's own names, what a form binds, cells of the state.

use std::rc::Rc;

use super::constructs::made_here;
use super::core::{Core, CoreKind as K, Variable};
use super::function::fresh;
use super::instantiate::Maker;
use super::local::{Context, Local};
use super::mentions::{name_function, sets_something};
use crate::definition::{FieldPath, FieldRef, Name, Template, TemplateKind as T};
use crate::source::Span;

impl Maker<'_> {
    pub(super) fn block(&mut self, parts: &[Template], context: Context<'_>) -> Core {
        let depth = self.locals.len();
        self.open_block();
        let mut made = Vec::new();
        for (at, part) in parts.iter().enumerate() {
            if let Some(assignment) = Assignment::of(&parts[at..]) {
                self.assign(&assignment, context, &mut made);
                break;
            }
            if let T::Let(name, value) = &part.kind {
                if let Some(known) = self.other_name(name, value, parts) {
                    self.locals.push((name.text.clone(), known));
                    continue;
                }
                let value = self.template(value, context);
                let span = value.span;
                let slot = self.local(name, Some(span));
                self.made_by_block();
                made.push(Core::new(
                    K::Write(Variable::Slot(slot), None, Rc::new(value)),
                    span,
                ));
            } else {
                made.push(self.template(part, context));
            }
        }
        self.locals.truncate(depth);
        fresh(self.close_block(), made, context.span)
    }

    /// What a `let` stands for that is only another name for a variable, as long as nothing in
    /// the meaning sets either: a mistake in it is one where the variable's value comes from.
    fn other_name(&self, name: &Name, value: &Template, block: &[Template]) -> Option<Local> {
        let T::Name(other) = &value.kind else {
            return None;
        };
        let known @ Local::Variable(..) = self.find_local(other)? else {
            return None;
        };
        let is_set = |part: &Template| {
            sets_something(part, Some(&name.text)) || sets_something(part, Some(other))
        };
        let mut all = block.iter().chain(self.under_way.iter().copied());
        (!all.any(is_set)).then_some(known)
    }

    /// Sets something, and gives what it has been set to.
    fn assign(&mut self, assignment: &Assignment<'_>, context: Context<'_>, made: &mut Vec<Core>) {
        let Assignment { path, value, spans } = *assignment;
        let set = self.set(path, value, context);
        made.push(made_here(set, spans[0], context));
        // Where there is nothing to be set, it is the value.
        if let Some(place) = self.settable(path, context) {
            let name = self.program_name(path.into(), context);
            let read = K::Read(place, name.unwrap_or_else(|| Rc::from("")));
            let read = Core::new(read, context.span);
            made.push(made_here(read, spans[1], context));
        }
    }

    pub(super) fn set(&mut self, path: &FieldPath, value: &Template, context: Context<'_>) -> Core {
        let mut value = self.template(value, context);
        name_function(&mut value, self.bound_as(path.into(), context));
        if let Some(name) = path.alone() {
            self.renew(&name.text);
        }
        match self.settable(path, context) {
            Some(place) => {
                let name = self.program_name(path.into(), context);
                Core::new(K::Write(place, name, Rc::new(value)), context.span)
            }
            None => value,
        }
    }

    /// The variable that a path leads to, if it is there.
    fn settable(&mut self, path: &FieldPath, context: Context<'_>) -> Option<Variable> {
        let alone = path.alone().map(|name| name.text.as_str());
        match alone.and_then(|name| self.find_local(name)) {
            Some(Local::Variable(variable, _)) => Some(self.functions.find(variable)),
            // A name of a repeated field, in a loop over that.
            Some(Local::Child(child)) => self.variable(child),
            None => self
                .binding_of(path.into(), context)
                .and_then(|binding| self.variable_of(binding))
                .or_else(|| {
                    let cell = self.definition.state_index(alone?)?;
                    Some(Variable::State(cell as u32))
                }),
        }
    }

    /// What the program calls a variable that a meaning sets; nothing for one of the
    /// meaning's own.
    pub(super) fn program_name(&self, path: FieldRef<'_>, context: Context<'_>) -> Option<Rc<str>> {
        let bound = self.bound_as(path, context);
        if path.part.is_some() {
            return bound;
        }
        if matches!(self.find_local(path.field), Some(Local::Variable(..))) {
            return None;
        }
        bound.or_else(|| {
            self.definition.state_index(path.field)?;
            Some(Rc::from(path.field))
        })
    }

    /// The name that a path leads to, as the program writes it there or, if the form binds it by itself, elsewhere.
    fn bound_as(&self, path: FieldRef<'_>, context: Context<'_>) -> Option<Rc<str>> {
        let spelt = self.spelt(path, context);
        spelt.or_else(|| {
            let is_own = path.part.is_none() && self.unwritten(path.field, context).is_some();
            is_own.then(|| Rc::from(path.field))
        })
    }
}

/// The end of a block that sets something and gives what it has been set to: `let v = …; name := v; v`.
struct Assignment<'t> {
    path: &'t FieldPath,
    value: &'t Template,
    /// Where it is set, and where it is given.
    spans: [Span; 2],
}

impl Assignment<'_> {
    /// What some parts of a block are, if they are that.
    fn of(parts: &[Template]) -> Option<Assignment<'_>> {
        let [made, set, given] = parts else {
            return None;
        };
        let (T::Let(name, value), T::Set(path, own), T::Name(last)) =
            (&made.kind, &set.kind, &given.kind)
        else {
            return None;
        };
        let T::Name(own) = &own.kind else { return None };
        let is_it = *own == name.text && *last == name.text;
        let is_other = path.alone().is_none_or(|alone| alone.text != name.text);
        (is_it && is_other).then_some(Assignment {
            path,
            value,
            spans: [set.span, given.span],
        })
    }
}
