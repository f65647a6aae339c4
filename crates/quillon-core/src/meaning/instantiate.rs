//! Fills in the templates of the `means` clauses for each node of a tree.

use std::borrow::Cow;
use std::rc::Rc;
use std::sync::Arc;

use rustc_hash::{FxHashMap, FxHashSet};

use super::core::{Core, CoreKind, FunctionCore, Marked, Marks, Variable};
use super::function::{Finished, Functions, Param, VariableId, fresh};
use super::local::{Context, Homes, Local};
use super::renewing::Renewing;
use super::shared::{Known, often};
use crate::definition::{
    Count, Definition, FieldRef, Form, Literal, Name, Template, TemplateKind as T,
    fields_in_functions,
};
use crate::diagnostic::{Diagnostic, codes, quote};
use crate::lexing::Lexer;
use crate::operations::Operation;
use crate::scoping::{BindingId, Home, Names};
use crate::source::{SourceText, Span};
use crate::tree::{NodeId, Tree, What};

use CoreKind as K;

pub(super) struct Maker<'a> {
    pub definition: &'a Definition,
    pub source: &'a Arc<SourceText>,
    pub program: Option<(&'a Lexer, &'a Tree, &'a Names)>,
    pub functions: Functions,
    /// The variables of bindings that have one.
    pub variables: FxHashMap<BindingId, VariableId>,
    pub locals: Vec<(String, Local)>,
    /// The nodes that have been run when their scope began.
    made_first: FxHashSet<NodeId>,
    /// The bindings that others get to see, each of which lives as long as the whole program;
    /// and the slots of those that have been met.
    pub exports: FxHashSet<BindingId>,
    pub exported_slots: Vec<u32>,
    pub lacking: FxHashSet<usize>,
    /// What has been made of children that are mentioned more than once.
    pub known: Known,
    /// What the names of blocks are set to.
    pub renewing: Renewing,
    /// The names that the meaning of each form mentions more than once, where that has been asked.
    often: FxHashMap<usize, Rc<FxHashSet<&'a str>>>,
    /// Those of the meaning at hand.
    pub mentioned_often: Rc<FxHashSet<&'a str>>,
    /// The meanings being filled in, each inside the one before.
    pub under_way: Vec<&'a Template>,
    /// How many pieces of templates may still be filled in.
    left: usize,
    /// What is marked.
    pub marks: Marks,
    pub diagnostics: Vec<Diagnostic>,
}

impl<'a> Maker<'a> {
    pub(super) fn new(
        definition: &'a Definition,
        source: &'a Arc<SourceText>,
        program: Option<(&'a Lexer, &'a Tree, &'a Names)>,
    ) -> Maker<'a> {
        Maker {
            definition,
            source,
            program,
            functions: Functions::default(),
            variables: FxHashMap::default(),
            locals: Vec::new(),
            made_first: FxHashSet::default(),
            exports: FxHashSet::default(),
            exported_slots: Vec::new(),
            lacking: FxHashSet::default(),
            known: Known::default(),
            renewing: Renewing::default(),
            often: FxHashMap::default(),
            mentioned_often: Rc::default(),
            under_way: Vec::new(),
            left: most_pieces(program),
            marks: Marks::None,
            diagnostics: Vec::new(),
        }
    }

    /// Counts a piece of a template; whether there are more than any program needs. What is filled
    /// in after that does not matter.
    pub(super) fn is_too_large(&mut self, span: Span) -> bool {
        let Some(left) = self.left.checked_sub(1) else {
            return true;
        };
        self.left = left;
        if left > 0 {
            return false;
        }
        let most = most_pieces(self.program);
        let message = format!("this would mean more than {most} steps of the definition");
        self.diagnostics.push(
            Diagnostic::error(codes::DEFINITION_LIMIT, message)
                .at(self.source, span)
                .why("a helper is inlined wherever it is mentioned, and a field is made for each `attempt`, `with`, `landing` and `function` that it stands in")
                .remedy("in the definition: keep the value with `let`, or a function that gives it, and mention that"),
        );
        true
    }

