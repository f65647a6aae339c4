//! `function` of the meaning notation, turned into Core for a node.

use std::borrow::Cow;
use std::rc::Rc;

use super::core::{Core, CoreKind as K, Variable};
use super::function::{Finished, Param, VariableId, sequence};
use super::instantiate::Maker;
use super::local::{Context, Homes, Local};
use crate::definition::template::{FunctionHead, NamePart};
use crate::definition::{FieldPath, Form, Template, mentioned};
use crate::scoping::BindingId;

/// A parameter as a meaning lists it: one, or as many as a field has names.
struct Listed {
    params: Vec<Param>,
    /// Whether the program writes them.
    is_written: bool,
}

impl Maker<'_> {
    pub(super) fn function(
        &mut self,
        head: &FunctionHead,
        body: &Template,
        context: Context<'_>,
    ) -> Core {
        self.functions.enter();
        let depth = self.locals.len();
        let mut dynamic = Vec::new();
        let mut listed = Vec::new();
        for path in &head.params {
            listed.push(self.listed(path, context, &mut dynamic));
        }
        let params = shown(listed);
        let homes = self.homes_inside(head, body, context);
        let body = self.region_apart(|maker| maker.template(body, context));
        self.locals.truncate(depth);
        let body = self.rebound(&dynamic, body);
        let name = self.called(head, context);
        let function = self.functions.leave(Finished {
            name: name.as_deref(),
            params: &params,
            rest: false,
            body: homes.around(body, context.span),
            source: self.source,
            built_in: self.program.is_none(),
        });
        Core::new(K::Function(Rc::new(function)), context.span)
    }

    /// The variables of what the meaning lists as one parameter. Those with a dynamic binding
    /// are noted beside.
    fn listed(
        &mut self,
        path: &FieldPath,
        context: Context<'_>,
        dynamic: &mut Vec<(Rc<str>, VariableId)>,
    ) -> Listed {
        if is_own(path, context) {
            let name = &path.field.text;
            let variable = self.functions.variable(name);
            self.locals
                .push((name.clone(), Local::Variable(variable, None)));
            return Listed {
                params: vec![Param::seen(variable)],
                is_written: false,
            };
        }
        if let Some(name) = path.alone()
            && let Some(binding) = self.unwritten(&name.text, context)
        {
            return Listed {
                params: vec![self.param(&name.text, Some(binding), dynamic)],
                is_written: false,
            };
        }
        let leaves = match self.program {
            Some(_) => self.children(path, context),
            None => Cow::Borrowed(&[][..]),
        };
        let written = leaves.iter().map(|&leaf| {
            let (_, tree, names) = self.program?;
            let binding = names.binding_of(leaf);
            Some(self.param(tree.text(leaf), binding, dynamic))
        });
        Listed {
            params: written.collect::<Option<_>>().unwrap_or_default(),
            is_written: true,
        }
    }

    fn param(
        &mut self,
        name: &str,
        binding: Option<BindingId>,
        dynamic: &mut Vec<(Rc<str>, VariableId)>,
    ) -> Param {
        let variable = self.functions.variable(name);
        if let Some(binding) = binding {
            if let Some(key) = self.dynamic_key(binding) {
                dynamic.push((key, variable));
            }
            self.variables.insert(binding, variable);
        }
        Param::seen(variable)
    }

    /// The variables of what is bound under the fields that run inside the function.
    fn homes_inside(
        &mut self,
        head: &FunctionHead,
        body: &Template,
        context: Context<'_>,
    ) -> Homes {
        let Some((id, form)) = context.node else {
            return Homes::default();
        };
        let inside = mentioned(body, form);
        let params = head.params.iter();
        let bound: Vec<usize> = params
            .filter_map(|p| form.bound_index(&p.field.text))
            .collect();
        self.declare(id, |field| {
            field.is_some_and(|f| inside.contains(&f) && !bound.contains(&f))
        })
    }

    /// A function's body in which its dynamic parameters hold what the function was given.
    fn rebound(&mut self, params: &[(Rc<str>, VariableId)], body: Core) -> Core {
        if params.is_empty() {
            return body;
        }
        let span = body.span;
        let mut parts: Vec<Core> = Vec::new();
        for (key, variable) in params {
            let slot = Variable::Slot(self.functions.slot_of(*variable));
            let given = Core::new(K::Read(slot, self.functions.name_of(*variable)), span);
            let write = K::Write(
                Variable::Dynamic(Rc::clone(key)),
                Some(Rc::clone(key)),
                Rc::new(given),
            );
            parts.push(Core::new(write, span));
        }
        parts.push(body);
        let homes = Homes {
            slots: Vec::new(),
            dynamic: params.iter().map(|(key, _)| Rc::clone(key)).collect(),
            first: Vec::new(),
        };
        homes.around(Core::new(sequence(parts), span), span)
    }

    /// What the meaning calls a function, if it does.
    fn called(&self, head: &FunctionHead, context: Context<'_>) -> Option<String> {
        if head.called.is_empty() {
            return None;
        }
        let parts = head.called.iter().map(|part| match part {
            NamePart::Text(text) => Some(Rc::from(text.as_str())),
            NamePart::Field(field) => self.spelt(field.into(), context),
        });
        Some(parts.flatten().collect::<Vec<Rc<str>>>().concat())
    }
}

/// The parameters in order. Where the program writes some of them, those that the language adds
/// are hidden: those who write programs count what they have written.
fn shown(listed: Vec<Listed>) -> Vec<Param> {
    let some_written = listed.iter().any(|listed| listed.is_written);
    let mut all = Vec::new();
    for Listed { params, is_written } in listed {
        all.extend(params.into_iter().map(|param| Param {
            is_hidden: some_written && !is_written,
            ..param
        }));
    }
    all
}

/// Whether a parameter is a name of the meaning's own.
fn is_own(param: &FieldPath, context: Context<'_>) -> bool {
    let is_field = |(_, form): (_, &Form)| form.bound_index(&param.field.text).is_some();
    !context.node.is_some_and(is_field)
}
