//! The constructs of the meaning notation, each turned into Core for a node.

use std::rc::Rc;

use super::core::{ArmCore, Core, CoreKind, CorePart, Marked, Variable};
use super::function::{fresh, sequence};
use super::instantiate::{Maker, nothing};
use super::local::{Context, Homes, Local};
use super::mentions::sets_something;
use crate::definition::template::{Arm, ValueKind};
use crate::definition::{Count, FieldPath, FieldRef, Literal, Name, Template, TemplateKind as T};
use crate::operations::Operation;
use crate::source::Span;
use crate::tree::NodeId;

use CoreKind as K;

impl Maker<'_> {
    /// The Core of a template for a node.
    pub(super) fn template(&mut self, template: &Template, context: Context<'_>) -> Core {
        let core = self.filled_in(template, context);
        made_here(core, template.span, context)
    }

    fn filled_in(&mut self, template: &Template, context: Context<'_>) -> Core {
        let span = context.span;
        if self.is_too_large(span) {
            return nothing(span);
        }
        let kind = match &template.kind {
            T::Literal(value) => K::Literal(value.clone()),
            T::Name(name) => return self.name(name, context),
            T::Member(owner, field) => return self.member(owner, field, context),
            T::Spelling(part) => self.spelling(part, context),
            T::Given(field) => K::Literal(Literal::Truth(self.is_given(field, context))),
            T::Taking(child, value) => return self.taking(child, value, context),
            T::All(path) => match path.alone() {
                Some(name) => sequence(self.mentioned_values(&name.text, context)),
                None => sequence(self.values(path.into(), context)),
            },
            T::Each(name, list, body) => return self.each(name, list, body, context),
            T::Block(parts) => return self.block(parts, context),
            T::Let(_, value) => return self.template(value, context),
            T::Set(path, value) => return self.set(path, value, context),
            T::With(name, value, body) => return self.with(name, value, body, context),
            T::If(test, yes, no) => return self.conditional(test, yes, no.as_deref(), context),
            T::While(test, body) => {
                let (test, turn) = self.apart(|maker| {
                    let test = maker.part(test, context);
                    (test, maker.template(body, context))
                });
                K::While([test, self.branch(turn, body.span).into()])
            }
            T::Match(subject, arms) => self.matching(subject, arms, context),
            T::Landing(target, body) => return self.landing(target, body, context),
            T::Jump(target, value) => return self.jump(target, value.as_deref(), context),
            T::Function(head, body) => return self.function(head, body, context),
            T::Call(callee, args) => {
                let callee = self.template(callee, context);
                let args = args
                    .iter()
                    .flat_map(|a| self.argument(a, context))
                    .map(Rc::new)
                    .collect();
                K::Call(Rc::new(callee), args)
            }
            T::Apply(name, args) => return self.apply(name, args, context),
            T::Binary(operator, left, right) => {
                K::Binary(*operator, self.both(left, right, context))
            }
            T::Negate(value) => K::Negate(self.part(value, context)),
            T::Not(value) => K::Not(self.part(value, context)),
            T::And(left, right) => K::And(self.first_and_perhaps(left, right, context)),
            T::Or(left, right) => K::Or(self.first_and_perhaps(left, right, context)),
            T::List(items) => K::List(
                items
                    .iter()
                    .flat_map(|i| self.argument(i, context))
                    .map(Rc::new)
                    .collect(),
            ),
            T::Fault(message, at) => {
                let fault = self.fault(message, at.as_ref(), context);
                return self.branch(fault, template.span);
            }
            T::Fits(value, wanted, must) => return self.fitting(value, wanted, *must, context),
            T::Raise(value) => K::Raise(self.part(value, context)),
            T::Always(body, after) => {
                let parts = [body, after];
                K::Cleanup(parts.map(|part| {
                    self.region_apart(|maker| maker.template(part, context))
                        .into()
                }))
            }
            T::Attempt(body, name, rescue) => {
                let body = self.region_apart(|maker| maker.template(body, context));
                let depth = self.locals.len();
                let slot = self.local(name, None);
                let caught = self.region_apart(|maker| maker.template(rescue, context));
                let rescue = self.branch(caught, rescue.span);
                self.locals.truncate(depth);
                K::Attempt(slot, [body.into(), rescue.into()])
            }
        };
        Core::new(kind, span)
    }

    fn part(&mut self, template: &Template, context: Context<'_>) -> CorePart {
        Rc::new(self.template(template, context))
    }

    fn both(&mut self, a: &Template, b: &Template, context: Context<'_>) -> [CorePart; 2] {
        [self.part(a, context), self.part(b, context)]
    }

    fn first_and_perhaps(
        &mut self,
        a: &Template,
        b: &Template,
        context: Context<'_>,
    ) -> [CorePart; 2] {
        [
            self.part(a, context),
            self.apart(|maker| maker.part(b, context)),
        ]
    }

    fn conditional(
        &mut self,
        before: &Template,
        yes: &Template,
        no: Option<&Template>,
        context: Context<'_>,
    ) -> Core {
        let test = self.template(before, context);
        // What is known when Core is made, such as `given`, is decided here.
        if let K::Literal(Literal::Truth(truth)) = test.kind {
            return if truth {
                self.way(Some(yes), yes.span, context)
            } else {
                self.way(no, no.map_or(before.span.after(), |no| no.span), context)
            };
        }
        let yes = self.apart(|maker| maker.way(Some(yes), yes.span, context));
        let at = no.map_or(before.span.after(), |no| no.span);
        let no = self.apart(|maker| maker.way(no, at, context));
        Core::new(K::If([test.into(), yes.into(), no.into()]), context.span)
    }

    /// One way of a condition; nothing if it has none.
    fn way(&mut self, body: Option<&Template>, at: Span, context: Context<'_>) -> Core {
        let body = match body {
            Some(body) => self.template(body, context),
            None => nothing(context.span),
        };
        self.branch(body, at)
    }

    fn matching(&mut self, subject: &Template, arms: &[Arm], context: Context<'_>) -> CoreKind {
        let subject = self.template(subject, context);
        let mut made = Vec::new();
        for arm in arms {
            let depth = self.locals.len();
            let slot = arm
                .name
                .as_ref()
                .map(|name| self.local(name, Some(subject.span)));
            let body = self.apart(|maker| maker.template(&arm.body, context));
            let body = self.branch(body, arm.body.span);
            self.locals.truncate(depth);
            made.push(ArmCore {
                kind: arm.kind,
                slot,
                body: body.into(),
            });
        }
        K::Match(Rc::new(subject), made)
    }

    fn fault(&mut self, message: &Template, at: Option<&FieldPath>, context: Context<'_>) -> Core {
        let message = self.template(message, context);
        // Where a value came from is known where it is held: its own text, or the argument of
        // a call.
        if let Some(at) = at.and_then(FieldPath::alone)
            && let Some(Local::Variable(..)) = self.find_local(&at.text)
        {
            let value = Rc::new(self.name(&at.text, context));
            let parts = vec![value, Rc::new(message)];
            return Core::new(K::Apply(Operation::FaultAt, parts), context.span);
        }
        let place = at.and_then(|at| self.place_of(at.into(), context));
        Core::new(K::Fault(Rc::new(message)), place.unwrap_or(context.span))
    }

    /// Where the first child of a field stands, or a child that has a name.
    pub(super) fn place_of(&self, path: FieldRef<'_>, context: Context<'_>) -> Option<Span> {
        let (_, tree, _) = self.program?;
        let child = self.child_at(path, context)?;
        Some(tree.node(child).span)
    }

    /// Whether a field is there; of a use that may be free, whether something binds it.
    fn is_given(&self, path: &FieldPath, context: Context<'_>) -> bool {
        let may_be_free = path
            .alone()
            .zip(context.node)
            .is_some_and(|(name, (_, form))| form.may_be_free(name));
        let is_there = !self.children(path, context).is_empty();
        is_there && !(may_be_free && self.binding_of(path.into(), context).is_none())
    }

    /// The first child of a field, or a child that has a name.
    fn child_at(&self, path: FieldRef<'_>, context: Context<'_>) -> Option<NodeId> {
        if path.part.is_none()
            && let Some(Local::Child(child)) = self.find_local(path.field)
        {
            return Some(child);
        }
        self.children(path, context).first().copied()
    }

    /// The text of a field, if there is one child.
    pub(super) fn spelt(&self, path: FieldRef<'_>, context: Context<'_>) -> Option<Rc<str>> {
        let (_, tree, _) = self.program?;
        let leaf = *self.children(path, context).first()?;
        Some(Rc::from(tree.text(leaf)))
    }

    fn with(
        &mut self,
        name: &Name,
        value: &Template,
        body: &Template,
        context: Context<'_>,
    ) -> Core {
        let value = self.template(value, context);
        let Some(binding) = self.binding_of(name.into(), context) else {
            return self.template(body, context);
        };
        if let Some(key) = self.dynamic_key(binding) {
            let span = context.span;
            let write = K::Write(
                Variable::Dynamic(Rc::clone(&key)),
                Some(key.clone()),
                Rc::new(value),
            );
            let body = self.region(|maker| maker.template(body, context));
            let parts = vec![Core::new(write, span), body];
            let homes = Homes {
                slots: Vec::new(),
                dynamic: vec![key],
                first: Vec::new(),
            };
            return homes.around(Core::new(sequence(parts), span), span);
        }
        let variable = self.functions.variable(&name.text);
        let slot = self.functions.slot_of(variable);
        let before = self.variables.insert(binding, variable);
        let body = self.region(|maker| maker.template(body, context));
        match before {
            Some(before) => self.variables.insert(binding, before),
            None => self.variables.remove(&binding),
        };
        let kind = K::Write(
            Variable::Slot(slot),
            self.program_name(name.into(), context),
            Rc::new(value),
        );
        let write = Core::new(kind, context.span);
        fresh(vec![slot], vec![write, body], context.span)
    }

    fn each(
        &mut self,
        name: &Name,
        list: &Template,
        body: &Template,
        context: Context<'_>,
    ) -> Core {
        let depth = self.locals.len();
        let field = list
            .field_path()
            .filter(|path| path.part.is_some() || self.find_local(path.field).is_none());
        let children = field.and_then(|path| self.field_children(path, context));
        if let Some((Count::Many, children)) = children {
            let mut turns = Vec::new();
            for &child in children.iter() {
                self.locals.push((name.text.clone(), Local::Child(child)));
                turns.push(self.template(body, context));
                self.locals.truncate(depth);
            }
            turns.push(nothing(context.span));
            return Core::new(sequence(turns), context.span);
        }
        let list = self.template(list, context);
        let slot = self.local(name, Some(list.span));
        let body = self.apart(|maker| maker.template(body, context));
        self.locals.truncate(depth);
        let kind = match counted(list) {
            Ok([from, to]) => K::Count(slot, [from, to, body.into()]),
            Err(list) => K::Each(slot, [list.into(), body.into()]),
        };
        Core::new(kind, context.span)
    }

    /// Runs a child on a value.
    fn taking(&mut self, path: &FieldPath, value: &Template, context: Context<'_>) -> Core {
        let value = self.template(value, context);
        let Some(child) = self.child_at(path.into(), context) else {
            return value;
        };
        let name = self.taken_name(child);
        let variable = self.functions.variable(&name);
        let slot = self.functions.slot_of(variable);
        // What is worked out here has no place of its own: a mistake in it is one between
        // it and the child.
        let span = match self.program {
            Some((_, tree, _)) if value.span == context.span => tree.node(child).span,
            _ => value.span,
        };
        let kept = K::Write(Variable::Slot(slot), None, Rc::new(value));
        let body = self.node_on(child, Some(Local::Variable(variable, Some(span))));
        fresh(vec![slot], vec![Core::new(kept, span), body], context.span)
    }

    /// What a child calls that on which it is run.
    fn taken_name(&self, child: NodeId) -> String {
        let form = self.program.and_then(|(_, tree, _)| tree.form(child));
        let takes = form.and_then(|form| self.definition.forms[form].takes.as_ref());
        takes.map_or_else(String::new, |name| name.text.clone())
    }

    /// An argument: a repeated field is as many arguments as it has children.
    fn argument(&mut self, argument: &Template, context: Context<'_>) -> Vec<Core> {
        if let T::Name(name) = &argument.kind
            && self.find_local(name).is_none()
            && let Some((Count::Many, _)) = self.field_children(name.as_str().into(), context)
        {
            return self.mentioned_values(name, context);
        }
        if let T::Member(owner, field) = &argument.kind
            && let Some(values) = self.member_values(owner, field, context)
        {
            return values;
        }
        vec![self.template(argument, context)]
    }

    /// A helper, filled in where it stands, or an operation.
    /// An operation. Where it takes any number of operands, a repeated field is the items it
    /// has.
    fn operation(&mut self, operation: Operation, args: &[Template], context: Context<'_>) -> Core {
        let arity = operation.arity();
        let made = args.iter().enumerate().flat_map(|(index, arg)| {
            if arity.most.is_none() && index >= arity.least {
                self.argument(arg, context)
            } else {
                vec![self.template(arg, context)]
            }
        });
        let made = made.map(Rc::new).collect();
        Core::new(K::Apply(operation, made), context.span)
    }

    fn apply(&mut self, name: &Name, args: &[Template], context: Context<'_>) -> Core {
        let definition = self.definition;
        if let Some(index) = definition.recursive_index(&name.text) {
            let function = K::Read(Variable::BuiltIn(index), Rc::from(name.text.as_str()));
            let function = Core::new(function, context.span);
            let args = args.iter().map(|arg| self.part(arg, context)).collect();
            return Core::new(K::Call(Rc::new(function), args), context.span);
        }
        let Some(helper) = definition.helper(&name.text) else {
            return match Operation::named(&name.text) {
                Some(operation) => self.operation(operation, args, context),
                None => nothing(context.span),
            };
        };
        let mut slots = Vec::new();
        let mut parts = Vec::new();
        let mut locals = Vec::new();
        // A parameter that is only another name for a variable needs none of its own, as
        // long as nothing is set while the arguments are run.
        let sets = args.iter().any(|arg| sets_something(arg, None));
        for (param, arg) in helper.params.iter().zip(args) {
            if let T::Name(name) = &arg.kind
                && let Some(local @ Local::Variable(..)) = self.find_local(name)
                && !sets
                && !sets_something(&helper.body, Some(&param.text))
            {
                locals.push((param.text.clone(), local));
                continue;
            }
            let value = self.template(arg, context);
            let span = value.span;
            let variable = self.functions.variable(&param.text);
            let slot = self.functions.slot_of(variable);
            slots.push(slot);
            locals.push((param.text.clone(), Local::Variable(variable, Some(span))));
            parts.push(Core::new(
                K::Write(Variable::Slot(slot), None, Rc::new(value)),
                span,
            ));
        }
        let outer = std::mem::replace(&mut self.locals, locals);
        let inside = Context {
            node: None,
            span: context.span,
        };
        self.under_way.push(&helper.body);
        parts.push(self.template(&helper.body, inside));
        self.under_way.pop();
        self.locals = outer;
        fresh(slots, parts, context.span)
    }
}