    /// The Core of a meaning that belongs to no form.
    pub(super) fn of_definition(
        mut self,
        name: Option<&str>,
        params: &[Name],
        rest: bool,
        means: &'a Template,
    ) -> FunctionCore {
        self.functions.enter();
        let params: Vec<Param> = params
            .iter()
            .map(|param| {
                let variable = self.functions.variable(&param.text);
                let local = Local::Variable(variable, None);
                self.locals.push((param.text.clone(), local));
                Param::seen(variable)
            })
            .collect();
        let context = Context {
            node: None,
            span: means.span,
        };
        self.under_way.push(means);
        let mut body = self.template(means, context);
        if self.left == 0 {
            // There is no program yet that this could be an error of.
            let message = "this is too large to be run: its helpers are inlined too often";
            let message = K::Literal(Literal::Text(message.to_owned()));
            let message = Rc::new(Core::new(message, means.span));
            body = Core::new(K::Fault(message), means.span);
        }
        self.functions.leave(Finished {
            name,
            params: &params,
            rest,
            body,
            source: self.source,
            built_in: true,
        })
    }

    /// A branch of a meaning that stands at a place of the definition.
    pub(super) fn branch(&self, body: Core, at: Span) -> Core {
        if self.marks != Marks::Branches {
            return body;
        }
        let span = body.span;
        Core::new(K::Mark(Marked::Branch(at), Rc::new(body)), span)
    }

    /// A map of variables by their names.
    pub(super) fn exported(&mut self, exports: &[BindingId]) -> Core {
        let mut parts = Vec::new();
        let end = self
            .program
            .map_or(Span::default(), |(_, tree, _)| tree.node(tree.root()).span);
        for binding in exports {
            if let Some(&variable) = self.variables.get(binding) {
                let name = self.functions.name_of(variable);
                let key = K::Literal(Literal::Text(name.to_string()));
                let read = K::Read(self.functions.find(variable), name);
                parts.extend([key, read].map(|kind| Rc::new(Core::new(kind, end))));
            }
        }
        Core::new(K::Apply(Operation::MapOf, parts), end)
    }

    /// The Core of a node.
    pub(super) fn node(&mut self, id: NodeId) -> Core {
        self.node_on(id, None)
    }

    /// The Core of a node that is run on something, or by itself.
    pub(super) fn node_on(&mut self, id: NodeId, taken: Option<Local>) -> Core {
        let Some((lexer, tree, _)) = self.program else {
            return nothing(Span::default());
        };
        let span = tree.node(id).span;
        match tree.node(id).what {
            What::Form(_) if self.made_first.contains(&id) => nothing(span),
            What::Form(form) => self.form(id, form as usize, span, taken),
            What::Token(_) | What::List => Core::new(
                K::Literal(tree.value(lexer, id).unwrap_or(Literal::Nothing)),
                span,
            ),
        }
    }

    fn form(&mut self, id: NodeId, index: usize, span: Span, taken: Option<Local>) -> Core {
        let definition = self.definition;
        let form = &definition.forms[index];
        let Some(means) = &*form.means else {
            if self.lacking.insert(index) {
                self.diagnostics.push(
                    Diagnostic::error(
                        codes::DEFINITION_LACKS,
                        format!("form {} has no meaning yet", quote(&form.name.text)),
                    )
                    .at(self.source, span)
                    .label("so this can be read and not run")
                    .remedy(format!("add a `means` clause to form {}", form.name.text)),
                );
            }
            return nothing(span);
        };
        let taken = form.takes.as_ref().zip(taken);
        let watched = taken
            .filter(|_| self.marks == Marks::Nodes)
            .and_then(|(name, taken)| Some((name, taken.variable()?)));
        let own = taken.map(|(name, taken)| (name.text.clone(), taken));
        let outer = std::mem::replace(&mut self.locals, own.into_iter().collect());
        let context = Context {
            node: Some((id, form)),
            span,
        };
        let in_functions = fields_in_functions(means, form);
        let homes = self.declare(id, |field| {
            !field.is_some_and(|field| in_functions.contains(&field))
        });
        let often = self
            .often
            .entry(index)
            .or_insert_with(|| Rc::new(often(means)));
        let often = std::mem::replace(&mut self.mentioned_often, Rc::clone(often));
        self.under_way.push(means);
        let body = self.region(|maker| maker.template(means, context));
        self.under_way.pop();
        self.mentioned_often = often;
        self.locals = outer;
        let body = homes.around(body, span);
        if self.marks != Marks::Nodes {
            return body;
        }
        let body = match watched {
            Some((name, variable)) => self.told_of(body, &name.text, variable, index, span),
            None => body,
        };
        let marked = Marked::Node {
            node: id.0,
            form: index as u16,
        };
        Core::new(K::Mark(marked, Rc::new(body)), span)
    }

    /// A body with marks before and after it at which what it is run on is read.
    fn told_of(
        &mut self,
        body: Core,
        name: &str,
        taken: VariableId,
        form: usize,
        span: Span,
    ) -> Core {
        let mut read = || {
            let read = K::Read(self.functions.find(taken), Rc::from(name));
            let read = Rc::new(Core::new(read, span));
            Core::new(K::Mark(Marked::Taken(form as u16), read), span)
        };
        let (before, after) = (read(), read());
        let given = self.functions.variable("");
        let slot = self.functions.slot_of(given);
        let kept = K::Write(Variable::Slot(slot), None, Rc::new(body));
        let given = K::Read(Variable::Slot(slot), Rc::from(""));
        let parts = vec![before, Core::new(kept, span), after, Core::new(given, span)];
        fresh(vec![slot], parts, span)
    }

    /// Gives variables to the bindings that live at a node, those whose field passes.
    pub(super) fn declare(
        &mut self,
        id: NodeId,
        mut here: impl FnMut(Option<usize>) -> bool,
    ) -> Homes {
        let mut homes = Homes::default();
        let Some((_, _, names)) = self.program else {
            return homes;
        };
        for &binding_id in names.at(id) {
            let binding = names.binding(binding_id);
            if !here(binding.field) {
                continue;
            }
            if let Some(key) = binding.dynamic_key() {
                homes.dynamic.push(key);
            } else {
                let variable = self.functions.variable(&binding.name);
                self.variables.insert(binding_id, variable);
                let slot = self.functions.slot_of(variable);
                if self.exports.contains(&binding_id) {
                    self.exported_slots.push(slot);
                } else {
                    homes.slots.push(slot);
                }
            }
        }
        let first = names.first_at(id).iter();
        let first: Vec<NodeId> = first
            .filter(|(field, _)| here(*field))
            .map(|(_, node)| *node)
            .collect();
        self.made_first.extend(first.iter().copied());
        for node in first {
            // Here it is made, and nothing where it stands.
            self.made_first.remove(&node);
            homes.first.push(self.region(|maker| maker.node(node)));
            self.made_first.insert(node);
        }
        homes
    }

    /// The name of a dynamic binding's variable.
    pub(super) fn dynamic_key(&self, binding: BindingId) -> Option<Rc<str>> {
        let (_, _, names) = self.program?;
        names.binding(binding).dynamic_key()
    }

    /// Makes a local variable known; gives its slot.
    pub(super) fn local(&mut self, name: &Name, from: Option<Span>) -> u32 {
        let variable = self.functions.variable(&name.text);
        self.locals
            .push((name.text.clone(), Local::Variable(variable, from)));
        self.functions.slot_of(variable)
    }

    pub(super) fn find_local(&self, name: &str) -> Option<Local> {
        self.locals
            .iter()
            .rev()
            .find(|(n, _)| n == name)
            .map(|&(_, local)| local)
    }