/// A piece of Core made of a part of a meaning, or of what a child means.
pub(super) fn made_here(core: Core, part: Span, context: Context<'_>) -> Core {
    if core.span == context.span {
        core.made_of(part)
    } else {
        core
    }
}

/// The bounds of a range that is made for a loop only, as it is or by way of a helper that tells kinds apart and gives a
/// list as it is; or else what the loop goes over.
fn counted(list: Core) -> Result<[CorePart; 2], Core> {
    let bounds = match &list.kind {
        K::Apply(Operation::ListRange, bounds) => bounds.clone().try_into().ok(),
        K::Fresh(slots, body) => range_let_through(slots, body),
        _ => None,
    };
    bounds.ok_or(list)
}

/// The bounds of a range that a variable is set to, which a match on that then gives. The arm that does is still seen
/// to be taken, where somebody watches.
fn range_let_through(slots: &[(u32, bool)], body: &Core) -> Option<[CorePart; 2]> {
    let ([(slot, _)], K::Sequence(parts)) = (slots, &body.kind) else {
        return None;
    };
    let [set, rest] = &parts[..] else {
        return None;
    };
    let (K::Write(Variable::Slot(own), _, range), K::Match(subject, arms)) =
        (&set.kind, &rest.kind)
    else {
        return None;
    };
    let K::Apply(Operation::ListRange, bounds) = &range.kind else {
        return None;
    };
    let read = |core: &Core| match core.kind {
        K::Read(Variable::Slot(slot), _) => Some(slot),
        _ => None,
    };
    let mut taking = arms
        .iter()
        .filter(|arm| arm.kind.is_none_or(|kind| kind == ValueKind::List));
    let arm = taking.next()?;
    let (given, mark) = match &arm.body.kind {
        K::Mark(mark @ Marked::Branch(_), given) => (given, Some(*mark)),
        _ => (&arm.body, None),
    };
    let given = read(given)?;
    let is_given = Some(given) == arm.slot || given == *slot;
    if own != slot || read(subject) != Some(*slot) || !is_given {
        return None;
    }
    let [from, to] = &bounds[..] else {
        return None;
    };
    let from = match mark {
        Some(mark) => Rc::new(Core::new(K::Mark(mark, Rc::clone(from)), arm.body.span)),
        None => Rc::clone(from),
    };
    Some([from, Rc::clone(to)])
}