    /// The children of a field of the node; of `FIELD.PART`, those of its children.
    pub(super) fn children<'f>(
        &self,
        path: impl Into<FieldRef<'f>>,
        context: Context<'_>,
    ) -> Cow<'a, [NodeId]> {
        self.field_children(path.into(), context)
            .map_or(Cow::Borrowed(&[]), |(_, children)| children)
    }

    /// The same with how many there can be; nothing where there is no such field.
    pub(super) fn field_children(
        &self,
        path: FieldRef<'_>,
        context: Context<'_>,
    ) -> Option<(Count, Cow<'a, [NodeId]>)> {
        let (_, tree, _): (_, &'a Tree, _) = self.program?;
        let of = |node: NodeId, form: &Form, field: &str| {
            let index = form.field_index(field)?;
            Some((
                form.fields[index].count,
                Cow::Borrowed(tree.children(node, index)),
            ))
        };
        let Some(part) = path.part else {
            let (node, form) = context.node?;
            return of(node, form, path.field);
        };
        let (count, owners) = match self.find_local(path.field) {
            Some(Local::Child(child)) => (Count::One, Cow::Owned(vec![child])),
            Some(Local::Variable(..)) => return None,
            None => self.field_children(path.field.into(), context)?,
        };
        match owners[..] {
            [] if count != Count::Many => Some((Count::Optional, Cow::Borrowed(&[]))),
            [one] if count != Count::Many => {
                let form = &self.definition.forms[tree.form(one)?];
                // Another form that could stand there may have such a field.
                Some(of(one, form, part).unwrap_or((Count::Optional, Cow::Borrowed(&[]))))
            }
            _ => Some((
                Count::Many,
                Cow::Owned(tree.parts(self.definition, &owners, part)),
            )),
        }
    }

    /// A child of a form's field: a variable where it is a name, what the child does
    /// otherwise.
    pub(super) fn child(&mut self, child: NodeId) -> Core {
        if let Some(variable) = self.variable(child)
            && let Some((_, tree, _)) = self.program
        {
            let kind = K::Read(variable, Rc::from(tree.text(child)));
            return Core::new(kind, tree.node(child).span);
        }
        self.node(child)
    }

    /// The variable that a name's token means.
    pub(super) fn variable(&mut self, leaf: NodeId) -> Option<Variable> {
        let (_, _, names) = self.program?;
        self.variable_of(names.binding_of(leaf)?)
    }

    /// The binding of a name of the form that is not written.
    pub(super) fn unwritten(&self, name: &str, context: Context<'_>) -> Option<BindingId> {
        let (_, _, names) = self.program?;
        let (node, form) = context.node?;
        names.unwritten(form, node, name)
    }

    /// The binding that a field stands for.
    pub(super) fn binding_of(&self, path: FieldRef<'_>, context: Context<'_>) -> Option<BindingId> {
        let (_, _, names) = self.program?;
        let leaf = self.children(path, context).first().copied();
        let written = leaf.and_then(|leaf| names.binding_of(leaf));
        written.or_else(|| match path.part {
            Some(_) => None,
            None => self.unwritten(path.field, context),
        })
    }

    /// The variable of a binding.
    pub(super) fn variable_of(&mut self, binding: BindingId) -> Option<Variable> {
        let (_, _, names) = self.program?;
        if let Some(key) = names.binding(binding).dynamic_key() {
            return Some(Variable::Dynamic(key));
        }
        match names.binding(binding).home {
            Home::Session(index) => Some(Variable::Session(index)),
            Home::BuiltIn(index) => Some(Variable::BuiltIn(index)),
            Home::Node(_) => {
                // A binding whose scope is not run through a template of its own has no
                // variable yet: it gets one where it is first met. So does a parameter that
                // is met outside its function.
                let known = self.variables.get(&binding).copied();
                let known = known.filter(|known| self.functions.is_open(*known));
                let variable = known.unwrap_or_else(|| {
                    let fresh = self.functions.variable(&names.binding(binding).name);
                    self.variables.insert(binding, fresh);
                    fresh
                });
                Some(self.functions.find(variable))
            }
        }
    }

    /// The values of a field, one a child.
    pub(super) fn values(&mut self, path: FieldRef<'_>, context: Context<'_>) -> Vec<Core> {
        let Some((_, children)) = self.field_children(path, context) else {
            return Vec::new();
        };
        children.iter().map(|child| self.child(*child)).collect()
    }

    pub(super) fn spelling(&mut self, part: &Template, context: Context<'_>) -> CoreKind {
        let Some((_, tree, _)) = self.program else {
            return K::Literal(Literal::Nothing);
        };
        let found = match &part.kind {
            T::Name(name) => match self.find_local(name) {
                Some(Local::Child(child)) => Some((Count::One, Cow::Owned(vec![child]))),
                _ => self.field_children(name.as_str().into(), context),
            },
            T::Member(..) => part
                .field_path()
                .and_then(|path| self.field_children(path, context)),
            _ => None,
        };
        let text = |child: &NodeId| Literal::Text(tree.text(*child).to_owned());
        K::Literal(match found {
            Some((Count::Many, children)) => Literal::List(children.iter().map(text).collect()),
            Some((_, children)) => children.first().map_or(Literal::Nothing, text),
            None => Literal::Nothing,
        })
    }
}

/// So many pieces of templates are filled in for a program: many for each of its nodes.
fn most_pieces(program: Option<(&Lexer, &Tree, &Names)>) -> usize {
    const LEAST: usize = 1_000_000;
    const EACH: usize = 256;
    LEAST + program.map_or(0, |(_, tree, _)| EACH * tree.len())
}

pub(super) fn nothing(span: Span) -> Core {
    Core::new(K::Literal(Literal::Nothing), span)
}
